// Grid lines: planes, sizes, growth, directions.

#include "mesh/grid_lines.hpp"

#include <rapidcheck/catch.h>
#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

using namespace firnfield;

TEST_CASE("grid lines pass through every plane, respect sizes, and grow gently", "[mesh][property]") {
    rc::prop("random planes and demands", [] {
        std::vector<double> planes{0.0, 1.0};
        for (const int p : *rc::gen::container<std::vector<int>>(rc::gen::inRange(1, 1000))) planes.push_back(0.001 * p);
        const double growth = 1.05 + 0.005 * *rc::gen::inRange(0, 91);
        std::vector<SizeDemand> demands{{0.0, 1.0, 0.2}};
        for (const int d : *rc::gen::container<std::vector<int>>(*rc::gen::inRange<std::size_t>(0, 5), rc::gen::inRange(1, 1000))) {
            const double from = planes[static_cast<std::size_t>(d) % planes.size()];
            demands.push_back({from, from + 0.1, 0.0005 * d});
        }
        std::vector<SizeDemand> inside;
        for (const int d : *rc::gen::container<std::vector<int>>(*rc::gen::inRange<std::size_t>(0, 5), rc::gen::inRange(1, 900))) {
            inside.push_back({0.00103 * d, 0.00103 * d + 0.05, 0.0004 * d, true});
        }
        demands.insert(demands.end(), inside.begin(), inside.end());
        const std::vector<double> lines = grid_lines(planes, demands, growth, 1e-9, 1'000'000);
        RC_ASSERT(lines.size() >= 2);
        for (const double plane : planes) {
            RC_ASSERT(std::any_of(lines.begin(), lines.end(), [&](double x) { return std::abs(x - plane) < 2e-9; }));
        }
        for (std::size_t i = 0; i + 1 < lines.size(); ++i) {
            const double width = lines[i + 1] - lines[i];
            RC_ASSERT(width > 0.0);
            RC_ASSERT(width <= 0.2 * (1.0 + 1e-5));
            for (const SizeDemand& d : inside) {
                // Cells that reach out of the stretch may have grown on the way.
                if (lines[i] >= d.from && lines[i + 1] <= d.to) RC_ASSERT(width <= d.size * (1.0 + 1e-5));
            }
            if (i == 0) continue;
            const double ratio = width / (lines[i] - lines[i - 1]);
            RC_ASSERT(std::max(ratio, 1.0 / ratio) <= growth * (1.0 + 1e-9));
        }
    });
}

TEST_CASE("a thin layer gets its cells and its neighbours grow away from it", "[mesh]") {
    const std::vector<SizeDemand> demands{{0.0, 0.1, 0.01}, {0.05, 0.0501, 0.00005}};
    const std::vector<double> lines = grid_lines({0.0, 0.05, 0.0501, 0.1}, demands, 1.4, 1e-12, 1000);
    const auto inside = std::count_if(lines.begin(), lines.end(), [](double x) { return x > 0.05 && x < 0.0501; });
    CHECK(inside >= 1);
    CHECK(lines.size() < 60);  // graded, not uniform: that would take 2000
}

TEST_CASE("a demand can act inside of a stretch between planes", "[mesh]") {
    const std::vector<double> without = grid_lines({0.0, 1.0}, std::vector<SizeDemand>{{0.0, 1.0, 0.1}}, 1.4, 1e-12, 1000);
    const std::vector<SizeDemand> demands{{0.0, 1.0, 0.1}, {0.4, 0.5, 0.01, true}};
    const std::vector<double> lines = grid_lines({0.0, 1.0}, demands, 1.4, 1e-12, 1000);
    CHECK(without.size() == 11);
    CHECK(std::count_if(lines.begin(), lines.end(), [](double x) { return x > 0.4 && x < 0.5; }) >= 10);
    CHECK(lines.size() < 35);  // everywhere it would be 101
}

TEST_CASE("too many lines are refused before they are made", "[mesh]") {
    const std::vector<SizeDemand> demands{{0.0, 1.0, 1e-12}};
    CHECK(grid_lines({0.0, 1.0}, demands, 1.4, 1e-15, 1000).empty());
}

TEST_CASE("grid lines do not depend on the direction of the axis", "[mesh][property]") {
    rc::prop("random planes and demands, mirrored", [] {
        std::vector<double> planes{0.0, 1.0}, mirrored{0.0, -1.0};
        std::vector<SizeDemand> demands{{0.0, 1.0, 0.11}}, turned{{-1.0, 0.0, 0.11}};
        for (const int p : *rc::gen::container<std::vector<int>>(rc::gen::inRange(1, 1000))) {
            planes.push_back(0.001 * p);
            mirrored.push_back(-0.001 * p);
        }
        for (const int d : *rc::gen::container<std::vector<int>>(*rc::gen::inRange<std::size_t>(0, 4), rc::gen::inRange(1, 900))) {
            demands.push_back({0.001 * d, 0.001 * d + 0.1, 0.0003 * d});
            turned.push_back({-0.001 * d - 0.1, -0.001 * d, 0.0003 * d});
        }
        const std::vector<double> one = grid_lines(planes, demands, 1.3, 1e-9, 1'000'000), other = grid_lines(mirrored, turned, 1.3, 1e-9, 1'000'000);
        RC_ASSERT(one.size() == other.size());
        for (std::size_t i = 0; i < one.size(); ++i) RC_ASSERT(std::abs(one[i] + other[other.size() - 1 - i]) < 1e-9);
    });
}
