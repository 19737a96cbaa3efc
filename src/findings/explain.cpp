// Why a place is hot: its rise split by the adjoint over what heat passes and over who heats, and sensitivities.

#include <firnfield/explain.hpp>

#include "base/words.hpp"
#include "findings/adjoint.hpp"
#include "findings/extremes.hpp"
#include "findings/figures.hpp"
#include "findings/grouping.hpp"
#include "findings/mesh_error.hpp"
#include "model/bodies.hpp"
#include "network/between.hpp"
#include "network/contact_loads.hpp"
#include "network/lumped.hpp"
#include "network/paths.hpp"
#include "network/probe.hpp"
#include "network/reduce.hpp"
#include "network/whole_parts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace firnfield {
namespace {

/// Heat times drop of the adjoint, K, added up by what makes the drop, and load times adjoint by load.
struct Sums {
    std::vector<double> bodies, pairs, resistors, convection, radiation, loads, coolings, holds, ambients, storage;
    /// Of known temperatures.
    [[nodiscard]] double& surroundings(const Origin& origin) {
        return (origin.kind == OriginKind::hold ? holds : origin.kind == OriginKind::resistor ? ambients : coolings)[origin.index];
    }
};

class Explaining {
public:
    Explaining(const Model& model, const SteadySolution& solution, const ExplainOptions& options)
        : model_(model), solution_(solution), mesh_(*solution.mesh), network_(*solution.network), options_(options), contacts_(model, mesh_) {}

    Explanation run() {
        find_place();
        require_surroundings();
        out_.study = solution_.study.name;
        out_.coldest = options_.coldest;
        out_.time = solution_.time;
        out_.base = network_.lowest_known;
        double correction = find_correction();
        if (std::abs(correction) < 1e-6 * std::abs(out_.spot.temperature - out_.base)) correction = 0.0;  // what its solve leaves
        out_.spot.temperature += correction;
        out_.rise = out_.spot.temperature - out_.base;
        out_.limit = options_.limit;
        out_.linear = network_.is_linear();
        out_.held_by = holder();
        split(sums(Slopes::secant), correction);
        if (options_.sensitivities && !solution_.time) rank(sums(Slopes::tangent));
        return std::move(out_);
    }

private:
    double temperature(Index node) const { return solution_.nodes().at(node); }

    void find_place() {
        if (!options_.sensor.empty()) return find_sensor(options_.sensor);
        const BodyTemperatures bodies = Extremes(mesh_).of(solution_.nodes(), solution_.patch_temperature, solution_.contacts);
        const std::vector<Spot>& spots = options_.coldest ? bodies.coldest : bodies.hottest;
        std::optional<std::size_t> best;
        for (std::size_t b = 0; b < spots.size(); ++b) {
            if (!options_.part.empty() && !picks(options_.part, mesh_.bodies[b].name, model_.parts[mesh_.bodies[b].part].name)) continue;
            const double ahead = best ? spots[b].temperature - spots[*best].temperature : 1.0;
            if (options_.coldest ? ahead < 0.0 || !best : ahead > 0.0) best = b;
        }
        if (options_.part.empty()) {
            // Where nothing is named, a lumped node may be ahead of all parts.
            const Node* ahead = nullptr;
            double extreme = best ? spots[*best].temperature : options_.coldest ? 1e300 : -1e300;
            for (std::size_t n = 0; n < model_.nodes.size(); ++n) {
                const double reads = temperature(mesh_.cells.size() + static_cast<Index>(n));
                if (options_.coldest ? reads >= extreme : reads <= extreme) continue;
                extreme = reads;
                ahead = &model_.nodes[n];
            }
            if (ahead != nullptr) return find_sensor(ahead->name);
        }
        if (!best) throw ModelError({{"part", no_such("part", options_.part, names_of(model_.parts))}});
        out_.subject = options_.part.empty() ? model_.parts[mesh_.bodies[*best].part].name : options_.part;
        out_.spot = spots[*best];
        const Place place = options_.coldest ? bodies.coldest_place[*best] : bodies.hottest_place[*best];
        place_ = place;
        switch (place.kind) {
            case Place::Kind::cell:
                readout_ = {{{Readout::Source::node, place.index, 1.0}}, {}};
                break;
            case Place::Kind::patch:
                readout_ = readout_of_patch(network_, place.index);
                break;
            case Place::Kind::first_of_contact:
                readout_ = {{{Readout::Source::first_of_contact, place.index, 1.0}}, {}};
                break;
            case Place::Kind::second_of_contact:
                readout_ = {{{Readout::Source::second_of_contact, place.index, 1.0}}, {}};
                break;
        }
        readout_ = settled(readout_, network_, contacts_, solution_.nodes());
    }

