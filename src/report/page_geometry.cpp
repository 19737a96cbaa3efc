// Surfaces of an assembly for the views of pages, and how numbers are packed.

#include "report/page_geometry.hpp"

#include <firnfield/error.hpp>
#include <firnfield/mesh.hpp>

#include <zlib.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <unordered_set>

namespace firnfield {
namespace {

/// Groups of bodies of which no two touch: what one of them covers of another is then no matter.
std::vector<std::vector<bool>> apart(const Mesh& mesh) {
    std::vector<std::vector<Index>> touching(mesh.bodies.size());
    for (const ContactPair& pair : mesh.pairs) {
        touching[pair.first].push_back(pair.second);
        touching[pair.second].push_back(pair.first);
    }
    std::vector<std::size_t> group(mesh.bodies.size(), 0);
    std::size_t groups = 0;
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
        std::size_t own = 0;
        while (std::any_of(touching[b].begin(), touching[b].end(), [&](Index other) { return other < b && group[other] == own; })) ++own;
        group[b] = own;
        groups = std::max(groups, own + 1);
    }
    std::vector<std::vector<bool>> hidden(groups, std::vector<bool>(mesh.bodies.size(), true));
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) hidden[group[b]][b] = false;
    return hidden;
}

/// The triangles in the order of their groups, and the box around all.
void settle(PageGeometry& out, const std::map<Index, std::vector<std::uint32_t>>& by_group) {
    if (out.corners.empty()) return;
    Vec3 low = out.corners.front(), high = low;
    for (const Vec3& c : out.corners) {
        for (int axis = 0; axis < 3; ++axis) {
            low[axis] = std::min(low[axis], c[axis]);
            high[axis] = std::max(high[axis], c[axis]);
        }
    }
    out.box = {.size = high - low, .at = low};
    for (const auto& [group, list] : by_group) {
        out.ranges.push_back({group, out.indices.size() / 3, list.size() / 3});
        out.indices.insert(out.indices.end(), list.begin(), list.end());
    }
}

}  // namespace

PageBlock::Part PageBlock::add16(const std::vector<std::uint16_t>& values) {
    const std::size_t start = bytes_.size(), n = values.size();
    bytes_.resize(start + 2 * n);
    std::uint16_t before = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const auto change = static_cast<std::uint16_t>(values[i] - before);
        before = values[i];
        bytes_[start + i] = static_cast<char>(change & 0xFFU);
        bytes_[start + n + i] = static_cast<char>(change >> 8U);
    }
    return {start, 2 * n};
}

PageBlock::Part PageBlock::add24(const std::vector<std::uint32_t>& values) {
    const std::size_t start = bytes_.size(), n = values.size();
    bytes_.resize(start + 3 * n);
    std::uint32_t before = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const std::uint32_t change = values[i] - before;
        before = values[i];
        for (std::size_t plane = 0; plane < 3; ++plane) bytes_[start + plane * n + i] = static_cast<char>((change >> (8U * plane)) & 0xFFU);
    }
    return {start, 3 * n};
}

PageBlock::Part PageBlock::add8(const std::vector<std::uint8_t>& values) {
    const std::size_t start = bytes_.size();
    std::uint8_t before = 0;
    for (const std::uint8_t v : values) {
        bytes_ += static_cast<char>(static_cast<std::uint8_t>(v - before));
        before = v;
    }
    return {start, values.size()};
}

std::string PageBlock::packed() const {
    uLongf size = compressBound(static_cast<uLong>(bytes_.size()));
    std::string out(size, '\0');
    if (compress2(reinterpret_cast<Bytef*>(out.data()), &size, reinterpret_cast<const Bytef*>(bytes_.data()), static_cast<uLong>(bytes_.size()),
                  Z_BEST_COMPRESSION) != Z_OK) {
        throw FileError("the contents of the page could not be compressed");
    }
    out.resize(size);
    return base64(out);
}

PageGeometry page_surfaces(const Mesh& mesh, const std::function<Index(const SurfacePiece&, const SurfacePieces&)>& group) {
    PageGeometry out;
    std::map<Index, std::vector<std::uint32_t>> by_group;
    for (const std::vector<bool>& hidden : apart(mesh)) {
        const SurfacePieces surface = surface_pieces(mesh, {.hidden = hidden});
        std::map<std::pair<Index, Index>, std::uint32_t> corner_of;  // of a body
        for (const SurfacePiece& face : surface.pieces) {
            const auto corners = surface.of(face);
            const auto corner = [&](Index c) {
                const auto [found, fresh] = corner_of.emplace(std::pair{face.body, c}, static_cast<std::uint32_t>(out.corners.size()));
                if (fresh) {
                    out.corners.push_back(surface.corners[c]);
                    out.body.push_back(face.body);
                }
                return found->second;
            };
            std::vector<std::uint32_t>& list = by_group[group(face, surface)];
            for (std::size_t i = 2; i < corners.size(); ++i) {
                for (const Index c : {corners[0], corners[i - 1], corners[i]}) list.push_back(corner(c));
            }
        }
    }
    settle(out, by_group);
    return out;
}

