// The network of a study: families of elements, each with its origin.

#include <firnfield/network.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "material/heat_content.hpp"
#include "model/bodies.hpp"
#include "network/claims.hpp"
#include "network/conduction.hpp"
#include "network/contact_loads.hpp"
#include "network/laws/laws.hpp"
#include "network/lumped.hpp"
#include "network/node_order.hpp"
#include "network/paths.hpp"
#include "network/surface_bounds.hpp"
#include "network/walls_builder.hpp"
#include "network/whole_parts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace firnfield {
namespace {

/// Assembles the network: conduction and joints from the mesh, then what the surroundings do.
class Builder {
public:
    Builder(const Model& model, const Mesh& mesh, const Study& study)
        : model_(model),
          mesh_(mesh),
          study_(study),
          acting_(acting_in(model, study)),
          materials_(materials_of(model, mesh, acting_)),
          held_(holds_of_bodies(model, mesh, acting_)) {}

    Network build() {
        network_.cells = network_.nodes = mesh_.cells.size();
        network_.owner = mesh_.cells.body;
        network_.order = node_order(mesh_);
        network_.materials = materials_;
        network_.lowest_known = std::numeric_limits<double>::max();
        for (const Index cell : mesh_.patches.cell) network_.surface.push_back({End::At::node, cell});
        add_capacities();
        add_heat_contents();
        add_lumped_nodes(model_, mesh_, study_, network_);
        Claims claims = settle_claims(model_, mesh_, acting_);
        network_.cooling_coverage = std::move(claims.coolings);
        network_.hold_coverage = std::move(claims.holds);
        network_.resistor_coverage = std::move(claims.resistors);
        network_.unclaimed = std::move(claims.unclaimed);
        add_conduction();
        add_resistors(model_, mesh_, study_, to_surface_, network_);
        add_volume_loads();
        add_contact_loads(
            model_, mesh_, acting_, [this](std::size_t p) { return in_study(p); }, network_);
        add_holds();
        add_walls();
        if (study_.kind != StudyKind::transient) require_paths(model_, mesh_, network_);
        require_sensors();
        network_.surface_bounds = bounds_of_surfaces(mesh_, network_);
        return std::move(network_);
    }

private:
    /// Enters a temperature that is given.
    Index know(const Known& known) {
        network_.lowest_known = std::min(network_.lowest_known, known.temperature);
        network_.highest_known = std::max(network_.highest_known, known.temperature);
        network_.knowns.push_back(known);
        return static_cast<Index>(network_.knowns.size() - 1);
    }

    void add_capacities() {
        network_.capacity.resize(network_.nodes);
        for (Index cell = 0; cell < network_.nodes; ++cell) {
            const Material& material = *materials_[mesh_.cells.body[cell]];
            network_.capacity[cell] = material.density.value_or(0.0) * material.specific_heat.value_or(0.0) * mesh_.cells.volume[cell];
        }
    }

    void add_heat_contents() {
        if (std::none_of(materials_.begin(), materials_.end(), [](const auto& m) { return HeatContent::varies(*m); })) return;
        for (const auto& material : materials_) {
            network_.heat_content.push_back(HeatContent::varies(*material) ? std::make_shared<const HeatContent>(*material, study_.tolerance) : nullptr);
        }
    }

    /// What the rules do to each patch, as far as it decides about conductances.
    std::vector<PatchRole> patch_roles() const {
        std::vector<PatchRole> roles(mesh_.patches.size());
        for (std::size_t h = 0; h < model_.holds.size(); ++h) {
            for (const Index patch : network_.hold_coverage[h].patches) {
                roles[patch].held = true;
                roles[patch].temperature = held_at(model_.holds[h]);
            }
        }
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) {
            const Cooling& cooling = model_.coolings[c];
            for (const Index patch : network_.cooling_coverage[c].patches) {
                PatchRole& role = roles[patch];
                role.exchanges = true;
                role.coefficient += cooling.convection.value_or(0.0);
                if (cooling.law || !cooling.convection_curve.empty()) {
                    constexpr double strong_law = 50.0;  // W/(m² K), to be on the safe side
                    role.linear = false;
                    role.coefficient += strong_law;
                }
                if (cooling.radiates()) {
                    const double hot = std::max(cooling.radiant.value_or(0.0), ambient_of(model_, cooling, study_)) + 100.0;
                    role.linear = false;
                    role.coefficient += 4.0 * stefan_boltzmann * hot * hot * hot;
                }
            }
        }
        for (std::size_t r = 0; r < model_.resistors.size(); ++r) {
            for (const Coverage& coverage : network_.resistor_coverage[r]) {
                for (const Index patch : coverage.patches) roles[patch] = {.exchanges = true, .coefficient = film_of_resistor(model_, mesh_, r, coverage)};
            }
        }
        return roles;
    }