    /// A sensor, or a lumped node.
    void find_sensor(const std::string& name) {
        const std::vector<Sensor> sensors = sensors_of(model_);
        const auto sensor = std::find_if(sensors.begin(), sensors.end(), [&](const Sensor& s) { return s.name == name; });
        if (sensor == sensors.end()) throw ModelError({{"sensor", no_such("sensor", name, names_of(sensors))}});
        const std::string address = fmt::format("sensor[{}].at", sensor - sensors.begin());
        readout_ = settled(Probe(model_, mesh_, network_, contacts_, sensor->in, sensor->at, address).readout(), network_, contacts_, solution_.nodes());
        out_.subject = sensor->name;
        out_.spot = {read(readout_, network_, contacts_, solution_.nodes()), sensor->at, sensor->in, find_node(model_, sensor->in).has_value()};
    }

    /// K to be added to the temperature as solved; nothing where it is not to be corrected, or cannot be.
    double find_correction() const {
        if (options_.correction) return *options_.correction;
        if (!options_.errors || solution_.time || solution_.study.kind != StudyKind::steady) return 0.0;
        try {
            MeshError error(model_, solution_, options_.progress);
            error.correct();
            error.correct();
            if (place_) return error.reader().of_extreme(*place_, !options_.coldest);
            const Index cell = out_.spot.lumped ? no_index : cell_at_point(model_, mesh_, out_.spot.body, out_.spot.at, "sensor");
            return error.reader().defects().of_reading(readout_, cell, out_.spot.at);
        } catch (const ComputationError&) {
            return 0.0;  // findings() leaves it then, too, and says so
        }
    }

    /// A rise is one above the surroundings; in time there may be none, or parts without a way to them.
    void require_surroundings() const {
        if (const std::vector<Index> floating = bodies_without_path(network_); !floating.empty()) {
            throw ComputationError(fmt::format("{} has no path to the surroundings, so there is no rise above them to explain",
                                               in_quotes(name_of_owner(model_, mesh_, floating.front()))));
        }
    }

    template <typename T>
    static std::vector<std::string> names_of(const std::vector<T>& list) {
        std::vector<std::string> names;
        for (const T& item : list) names.push_back(item.name);
        return names;
    }
    static std::string no_such(std::string_view what, const std::string& name, const std::vector<std::string>& known) {
        return fmt::format("no {} is called {}{}; the model has {}", what, in_quotes(name), did_you_mean(name, known), quoted_list(known));
    }

