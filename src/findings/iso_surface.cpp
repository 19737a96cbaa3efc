// Where bodies have exactly one temperature inside, as a surface.

#include "findings/iso_surface.hpp"

#include "geometry/polygon.hpp"
#include "mesh/clip.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

/// The face of a body that these surfaces count as: none that it has.
constexpr std::uint16_t no_face = 0xFFFE;

using BoxPlace = std::array<Index, 3>;

/// Corners of grid boxes around one body, with the body's temperatures there.
class CornerTemperatures {
public:
    CornerTemperatures(const SteadySolution& solution, std::span<const Vec3> gradient, std::span<const Index> cells, double coldest, double hottest)
        : mesh_(*solution.mesh) {
        first_.fill(std::numeric_limits<Index>::max());
        BoxPlace last{0, 0, 0};
        for (const Index cell : cells) {
            const BoxPlace at = mesh_.grid.place(mesh_.cells.box[cell]);
            for (std::size_t a = 0; a < 3; ++a) {
                first_[a] = std::min(first_[a], at[a]);
                last[a] = std::max(last[a], at[a]);
            }
        }
        for (std::size_t a = 0; a < 3; ++a) count_[a] = last[a] - first_[a] + 2;
        sum_.assign(count_[0] * count_[1] * count_[2], 0.0);
        cells_.assign(sum_.size(), 0.0F);
        for (const Index cell : cells) {
            const BoxPlace at = mesh_.grid.place(mesh_.cells.box[cell]);
            const Vec3 centre = mesh_.centre(cell);
            for (unsigned corner = 0; corner < 8; ++corner) {
                const std::size_t n = number(at, corner);
                sum_[n] += solution.temperature[cell] + dot(gradient[cell], point(at, corner) - centre);
                cells_[n] += 1.0F;
            }
        }
        for (std::size_t n = 0; n < sum_.size(); ++n) {
            if (cells_[n] > 0.0F) sum_[n] = std::clamp(sum_[n] / static_cast<double>(cells_[n]), coldest, hottest);
        }
    }
    [[nodiscard]] double at(const BoxPlace& box, unsigned corner) const { return sum_[number(box, corner)]; }
    [[nodiscard]] Vec3 point(const BoxPlace& box, unsigned corner) const {
        Vec3 p;
        for (int a = 0; a < 3; ++a) {
            const Index line = box[static_cast<std::size_t>(a)];
            p[a] = ((corner >> static_cast<unsigned>(a)) & 1U) != 0 ? mesh_.grid.upper(a, line) : mesh_.grid.lower(a, line);
        }
        return p;
    }

private:
    [[nodiscard]] std::size_t number(const BoxPlace& box, unsigned corner) const {
        std::array<std::size_t, 3> n{};
        for (std::size_t a = 0; a < 3; ++a) n[a] = box[a] - first_[a] + ((corner >> a) & 1U);
        return (n[2] * count_[1] + n[1]) * count_[0] + n[0];
    }

    const Mesh& mesh_;
    BoxPlace first_{};
    std::array<std::size_t, 3> count_{};
    std::vector<double> sum_;
    std::vector<float> cells_;
};

/// A plane that a cell lies behind.
struct Facet {
    Vec3 point, outward;
};

/// The true surfaces through a cell that fills its box only in part.
void facets_of(const Mesh& mesh, Index cell, const std::vector<std::pair<Index, Index>>& contacts, std::vector<Facet>& out) {
    out.clear();
    for (const SymmetryPlane& plane : mesh.planes) out.push_back({plane.offset * plane.outward, plane.outward});
    const auto [first, last] = std::equal_range(mesh.patches.cell.begin(), mesh.patches.cell.end(), cell);
    for (auto p = static_cast<std::size_t>(first - mesh.patches.cell.begin()); p < static_cast<std::size_t>(last - mesh.patches.cell.begin()); ++p)
        out.push_back({mesh.foot(p), mesh.patches.normal[p]});
    for (auto at = std::lower_bound(contacts.begin(), contacts.end(), std::pair{cell, Index{0}}); at != contacts.end() && at->first == cell; ++at) {
        const Index c = at->second;
        const bool is_first = mesh.contacts.first[c] == cell;
        const Vec3 outward = is_first ? mesh.contacts.normal[c] : -1.0 * mesh.contacts.normal[c];
        out.push_back({mesh.centre(cell) + (is_first ? mesh.contacts.depth_first[c] : mesh.contacts.depth_second[c]) * outward, outward});
    }
}

/// The level set within a tetrahedron: nothing, three corners or four.
BoxPolygon level_within(const std::array<Vec3, 4>& at, const std::array<double, 4>& above) {
    BoxPolygon out;
    std::array<std::size_t, 4> high{}, low{};
    std::size_t highs = 0, lows = 0;
    for (std::size_t i = 0; i < 4; ++i) (above[i] >= 0.0 ? high[highs++] : low[lows++]) = i;
    if (highs == 0 || lows == 0) return out;
    const auto cut = [&](std::size_t a, std::size_t b) { out.push_back(edge_point(at[a], above[a], at[b], above[b])); };
    if (highs == 2) {
        cut(high[0], low[0]);
        cut(high[0], low[1]);
        cut(high[1], low[1]);
        cut(high[1], low[0]);
    } else {
        const std::size_t alone = highs == 1 ? high[0] : low[0];
        for (std::size_t i = 0; i < 3; ++i) cut(alone, highs == 1 ? low[i] : high[i]);
    }
    return out;
}

