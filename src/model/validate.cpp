// Every mistake of a model that can be seen without meshing it.

#include <firnfield/model.hpp>
#include <firnfield/quantity.hpp>

#include "base/colour_text.hpp"
#include "base/words.hpp"
#include "model/bodies.hpp"
#include "model/check_effects.hpp"
#include "model/check_shape.hpp"
#include "model/check_time.hpp"
#include "model/figure_forms.hpp"
#include "model/keys/check_ranges.hpp"
#include "model/lumped.hpp"
#include "model/name_checks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <string_view>

namespace firnfield {
namespace {

/// How often the file of a shape has it, or how many bodies.
std::size_t copies_in_file(const Shape& shape) {
    const Solid* solid = std::get_if<Solid>(&shape);
    const CadSolid* cad = std::get_if<CadSolid>(&shape);
    return solid != nullptr ? solid->bodies.size() : cad != nullptr ? cad->copies.size() : 1;
}

constexpr long long most_copies = 20'000;

/// Collects the mistakes of a model, section by section.
class Validator : NameChecks {
public:
    explicit Validator(const Model& model) : NameChecks(model) {}

    std::vector<Problem> run() {
        check_ranges(model_, *this);
        check_mesh();
        check_mirrors();
        add(check_space(model_));
        check_materials();
        check_fluids();
        check_parts();
        check_surfaces();
        add(check_effects(model_, placed_));
        add(check_lumped(model_));
        add(check_figures(model_));
        check_studies();
        add(check_time(model_));
        check_pictures();
        return std::move(problems);
    }

private:
    void check_mesh() {
        if (model_.mesh.through < 1 || model_.mesh.through > 100) {
            report("mesh.through", fmt::format("the number of cells through a part must be 1 to 100, found {}", model_.mesh.through));
        }
        if (!(model_.mesh.growth >= 1.05 && model_.mesh.growth <= 1.5)) {
            report("mesh.growth", fmt::format("the growth of neighbouring cells must be 1.05 to 1.5, found {:g}", model_.mesh.growth));
        }
        for (std::size_t axis = 0; axis < 3; ++axis) {
            constexpr std::size_t most_planes = 10'000;
            if (model_.mesh.planes[axis].size() > most_planes)
                report("mesh.planes",
                       fmt::format("at most {} planes across an axis are possible, found {}", grouped(most_planes), grouped(model_.mesh.planes[axis].size())));
        }
        for (std::size_t l = 0; l < model_.mesh.layers.size(); ++l) {
            const LayerSize& layer = model_.mesh.layers[l];
            const std::string address = fmt::format("mesh.layers[{}]", l);
            if (layer.axis < 0 || layer.axis > 2) report(address + ".along", "the axis must be x, y or z");
            if (!(layer.to > layer.from)) report(address + ".to", "a layer ends beyond where it begins: `to` must be larger than `from`");
            if (layer.coarser && model_.mesh.cell)
                report(address + ".coarser", "only the default size makes way for a coarser layer: leave out mesh.cell, or `coarser` here");
        }
        if (!(model_.mesh.coarsening >= 0.01 && model_.mesh.coarsening <= 100.0)) {
            report("mesh.coarsening", fmt::format("the factor on cell sizes must be 0.01 to 100, found {:g}", model_.mesh.coarsening));
        }
        if (model_.mesh.error_target) check_error_target();
        if (model_.mesh.max_cells < 1 || model_.mesh.max_cells > 2'000'000'000) {
            report("mesh.max_cells", fmt::format("the cap on cells must be 1 to 2 000 000 000, found {}", model_.mesh.max_cells));
        }
    }

    void check_error_target() {
        constexpr double least = 1e-4;  // K
        if (*model_.mesh.error_target > 0.0 && *model_.mesh.error_target < least) {
            report("mesh.error_target",
                   fmt::format("no mesh resolves temperatures to {}; ask for at least {}",
                               write_quantity(*model_.mesh.error_target, kinds::temperature_difference), write_quantity(least, kinds::temperature_difference)));
        }
        if (!model_.mesh.refine)
            report("mesh.error_target", "an error target is met by refining the mesh, and refine = false (or --as-meshed) forbids that; leave one of them out");
        if (model_.parts.empty()) report("mesh.error_target", "a model without parts has no mesh and so no discretisation error; leave it out");
    }

    void check_mirrors() {
        std::set<int> axes;
        for (std::size_t i = 0; i < model_.mirrors.size(); ++i) {
            const Mirror& mirror = model_.mirrors[i];
            if (!mirror.keep && !axes.insert(mirror.axis).second) {
                report(item("mirror", i) + ".across", "there is already a mirror plane across this axis; one for each axis is possible");
            }
        }
        if (model_.mirrors.size() > 3) report("mirror", fmt::format("at most three planes of symmetry are possible, found {}", model_.mirrors.size()));
        if (!model_.sector) return;
        if (model_.sector->pieces < 2 || model_.sector->pieces > 360) {
            report("sector.pieces", fmt::format("a full turn can have 2 to 360 equal sectors, found {}", model_.sector->pieces));
        }
    }