    Sums sums(Slopes slopes) const {
        const Adjoints adjoints(mesh_, network_, contacts_, solution_, readout_);
        const Adjoint adjoint = adjoints.of(slopes, options_.tolerance, options_.progress);
        Sums out;
        out.bodies.assign(mesh_.bodies.size(), 0.0);
        out.pairs.assign(mesh_.pairs.size(), 0.0);
        out.convection.assign(model_.coolings.size(), 0.0);
        out.radiation.assign(model_.coolings.size(), 0.0);
        out.coolings.assign(model_.coolings.size(), 0.0);
        out.holds.assign(model_.holds.size(), 0.0);
        out.loads.assign(model_.powers.size(), 0.0);
        out.resistors.assign(model_.resistors.size(), 0.0);
        out.ambients.assign(model_.resistors.size(), 0.0);
        out.storage.assign(mesh_.bodies.size() + network_.nodes - mesh_.cells.size(), 0.0);
        const auto add = [&](const Leg& leg) { add_leg(leg, adjoints, adjoint, slopes, out); };
        reduce_inside(network_, solution_.nodes(), add);
        reduce_outside(network_, solution_.nodes(), add);
        for (const Readout::Term& term : readout_.terms) {
            if (term.source == Readout::Source::known)
                out.surroundings(network_.knowns[term.index].origin) += term.weight * surroundings(network_.knowns[term.index], slopes);
            if (term.source != Readout::Source::between || network_.between[term.index].other.at != End::At::known) continue;
            const Known& known = network_.knowns[network_.between[term.index].other.index];
            out.surroundings(known.origin) += term.weight * adjoints.follows(term.index, slopes)[1] * surroundings(known, slopes);
        }
        if (solution_.time) {
            const Balance balance = assemble(network_, solution_.nodes());
            for (Index n = 0; n < network_.nodes; ++n) out.storage[network_.owner[n]] -= adjoint.node[n] * balance.residual[n];
        }
        return out;
    }

    void add_leg(const Leg& leg, const Adjoints& adjoints, const Adjoint& adjoint, Slopes slopes, Sums& out) const {
        const Index index = leg.origin.index;
        const double weight = adjoint.at(leg.from), part = leg.heat * (weight - adjoint.at(leg.to));
        if (leg.to.at == End::At::known && leg.to.index != no_index) {
            const Known& known = network_.knowns[leg.to.index];
            out.surroundings(known.origin) += weight * conductance_to(leg, slopes) * surroundings(known, slopes);
        }
        switch (leg.channel) {
            case Channel::conduction:
                out.bodies[index] += part;
                break;
            case Channel::contact: {
                const Index a = leg.from.index, b = leg.to.index;
                const std::array<double, 2> at = adjoints.at_surfaces(adjoint, contacts_.contact(leg.element));
                out.bodies[network_.owner[a]] += leg.heat * (adjoint.node[a] - at[0]);
                out.bodies[network_.owner[b]] += leg.heat * (at[1] - adjoint.node[b]);
                out.pairs[index] += leg.heat * (at[0] - at[1]);
                break;
            }
            case Channel::radiation:
            case Channel::convection:
                if (leg.origin.kind == OriginKind::joint) {
                    out.pairs[index] += part;
                } else {
                    (leg.channel == Channel::radiation ? out.radiation : out.convection)[index] += part;
                }
                break;
            case Channel::resistor: {
                const double own = before_surface(leg, adjoint);
                if (own != 0.0) out.bodies[network_.owner[network_.between[network_.surface[patch_of(network_, leg)].index].node]] += own;
                out.resistors[index] += part - own;
                break;
            }
            case Channel::hold:
                out.bodies[network_.owner[leg.from.index]] += part;
                break;
            case Channel::load:
                out.loads[index] -= part;
                break;
        }
    }

    /// What lies before the surface of a resistor belongs to its part: heat times drop of the adjoint up to there, K.
    double before_surface(const Leg& leg, const Adjoint& adjoint) const {
        const Index patch = patch_of(network_, leg);
        if (patch == no_index) return 0.0;
        const Index index = network_.surface[patch].index;
        const Between& between = network_.between[index];
        const BetweenState state = between_state(network_, between, solution_.nodes());
        const double here = adjoint.node[between.node], there = adjoint.at(between.other);
        double surface = here + state.share * (there - here);
        // Where the place lies on it, the watt enters there.
        if (const auto found = adjoint.between.find(index); found != adjoint.between.end())
            surface += found->second * state.resistance * state.share * (1.0 - state.share);
        return (leg.from.index == between.node ? leg.heat : -leg.heat) * (here - surface);
    }

    /// How the heat of a leg changes with the known temperature that it leads to, W/K.
    double conductance_to(const Leg& leg, Slopes slopes) const {
        const Element::BothSlopes both = Element{*leg.family, leg.element, leg.first, leg.second, leg.difference}.slopes();
        return linearised(*leg.family, slopes, leg.heat, leg.difference, both.by_second);
    }

