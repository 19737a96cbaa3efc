// Scenes in three dimensions: the true surface in colours, as binary glTF 2.0 (ISO/IEC 12113).

#include <firnfield/error.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>

#include "findings/heat_flux.hpp"
#include "findings/surface_field.hpp"
#include "report/shades.hpp"

#include <nlohmann/json.hpp>

#include <cmath>
#include <cstring>
#include <map>

namespace firnfield {
namespace {

using nlohmann::ordered_json;

/// What lies at one corner as a face shows it.
struct Vertex {
    std::array<float, 3> position{}, normal{};
    std::array<std::uint16_t, 4> colour{};
    float value = 0.0F;
};

/// The triangles of one copy of a part.
struct Shell {
    std::vector<Vertex> vertices{};
    std::vector<std::uint32_t> triangles{};
};

/// Colours in glTF are told by the light that they give, those of palettes by how they look (IEC 61966-2-1).
std::uint16_t linear(double share) {
    const double light = share <= 0.04045 ? share / 12.92 : std::pow((share + 0.055) / 1.055, 2.4);
    return static_cast<std::uint16_t>(std::lround(65535.0 * std::clamp(light, 0.0, 1.0)));
}

std::vector<Shell> shells_of(const SurfacePieces& surface, const Shades& shades, const auto& colour, std::size_t bodies) {
    std::vector<Shell> shells(bodies);
    // Where pieces of one face meet they share a vertex, so that curved faces look round and edges stay sharp.
    std::map<std::pair<Index, std::uint32_t>, std::uint32_t> known;
    for (const SurfacePiece& piece : surface.pieces) {
        Shell& shell = shells[piece.body];
        const auto corners = surface.of(piece);
        std::vector<std::uint32_t> number;
        for (const Index corner : corners) {
            const auto [place, fresh] = known.try_emplace({corner, identity(piece)}, static_cast<std::uint32_t>(shell.vertices.size()));
            number.push_back(place->second);
            if (!fresh) continue;
            Vertex vertex{.value = static_cast<float>(shades.value[corner])};
            for (int axis = 0; axis < 3; ++axis) vertex.position[static_cast<std::size_t>(axis)] = static_cast<float>(surface.corners[corner][axis]);
            const std::array<double, 3> rgb = colour(shades.value[corner]);
            for (std::size_t c = 0; c < 3; ++c) vertex.colour[c] = linear(rgb[c]);
            vertex.colour[3] = 65535;
            shell.vertices.push_back(vertex);
        }
        for (std::size_t i = 1; i + 1 < corners.size(); ++i) {
            const std::array<std::uint32_t, 3> t{number[0], number[i], number[i + 1]};
            if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue;
            const Vec3 doubled =
                cross(surface.corners[corners[i]] - surface.corners[corners[0]], surface.corners[corners[i + 1]] - surface.corners[corners[0]]);
            shell.triangles.insert(shell.triangles.end(), t.begin(), t.end());
            for (const std::uint32_t v : t) {
                for (int axis = 0; axis < 3; ++axis) shell.vertices[v].normal[static_cast<std::size_t>(axis)] += static_cast<float>(doubled[axis]);
            }
        }
    }
    for (Shell& shell : shells) {
        for (Vertex& v : shell.vertices) {
            const float size = std::sqrt(v.normal[0] * v.normal[0] + v.normal[1] * v.normal[1] + v.normal[2] * v.normal[2]);
            v.normal = size > 0.0F ? std::array{v.normal[0] / size, v.normal[1] / size, v.normal[2] / size} : std::array{0.0F, 0.0F, 1.0F};
        }
    }
    return shells;
}

/// Puts shells together as one file: a header, what is in it as JSON, and the numbers.
class SceneWriter {
public:
    SceneWriter() {
        json_["asset"] = {{"version", "2.0"}, {"generator", "firnfield"}};
        json_["scene"] = 0;
        // Upward is z here and y there.
        const double half = std::sqrt(0.5);
        json_["scenes"] = ordered_json::array({{{"nodes", {0}}}});
        json_["nodes"] = ordered_json::array({{{"name", "assembly"}, {"rotation", {-half, 0.0, 0.0, half}}, {"children", ordered_json::array()}}});
        json_["materials"] = ordered_json::array({{{"pbrMetallicRoughness", {{"metallicFactor", 0.0}, {"roughnessFactor", 1.0}}}, {"doubleSided", true}}});
        for (const char* list : {"meshes", "accessors", "bufferViews"}) json_[list] = ordered_json::array();
    }

    ordered_json& extras() { return json_["asset"]["extras"]; }

