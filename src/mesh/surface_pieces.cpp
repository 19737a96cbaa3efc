// The visible surface of an assembly as polygons: faces of cells, triangles of bodies that the grid cuts, sections.

#include "mesh/surface_pieces.hpp"

#include "geometry/polygon.hpp"
#include "geometry/solids.hpp"
#include "mesh/clip.hpp"

#include <algorithm>
#include <cmath>
#include <set>

namespace firnfield {
namespace {

/// Numbers points of faces in the order they come. Open addressing: a point costs one look at memory, not three.
class CornerNumbers {
public:
    /// The number of a point, and whether it is new.
    std::pair<Index, bool> number(std::array<std::int32_t, 3> at, std::uint64_t face) {
        if (2 * (count_ + 1) > slots_.size()) grow();
        const auto [slot, known] = find(at, face);
        if (known) return {slots_[slot].number, false};
        slots_[slot] = {at, static_cast<Index>(count_), face};
        return {static_cast<Index>(count_++), true};
    }

private:
    struct Slot {
        std::array<std::int32_t, 3> at{};
        Index number = no_index;
        std::uint64_t face = 0;
    };
    [[nodiscard]] std::pair<std::size_t, bool> find(const std::array<std::int32_t, 3>& at, std::uint64_t face) const {
        std::uint64_t h = face * 0x9E3779B97F4A7C15ULL;
        for (const std::int32_t k : at) {
            h ^= static_cast<std::uint32_t>(k);
            h *= 0xBF58476D1CE4E5B9ULL;
            h ^= h >> 29U;
        }
        const std::size_t mask = slots_.size() - 1;
        for (std::size_t slot = h & mask;; slot = (slot + 1) & mask) {
            if (slots_[slot].number == no_index) return {slot, false};
            if (slots_[slot].at == at && slots_[slot].face == face) return {slot, true};
        }
    }
    void grow() {
        std::vector<Slot> before(std::max<std::size_t>(1024, 2 * slots_.size()));
        before.swap(slots_);
        for (const Slot& s : before) {
            if (s.number != no_index) slots_[find(s.at, s.face).first] = s;
        }
    }
    std::vector<Slot> slots_{};
    std::size_t count_ = 0;
};

/// Collects polygons; those of one face share corners.
class Collector {
public:
    explicit Collector(double scale, Vec3 origin) : scale_(scale), origin_(origin) {}

    template <typename P>
    void add(const P& polygon, SurfacePiece face, bool smooth_across_edges) {
        face.first = static_cast<Index>(surface.index.size());
        face.count = static_cast<Index>(polygon.size());
        face.side = smooth_across_edges ? std::uint8_t{6} : static_cast<std::uint8_t>(nearest_side(face.normal));
        const std::uint64_t name =
            (std::uint64_t{face.body} << 24U) | (std::uint64_t{face.tag} << 8U) | (std::uint64_t{face.side} << 1U) | (face.inner ? 1U : 0U);
        for (std::size_t i = 0; i < polygon.size(); ++i) {
            const Vec3 p = polygon[i];
            std::array<std::int32_t, 3> at{};
            for (int axis = 0; axis < 3; ++axis) at[static_cast<std::size_t>(axis)] = static_cast<std::int32_t>(std::lrint((p[axis] - origin_[axis]) / scale_));
            const auto [corner, is_new] = numbers_.number(at, name);
            if (is_new) surface.corners.push_back(p);
            surface.index.push_back(corner);
        }
        surface.pieces.push_back(face);
    }

    SurfacePieces surface;

private:
    double scale_;
    Vec3 origin_;
    CornerNumbers numbers_;
};

class Surfaces {
public:
    Surfaces(const Mesh& mesh, const PieceView& view)
        : mesh_(mesh), grid_(mesh_.grid), view_(view), collector_(scale(), {grid_.lines[0].front(), grid_.lines[1].front(), grid_.lines[2].front()}) {
        for (Index c = 0; c < mesh.contacts.size(); ++c) {
            for (const Index cell : {mesh.contacts.first[c], mesh.contacts.second[c]}) {
                if (!of_boxes(cell)) contact_of_cell_.emplace_back(cell, c);
            }
        }
        std::sort(contact_of_cell_.begin(), contact_of_cell_.end());
    }