    /// What a known temperature counts for: its own rise above the base in a split, one kelvin in a sensitivity.
    double surroundings(const Known& known, Slopes slopes) const { return slopes == Slopes::tangent ? 1.0 : known.temperature - network_.lowest_known; }

    static void add_to(std::vector<Contribution>& list, Contribution::Kind kind, const std::string& name, double rise) {
        const auto found = std::find_if(list.begin(), list.end(), [&](const Contribution& c) { return c.kind == kind && c.name == name; });
        if (found == list.end()) {
            list.push_back({kind, name, rise, {}});
        } else {
            found->rise += rise;
        }
    }

    /// What heat that is set free on faces in contact does to a place on them, besides what it does to the cells behind.
    struct Lift {
        std::string part{}, power{};
        double rise = 0.0;
    };
    std::vector<Lift> lifts() const {
        std::vector<Lift> out;
        for (const ContactLoad& load : network_.contact_loads) {
            for (const Readout::Term& term : readout_.terms) {
                const bool second = term.source == Readout::Source::second_of_contact;
                if ((!second && term.source != Readout::Source::first_of_contact) || term.index != load.contact) continue;
                const NodeReading nodes = solution_.nodes();
                const ContactHeat all = heat_at_contact(network_, load.contact, nodes), own = heat_of(network_, load, nodes);
                const double part = second ? own.second / all.second : own.first / all.first;
                if (!std::isfinite(part)) continue;
                const Index cell = (second ? mesh_.contacts.second : mesh_.contacts.first)[load.contact];
                out.push_back({model_.parts[mesh_.bodies[mesh_.cells.body[cell]].part].name, display_name(model_.powers[load.power]),
                               part * term.weight * contacts_.lift(network_, load.contact, nodes)[second ? 1 : 0]});
            }
        }
        return out;
    }

    /// The hold that the place lies on, or that its part is held by.
    std::string holder() const {
        std::optional<Index> hold;
        if (readout_.terms.size() == 1 && readout_.terms.front().source == Readout::Source::known) {
            const Known& known = network_.knowns[readout_.terms.front().index];
            if (known.origin.kind == OriginKind::hold) hold = known.origin.index;
        }
        const std::vector<Index> of_bodies = holds_of_bodies(model_, mesh_, acting_in(model_, solution_.study));
        for (std::size_t b = 0; b < of_bodies.size(); ++b) {
            if (of_bodies[b] != no_index && mesh_.bodies[b].name == out_.spot.body) hold = of_bodies[b];
        }
        return hold ? display_name(model_.holds[*hold], *hold) : std::string();
    }