    void add(const std::string& name, const Shell& shell) {
        if (shell.triangles.empty()) return;
        std::vector<float> position, normal, value;
        std::vector<std::uint16_t> colour;
        std::array<float, 3> low = shell.vertices.front().position, high = low;
        for (const Vertex& v : shell.vertices) {
            position.insert(position.end(), v.position.begin(), v.position.end());
            normal.insert(normal.end(), v.normal.begin(), v.normal.end());
            colour.insert(colour.end(), v.colour.begin(), v.colour.end());
            value.push_back(v.value);
            for (std::size_t axis = 0; axis < 3; ++axis) {
                low[axis] = std::min(low[axis], v.position[axis]);
                high[axis] = std::max(high[axis], v.position[axis]);
            }
        }
        constexpr int floats = 5126, shorts = 5123, words = 5125, corners = 34962, indices = 34963;
        const std::size_t count = shell.vertices.size();
        ordered_json attributes;
        attributes["POSITION"] = accessor(position, count, "VEC3", floats, corners);
        json_["accessors"].back()["min"] = low;
        json_["accessors"].back()["max"] = high;
        attributes["NORMAL"] = accessor(normal, count, "VEC3", floats, corners);
        attributes["COLOR_0"] = accessor(colour, count, "VEC4", shorts, corners);
        json_["accessors"].back()["normalized"] = true;
        attributes["_VALUE"] = accessor(value, count, "SCALAR", floats, corners);
        const std::size_t triangles = accessor(shell.triangles, shell.triangles.size(), "SCALAR", words, indices);
        json_["nodes"][0]["children"].push_back(json_["nodes"].size());
        json_["nodes"].push_back({{"name", name}, {"mesh", json_["meshes"].size()}});
        json_["meshes"].push_back({{"name", name}, {"primitives", {{{"attributes", attributes}, {"indices", triangles}, {"material", 0}}}}});
    }

    [[nodiscard]] std::string bytes() {
        constexpr std::size_t most = 0xFFFFFFFFU;
        json_["buffers"] = ordered_json::array({{{"byteLength", numbers_.size()}}});
        if (numbers_.empty()) {  // nothing is seen: lists may not be empty
            for (const char* list : {"meshes", "accessors", "bufferViews", "buffers"}) json_.erase(list);
            json_["nodes"][0].erase("children");
        }
        std::string text = json_.dump(-1, ' ', false, ordered_json::error_handler_t::replace);
        text.resize((text.size() + 3) / 4 * 4, ' ');
        const std::size_t size = 12 + 8 + text.size() + (numbers_.empty() ? 0 : 8 + numbers_.size());
        if (size > most) throw FileError("a scene of more than 4 GB is more than its format holds; hide parts of it");
        std::string out;
        const auto word = [&](std::uint32_t value) {
            for (int shift = 0; shift < 32; shift += 8) out.push_back(static_cast<char>((value >> shift) & 0xFFU));
        };
        word(0x46546C67U);  // "glTF"
        word(2);
        word(static_cast<std::uint32_t>(size));
        word(static_cast<std::uint32_t>(text.size()));
        word(0x4E4F534AU);  // "JSON"
        out += text;
        if (numbers_.empty()) return out;
        word(static_cast<std::uint32_t>(numbers_.size()));
        word(0x004E4942U);  // "BIN"
        return out + numbers_;
    }

private:
    template <typename T>
    std::size_t accessor(const std::vector<T>& values, std::size_t count, const char* type, int component, int target) {
        json_["bufferViews"].push_back({{"buffer", 0}, {"byteOffset", numbers_.size()}, {"byteLength", values.size() * sizeof(T)}, {"target", target}});
        numbers_.append(reinterpret_cast<const char*>(values.data()), values.size() * sizeof(T));
        numbers_.resize((numbers_.size() + 3) / 4 * 4, '\0');
        json_["accessors"].push_back({{"bufferView", json_["bufferViews"].size() - 1}, {"componentType", component}, {"count", count}, {"type", type}});
        return json_["accessors"].size() - 1;
    }

    ordered_json json_;
    std::string numbers_;
};

}  // namespace

void write_scene(const std::filesystem::path& file, const Model& model, const SteadySolution& solution, const Findings& findings, const Picture& view,
                 const std::string& remark) {
    const Mesh& mesh = *solution.mesh;
    const bool of_flux = view.show == Shown::heat_flux;
    const SurfaceField field = surface_field(solution, {.hidden = picked_bodies(model, mesh, view.hide), .section = view.section, .above = view.above});
    const bool of_parts = view.show == Shown::parts;
    const Shades shades = of_flux    ? flux_shades(field, view, evened(mesh, heat_flux(solution)), model.units)
                          : of_parts ? part_shades(field, mesh)
                                     : shades_of(field.temperature, unit_of(kinds::temperature, model.units));
    SceneWriter scene;
    if (!field.pieces.empty()) {
        const Scale scale = scale_of(shades, view, 8);
        const Colours colours{.palette = view.palette, .light_is_high = view.light_is_high};
        const std::vector<std::array<double, 3>> own = part_colours(model);
        const auto colour = [&](double value) { return of_parts ? own[static_cast<std::size_t>(std::lround(value))] : colours.at(scale, value); };
        const std::vector<Shell> shells = shells_of(field, shades, colour, mesh.bodies.size());
        for (std::size_t b = 0; b < shells.size(); ++b) scene.add(mesh.bodies[b].name, shells[b]);
        if (!of_parts) {
            scene.extras()["colours from"] = scale.low;
            scene.extras()["colours to"] = scale.high;
        }
    }
    scene.extras()["title"] = model.title;
    if (!remark.empty()) scene.extras()["stale"] = remark;
    scene.extras()["study"] = findings.study.name;
    if (solution.time && findings.study.kind != StudyKind::steady) scene.extras()["seconds"] = *solution.time;
    scene.extras()["value"] = of_flux ? "heat flux" : of_parts ? "number of the part" : "temperature";
    if (!of_parts) scene.extras()["unit"] = shades.unit.shown;
    write_file(file, scene.bytes());
}

}  // namespace firnfield
