// Temperatures of the page's view, packed.

#include "report/page_fields.hpp"

#include <firnfield/mesh.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>

#include "mesh/surface_pieces.hpp"

#include <zlib.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>

namespace firnfield {
namespace {

using Json = nlohmann::ordered_json;

/// Bytes of all fields, one after the other; numbers are stored as differences, which compress well.
class Block {
public:
    /// Offset and length.
    using Part = std::array<std::size_t, 2>;

    Part add16(const std::vector<std::uint16_t>& values) {
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
    Part add24(const std::vector<std::uint32_t>& values) {
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
    Part add8(const std::vector<std::uint8_t>& values) {
        const std::size_t start = bytes_.size();
        std::uint8_t before = 0;
        for (const std::uint8_t v : values) {
            bytes_ += static_cast<char>(static_cast<std::uint8_t>(v - before));
            before = v;
        }
        return {start, values.size()};
    }

    [[nodiscard]] std::string compressed() const {
        uLongf size = compressBound(static_cast<uLong>(bytes_.size()));
        std::string out(size, '\0');
        if (compress2(reinterpret_cast<Bytef*>(out.data()), &size, reinterpret_cast<const Bytef*>(bytes_.data()), static_cast<uLong>(bytes_.size()),
                      Z_BEST_COMPRESSION) != Z_OK) {
            throw FileError("the fields of the page could not be compressed");
        }
        out.resize(size);
        return out;
    }

private:
    std::string bytes_;
};

/// Cells of a mesh with weights: what a temperature is read from.
struct Sample {
    std::array<Index, 8> cell{};
    std::array<float, 8> weight{};
    std::uint8_t count = 0;
};

/// The two boxes along an axis whose centres are on both sides of a place, and the share of the second.
struct Between {
    Index first = 0, second = 0;
    double share = 0.0;
};
Between between(const Grid& grid, int axis, double at) {
    const std::vector<double>& lines = grid.lines[static_cast<std::size_t>(axis)];
    const auto above = std::upper_bound(lines.begin() + 1, lines.end() - 1, at);
    const auto box = static_cast<Index>(above - lines.begin() - 1);
    const double middle = grid.middle(axis, box);
    const Index other = at > middle ? std::min(box + 1, grid.count(axis) - 1) : box > 0 ? box - 1 : 0;
    if (other == box) return {box, box, 0.0};
    return {box, other, std::clamp((at - middle) / (grid.middle(axis, other) - middle), 0.0, 1.0)};
}

/// A body's temperature at a point: between the cell centres around it, as far as they are the body's; else the nearest ones.
Sample sample(const Mesh& mesh, Index body, Vec3 point) {
    const std::array<Between, 3> at{between(mesh.grid, 0, point.x), between(mesh.grid, 1, point.y), between(mesh.grid, 2, point.z)};
    Sample out;
    float sum = 0.0F;
    const auto add = [&](Index i, Index j, Index k, double weight) {
        if (out.count == 8 || !(weight > 0.0)) return;
        const Index cell = cell_in_box(mesh, (std::size_t{k} * mesh.grid.count(1) + j) * mesh.grid.count(0) + i, body);
        if (cell == no_index) return;
        out.cell[out.count] = cell;
        out.weight[out.count++] = static_cast<float>(weight);
        sum += static_cast<float>(weight);
    };
    for (unsigned corner = 0; corner < 8; ++corner) {
        double weight = 1.0;
        std::array<Index, 3> box{};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const bool second = ((corner >> axis) & 1U) != 0;
            box[axis] = second ? at[axis].second : at[axis].first;
            weight *= second ? at[axis].share : 1.0 - at[axis].share;
        }
        add(box[0], box[1], box[2], weight);
    }
    for (int reach = 1; out.count == 0 && reach <= 4; ++reach) {
        const auto range = [&](std::size_t axis) {
            const int middle = static_cast<int>(at[axis].first), last = static_cast<int>(mesh.grid.count(static_cast<int>(axis))) - 1;
            return std::array{std::max(0, middle - reach), std::min(last, middle + reach)};
        };
        const auto x = range(0), y = range(1), z = range(2);
        for (int k = z[0]; k <= z[1]; ++k) {
            for (int j = y[0]; j <= y[1]; ++j) {
                for (int i = x[0]; i <= x[1]; ++i) add(static_cast<Index>(i), static_cast<Index>(j), static_cast<Index>(k), 1.0);
            }
        }
    }
    for (std::size_t n = 0; n < out.count; ++n) out.weight[n] /= sum;
    return out;
}

double value(const Sample& s, std::span<const double> rise) {
    double sum = 0.0;
    for (std::size_t n = 0; n < s.count; ++n) sum += static_cast<double>(s.weight[n]) * rise[s.cell[n]];
    return sum;
}

/// Surfaces of all bodies, those that other parts cover included.
struct Geometry {
    struct Range {
        Index part = 0;
        std::size_t first = 0, count = 0;  // triangles
    };
    Box box{};
    std::vector<Vec3> corners;
    std::vector<Index> body;  // per corner
    std::vector<std::uint32_t> indices;
    std::vector<Range> ranges;
    std::vector<Index> box_cell;  // per box of the grid: the largest cell in it, or no_index
};

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

Geometry surfaces(const Mesh& mesh) {
    Geometry out;
    std::map<Index, std::vector<std::uint32_t>> by_part;
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
            std::vector<std::uint32_t>& list = by_part[mesh.bodies[face.body].part];
            for (std::size_t i = 2; i < corners.size(); ++i) {
                for (const Index c : {corners[0], corners[i - 1], corners[i]}) list.push_back(corner(c));
            }
        }
    }
    Vec3 low = out.corners.front(), high = low;
    for (const Vec3& c : out.corners) {
        for (int axis = 0; axis < 3; ++axis) {
            low[axis] = std::min(low[axis], c[axis]);
            high[axis] = std::max(high[axis], c[axis]);
        }
    }
    out.box = {.size = high - low, .at = low};
    for (const auto& [part, list] : by_part) {
        out.ranges.push_back({part, out.indices.size() / 3, list.size() / 3});
        out.indices.insert(out.indices.end(), list.begin(), list.end());
    }
    out.box_cell.assign(mesh.grid.boxes(), no_index);
    for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
        Index& held = out.box_cell[mesh.cells.box[cell]];
        if (held == no_index || mesh.cells.volume[cell] > mesh.cells.volume[held]) held = cell;
    }
    return out;
}