    /// Sums over copies of a part, and over pairs of copies.
    void split(const Sums& sums, double correction) {
        if (correction != 0.0) {
            out_.along.push_back({Contribution::Kind::mesh, "", correction, {}});
            out_.by_load.push_back({Contribution::Kind::mesh, "", correction, {}});
        }
        for (const Row& row : by_part(sums.bodies)) out_.along.push_back({Contribution::Kind::part, row.name, row.rise, row.at});
        for (const Row& row : by_joint(sums.pairs)) out_.along.push_back({Contribution::Kind::joint, row.name, row.rise, row.at});
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) {
            const std::string name = display_name(model_.coolings[c], c);
            if (sums.convection[c] != 0.0) out_.along.push_back({Contribution::Kind::convection, name, sums.convection[c], {}});
            if (sums.radiation[c] != 0.0) out_.along.push_back({Contribution::Kind::radiation, name, sums.radiation[c], {}});
            if (sums.coolings[c] != 0.0) out_.by_load.push_back({Contribution::Kind::surroundings, name, sums.coolings[c], {}});
        }
        for (std::size_t r = 0; r < model_.resistors.size(); ++r) {
            const std::string name = display_name(model_.resistors[r]);
            if (sums.resistors[r] != 0.0) out_.along.push_back({Contribution::Kind::resistor, name, sums.resistors[r], {}});
            if (sums.ambients[r] != 0.0) out_.by_load.push_back({Contribution::Kind::surroundings, name, sums.ambients[r], {}});
        }
        for (std::size_t h = 0; h < model_.holds.size(); ++h) {
            if (sums.holds[h] != 0.0) out_.by_load.push_back({Contribution::Kind::surroundings, display_name(model_.holds[h], h), sums.holds[h], {}});
        }
        for (const Contribution& c : out_.by_load) {
            if (c.kind == Contribution::Kind::surroundings) out_.along.push_back(c);
        }
        for (std::size_t p = 0; p < model_.powers.size(); ++p) {
            if (sums.loads[p] != 0.0) out_.by_load.push_back({Contribution::Kind::load, display_name(model_.powers[p]), sums.loads[p], {}});
        }
        if (solution_.time) {
            for (const Row& row : by_part(sums.storage)) out_.by_load.push_back({Contribution::Kind::storage, row.name, row.rise, row.at});
            for (auto owner = static_cast<Index>(mesh_.bodies.size()); owner < sums.storage.size(); ++owner) {
                if (sums.storage[owner] != 0.0)
                    out_.by_load.push_back({Contribution::Kind::storage, name_of_owner(model_, mesh_, owner), sums.storage[owner], {}});
            }
        }
        for (const Lift& lift : lifts()) {
            add_to(out_.along, Contribution::Kind::part, lift.part, lift.rise);
            add_to(out_.by_load, Contribution::Kind::load, lift.power, lift.rise);
        }
        const auto larger = [](const Contribution& a, const Contribution& b) { return std::abs(a.rise) > std::abs(b.rise); };
        std::stable_sort(out_.along.begin(), out_.along.end(), larger);
        std::stable_sort(out_.by_load.begin(), out_.by_load.end(), larger);
    }

    /// What passes heat well lowers the temperature by as much as it contributes, per unit of relative change.
    void rank(const Sums& sums) {
        constexpr double step = 0.1;
        using Kind = Sensitivity::Kind;
        const auto add = [&](Kind kind, const std::string& name, double change) {
            if (change != 0.0) out_.sensitivities.push_back({kind, name, change});
        };
        for (const Row& row : by_part(sums.bodies)) add(Kind::conductivity, row.name, -step * row.rise);
        for (const Row& row : by_joint(sums.pairs)) add(Kind::joint_resistance, row.name, step * row.rise);
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) {
            const std::string name = display_name(model_.coolings[c], c);
            add(Kind::convection, name, -step * sums.convection[c]);
            add(Kind::radiation, name, -step * sums.radiation[c]);
            add(Kind::ambient, name, sums.coolings[c]);
        }
        for (std::size_t r = 0; r < model_.resistors.size(); ++r) {
            const std::string name = display_name(model_.resistors[r]);
            add(Kind::resistance, name, step * sums.resistors[r]);
            add(Kind::ambient, name, sums.ambients[r]);
        }
        for (std::size_t h = 0; h < model_.holds.size(); ++h) add(Kind::hold, display_name(model_.holds[h], h), sums.holds[h]);
        for (std::size_t p = 0; p < model_.powers.size(); ++p) add(Kind::power, display_name(model_.powers[p]), step * sums.loads[p]);
        std::stable_sort(out_.sensitivities.begin(), out_.sensitivities.end(),
                         [](const Sensitivity& a, const Sensitivity& b) { return std::abs(a.change) > std::abs(b.change); });
    }

    struct Row {
        std::string name;
        double rise = 0.0;
        Vec3 at{};
    };

    std::vector<Row> by_part(const std::vector<double>& bodies) const {
        std::vector<Row> rows;
        for (const PartGroup& group : group_parts(mesh_)) {
            Row row{model_.parts[group.part].name};
            const Index most =
                *std::max_element(group.bodies.begin(), group.bodies.end(), [&](Index a, Index b) { return std::abs(bodies[a]) < std::abs(bodies[b]); });
            for (const Index b : group.bodies) row.rise += bodies[b];
            row.at = 0.5 * (mesh_.bodies[most].box.lower() + mesh_.bodies[most].box.upper());
            rows.push_back(std::move(row));
        }
        return rows;
    }

    /// A joint of the model is one thing to change, whatever parts it joins.
    std::vector<Row> by_joint(const std::vector<double>& pairs) const {
        std::vector<Row> rows;
        std::vector<double> most;
        std::map<Index, std::size_t> row_of;
        const std::vector<Vec3> centres = pair_centres();
        for (const JointGroup& group : group_joints(model_, mesh_)) {
            std::size_t row = rows.size();
            if (group.joint != no_index) row = row_of.emplace(group.joint, row).first->second;
            if (row == rows.size()) {
                rows.push_back({group.joint != no_index ? display_name(model_.joints[group.joint])
                                                        : fmt::format("{} - {}", model_.parts[group.first_part].name, model_.parts[group.second_part].name)});
                most.push_back(-1.0);
            }
            for (const Index p : group.pairs) {
                rows[row].rise += pairs[p];
                if (std::abs(pairs[p]) <= most[row]) continue;
                most[row] = std::abs(pairs[p]);
                rows[row].at = centres[p];
            }
        }
        std::erase_if(rows, [](const Row& row) { return row.rise == 0.0; });
        return rows;
    }

    /// Middle of each contact pair, by area.
    std::vector<Vec3> pair_centres() const {
        std::vector<Vec3> sum(mesh_.pairs.size());
        std::vector<double> area(mesh_.pairs.size(), 0.0);
        for (const Contacts* contacts : {&mesh_.contacts, &mesh_.gaps}) {
            for (std::size_t c = 0; c < contacts->size(); ++c) {
                const Index pair = contacts->pair[c];
                sum[pair] = sum[pair] + contacts->area[c] * (mesh_.centre(contacts->first[c]) + contacts->depth_first[c] * contacts->normal[c]);
                area[pair] += contacts->area[c];
            }
        }
        for (std::size_t p = 0; p < sum.size(); ++p) {
            if (area[p] > 0.0) sum[p] = (1.0 / area[p]) * sum[p];
        }
        return sum;
    }

    const Model& model_;
    const SteadySolution& solution_;
    const Mesh& mesh_;
    const Network& network_;
    const ExplainOptions& options_;
    ContactReader contacts_;
    Readout readout_;
    std::optional<Place> place_{};  // of a part
    Explanation out_;
};

}  // namespace

