// STEP files as the library offers them; the CAD kernel does the rest.

#include <firnfield/step.hpp>

#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "geometry/placement.hpp"
#include "io/cad_files.hpp"
#include "io/step/kernel.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>
#include <xxhash.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace firnfield {

const StepSolid& StepImport::solid(const std::string& name) const {
    const auto found = std::find_if(solids.begin(), solids.end(), [&](const StepSolid& s) { return s.name == name; });
    if (found == solids.end()) {
        std::vector<std::string> names;
        for (const StepSolid& s : solids) names.push_back(s.name);
        throw Error(fmt::format("the file has no solid {}{}; it has {}", in_quotes(name), did_you_mean(name, names), quoted_list(names, 12)));
    }
    if (!found->geometry) throw Error(fmt::format("solid {} cannot be used: {}", in_quotes(name), found->why_not));
    return *found;
}

CadSolid cad_solid(const StepImport& import, const std::string& source, const std::string& solid, const std::vector<int>& copies) {
    const StepSolid& of = import.solid(solid);
    CadSolid out{.geometry = of.geometry, .source = source, .checksum = import.checksum, .solid = solid, .copies = {}};
    const int count = static_cast<int>(of.copies.size());
    const auto take = [&](int number) { out.copies.push_back({count == 1 ? 0 : number, of.copies[static_cast<std::size_t>(number) - 1].place}); };
    if (copies.empty()) {
        for (int n = 1; n <= count; ++n) take(n);
    }
    std::set<int> seen;
    for (const int n : copies) {
        if (n < 1 || n > count)
            throw Error(fmt::format("the file has {} {} of {}; there is no number {}", count, count == 1 ? "copy" : "copies", in_quotes(solid), n));
        if (!seen.insert(n).second) throw Error(fmt::format("copy {} of {} is named twice", n, in_quotes(solid)));
        take(n);
    }
    return out;
}

StepImport read_step_bytes(std::string_view bytes, const std::string& name) {
    constexpr std::size_t head = 1000;
    if (bytes.substr(0, head).find("ISO-10303-21") == std::string_view::npos)
        throw FileError(fmt::format("{} cannot be used: it does not begin with ISO-10303-21 as STEP files do", in_quotes(name)));
    StepImport import = step::kernel().read(bytes, name);
    import.checksum = file_checksum(bytes);
    return import;
}

std::string file_checksum(std::string_view bytes) { return fmt::format("{:016x}", XXH3_128bits(bytes.data(), bytes.size()).low64); }

StepImport read_step(const std::filesystem::path& file) { return read_step_bytes(read_file(file, largest_step_file), file.string()); }

namespace {

bool is_rigid(const Placement& p) {
    constexpr double rounding = 1e-9;
    const auto& [x, y, z] = p.columns;
    return std::abs(dot(x, x) - 1.0) < rounding && std::abs(dot(y, y) - 1.0) < rounding && std::abs(dot(z, z) - 1.0) < rounding && dot(cross(x, y), z) > 0.0;
}

/// The product that a copy is one of, before it is placed.
step::Product product_of(const Model& model, const PlacedPart& copy) {
    const Part part = part_of(model, copy);
    const Vec3 origin = origin_of(part.shape);
    const Solid* solid = std::get_if<Solid>(&model.parts[copy.part].shape);
    const Material* material = find_material(model.materials, part.material);
    step::Product out{.name = solid != nullptr && solid->bodies.size() > 1 ? fmt::format("{} body {}", part.name, copy.piece + 1) : part.name,
                      .material = part.material,
                      .colour = part.colour,
                      .density = material == nullptr ? 0.0 : material->density.value_or(0.0),
                      .shape = part.shape};
    for (const Shape& more : part.also) out.also.push_back(shifted(more, origin));
    for (const Shape& hole : part.holes) out.holes.push_back(shifted(hole, origin));
    return out;
}

}  // namespace

void write_step(const std::filesystem::path& file, const Model& model, const std::string& part) {
    if (model.space) throw Error("a plane or revolved model has no solids to write");
    std::vector<step::Product> products;
    std::map<std::pair<std::uint32_t, std::size_t>, std::size_t> known;  // by part and body of its file
    for (const PlacedPart& copy : place_parts(model, !part.empty())) {
        if (!part.empty() && !picks(part, copy.name, model.parts[copy.part].name)) continue;
        if (!is_rigid(copy.placement)) {
            products.push_back(product_of(model, copy));
            products.back().name = copy.name;
            products.back().before = copy.placement;
            products.back().copies = {{copy.name, {}}};
            continue;
        }
        const auto [place, fresh] = known.try_emplace({copy.part, copy.piece}, products.size());
        if (fresh) products.push_back(product_of(model, copy));
        products[place->second].copies.push_back({copy.name, copy.placement});
    }
    if (products.empty()) {
        std::vector<std::string> names;
        for (const Part& p : model.parts) names.push_back(p.name);
        throw Error(fmt::format("no part matches {}{}", in_quotes(part), did_you_mean(part, names)));
    }
    require_replaceable(file);
    step::kernel().write(file, part.empty() ? model.title : part, products);
}

}  // namespace firnfield
