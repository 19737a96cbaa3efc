// Which cell holds a point. A point on a part's surface is in the part, on every resolution.

#include <firnfield/mesh.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "geometry/triangle_tree.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <optional>

namespace firnfield {
namespace {

/// Boxes along one axis that hold the coordinate; two of them when it lies on a plane.
std::vector<Index> boxes_around(const std::vector<double>& lines, double x, double tolerance) {
    std::vector<Index> found;
    auto at = std::lower_bound(lines.begin(), lines.end(), x - tolerance);
    if (at == lines.end()) return found;
    for (Index i = at == lines.begin() ? 0 : static_cast<Index>(at - lines.begin()) - 1; i + 1 < lines.size() && lines[i] <= x + tolerance; ++i) {
        if (lines[i + 1] >= x - tolerance) found.push_back(i);
    }
    return found;
}

/// The point of a grid box nearest to `point`.
Vec3 nearest_in_box(const Mesh& mesh, Index cell, Vec3 point) {
    const auto place = mesh.grid.place(mesh.cells.box[cell]);
    for (int axis = 0; axis < 3; ++axis) {
        const Index at = place[static_cast<std::size_t>(axis)];
        point[axis] = std::clamp(point[axis], mesh.grid.lower(axis, at), mesh.grid.upper(axis, at));
    }
    return point;
}

/// Looks for a point in one body after the other.
class Locator {
public:
    Locator(const Mesh& mesh, Vec3 point) : mesh_(mesh), point_(point) {
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const std::vector<double>& lines = mesh.grid.lines[axis];
            around_[axis] = boxes_around(lines, point[static_cast<int>(axis)], 1e-9 * (lines.back() - lines.front()));
        }
    }

    /// The body's cell at the point, when the point is in the body; else nothing, and the nearest point of it is kept.
    std::optional<Index> in_body(Index body) {
        const Index surface = mesh_.bodies[body].surface;
        if (surface == no_index) {
            if (const auto cell = cell_around(body)) return cell;
            for (Index c = 0; c < mesh_.cells.size(); ++c) {
                if (mesh_.cells.body[c] == body) keep_nearest(nearest_in_box(mesh_, c, point_));
            }
            return std::nullopt;
        }
        const TriangleTree tree(triangles_of(mesh_.surfaces[surface]));
        if (!tree.inside(point_)) {
            Vec3 nearest;
            double least = std::numeric_limits<double>::infinity();
            for (const Triangle& t : tree.triangles()) {
                const Vec3 at = nearest_point(t, point_);
                if (const double d = length(at - point_); d < least) least = d, nearest = at;
            }
            // Facets of round faces may end a little short of them.
            if (!(least <= facets_off(body))) {
                keep_nearest(nearest);
                return std::nullopt;
            }
        }
        if (const auto cell = cell_around(body)) return cell;
        return nearest_cell(body);
    }

    [[nodiscard]] std::optional<Vec3> nearest() const { return nearest_; }

private:
    /// How far facets may be off where the point is: a hundredth of the boxes there.
    [[nodiscard]] double facets_off(Index body) const {
        const Index cell = nearest_cell(body);
        const auto place = mesh_.grid.place(mesh_.cells.box[cell]);
        double width = std::numeric_limits<double>::infinity();
        for (int axis = 0; axis < 3; ++axis) width = std::min(width, mesh_.grid.width(axis, place[static_cast<std::size_t>(axis)]));
        return 0.01 * width;
    }

    /// Of the body's cells in the boxes around the point, the one whose surfaces it lies behind.
    [[nodiscard]] std::optional<Index> cell_around(Index body) const {
        std::optional<Index> best;
        double least = std::numeric_limits<double>::infinity();
        for (const Index k : around_[2]) {
            for (const Index j : around_[1]) {
                for (const Index i : around_[0]) {
                    const CellRange range = cells_in_box(mesh_, (std::size_t{k} * mesh_.grid.count(1) + j) * mesh_.grid.count(0) + i);
                    for (Index cell = range.first; cell < range.last; ++cell) {
                        if (mesh_.cells.body[cell] != body) continue;
                        const double before = in_front(cell);
                        if (before < least) least = before, best = cell;
                    }
                }
            }
        }
        return best;
    }

    /// How far the point lies in front of the surfaces of a cell, m; 0 when it is behind all of them.
    [[nodiscard]] double in_front(Index cell) const {
        double most = 0.0;
        const auto [first, last] = std::equal_range(mesh_.patches.cell.begin(), mesh_.patches.cell.end(), cell);
        for (auto p = first; p != last; ++p) {
            const auto patch = static_cast<std::size_t>(p - mesh_.patches.cell.begin());
            most = std::max(most, dot(mesh_.patches.normal[patch], point_ - mesh_.foot(patch)));
        }
        return most;
    }

    [[nodiscard]] Index nearest_cell(Index body) const {
        Index best = no_index;
        double least = std::numeric_limits<double>::infinity();
        for (Index c = 0; c < mesh_.cells.size(); ++c) {
            if (mesh_.cells.body[c] != body) continue;
            if (const double d = length(nearest_in_box(mesh_, c, point_) - point_); d < least) least = d, best = c;
        }
        return best;
    }

    void keep_nearest(Vec3 at) {
        if (!nearest_ || length(at - point_) < length(*nearest_ - point_)) nearest_ = at;
    }

    const Mesh& mesh_;
    Vec3 point_;
    std::array<std::vector<Index>, 3> around_;
    std::optional<Vec3> nearest_;
};

std::string in_millimetres(Vec3 p) { return fmt::format("({:.6g}, {:.6g}, {:.6g}) mm", 1e3 * p.x, 1e3 * p.y, 1e3 * p.z); }

}  // namespace

CellRange cells_in_box(const Mesh& mesh, std::size_t box) {
    const auto [first, last] = std::equal_range(mesh.cells.box.begin(), mesh.cells.box.end(), box);
    return {static_cast<Index>(first - mesh.cells.box.begin()), static_cast<Index>(last - mesh.cells.box.begin())};
}

Index cell_in_box(const Mesh& mesh, std::size_t box, Index body) {
    const CellRange range = cells_in_box(mesh, box);
    for (Index c = range.first; c < range.last; ++c) {
        if (mesh.cells.body[c] == body) return c;
    }
    return no_index;
}

Index cell_at_point(const Model& model, const Mesh& mesh, const std::string& part, Vec3 point, const std::string& address) {
    Locator locator(mesh, point);
    for (Index b = 0; b < mesh.bodies.size(); ++b) {
        const Body& body = mesh.bodies[b];
        if (!picks(part, body.name, model.parts[body.part].name)) continue;
        if (const auto cell = locator.in_body(b)) return *cell;
    }
    std::string where = "; no such part is in the assembly";
    if (const auto nearest = locator.nearest()) {
        where =
            fmt::format(": it is {} away, and the nearest point of it is {}", show_quantity(length(*nearest - point), kinds::length), in_millimetres(*nearest));
    }
    throw ModelError(address, fmt::format("the point {} is not in part {}{}", in_millimetres(point), in_quotes(part), where));
}

}  // namespace firnfield