    void add_conduction() {
        find_films();
        find_resistances();
        std::vector<bool> films;
        for (const auto& film : network_.joint_film) films.push_back(film.film != nullptr);
        Conduction conduction = conduct(mesh_, materials_, network_.contact_resistance, films, patch_roles());
        find_factors();
        const Faces& faces = mesh_.faces;
        Family within{.channel = Channel::conduction, .origin = OriginKind::part, .first = faces.first, .second = faces.second};
        within.coefficient = std::move(conduction.faces);
        within.index.resize(faces.size());
        for (std::size_t f = 0; f < faces.size(); ++f) within.index[f] = mesh_.cells.body[faces.first[f]];
        if (!network_.conductivity_factor.empty()) within.law = conduction_law(network_.conductivity_factor, within.index);
        network_.families.push_back(std::move(within));
        add_contacts(conduction.contacts);
        add_gaps();
        to_surface_ = std::move(conduction.to_surface);
        network_.carried_by = std::move(conduction.carried_by);
    }

    /// Films of joints whose coefficients vary; nothing is entered where none does.
    void find_films() {
        std::vector<std::shared_ptr<const VaryingFilm>> of_joint;
        for (const Joint& joint : model_.joints) {
            of_joint.push_back(joint.law                         ? std::make_shared<const VaryingFilm>(with_own_fluid(model_, *joint.law))
                               : joint.coefficient_curve.empty() ? nullptr
                                                                 : std::make_shared<const VaryingFilm>(joint.coefficient_curve));
        }
        for (const ContactPair& pair : mesh_.pairs) {
            network_.joint_film.emplace_back();
            if (pair.joint == no_index || !of_joint[pair.joint]) continue;
            network_.joint_film.back().film = of_joint[pair.joint];
            if (is_whole(pair.first) != is_whole(pair.second)) {
                network_.joint_film.back().fluid = is_whole(pair.first) ? pair.first : pair.second;
                continue;
            }
            if (!model_.joints[pair.joint].law) continue;
            throw ModelError(fmt::format("joint[{}].coefficient", pair.joint),
                             fmt::format("a law is for a surface in a fluid, and of {} and {} {} stirred or held as a whole; give a value or a curve instead",
                                         in_quotes(mesh_.bodies[pair.first].name), in_quotes(mesh_.bodies[pair.second].name),
                                         is_whole(pair.first) ? "both are" : "neither is"));
        }
        if (std::none_of(network_.joint_film.begin(), network_.joint_film.end(), [](const JointFilm& of) { return of.film != nullptr; }))
            network_.joint_film.clear();
    }

    /// Whether a body has one temperature throughout.
    bool is_whole(Index body) const { return model_.parts[mesh_.bodies[body].part].stirred || held_[body] != no_index; }