    SurfacePieces run() {
        add_boxes();
        for (Index b = 0; b < mesh_.bodies.size(); ++b) {
            if (mesh_.bodies[b].surface != no_index && !view_.hidden[b]) add_cut_body(b);
        }
        if (view_.section) add_sections_of_boxes();
        return std::move(collector_.surface);
    }

private:
    [[nodiscard]] double scale() const {
        double longest = 0.0;
        for (const auto& lines : grid_.lines) longest = std::max(longest, lines.back() - lines.front());
        return 1e-9 * longest;
    }

    [[nodiscard]] bool of_boxes(Index cell) const { return mesh_.bodies[mesh_.cells.body[cell]].surface == no_index; }
    [[nodiscard]] bool seen(Index cell) const { return !view_.hidden[mesh_.cells.body[cell]]; }

    /// Faces of grid boxes: exposed, against hidden bodies or open gaps, and in planes of symmetry.
    void add_boxes() {
        for (std::size_t p = 0; p < mesh_.patches.size(); ++p) {
            const Index cell = mesh_.patches.cell[p];
            if (of_boxes(cell) && seen(cell)) add_face(cell, mesh_.patches.normal[p], mesh_.patches.tag[p], SurfacePiece::On::patch, static_cast<Index>(p));
        }
        const Contacts& contacts = mesh_.contacts;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            const Index a = contacts.first[c], b = contacts.second[c];
            const bool open = contacts.gap[c] > 0.0;
            if (of_boxes(a) && seen(a) && (open || !seen(b))) add_face(a, contacts.normal[c], 0, SurfacePiece::On::first_of_contact, static_cast<Index>(c));
            if (of_boxes(b) && seen(b) && (open || !seen(a)))
                add_face(b, -1.0 * contacts.normal[c], 0, SurfacePiece::On::second_of_contact, static_cast<Index>(c));
        }
        for (const SymmetryPlane& plane : mesh_.planes) {
            for (int axis = 0; axis < 3; ++axis) {
                if (std::abs(plane.outward[axis]) != 1.0) continue;
                const bool upper = plane.outward[axis] > 0.0;
                const std::vector<double>& lines = grid_.lines[static_cast<std::size_t>(axis)];
                if (std::abs((upper ? lines.back() : lines.front()) - plane.outward[axis] * plane.offset) > 1e-9 * (lines.back() - lines.front())) continue;
                const Index end = upper ? grid_.count(axis) - 1 : 0;
                for (Index cell = 0; cell < mesh_.cells.size(); ++cell) {
                    if (!of_boxes(cell) || !seen(cell) || grid_.place(mesh_.cells.box[cell])[static_cast<std::size_t>(axis)] != end) continue;
                    add_face(cell, plane.outward, 0, SurfacePiece::On::cell, no_index);
                }
            }
        }
    }

    void add_face(Index cell, Vec3 normal, std::uint16_t tag, SurfacePiece::On on, Index index) {
        const auto side = nearest_side(normal);
        const auto place = grid_.place(mesh_.cells.box[cell]);
        const int axis = axis_of(side), u = (axis + 1) % 3, v = (axis + 2) % 3;
        BoxPolygon face;
        const auto line = [&](int a, bool up) {
            return up ? grid_.upper(a, place[static_cast<std::size_t>(a)]) : grid_.lower(a, place[static_cast<std::size_t>(a)]);
        };
        constexpr std::array<std::array<bool, 2>, 4> around{{{false, false}, {true, false}, {true, true}, {false, true}}};
        for (std::size_t n = 0; n < 4; ++n) {
            const auto& at = around[is_plus(side) ? n : 3 - n];
            Vec3 p;
            p[axis] = line(axis, is_plus(side));
            p[u] = line(u, at[0]);
            p[v] = line(v, at[1]);
            face.push_back(p);
        }
        SurfacePiece piece{.body = mesh_.cells.body[cell], .cell = cell, .place = index, .on = on, .tag = tag};
        piece.normal[axis] = is_plus(side) ? 1.0 : -1.0;
        add(face, piece, false);
    }

    /// Clips by the section, as the view asks.
    template <typename P>
    void add(const P& polygon, const SurfacePiece& face, bool smooth) {
        P rest = polygon, below, above;
        if (view_.section && !face.inner) {
            const Vec3 n = normalized(view_.section->normal);
            split(
                rest, [&](Vec3 p) { return dot(n, p - view_.section->through); }, scale(), below, above);
            if (above.size() < 3) return;
            rest = above;
        }
        collector_.add(rest, face, smooth);
    }

