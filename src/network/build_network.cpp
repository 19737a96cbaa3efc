// The network of a study: links, ties, walls and sources, each with its origin.

#include <firnfield/network.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "material/heat_content.hpp"
#include "model/bodies.hpp"
#include "network/claims.hpp"
#include "network/conduction.hpp"
#include "network/node_order.hpp"
#include "network/paths.hpp"
#include "network/surface_bounds.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

/// Assembles the network: conduction and joints from the mesh, then what the surroundings do.
class Builder {
public:
    Builder(const Model& model, const Mesh& mesh, const Study& study) : model_(model), mesh_(mesh), study_(study) {
        for (const Body& body : mesh.bodies) materials_.push_back(find_material(model.materials, model.parts[body.part].material));
    }

    Network build() {
        network_.nodes = mesh_.cells.size();
        network_.owner = mesh_.cells.body;
        network_.order = node_order(mesh_);
        network_.lowest_known = std::numeric_limits<double>::max();
        add_capacities();
        add_heat_contents();
        Claims claims = settle_claims(model_, mesh_);
        network_.cooling_coverage = std::move(claims.coolings);
        network_.hold_coverage = std::move(claims.holds);
        network_.unclaimed = std::move(claims.unclaimed);
        add_conduction();
        add_volume_loads();
        add_holds();
        add_walls();
        if (study_.kind != StudyKind::transient) require_paths(model_, mesh_, network_);
        require_sensors();
        network_.surface_bounds = bounds_of_surfaces(mesh_, network_);
        return std::move(network_);
    }

private:
    Index origin(OriginKind kind, std::size_t index) {
        network_.origins.push_back({kind, static_cast<Index>(index)});
        return static_cast<Index>(network_.origins.size() - 1);
    }

    void know(double temperature) {
        network_.lowest_known = std::min(network_.lowest_known, temperature);
        network_.highest_known = std::max(network_.highest_known, temperature);
    }

    void add_capacities() {
        network_.capacity.resize(network_.nodes);
        for (Index cell = 0; cell < network_.nodes; ++cell) {
            const Material& material = *materials_[mesh_.cells.body[cell]];
            network_.capacity[cell] = material.density.value_or(0.0) * material.specific_heat.value_or(0.0) * mesh_.cells.volume[cell];
        }
    }