// Six tetrahedra around the diagonal from the lowest to the highest corner of a box: neighbours divide their common face alike.
constexpr std::array<std::array<unsigned, 4>, 6> tetrahedra{{{0, 1, 3, 7}, {0, 3, 2, 7}, {0, 2, 6, 7}, {0, 6, 4, 7}, {0, 4, 5, 7}, {0, 5, 1, 7}}};

}  // namespace

void add_iso_surface(SurfaceField& field, const SteadySolution& solution, std::span<const Vec3> gradient, const BodyTemperatures& bodies,
                     const std::vector<bool>& hidden, double level, const std::optional<HalfSpace>& section) {
    const Mesh& mesh = *solution.mesh;
    std::vector<std::vector<Index>> cells(mesh.bodies.size());
    const auto crossed = [&](Index body) { return !hidden[body] && bodies.coldest[body].temperature < level && bodies.hottest[body].temperature >= level; };
    for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
        if (crossed(mesh.cells.body[cell])) cells[mesh.cells.body[cell]].push_back(cell);
    }
    std::vector<std::pair<Index, Index>> contacts;  // of cells that fill their boxes only in part
    for (Index c = 0; c < mesh.contacts.size(); ++c) {
        for (const Index cell : {mesh.contacts.first[c], mesh.contacts.second[c]}) {
            if (mesh.bodies[mesh.cells.body[cell]].surface != no_index) contacts.emplace_back(cell, c);
        }
    }
    std::sort(contacts.begin(), contacts.end());
    const Vec3 ahead = section ? normalized(section->normal) : Vec3{};
    std::vector<Facet> facets;
    for (Index body = 0; body < mesh.bodies.size(); ++body) {
        if (cells[body].empty()) continue;
        const CornerTemperatures corners(solution, gradient, cells[body], bodies.coldest[body].temperature, bodies.hottest[body].temperature);
        const bool cut_by_surface = mesh.bodies[body].surface != no_index;
        for (const Index cell : cells[body]) {
            const BoxPlace box = mesh.grid.place(mesh.cells.box[cell]);
            std::array<double, 8> above{};
            bool any = false, all = true;
            for (unsigned corner = 0; corner < 8; ++corner) {
                above[corner] = corners.at(box, corner) - level;
                any = any || above[corner] >= 0.0;
                all = all && above[corner] >= 0.0;
            }
            if (!any || all) continue;
            if (cut_by_surface) facets_of(mesh, cell, contacts, facets);
            for (const auto& tetrahedron : tetrahedra) {
                std::array<Vec3, 4> at{};
                std::array<double, 4> over{};
                for (std::size_t i = 0; i < 4; ++i) {
                    at[i] = corners.point(box, tetrahedron[i]);
                    over[i] = above[tetrahedron[i]];
                }
                Polygon polygon, below, beyond;
                const BoxPolygon found = level_within(at, over);
                for (std::size_t i = 0; i < found.size(); ++i) polygon.push_back(found[i]);
                for (std::size_t s = 0; cut_by_surface && s < facets.size() && polygon.size() > 2; ++s) {
                    split(
                        polygon, [&](Vec3 p) { return dot(facets[s].outward, p - facets[s].point); }, 0.0, below, beyond);
                    polygon = below;
                }
                if (section && polygon.size() > 2) {
                    split(
                        polygon, [&](Vec3 p) { return dot(ahead, p - section->through); }, 0.0, below, beyond);
                    polygon = beyond;
                }
                if (polygon.size() < 3) continue;
                Vec3 normal = area_vector(polygon);
                if (length(normal) == 0.0) continue;
                // The slope of the field is smoother than the pieces are.
                const Vec3 fall = -1.0 * gradient[cell];
                if (dot(normal, fall) < 0.0) {
                    normal = -1.0 * normal;
                    std::reverse(polygon.begin(), polygon.end());
                }
                SurfacePiece piece{.first = static_cast<Index>(field.index.size()),
                                   .count = static_cast<Index>(polygon.size()),
                                   .body = body,
                                   .cell = cell,
                                   .tag = no_face,
                                   .side = 6,
                                   .cuts = true,
                                   .normal = length(fall) > 0.0 && dot(normalized(fall), normalized(normal)) > 0.3 ? normalized(fall) : normalized(normal)};
                for (const Vec3& p : polygon) {
                    field.index.push_back(static_cast<Index>(field.corners.size()));
                    field.corners.push_back(p);
                    field.temperature.push_back(level);
                }
                field.pieces.push_back(piece);
            }
        }
    }
}

}  // namespace firnfield