namespace {

/// What was added to the temperature that a figure tells, K.
double correction_of(const Figure* figure) {
    if (figure == nullptr || !figure->bar) return 0.0;
    const double added = figure->bar->correction.value_or(0.0);
    return figure->kind == FigureKind::margin && figure->upper ? -added : added;
}

/// The figure that tells the hottest place of all.
const Figure* hottest_figure(const Findings& findings) {
    if (findings.hottest.lumped) return find_figure(findings.figures, FigureKind::sensor, findings.hottest.body);
    const auto part = std::max_element(findings.parts.begin(), findings.parts.end(),
                                       [](const PartFinding& a, const PartFinding& b) { return a.hottest.temperature < b.hottest.temperature; });
    return part == findings.parts.end() ? nullptr : find_figure(findings.figures, FigureKind::max, part->name);
}

}  // namespace

ExplainOptions tightest(const Findings& findings) {
    ExplainOptions out{.errors = false};
    // A figure is at no place.
    const LimitFinding* worst = nullptr;
    for (const LimitFinding& limit : findings.limits) {
        if (limit.of != SubjectKind::figure && (worst == nullptr || limit.margin < worst->margin)) worst = &limit;
    }
    if (worst == nullptr) {
        out.correction = correction_of(hottest_figure(findings));
        return out;
    }
    const bool of_sensor = worst->of == SubjectKind::sensor;
    (of_sensor ? out.sensor : out.part) = worst->subject;
    out.coldest = !worst->upper && !of_sensor;
    out.limit = worst->limit;
    out.correction = correction_of(margin_of(findings.figures, *worst));
    return out;
}

Explanation explain(const Model& model, const SteadySolution& solution, const ExplainOptions& options) { return Explaining(model, solution, options).run(); }

}  // namespace firnfield