PageGeometry page_solids(const Mesh& mesh) {
    PageGeometry out;
    std::map<Index, std::vector<std::uint32_t>> by_part;
    std::vector<std::vector<Index>> boxes(mesh.bodies.size());
    for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
        if (mesh.bodies[mesh.cells.body[cell]].surface == no_index) boxes[mesh.cells.body[cell]].push_back(mesh.cells.box[cell]);
    }
    const auto add_corner = [&](Vec3 at, Index body) {
        out.corners.push_back(at);
        out.body.push_back(body);
        return static_cast<std::uint32_t>(out.corners.size() - 1);
    };
    for (Index b = 0; b < mesh.bodies.size(); ++b) {
        std::vector<std::uint32_t>& list = by_part[mesh.bodies[b].part];
        if (mesh.bodies[b].surface != no_index) {
            const ClosedSurface& surface = mesh.surfaces[mesh.bodies[b].surface];
            const auto first = static_cast<std::uint32_t>(out.corners.size());
            for (const Vec3& corner : surface.corners) static_cast<void>(add_corner(corner, b));
            for (const auto& triangle : surface.triangles) {
                for (const auto corner : triangle) list.push_back(first + static_cast<std::uint32_t>(corner));
            }
            continue;
        }
        // Faces of boxes beyond which the body does not go on.
        const std::unordered_set<Index> own(boxes[b].begin(), boxes[b].end());
        std::map<std::array<Index, 3>, std::uint32_t> number;
        const std::array<std::size_t, 3> stride{1, mesh.grid.count(0), std::size_t{mesh.grid.count(0)} * mesh.grid.count(1)};
        for (const Index box : boxes[b]) {
            const std::array<Index, 3> place = mesh.grid.place(box);
            for (std::size_t axis = 0; axis < 3; ++axis) {
                for (const bool upper : {false, true}) {
                    const bool inside = upper ? place[axis] + 1 < mesh.grid.count(static_cast<int>(axis)) : place[axis] > 0;
                    if (inside && own.count(static_cast<Index>(upper ? box + stride[axis] : box - stride[axis])) != 0) continue;
                    const std::size_t u = (axis + 1) % 3, v = (axis + 2) % 3;
                    std::array<std::uint32_t, 4> corner{};
                    for (std::size_t n = 0; n < 4; ++n) {
                        std::array<Index, 3> at = place;
                        at[axis] += upper ? 1 : 0;
                        at[u] += n == 1 || n == 2 ? 1 : 0;
                        at[v] += n == 2 || n == 3 ? 1 : 0;
                        const auto [found, fresh] = number.emplace(at, 0);
                        if (fresh) found->second = add_corner({mesh.grid.lines[0][at[0]], mesh.grid.lines[1][at[1]], mesh.grid.lines[2][at[2]]}, b);
                        corner[n] = found->second;
                    }
                    const auto triangle = [&](std::size_t p, std::size_t q, std::size_t r) {
                        list.insert(list.end(), {corner[p], upper ? corner[q] : corner[r], upper ? corner[r] : corner[q]});
                    };
                    triangle(0, 1, 2);
                    triangle(0, 2, 3);
                }
            }
        }
    }
    settle(out, by_part);
    return out;
}

nlohmann::ordered_json packed_geometry(PageBlock& block, const PageGeometry& geometry, const Box& box, std::string_view of,
                                       const std::function<std::size_t(Index)>& number) {
    using Json = nlohmann::ordered_json;
    const Vec3 low = box.lower(), high = box.upper();
    std::vector<std::uint16_t> positions;
    for (int axis = 0; axis < 3; ++axis) {
        for (const Vec3& c : geometry.corners) positions.push_back(quantised(c[axis], low[axis], high[axis], 65535.0));
    }
    Json ranges = Json::array();
    for (const PageGeometry::Range& r : geometry.ranges)
        ranges.push_back({{std::string(of), number ? number(r.group) : r.group}, {"first", r.first}, {"count", r.count}});
    return {{"box", {low.x, low.y, low.z, high.x, high.y, high.z}},
            {"vertices", geometry.corners.size()},
            {"triangles", geometry.indices.size() / 3},
            {"ranges", std::move(ranges)},
            {"positions", block.add16(positions)},
            {"indices", block.add24(geometry.indices)}};
}

Model coarse_for_page(Model model) {
    constexpr double most = 60'000;  // boxes
    while (static_cast<double>(plan_grid(model).boxes()) > most && model.mesh.coarsening < 40.0) model.mesh.coarsening *= 1.3;
    return model;
}

std::uint16_t quantised(double value, double low, double high, double steps) {
    return static_cast<std::uint16_t>(std::lround(std::clamp((value - low) / std::max(high - low, 1e-12), 0.0, 1.0) * steps));
}

std::string base64(std::string_view bytes) {
    static constexpr std::string_view digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    out.reserve(bytes.size() / 3 * 4 + 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t group = 0;
        for (std::size_t j = 0; j < 3; ++j) group = (group << 8U) | (i + j < bytes.size() ? static_cast<unsigned char>(bytes[i + j]) : 0U);
        for (std::size_t j = 0; j < 4; ++j) out += i + j <= bytes.size() ? digits[(group >> (18U - 6U * j)) & 63U] : '=';
    }
    return out;
}

}  // namespace firnfield
