// Triangulation of plane outlines: exact areas for any polygon, also large ones with many holes.

#include "geometry/outline.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

using namespace firnfield;

namespace {

constexpr double turn = 6.283185307179586;

/// A star-shaped polygon whose corners lie at random distances around a point.
std::vector<Point2> star(std::size_t corners, double x, double y, double near, double far, bool clockwise, std::mt19937& random) {
    std::uniform_real_distribution<double> reach(near, far);
    std::vector<Point2> out;
    for (std::size_t i = 0; i < corners; ++i) {
        const double angle = turn * static_cast<double>(i) / static_cast<double>(corners) * (clockwise ? -1.0 : 1.0), r = reach(random);
        out.push_back({x + r * std::cos(angle), y + r * std::sin(angle)});
    }
    return out;
}

/// The triangles cover the loops exactly: their areas add up and none is turned over.
void check_cover(const std::vector<std::vector<Point2>>& loops) {
    std::vector<Point2> all;
    double expected = 0.0;
    std::size_t corners = 0;
    for (const std::vector<Point2>& loop : loops) {
        all.insert(all.end(), loop.begin(), loop.end());
        expected += signed_area(loop);
        corners += loop.size();
    }
    const auto triangles = triangulate_polygon(loops);
    CHECK(triangles.size() == corners + 2 * (loops.size() - 1) - 2);
    double covered = 0.0, least = 0.0;
    for (const auto& t : triangles) {
        const double area = signed_area({all[t[0]], all[t[1]], all[t[2]]});
        covered += area;
        least = std::min(least, area);
    }
    CHECK(covered == Approx(expected).epsilon(1e-9));
    CHECK(least >= -1e-12 * expected);
}

}  // namespace

TEST_CASE("any star is covered exactly, with and without holes", "[geometry]") {
    std::mt19937 random(11);
    for (std::size_t corners = 3; corners < 60; ++corners) {
        INFO(corners);
        check_cover({star(corners, 0.0, 0.0, 0.4, 1.0, false, random)});
        std::vector<std::vector<Point2>> loops{star(corners + 2, 0.0, 0.0, 4.0, 5.0, false, random)};
        for (const auto& [x, y] : {std::pair{0.0, 0.0}, {1.1, 0.0}, {-1.1, 0.3}, {0.2, -1.0}})
            loops.push_back(star(3 + corners % 7, x, y, 0.1, 0.4, true, random));
        if (corners > 8) check_cover(loops);
    }
}

TEST_CASE("outlines of twenty thousand corners and plates with hundreds of holes", "[geometry]") {
    std::mt19937 random(12);
    check_cover({star(20000, 0.0, 0.0, 0.5, 1.0, false, random)});
    std::vector<std::vector<Point2>> plate{{{-0.5, -0.5}, {24.5, -0.5}, {24.5, 19.5}, {-0.5, 19.5}}};
    for (int x = 0; x < 25; ++x) {
        for (int y = 0; y < 20; ++y) plate.push_back(star(16, x, y, 0.2, 0.4, true, random));
    }
    check_cover(plate);
}

TEST_CASE("curves that cross themselves are found", "[geometry]") {
    std::mt19937 random(13);
    for (int n = 0; n < 200; ++n) {
        std::vector<Point2> loop = star(5 + static_cast<std::size_t>(n), 0.0, 0.0, 0.6, 1.0, false, random);
        CHECK_FALSE(crosses_itself({loop}));
        // Of chords of a circle that interleave, any two cross.
        loop = star(loop.size(), 0.0, 0.0, 1.0, 1.0, false, random);
        std::swap(loop[1], loop[3]);
        CHECK(crosses_itself({loop}));
    }
    CHECK(crosses_itself({{{0, 0}, {2, 0}, {2, 2}, {0, 2}}, {{1, 1}, {3, 1}, {3, 3}, {1, 3}}}));
}
