// Temperatures of the page's view, packed.

#include "report/page_fields.hpp"

#include <firnfield/mesh.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>

#include "report/page_geometry.hpp"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>

namespace firnfield {
namespace {

using Json = nlohmann::ordered_json;

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

}  // namespace

PageFields page_fields(const Model& model, const std::vector<KeptStudy>& studies, int frames, const Units& units, const ProgressCallback& progress) {
    if (studies.empty()) return {};
    announce(progress, {.stage = "meshing for the view"});
    const Model small = coarse_for_page(model);
    const auto mesh = std::make_shared<const Mesh>(build_mesh(small));
    const PageGeometry geometry = page_surfaces(*mesh, [&](const SurfacePiece& piece, const SurfacePieces&) { return mesh->bodies[piece.body].part; });
    std::vector<Index> box_cell(mesh->grid.boxes(), no_index);  // the largest cell in each box of the grid
    for (Index cell = 0; cell < mesh->cells.size(); ++cell) {
        Index& held = box_cell[mesh->cells.box[cell]];
        if (held == no_index || mesh->cells.volume[cell] > mesh->cells.volume[held]) held = cell;
    }
    PageBlock block;
    Json parts = Json::array();
    std::map<Index, std::size_t> place_of;  // of a part among those there are
    for (const PageGeometry::Range& r : geometry.ranges) {
        place_of[r.group] = parts.size();
        parts.push_back(model.parts[r.group].name);
    }
    const auto part_number = [&](Index part) {
        const auto found = place_of.find(part);
        return found == place_of.end() ? parts.size() : found->second;  // nothing of it is seen
    };
    std::vector<std::uint8_t> box_part;
    for (const Index cell : box_cell)
        box_part.push_back(cell == no_index ? std::uint8_t{0}
                                            : static_cast<std::uint8_t>(std::min<std::size_t>(255, 1 + place_of[mesh->bodies[mesh->cells.body[cell]].part])));
    Json shape = packed_geometry(block, geometry, geometry.box, "part", part_number);
    shape["lines"] = mesh->grid.lines;
    shape["boxPart"] = block.add8(box_part);
    shape["solids"] = packed_geometry(block, page_solids(*mesh), geometry.box, "part", part_number);

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
            for (const Index cell : box_cell)
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
    out.packed = block.packed();
    return out;
}

}  // namespace firnfield