    void add_heat_contents() {
        if (std::none_of(materials_.begin(), materials_.end(), [](const Material* m) { return HeatContent::varies(*m); })) return;
        for (const Material* material : materials_) {
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
                if (cooling.emissivity || cooling.material_emissivity) {
                    const double hot = std::max(cooling.radiant.value_or(0.0), ambient_of(model_, cooling, study_)) + 100.0;
                    role.linear = false;
                    role.coefficient += 4.0 * stefan_boltzmann * hot * hot * hot;
                }
            }
        }
        return roles;
    }

    void add_conduction() {
        for (std::size_t b = 0; b < mesh_.bodies.size(); ++b) origin(OriginKind::part, b);  // origin index = body index
        for (const ContactPair& pair : mesh_.pairs) network_.pair_resistance.push_back(area_resistance(pair));
        Conduction conduction = conduct(mesh_, materials_, network_.pair_resistance, patch_roles());
        const Faces& faces = mesh_.faces;
        Links& links = network_.links;
        const std::size_t count = faces.size() + mesh_.contacts.size();
        links.first.reserve(count);
        links.second.reserve(count);
        links.origin.reserve(count);
        links.first = faces.first;
        links.second = faces.second;
        links.conductance = std::move(conduction.faces);
        links.conductance.reserve(count);
        links.origin.resize(faces.size());
        for (std::size_t f = 0; f < faces.size(); ++f) links.origin[f] = mesh_.cells.body[faces.first[f]];
        network_.links_in_bodies = faces.size();
        add_factors();
        add_joints(conduction.contacts);
        to_surface_ = std::move(conduction.to_surface);
        network_.carried_by = std::move(conduction.carried_by);
    }

    /// Area resistance of a pair, K m²/W.
    double area_resistance(const ContactPair& pair) const {
        if (pair.joint == no_index) return 0.0;
        const Joint& joint = model_.joints[pair.joint];
        if (joint.insulated) return std::numeric_limits<double>::infinity();
        if (joint.resistance) return *joint.resistance;
        if (joint.layer) return joint.layer->thickness / find_material(model_.materials, joint.layer->material)->conductivity[2];
        if (joint.total) {
            // Of the whole product: where both bodies reach through a plane of symmetry, the pair's contact does, too.
            const double area = pair.area * mesh_.images(mesh_.bodies[pair.first].on_planes & mesh_.bodies[pair.second].on_planes);
            return *joint.total * area;
        }
        return 0.0;
    }

    void add_joints(const std::vector<double>& conductance) {
        const auto first_origin = static_cast<Index>(network_.origins.size());
        for (std::size_t p = 0; p < mesh_.pairs.size(); ++p) origin(OriginKind::joint, p);
        const Contacts& contacts = mesh_.contacts;
        Links& links = network_.links;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            if (std::isinf(network_.pair_resistance[contacts.pair[c]])) continue;
            links.first.push_back(contacts.first[c]);
            links.second.push_back(contacts.second[c]);
            links.conductance.push_back(conductance[c]);
            links.origin.push_back(first_origin + contacts.pair[c]);
            if (network_.varies_in_bodies()) network_.resistance_shares.push_back(shares(c, conductance[c]));
        }
        const Contacts& gaps = mesh_.gaps;
        for (std::size_t g = 0; g < gaps.size(); ++g) {
            network_.radiative_links.first.push_back(gaps.first[g]);
            network_.radiative_links.second.push_back(gaps.second[g]);
            network_.radiative_links.coefficient.push_back(stefan_boltzmann * gaps.area[g] * *model_.joints[mesh_.pairs[gaps.pair[g]].joint].exchange_factor);
            network_.radiative_links.origin.push_back(first_origin + gaps.pair[g]);
        }
    }

    const Curve* keep(const Curve& curve) {
        if (curve.empty()) return nullptr;
        network_.curves.push_back(std::make_shared<const Curve>(curve));
        return network_.curves.back().get();
    }

    /// What depends on temperature; nothing is entered where nothing does.
    void add_factors() {
        const auto factor_of_joint = [&](const ContactPair& pair) {
            return pair.joint == no_index ? Curve{} : resistance_factor(model_, model_.joints[pair.joint]);
        };
        const bool in_materials = std::any_of(materials_.begin(), materials_.end(), [](const Material* m) { return !m->conductivity_factor.empty(); });
        const bool in_joints = std::any_of(mesh_.pairs.begin(), mesh_.pairs.end(), [&](const ContactPair& p) { return !factor_of_joint(p).empty(); });
        if (in_materials || in_joints) {
            for (const Material* material : materials_) network_.body_factor.push_back(keep(material->conductivity_factor));
            for (const ContactPair& pair : mesh_.pairs) network_.pair_factor.push_back(keep(factor_of_joint(pair)));
        }
        if (std::any_of(model_.powers.begin(), model_.powers.end(), [](const Power& p) { return !p.temperature_factor.empty(); })) {
            for (const Power& power : model_.powers) network_.load_factor.push_back(keep(power.temperature_factor));
        }
    }

    /// What the two bodies and the joint contribute to the resistance of a contact. Where the link was corrected, the joint takes the rest.
    ResistanceShares shares(std::size_t contact, double conductance) const {
        const Contacts& contacts = mesh_.contacts;
        const double all = contacts.area[contact] / conductance;  // K m²/W
        const auto part = [&](Index cell, double depth) {
            return std::clamp(depth / conductivity_along(*materials_[mesh_.cells.body[cell]], contacts.normal[contact]) / all, 0.0, 1.0);
        };
        ResistanceShares share{part(contacts.first[contact], contacts.depth_first[contact]), part(contacts.second[contact], contacts.depth_second[contact])};
        if (const double sum = share.first + share.second; sum > 1.0) share = {share.first / sum, share.second / sum};
        return share;
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
            const Power& power = model_.powers[p];
            if (power.on) continue;
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
            const Index load = origin(OriginKind::load, p);
            for (const Index body : bodies) {
                const double density = volume_density(power, mesh_.bodies[body], volume) * study_scale(power);
                for (const Index cell : cells_of[body]) {
                    network_.sources.node.push_back(cell);
                    network_.sources.heat.push_back(density * mesh_.cells.volume[cell]);
                    network_.sources.origin.push_back(load);
                }
            }
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

    double held_at(const Hold& hold) const {
        return study_.kind == StudyKind::steady || hold.profile.empty() ? hold.temperature : value_at(*find_profile(model_, hold.profile), 0.0);
    }

    void add_holds() {
        for (std::size_t h = 0; h < model_.holds.size(); ++h) {
            const Index from = origin(OriginKind::hold, h);
            const double temperature = held_at(model_.holds[h]);
            know(temperature);
            for (const Index patch : network_.hold_coverage[h].patches) {
                network_.ties.node.push_back(mesh_.patches.cell[patch]);
                network_.ties.conductance.push_back(1.0 / to_surface_[patch]);
                network_.ties.temperature.push_back(temperature);
                network_.ties.origin.push_back(from);
                network_.ties.patch.push_back(patch);
            }
        }
    }

    double emissivity(const Cooling& cooling, Index patch, std::size_t index) const {
        if (cooling.emissivity) return *cooling.emissivity;
        const Index body = mesh_.cells.body[mesh_.patches.cell[patch]];
        if (!materials_[body]->emissivity) {
            throw ModelError(fmt::format("cooling[{}].emissivity", index), fmt::format("material {} of part {} has no emissivity; give a number",
                                                                                       in_quotes(materials_[body]->name), in_quotes(mesh_.bodies[body].name)));
        }
        return *materials_[body]->emissivity;
    }

    /// Exchanges per patch, from coolings and surface loads; a wall for every patch that has some.
    void add_walls() {
        struct Entry {
            Index patch;
            Exchange exchange;
        };
        std::vector<Entry> entries;
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) {
            const Cooling& cooling = model_.coolings[c];
            const Index from = origin(OriginKind::cooling, c);
            const double ambient = ambient_of(model_, cooling, study_);
            const double radiant = cooling.radiant.value_or(ambient);
            const bool radiates = cooling.emissivity || cooling.material_emissivity;
            const bool convects = cooling.convection.value_or(0.0) > 0.0;
            const Curve* curve = keep(cooling.convection_curve);
            if (cooling.law) network_.laws.push_back(std::make_shared<const ConvectionLaw>(with_own_fluid(model_, *cooling.law)));
            if (convects || cooling.law || curve != nullptr) know(ambient);
            if (radiates) know(radiant);
            for (const Index patch : network_.cooling_coverage[c].patches) {
                const double area = mesh_.patches.area[patch];
                if (convects) entries.push_back({patch, {ExchangeKind::convection, from, *cooling.convection * area, ambient, nullptr, nullptr}});
                if (curve != nullptr) entries.push_back({patch, {ExchangeKind::curve, from, area, ambient, nullptr, curve}});
                if (cooling.law) entries.push_back({patch, {ExchangeKind::law, from, area, ambient, network_.laws.back().get(), nullptr}});
                if (radiates) {
                    entries.push_back(
                        {patch, {ExchangeKind::radiation, from, stefan_boltzmann * emissivity(cooling, patch, c) * area, radiant, nullptr, nullptr}});
                }
            }
        }
        for (std::size_t p = 0; p < model_.powers.size(); ++p) {
            const Power& power = model_.powers[p];
            if (!power.on) continue;
            Coverage& coverage = network_.load_coverage[p];
            if (picks_only_left_out(model_, power.on->parts)) continue;
            coverage.patches = select_patches(model_, mesh_, *power.on, fmt::format("power[{}].on", p));
            for (const Index patch : coverage.patches) coverage.area += mesh_.patches.area[patch];
            const Index load = origin(OriginKind::load, p);
            const double flux = (power.flux ? *power.flux : *power.total / (mesh_.multiplicity * coverage.area)) * study_scale(power);
            const Curve* factor = network_.load_factor.empty() ? nullptr : network_.load_factor[p];
            for (const Index patch : coverage.patches)
                entries.push_back({patch, {ExchangeKind::flux, load, flux * mesh_.patches.area[patch], 0.0, nullptr, factor}});
        }
        std::stable_sort(entries.begin(), entries.end(), [](const Entry& a, const Entry& b) { return a.patch < b.patch; });
        std::vector<bool> held(mesh_.patches.size(), false);
        for (const Index patch : network_.ties.patch) held[patch] = true;
        Walls& walls = network_.walls;
        for (const Entry& entry : entries) {
            if (held[entry.patch]) {
                // Heat onto a held surface leaves through the hold at once; as a source at the node it would warm the part.
                throw ModelError(fmt::format("power[{}].on", network_.origins[entry.exchange.origin].index),
                                 "this surface has an imposed temperature, so heat put onto it has no effect; leave it out of the rule");
            }
            if (walls.patch.empty() || walls.patch.back() != entry.patch) {
                walls.patch.push_back(entry.patch);
                walls.node.push_back(mesh_.patches.cell[entry.patch]);
                walls.resistance.push_back(to_surface_[entry.patch]);
                walls.first_exchange.push_back(static_cast<Index>(walls.exchanges.size()));
            }
            walls.exchanges.push_back(entry.exchange);
        }
        walls.first_exchange.push_back(static_cast<Index>(walls.exchanges.size()));
        // A surface that takes up heat is somebody's.
        std::erase_if(network_.unclaimed, [&](Index patch) { return std::binary_search(walls.patch.begin(), walls.patch.end(), patch); });
    }

    const Model& model_;
    const Mesh& mesh_;
    const Study& study_;
    std::vector<const Material*> materials_;  // per body
    std::vector<double> to_surface_;          // K/W from the cell, per patch
    Network network_;
};

}  // namespace

Network build_network(const Model& model, const Mesh& mesh, const Study& study) { return Builder(model, mesh, study).build(); }

}  // namespace firnfield