/// The model with cells so large that a page can carry its surface.
Model coarse(Model model) {
    constexpr double most = 60'000;  // boxes
    while (static_cast<double>(plan_grid(model).boxes()) > most && model.mesh.coarsening < 40.0) model.mesh.coarsening *= 1.3;
    return model;
}

std::uint16_t quantised(double value, double low, double high, double steps) {
    return static_cast<std::uint16_t>(std::lround(std::clamp((value - low) / std::max(high - low, 1e-12), 0.0, 1.0) * steps));
}

}  // namespace

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

PageFields page_fields(const Model& model, const std::vector<KeptStudy>& studies, int frames, const Units& units, const ProgressCallback& progress) {
    if (studies.empty()) return {};
    announce(progress, {.stage = "meshing for the view"});
    const Model small = coarse(model);
    const auto mesh = std::make_shared<const Mesh>(build_mesh(small));
    const Geometry geometry = surfaces(*mesh);
    Block block;
    Json parts = Json::array();
    std::map<Index, std::size_t> place_of;  // of a part among those there are
    for (const Geometry::Range& r : geometry.ranges) {
        place_of[r.part] = parts.size();
        parts.push_back(model.parts[r.part].name);
    }
    const Vec3 low = geometry.box.lower(), high = geometry.box.upper();
    std::vector<std::uint16_t> positions;
    for (int axis = 0; axis < 3; ++axis) {
        for (const Vec3& c : geometry.corners) positions.push_back(quantised(c[axis], low[axis], high[axis], 65535.0));
    }
    std::vector<std::uint8_t> box_part;
    for (const Index cell : geometry.box_cell)
        box_part.push_back(cell == no_index ? std::uint8_t{0}
                                            : static_cast<std::uint8_t>(std::min<std::size_t>(255, 1 + place_of[mesh->bodies[mesh->cells.body[cell]].part])));
    Json ranges = Json::array();
    for (const Geometry::Range& r : geometry.ranges) ranges.push_back({{"part", place_of[r.part]}, {"first", r.first}, {"count", r.count}});
    Json shape{{"box", {low.x, low.y, low.z, high.x, high.y, high.z}},
               {"vertices", geometry.corners.size()},
               {"triangles", geometry.indices.size() / 3},
               {"ranges", ranges},
               {"positions", block.add16(positions)},
               {"indices", block.add24(geometry.indices)},
               {"lines", mesh->grid.lines},
               {"boxPart", block.add8(box_part)}};

    Json list = Json::array();
    struct Source {
        MeshOptions options;
        std::shared_ptr<const Mesh> mesh;
        std::vector<Sample> corners, boxes;
    };
    std::vector<Source> sources;  // one per mesh
    for (const KeptStudy& kept : studies) {
        announce(progress, {.study = kept.study.name, .stage = "fields"});
        auto known = std::find_if(sources.begin(), sources.end(), [&](const Source& s) { return s.options == kept.meshed.mesh; });
        if (known == sources.end()) known = sources.insert(sources.end(), {.options = kept.meshed.mesh, .mesh = nullptr, .corners = {}, .boxes = {}});
        Source& source = *known;
        if (!source.mesh) {
            source.mesh = std::make_shared<const Mesh>(build_mesh(kept.meshed));
            for (std::size_t c = 0; c < geometry.corners.size(); ++c) source.corners.push_back(sample(*source.mesh, geometry.body[c], geometry.corners[c]));
            for (const Index cell : geometry.box_cell)
                source.boxes.push_back(cell == no_index ? Sample{} : sample(*source.mesh, mesh->cells.body[cell], mesh->centre(cell)));
        }
        const KeptTemperatures temperatures = read_temperatures(kept.file);
        if (temperatures.rise.empty() || temperatures.rise.front().size() != node_count(kept.meshed, *source.mesh)) continue;  // of another mesh
        constexpr double finest = 0.1;  // K; finer differences would double the page and tell nobody anything
        Json rows = Json::array();
        double coldest = 1e300, hottest = -1e300;
        const std::size_t count = temperatures.time.size(), shown = std::min<std::size_t>(count, static_cast<std::size_t>(std::max(1, frames)));
        for (std::size_t f = 0; f < shown; ++f) {
            const std::size_t record = shown == 1 ? count - 1 : f * (count - 1) / (shown - 1);
            const std::span<const double> rise = std::span(temperatures.rise[record]).first(source.mesh->cells.size());
            const UnitOf scale = unit_of(kinds::temperature, units);
            const auto told = [&](double above) { return scale.out(temperatures.reference + above); };
            const auto [least, most] = std::minmax_element(rise.begin(), rise.end());
            const double from = told(*least), to = told(std::max(*most, *least + 1e-3));
            coldest = std::min(coldest, from);
            hottest = std::max(hottest, to);
            const double step = std::max(finest, (to - from) / 65535.0);
            std::vector<std::uint16_t> corners;
            for (const Sample& s : source.corners) corners.push_back(quantised(told(value(s, rise)), from, from + 65535.0 * step, 65535.0));
            std::vector<std::uint8_t> boxes;
            for (const Sample& s : source.boxes)
                boxes.push_back(s.count == 0 ? std::uint8_t{0} : static_cast<std::uint8_t>(1 + quantised(told(value(s, rise)), from, to, 254.0)));
            rows.push_back({{"time", kept.study.kind == StudyKind::steady ? Json(nullptr) : Json(temperatures.time[record])},
                            {"range", {from, to}},
                            {"step", step},
                            {"vertices", block.add16(corners)},
                            {"boxes", block.add8(boxes)}});
        }
        list.push_back({{"name", kept.study.name}, {"geometry", 0}, {"low", coldest}, {"high", hottest}, {"frames", rows}});
    }
    if (list.empty()) return {};
    PageFields out;
    out.description = Json{{"parts", parts}, {"geometries", Json::array({shape})}, {"studies", list}}.dump();
    out.packed = base64(block.compressed());
    return out;
}

}  // namespace firnfield