    /// Those of contacts and pairs: a layer that fills a gap has another one in each place.
    void find_resistances() {
        const Contacts& contacts = mesh_.contacts;
        for (std::size_t p = 0; p < mesh_.pairs.size(); ++p) network_.pair_resistance.push_back(area_resistance(p));
        std::vector<double> conductance(mesh_.pairs.size(), 0.0);  // W/K, where the gap decides
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            const Index pair = contacts.pair[c];
            const Joint* joint = mesh_.pairs[pair].joint == no_index ? nullptr : &model_.joints[mesh_.pairs[pair].joint];
            if (joint == nullptr || !joint->layer || joint->layer->thickness) {
                network_.contact_resistance.push_back(network_.pair_resistance[pair]);
                continue;
            }
            // Where the grid saw no gap the faces touch.
            const double here = widening(c) * std::max(0.0, contacts.gap[c]) / material_named(model_, joint->layer->material).conductivity[2];
            network_.contact_resistance.push_back(here);
            conductance[pair] += contacts.area[c] / here;
        }
        for (std::size_t p = 0; p < conductance.size(); ++p) {
            if (conductance[p] > 0.0) network_.pair_resistance[p] = mesh_.pairs[p].area / conductance[p];
        }
    }

    /// In a wedge a gap has the area of its inner face, where that in its middle counts: the one over the other.
    double widening(std::size_t contact) const {
        if (!model_.space || !model_.space->revolved) return 1.0;
        const Contacts& contacts = mesh_.contacts;
        const double first = mesh_.centre(contacts.first[contact]).x + contacts.depth_first[contact] * contacts.normal[contact].x;
        const double second = first + std::max(0.0, contacts.gap[contact]) * contacts.normal[contact].x, inner = std::min(first, second);
        return inner > 0.0 ? 2.0 * inner / (first + second) : 1.0;
    }

    /// Area resistance of a pair, K m²/W, where that is the same in all places.
    double area_resistance(std::size_t p) const {
        const ContactPair& pair = mesh_.pairs[p];
        if (pair.joint == no_index) return 0.0;
        const Joint& joint = model_.joints[pair.joint];
        if (joint.insulated) return std::numeric_limits<double>::infinity();
        if (joint.has_varying_film()) return 1.0 / network_.joint_film[p].film->usual();
        if (const std::optional<double> given = given_resistance(joint)) return *given;
        if (joint.layer && joint.layer->thickness) return *joint.layer->thickness / material_named(model_, joint.layer->material).conductivity[2];
        if (joint.total) {
            // Of the whole product: where both bodies reach through a plane of symmetry, the pair's contact does, too.
            const double area = pair.area * mesh_.images(mesh_.bodies[pair.first].on_planes & mesh_.bodies[pair.second].on_planes);
            return *joint.total * area;
        }
        return 0.0;
    }

    void add_contacts(const std::vector<double>& conductance) {
        const Contacts& contacts = mesh_.contacts;
        Family between{.channel = Channel::contact, .origin = OriginKind::joint};
        std::vector<InSeries> parts;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            if (std::isinf(network_.pair_resistance[contacts.pair[c]])) continue;
            between.first.push_back(contacts.first[c]);
            between.second.push_back(contacts.second[c]);
            between.coefficient.push_back(conductance[c]);
            between.index.push_back(contacts.pair[c]);
            if (!network_.conductivity_factor.empty()) parts.push_back(in_series(c, conductance[c]));
        }
        if (!parts.empty()) between.law = network_.contact_law = contact_law(std::move(parts));
        network_.families.push_back(std::move(between));
    }

    void add_gaps() {
        const Contacts& gaps = mesh_.gaps;
        if (gaps.size() == 0) return;
        Family across{.channel = Channel::radiation, .origin = OriginKind::joint, .index = gaps.pair, .first = gaps.first, .second = gaps.second};
        for (std::size_t g = 0; g < gaps.size(); ++g)
            across.coefficient.push_back(stefan_boltzmann * gaps.area[g] * *model_.joints[mesh_.pairs[gaps.pair[g]].joint].exchange_factor);
        across.law = radiation_law();
        network_.families.push_back(std::move(across));
    }

    /// What depends on temperature in bodies and joints; nothing is entered where nothing does.
    void find_factors() {
        std::map<const Material*, Factor> of_material;
        const auto factor = [](const Curve& curve) { return curve.empty() ? Factor{} : std::make_shared<const Curve>(curve); };
        for (const auto& material : materials_) {
            const auto [found, fresh] = of_material.try_emplace(material.get());
            if (fresh) found->second = factor(material->conductivity_factor);
            network_.conductivity_factor.push_back(found->second);
        }
        std::vector<Factor> of_joint;
        for (const Joint& joint : model_.joints) of_joint.push_back(factor(resistance_factor(model_, joint)));
        for (const ContactPair& pair : mesh_.pairs) network_.joint_factor.push_back(pair.joint == no_index ? Factor{} : of_joint[pair.joint]);
        const auto none = [](const std::vector<Factor>& list) { return std::none_of(list.begin(), list.end(), [](const Factor& f) { return f != nullptr; }); };
        if (!none(network_.conductivity_factor) || !none(network_.joint_factor)) return;
        if (!network_.joint_film.empty()) return;
        network_.conductivity_factor.clear();
        network_.joint_factor.clear();
    }

    /// What the two bodies and the joint contribute to the resistance of a contact. Where the link was corrected, the joint takes the rest.
    InSeries in_series(std::size_t contact, double conductance) const {
        const Contacts& contacts = mesh_.contacts;
        const double all = contacts.area[contact] / conductance;  // K m²/W
        const auto part = [&](Index cell, double depth) {
            return std::clamp(depth / conductivity_along(*materials_[mesh_.cells.body[cell]], contacts.normal[contact]) / all, 0.0, 1.0);
        };
        const Index first = contacts.first[contact], second = contacts.second[contact];
        InSeries parts{.first_share = part(first, contacts.depth_first[contact]),
                       .second_share = part(second, contacts.depth_second[contact]),
                       .first = network_.conductivity_factor[mesh_.cells.body[first]],
                       .second = network_.conductivity_factor[mesh_.cells.body[second]],
                       .joint = network_.joint_factor[contacts.pair[contact]]};
        if (!network_.joint_film.empty() && network_.joint_film[contacts.pair[contact]].film) return with_film(contact, all, std::move(parts));
        if (const double sum = parts.first_share + parts.second_share; sum > 1.0) {
            parts.first_share /= sum;
            parts.second_share /= sum;
        }
        return parts;
    }

    /// The same with a film, which keeps its own resistance: the bodies take the rest, which is negative where a box centre lies outside its part.
    InSeries with_film(std::size_t contact, double all, InSeries parts) const {
        const JointFilm& of = network_.joint_film[mesh_.contacts.pair[contact]];
        parts.film = of.film;
        parts.fluid_first = of.fluid == mesh_.cells.body[mesh_.contacts.first[contact]];
        const double bodies = 1.0 - network_.contact_resistance[contact] / all;
        parts.first_share = of.fluid == no_index ? 0.5 * bodies : parts.fluid_first ? 0.0 : bodies;
        parts.second_share = bodies - parts.first_share;
        return parts;
    }

    /// A power that follows a profile of watts has the highest of them in time, which Drive scales, and their mean in steady studies.
    Power with_amount(Power power) const {
        if (const std::optional<HeatCourse> course = heat_course(model_, power)) power.total = study_.kind == StudyKind::steady ? course->mean : course->most;
        return power;
    }

    double study_scale(const Power& power) const {
        const auto found = study_.scale.find(display_name(power));
        return found == study_.scale.end() ? 1.0 : found->second;
    }

    void add_volume_loads() {
        network_.load_coverage.resize(model_.powers.size());
        std::vector<std::vector<Index>> cells_of(mesh_.bodies.size());
        for (Index cell = 0; cell < mesh_.cells.size(); ++cell) cells_of[mesh_.cells.body[cell]].push_back(cell);
        std::vector<Problem> problems;
        for (std::size_t p = 0; p < model_.powers.size(); ++p) {
            if (!acting_.powers[p]) continue;
            const Power power = with_amount(model_.powers[p]);
            if (power.on || power.between || add_node_load(model_, mesh_, p, power, study_scale(power), network_)) continue;
            std::vector<Index> bodies;
            double volume = 0.0;
            for (std::size_t b = 0; b < mesh_.bodies.size(); ++b) {
                const Body& body = mesh_.bodies[b];
                const bool hit = std::any_of(power.into.begin(), power.into.end(),
                                             [&](const std::string& pattern) { return picks(pattern, body.name, model_.parts[body.part].name); });
                if (!hit) continue;
                bodies.push_back(static_cast<Index>(b));
                volume += body.volume;
            }
            if (bodies.empty() && picks_only_left_out(model_, power.into)) continue;
            if (bodies.empty()) {
                problems.push_back(
                    {.address = fmt::format("power[{}].into", p), .message = "no such part is in the assembly: it lies beyond a mirror plane", .location = {}});
                continue;
            }
            Family load{.channel = Channel::load, .origin = OriginKind::load, .index = {static_cast<Index>(p)}, .law = load_law(power.temperature_factor)};
            for (const Index body : bodies) {
                const double density = volume_density(power, mesh_.bodies[body], volume) * study_scale(power);
                load.first.insert(load.first.end(), cells_of[body].begin(), cells_of[body].end());
                for (const Index cell : cells_of[body]) load.coefficient.push_back(density * mesh_.cells.volume[cell]);
            }
            network_.families.push_back(std::move(load));
        }
        if (!problems.empty()) throw ModelError(std::move(problems));
    }

    /// W/m³ in one body; totals are shared with the mirror images.
    double volume_density(const Power& power, const Body& body, double all_volume) const {
        if (power.density) return *power.density;
        if (power.total) return *power.total / (mesh_.multiplicity * all_volume);
        const double whole = body.volume * mesh_.images(body.on_planes);  // with the images that belong to it
        return *power.each / whole;
    }

    /// Sensors have no part in the network, but a misplaced one should be told before anything is solved.
    void require_sensors() const {
        std::vector<Problem> problems;
        for (std::size_t s = 0; s < model_.sensors.size(); ++s) {
            if (picks_only_left_out(model_, {&model_.sensors[s].in, 1})) continue;
            try {
                static_cast<void>(cell_at_point(model_, mesh_, model_.sensors[s].in, model_.sensors[s].at, fmt::format("sensor[{}].at", s)));
            } catch (const ModelError& error) {
                problems.insert(problems.end(), error.problems().begin(), error.problems().end());
            }
        }
        if (!problems.empty()) throw ModelError(std::move(problems));
    }

    /// What a power has in this study.
    Power in_study(std::size_t p) const {
        Power power = with_amount(model_.powers[p]);
        const double factor = study_scale(power);
        for (std::optional<double>* amount : {&power.total, &power.each, &power.density, &power.flux}) {
            if (*amount) **amount *= factor;
        }
        return power;
    }

    double held_at(const Hold& hold) const {
        return study_.kind == StudyKind::steady || hold.profile.empty() ? hold.temperature : value_at(*find_profile(model_, hold.profile), 0.0);
    }

    void add_holds() {
        for (std::size_t h = 0; h < model_.holds.size(); ++h) {
            if (!acting_.holds[h]) continue;
            const Known held{.temperature = held_at(model_.holds[h]), .origin = {OriginKind::hold, static_cast<Index>(h)}, .channel = Channel::hold};
            Family family{.channel = Channel::hold, .origin = OriginKind::hold, .index = {static_cast<Index>(h)}, .known = know(held)};
            std::vector<Index> bodies;
            for (Index cell = 0; !model_.holds[h].in.empty() && cell < mesh_.cells.size(); ++cell) {
                if (held_[mesh_.cells.body[cell]] != h) continue;
                family.first.push_back(cell);
                family.coefficient.push_back(next_to_perfect * std::cbrt(mesh_.cells.volume[cell]));
                bodies.push_back(mesh_.cells.body[cell]);
            }
            for (const Index patch : network_.hold_coverage[h].patches) {
                const Index cell = mesh_.patches.cell[patch];
                if (held_[mesh_.cells.body[cell]] != no_index)
                    throw ModelError(fmt::format("hold[{}].on", h), fmt::format("{} is held as a whole already; leave its surfaces out of this rule",
                                                                                in_quotes(mesh_.bodies[mesh_.cells.body[cell]].name)));
                family.first.push_back(cell);
                family.coefficient.push_back(1.0 / to_surface_[patch]);
                family.patch.push_back(patch);
                bodies.push_back(mesh_.cells.body[cell]);
                network_.surface[patch] = {End::At::known, family.known};
            }
            if (!network_.conductivity_factor.empty()) family.law = conduction_law(network_.conductivity_factor, std::move(bodies));
            network_.families.push_back(std::move(family));
        }
    }

    double emissivity(const Cooling& cooling, Index patch, std::size_t index) const {
        if (cooling.emissivity) return *cooling.emissivity;
        if (!cooling.emissivity_curve.empty()) return 1.0;  // the law has it
        const Index body = mesh_.cells.body[mesh_.patches.cell[patch]];
        if (!materials_[body]->emissivity) {
            throw ModelError(fmt::format("cooling[{}].emissivity", index), fmt::format("material {} of part {} has no emissivity; give a number",
                                                                                       in_quotes(materials_[body]->name), in_quotes(mesh_.bodies[body].name)));
        }
        return *materials_[body]->emissivity;
    }

    /// One effect on walls: a film of each of them.
    struct Film {
        Family family{};  // without elements
        std::vector<Index> patches{};
        std::vector<double> coefficient{};
    };

    void add_walls() {
        std::vector<Film> films;
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) {
            if (acting_.coolings[c]) add_cooling(c, films);
        }
        for (std::size_t p = 0; p < model_.powers.size(); ++p) {
            if (model_.powers[p].on && acting_.powers[p]) add_surface_load(p, films);
        }
        WallsBuilder builder(mesh_, to_surface_);
        for (Film& film : films) builder.add(std::move(film.family), film.patches, film.coefficient);
        network_.walls = builder.build();
        const Walls& walls = network_.walls;
        for (Index w = 0; w < walls.size(); ++w) network_.surface[walls.patch[w]] = {End::At::wall, w};
        // A surface that takes up heat is somebody's.
        std::erase_if(network_.unclaimed, [&](Index patch) { return network_.surface[patch].at == End::At::wall; });
    }

    /// Convection and radiation of a cooling, from its patches to what is around.
    void add_cooling(std::size_t index, std::vector<Film>& films) {
        const Cooling& cooling = model_.coolings[index];
        const Coverage& coverage = network_.cooling_coverage[index];
        const double ambient = ambient_of(model_, cooling, study_);
        const auto add = [&](Channel channel, double temperature, std::shared_ptr<const Law> law, const auto& per_area) {
            const Origin origin{OriginKind::cooling, static_cast<Index>(index)};
            Film film{.family = {.channel = channel, .origin = origin.kind, .index = {origin.index}, .law = std::move(law)}, .patches = coverage.patches};
            film.family.known = know({temperature, origin, channel});
            for (const Index patch : coverage.patches) film.coefficient.push_back(per_area(patch) * mesh_.patches.area[patch]);
            films.push_back(std::move(film));
        };
        if (cooling.convection.value_or(0.0) > 0.0) add(Channel::convection, ambient, nullptr, [&](Index) { return *cooling.convection; });
        if (!cooling.convection_curve.empty()) add(Channel::convection, ambient, convection_law(cooling.convection_curve), [](Index) { return 1.0; });
        if (cooling.law) add(Channel::convection, ambient, convection_law(with_own_fluid(model_, *cooling.law)), [](Index) { return 1.0; });
        if (cooling.radiates()) {
            add(Channel::radiation, cooling.radiant.value_or(ambient), radiation_law(cooling.emissivity_curve),
                [&](Index patch) { return stefan_boltzmann * emissivity(cooling, patch, index); });
        }
    }

    void add_surface_load(std::size_t index, std::vector<Film>& films) {
        const Power power = with_amount(model_.powers[index]);
        Coverage& coverage = network_.load_coverage[index];
        if (picks_only_left_out(model_, power.on->parts)) return;
        coverage.patches = select_patches(model_, mesh_, *power.on, fmt::format("power[{}].on", index));
        for (const Index patch : coverage.patches) {
            coverage.area += mesh_.patches.area[patch];
            const End::At at = network_.surface[patch].at;
            if (at == End::At::between)
                throw ModelError(fmt::format("power[{}].on", index), "a resistor claims this surface; put the heat into what it leads to");
            if (at != End::At::known) continue;
            // Heat onto a held surface leaves through the hold at once; as a source at the node it would warm the part.
            throw ModelError(fmt::format("power[{}].on", index),
                             "this surface has an imposed temperature, so heat put onto it has no effect; leave it out of the rule");
        }
        const double flux = (power.flux ? *power.flux : *power.total / (mesh_.multiplicity * coverage.area)) * study_scale(power);
        Film film{.family = {.channel = Channel::load, .origin = OriginKind::load, .index = {static_cast<Index>(index)}}, .patches = coverage.patches};
        film.family.law = load_law(power.temperature_factor);
        for (const Index patch : coverage.patches) film.coefficient.push_back(flux * mesh_.patches.area[patch]);
        films.push_back(std::move(film));
    }

    const Model& model_;
    const Mesh& mesh_;
    const Study& study_;
    Acting acting_;
    std::vector<std::shared_ptr<const Material>> materials_;  // per body
    std::vector<Index> held_;                                 // per body: the hold of all of it
    std::vector<double> to_surface_;                          // K/W from the cell, per patch
    Network network_;
};

}  // namespace

Network build_network(const Model& model, const Mesh& mesh, const Study& study) { return Builder(model, mesh, study).build(); }

}  // namespace firnfield