    void check_materials() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.materials.size(); ++i) {
            const Material& material = model_.materials[i];
            const std::string at = item("material", i);
            check_name("material", i, material.name, seen);
            if (!material.specific_heat_factor.empty() && !material.specific_heat)
                report(at + ".specific_heat_factor", "a factor needs a specific_heat that it multiplies");
            if (material.melting) check_melting(at, material);
            if (material.valid_from && material.valid_to && !(*material.valid_from < *material.valid_to))
                report(at + ".valid", "the lower end of a validity range comes first");
        }
    }

    void check_fluids() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.fluids.size(); ++i) {
            const Fluid& fluid = model_.fluids[i];
            check_name("fluid", i, fluid.name, seen);
            const std::vector<std::string> known = fluid_names();
            if (std::find(known.begin(), known.end(), fluid.name) != known.end())
                report(item("fluid", i) + ".name", fmt::format("{} is a fluid already; choose another name", in_quotes(fluid.name)));
            for (const std::string& problem : problems_of(fluid)) report(item("fluid", i), problem);
        }
    }

    void check_melting(const std::string& at, const Material& material) {
        const Melting& melting = *material.melting;
        if (melting.to < melting.from)
            report(at + ".melting.to", fmt::format("melting ends at {}, below {} where it begins; `to` must not be below `from`", show_celsius(melting.to),
                                                   show_celsius(melting.from)));
        if (!material.specific_heat || !material.density) report(at + ".melting", "what melts needs a density and a specific heat, too");
    }

    void check_parts() {
        if (model_.parts.empty() && model_.nodes.empty()) report("part", "the model has no part; add at least one [[part]] or [[node]]");
        if (model_.parts.empty() && (!model_.mirrors.empty() || model_.sector || model_.space))
            report(model_.space ? "space" : model_.sector ? "sector" : "mirror[0]", "a model without parts has no geometry that this could act on");
        std::set<std::string> seen;
        long long copies = 0;
        for (std::size_t i = 0; i < model_.parts.size(); ++i) {
            const Part& part = model_.parts[i];
            const std::string at = item("part", i);
            check_name("part", i, part.name, seen);
            check_material_name(at + ".material", part.material);
            check_shape(at, part.shape);
            if (!part.colour.empty() && !read_colour(part.colour))
                report(at + ".colour",
                       fmt::format("{} is no colour; write red, green and blue in two hexadecimal digits each, as in \"#b87333\"", in_quotes(part.colour)));
            for (std::size_t n = 0; n < part.also.size(); ++n) {
                check_shape(fmt::format("{}.also[{}]", at, n), part.also[n]);
                check_single(fmt::format("{}.also[{}]", at, n), part.also[n]);
            }
            const Solid* solid = std::get_if<Solid>(&part.shape);
            if (solid != nullptr && solid->bodies.size() > 1 && !part.also.empty())
                report(at + ".also",
                       fmt::format("the file has {} bodies, and which of them this belongs to is not said: name one of them by body", solid->bodies.size()));
            if (const CadSolid* cad = std::get_if<CadSolid>(&part.shape);
                cad != nullptr && cad->copies.size() > 1 && !(part.also.empty() && part.holes.empty()))
                report(at + (part.holes.empty() ? ".also" : ".holes"),
                       fmt::format("the file has {} copies of {}, and to which of them this belongs is not said: take one by copies = [1]", cad->copies.size(),
                                   in_quotes(part.name)));
            for (std::size_t h = 0; h < part.holes.size(); ++h) check_single(fmt::format("{}.holes[{}]", at, h), part.holes[h]);
            for (std::size_t h = 0; h < part.holes.size(); ++h) check_hole(fmt::format("{}.holes[{}]", at, h), part.holes[h], part);
            copies += check_repeat(at, part) * static_cast<long long>(std::max<std::size_t>(1, copies_in_file(part.shape)));
        }
        if (copies > most_copies) {
            report("part", fmt::format("the parts have {} copies in all, more than {}; model groups of them as one block", grouped_copies(copies),
                                       grouped(most_copies)));
            return;  // do not lay them out
        }
        if (!model_.parts.empty() && std::none_of(model_.parts.begin(), model_.parts.end(), [](const Part& p) { return p.include; })) {
            report("part", "every part is left out (include = false)");
        }
        placed_ = place_parts(model_, true);
        for (const PlacedPart& body : placed_) {
            if (body.name == model_.parts[body.part].name || seen.insert(body.name).second) continue;
            report(item("part", body.part) + ".name", fmt::format("its copy {} has the name of another part", in_quotes(body.name)));
        }
    }

    static std::string grouped_copies(long long copies) {
        return copies >= most_copies * most_copies ? "far too many" : grouped(static_cast<unsigned long long>(copies));
    }

    void check_hole(const std::string& address, const Shape& hole, const Part& part) {
        check_shape(address, hole);
        const Box* outer = std::get_if<Box>(&part.shape);
        const Box* inner = std::get_if<Box>(&hole);
        if (outer == nullptr || inner == nullptr || !part.also.empty()) return;
        for (int axis = 0; axis < 3; ++axis) {
            if (inner->at[axis] + inner->size[axis] <= 0.0 || inner->at[axis] >= outer->size[axis]) {
                report(address, fmt::format("the hole lies outside its part along {} (a hole's \"at\" counts from the part's own \"at\")", "xyz"[axis]));
                return;
            }
        }
    }

    long long check_repeat(const std::string& at, const Part& part) {
        long long copies = 1;
        if (part.repeat.size() > 3) report(at + ".repeat", fmt::format("at most three directions of repetition, found {}", part.repeat.size()));
        for (std::size_t r = 0; r < part.repeat.size(); ++r) {
            const Repeat& repeat = part.repeat[r];
            const std::string address = part.repeat.size() == 1 ? at + ".repeat" : fmt::format("{}.repeat[{}]", at, r);
            if (repeat.count < 1) report(address + ".count", fmt::format("a count must be at least 1, found {}", repeat.count));
            if (repeat.count > 1 && repeat.step == Vec3{} && std::fmod(repeat.turn, 360.0) == 0.0) {
                report(address + ".step", "the step is zero: all copies would lie on each other");
            }
            copies = std::min(copies * std::max(1, repeat.count), most_copies * most_copies);
        }
        return copies;
    }

    void check_surfaces() {
        std::set<std::string> seen{"exposed"};
        const References references = follow_references();
        for (std::size_t i = 0; i < model_.surfaces.size(); ++i) {
            const Surface& surface = model_.surfaces[i];
            if (surface.name == "exposed") {
                report(item("surface", i) + ".name", "\"exposed\" already means whatever no other rule claims; choose another name");
            } else {
                check_name("surface", i, surface.name, seen);
            }
            check_selection(item("surface", i), surface.pick);
            if (surface.pick.rest) report(item("surface", i) + ".rest", "only a cooling or a hold can take the rest, not a named surface");
            if (references.circular[i]) report(item("surface", i), fmt::format("surface {} is defined through itself", in_quotes(surface.name)));
        }
        constexpr std::size_t longest_chain = 100;
        if (references.longest > longest_chain)
            report("surface", fmt::format("surfaces are defined through each other over {} steps; at most {} are possible", references.longest, longest_chain));
    }

    /// The surfaces that refer to themselves, directly or through others, and the longest chain of references: every surface is looked at once.
    struct References {
        std::vector<bool> circular;
        std::size_t longest = 0;
    };
    [[nodiscard]] References follow_references() const {
        std::map<std::string_view, std::size_t> index;
        for (std::size_t s = 0; s < model_.surfaces.size(); ++s) index.emplace(model_.surfaces[s].name, s);
        const auto targets = [&](std::size_t s) {
            std::vector<std::size_t> list;
            for (const auto* names : {&model_.surfaces[s].pick.surfaces, &model_.surfaces[s].pick.except}) {
                for (const std::string& name : *names) {
                    if (const auto found = index.find(name); found != index.end()) list.push_back(found->second);
                }
            }
            return list;
        };
        // Surfaces whose references are all settled are settled, in turns; what is left over lies on circles or leads to them.
        References out{std::vector<bool>(model_.surfaces.size(), false)};
        std::vector<std::vector<std::size_t>> used_by(model_.surfaces.size());
        std::vector<std::size_t> open(model_.surfaces.size(), 0), chain(model_.surfaces.size(), 1), ready;
        for (std::size_t s = 0; s < open.size(); ++s) {
            for (const std::size_t t : targets(s)) {
                used_by[t].push_back(s);
                ++open[s];
            }
            if (open[s] == 0) ready.push_back(s);
        }
        while (!ready.empty()) {
            const std::size_t done = ready.back();
            ready.pop_back();
            out.longest = std::max(out.longest, chain[done]);
            for (const std::size_t s : used_by[done]) {
                chain[s] = std::max(chain[s], chain[done] + 1);
                if (--open[s] == 0) ready.push_back(s);
            }
        }
        for (std::size_t s = 0; s < open.size(); ++s) out.circular[s] = open[s] > 0;
        return out;
    }

    void check_studies() {
        std::set<std::string> seen;
        std::vector<std::string> powers;
        for (const Power& power : model_.powers) powers.push_back(display_name(power));
        for (std::size_t i = 0; i < model_.studies.size(); ++i) {
            const Study& study = model_.studies[i];
            const std::string at = item("study", i);
            check_name("study", i, study.name, seen);
            for (const auto& entry : study.scale) {
                if (std::find(powers.begin(), powers.end(), entry.first) != powers.end()) continue;
                report(fmt::format("{}.scale.{}", at, entry.first),
                       fmt::format("unknown power {}{}", in_quotes(entry.first), did_you_mean(entry.first, powers)));
            }
            for (std::size_t w = 0; w < study.without.size(); ++w) check_left_out(fmt::format("{}.without[{}]", at, w), study.without[w]);
        }
    }

    /// What a study is to go without has to be there, and has to be something that the mesh does not depend on.
    void check_left_out(const std::string& at, const std::string& name) {
        std::vector<std::string> known;
        for (const Power& power : model_.powers) known.push_back(display_name(power));
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) known.push_back(display_name(model_.coolings[c], c));
        for (std::size_t h = 0; h < model_.holds.size(); ++h) known.push_back(display_name(model_.holds[h], h));
        for (const Thermostat& thermostat : model_.thermostats) known.push_back(thermostat.name);
        const auto is_named = [&](const std::string& other) { return matches_wildcard(name, other); };
        if (std::any_of(known.begin(), known.end(), is_named)) return;
        const bool joint = std::any_of(model_.joints.begin(), model_.joints.end(), [&](const Joint& j) { return is_named(display_name(j)); });
        report(at, joint ? fmt::format("{} is a joint, and all studies share one mesh with its contacts; leave it out by include = false, as in a variant",
                                       in_quotes(name))
                         : fmt::format("no power, cooling, hold or thermostat is called {}{}", in_quotes(name), did_you_mean(name, known)));
    }

    void check_pictures() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.pictures.size(); ++i) {
            const Picture& picture = model_.pictures[i];
            const std::string at = item("picture", i);
            check_name("picture", i, picture.name, seen);
            for (std::size_t h = 0; h < picture.hide.size(); ++h) check_part_pattern(fmt::format("{}.hide[{}]", at, h), picture.hide[h]);
            if (std::isfinite(picture.elevation) && std::abs(picture.elevation) > 90.0) {
                report(at + ".elevation", fmt::format("the elevation must be -90 to 90 degrees, found {:g}", picture.elevation));
            }
            const bool flux = picture.show == Shown::heat_flux, parts = picture.show == Shown::parts;
            const std::string_view shows = parts ? "this picture shows the parts" : "this picture shows temperatures";
            if (picture.along && !flux) report(at + ".along", "a direction is of the heat flux: write show = \"heat flux\", too");
            if (!picture.arrows && !flux) report(at + ".arrows", fmt::format("arrows are of the heat flux, and {}", shows));
            if (picture.above && flux) report(at + ".above", "\"hotter than\" is of temperatures, and this picture shows the heat flux");
            if (picture.range && flux) report(at + ".range", "this range is of temperatures; the heat flux has `flux_range`");
            if (picture.range && parts) report(at + ".range", fmt::format("this range is of temperatures, and {}", shows));
            if (picture.flux_range && !flux) report(at + ".flux_range", fmt::format("this range is of the heat flux, and {}", shows));
            const Picture usual;
            for (const auto& [key, given] : {std::pair{"bands", picture.bands}, std::pair{"band_count", picture.band_count != 0},
                                             std::pair{"isotherms", picture.isotherms}, std::pair{"palette", picture.palette != usual.palette},
                                             std::pair{"light_is_high", picture.light_is_high}, std::pair{"low_on_top", picture.low_on_top}}) {
                if (parts && given) report(fmt::format("{}.{}", at, key), "this picture shows the parts in their own colours, and has no scale");
            }
            for (const auto& [key, ends] : {std::pair{"range", &picture.range}, std::pair{"flux_range", &picture.flux_range}}) {
                if (*ends && !((**ends)[0] < (**ends)[1])) report(fmt::format("{}.{}", at, key), "the lower end of the colour scale comes first");
            }
            if (picture.band_count != 0 && (picture.band_count < 2 || picture.band_count > 40))
                report(at + ".band_count", fmt::format("the number of bands must be 2 to 40, found {}", picture.band_count));
        }
    }
};

}  // namespace

std::vector<Problem> validate(const Model& model) { return Validator(model).run(); }

}  // namespace firnfield