    /// The triangles of a body, divided by the grid.
    void add_cut_body(Index b) {
        const ClosedSurface& surface = mesh_.surfaces[mesh_.bodies[b].surface];
        add_pieces(b, surface, false);
        if (!view_.section) return;
        // What the section plane leaves behind when everything on its far side is taken away.
        const Box box = mesh_.bodies[b].box;
        const Vec3 n = normalized(view_.section->normal), middle = box.at + 0.5 * box.size;
        const double half = 2.0 * length(box.size), ahead = dot(n, middle - view_.section->through);
        if (std::abs(ahead) > half) return;
        const Vec3 u = perpendicular(n), v = cross(n, u);
        ClosedSurface block = triangulate(Box{.size = {2.0 * half, 2.0 * half, 2.0 * half}, .at = {-half, -half, -2.0 * half}}, 1.0);
        for (Vec3& p : block.corners) p = (middle - ahead * n) + p.x * u + p.y * v + p.z * n;
        ClosedSurface rest = subtract(surface, block, std::string(section_tag)).surface;
        ClosedSurface cap = rest;
        cap.triangles.clear();
        cap.face.clear();
        for (std::size_t t = 0; t < rest.triangles.size(); ++t) {
            if (rest.faces[rest.face[t]].name != section_tag) continue;
            cap.triangles.push_back(rest.triangles[t]);
            cap.face.push_back(rest.face[t]);
        }
        add_pieces(b, cap, true);
    }

    void add_pieces(Index b, const ClosedSurface& surface, bool section) {
        std::vector<std::uint16_t> tags;
        for (const SurfaceFace& face : surface.faces) {
            const auto found = std::find(mesh_.tags.begin(), mesh_.tags.end(), face.name);
            tags.push_back(found == mesh_.tags.end() ? std::uint16_t{0} : static_cast<std::uint16_t>(found - mesh_.tags.begin()));
        }
        // A face with triangles in many directions is round, whatever it is called.
        constexpr std::size_t most_flat = 12;
        std::vector<std::set<std::array<int, 3>>> directions(surface.faces.size());
        for (std::size_t t = 0; t < surface.triangles.size(); ++t) {
            const auto& c = surface.triangles[t];
            const Vec3 doubled = cross(surface.corners[c[1]] - surface.corners[c[0]], surface.corners[c[2]] - surface.corners[c[0]]);
            const double size = length(doubled);
            auto& seen = directions[surface.face[t]];
            if (size == 0.0 || seen.size() > most_flat) continue;
            seen.insert({static_cast<int>(std::lround(20.0 * doubled.x / size)), static_cast<int>(std::lround(20.0 * doubled.y / size)),
                         static_cast<int>(std::lround(20.0 * doubled.z / size))});
        }
        for_each_piece(grid_, whole(grid_), snap_to_grid(grid_, surface.corners), surface,
                       [&](const BoxPolygon& piece, const std::array<Index, 3>& place, std::size_t t, Vec3 normal) {
                           const std::size_t box = (std::size_t{place[2]} * grid_.count(1) + place[1]) * grid_.count(0) + place[0];
                           const Index cell = nearest_cell(box, place, b, tags[surface.face[t]], normal);
                           if (cell == no_index) return;
                           SurfacePiece made{.body = b, .cell = cell, .tag = tags[surface.face[t]], .inner = section, .cuts = true, .normal = normal};
                           const bool curved = surface.faces[surface.face[t]].area_factor != 1.0 || directions[surface.face[t]].size() > most_flat;
                           // Of the patch where the cell has one that looks this way, else of the cell.
                           if (!section) {
                               made.place = patch_of(cell, made.tag, normal);
                               if (made.place == no_index && covered(cell, normal)) return;
                               if (made.place != no_index) made.on = SurfacePiece::On::patch;
                           }
                           add(piece, made, curved);
                       });
    }

    /// The body's cell in a box or next to it; of several pieces in one box the one that has this face.
    Index nearest_cell(std::size_t box, const std::array<Index, 3>& place, Index body, std::uint16_t tag, Vec3 normal) const {
        const auto in = [&](std::size_t at) {
            const CellRange range = cells_in_box(mesh_, at);
            Index found = no_index;
            for (Index c = range.first; c < range.last; ++c) {
                if (mesh_.cells.body[c] == body && (found == no_index || patch_of(c, tag, normal) != no_index)) found = c;
            }
            return found;
        };
        if (const Index cell = in(box); cell != no_index) return cell;
        const std::array<std::size_t, 3> stride{1, grid_.count(0), std::size_t{grid_.count(0)} * grid_.count(1)};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            if (place[axis] > 0) {
                if (const Index cell = in(box - stride[axis]); cell != no_index) return cell;
            }
            if (place[axis] + 1 < grid_.count(static_cast<int>(axis))) {
                if (const Index cell = in(box + stride[axis]); cell != no_index) return cell;
            }
        }
        return no_index;
    }

    /// Whether something that is shown lies right against a cell on this side.
    bool covered(Index cell, Vec3 normal) const {
        const auto [first, last] = std::equal_range(contact_of_cell_.begin(), contact_of_cell_.end(), std::pair{cell, Index{0}},
                                                    [](const auto& a, const auto& b) { return a.first < b.first; });
        for (auto at = first; at != last; ++at) {
            const Index c = at->second;
            const bool is_first = mesh_.contacts.first[c] == cell;
            const double alike = dot(normal, mesh_.contacts.normal[c]) * (is_first ? 1.0 : -1.0);
            if (alike > 0.7 && mesh_.contacts.gap[c] <= 1e3 * scale() && seen(is_first ? mesh_.contacts.second[c] : mesh_.contacts.first[c])) return true;
        }
        return false;
    }

    Index patch_of(Index cell, std::uint16_t tag, Vec3 normal) const {
        const auto [first, last] = std::equal_range(mesh_.patches.cell.begin(), mesh_.patches.cell.end(), cell);
        Index best = no_index;
        double closest = 0.7;
        for (auto p = static_cast<Index>(first - mesh_.patches.cell.begin()); p < static_cast<Index>(last - mesh_.patches.cell.begin()); ++p) {
            const double alike = dot(mesh_.patches.normal[p], normal);
            if (mesh_.patches.tag[p] != tag || alike <= closest) continue;
            closest = alike;
            best = p;
        }
        return best;
    }

    /// Where the section plane passes through cells that fill their boxes.
    void add_sections_of_boxes() {
        const Vec3 n = normalized(view_.section->normal);
        for (Index cell = 0; cell < mesh_.cells.size(); ++cell) {
            if (!of_boxes(cell) || !seen(cell)) continue;
            const auto place = grid_.place(mesh_.cells.box[cell]);
            Vec3 half;
            for (int axis = 0; axis < 3; ++axis) half[axis] = 0.5 * grid_.width(axis, place[static_cast<std::size_t>(axis)]);
            const Vec3 centre = mesh_.centre(cell);
            const double away = dot(n, centre - view_.section->through);
            const double reach = std::abs(n.x) * half.x + std::abs(n.y) * half.y + std::abs(n.z) * half.z;
            if (std::abs(away) > reach) continue;
            // A plane between two cells belongs to the kept one.
            if (std::abs(away) >= reach * (1.0 - 1e-9) && away < 0.0) continue;
            const Vec3 u = perpendicular(n), v = cross(n, u);
            const Vec3 o = centre - away * n;
            const double wide = 2.0 * length(half);
            BoxPolygon polygon, below, above;
            for (const auto& [a, b] : {std::pair{-1.0, -1.0}, {-1.0, 1.0}, {1.0, 1.0}, {1.0, -1.0}}) polygon.push_back(o + (a * wide) * u + (b * wide) * v);
            for (int axis = 0; axis < 3 && polygon.size() > 2; ++axis) {
                for (const double sign : {-1.0, 1.0}) {
                    if (polygon.size() < 3) break;
                    split(
                        polygon, [&](Vec3 p) { return sign * (p[axis] - centre[axis]) - half[axis]; }, scale(), below, above);
                    if (below.size() > 2) {
                        polygon = below;
                    } else if (above.size() > 2) {
                        polygon.clear();
                    }
                }
            }
            if (polygon.size() < 3) continue;
            add(polygon, {.body = mesh_.cells.body[cell], .cell = cell, .inner = true, .cuts = true, .normal = -1.0 * n}, false);
        }
    }

    static constexpr std::string_view section_tag = "\1section plane";  // that no face of a file has

    const Mesh& mesh_;
    const Grid& grid_;
    const PieceView& view_;
    std::vector<std::pair<Index, Index>> contact_of_cell_;  // of cells of cut bodies
    Collector collector_;
};

}  // namespace

SurfacePieces surface_pieces(const Mesh& mesh, const PieceView& view) { return Surfaces(mesh, view).run(); }

}  // namespace firnfield
