// What is read of a run of a reduced network, without making temperatures of all nodes each time.

#include "findings/gauges.hpp"
#include "findings/readings.hpp"
#include "network/drive.hpp"
#include "reduce/reduced_run.hpp"

#include <algorithm>
#include <numeric>

namespace firnfield {

struct Gauges::ReducedReadings {
    std::shared_ptr<const ReducedFrame> frame;
    bool all_nodes = false;                            // what the model wants to know takes all temperatures
    LinearReading linear;                              // means of bodies, heat flows, flows of joints
    std::vector<std::vector<Place>> coldest, hottest;  // per body: where it was so at some time
};

const Gauges::ReducedReadings& Gauges::readings_of(const TimeStep& step, const ReducedCourse& course) const {
    if (reduced_ && reduced_->frame == course.frame()) return *reduced_;
    const auto out = std::make_shared<ReducedReadings>();
    out->frame = course.frame();
    const auto is_simple = [](const NamedFigures::Bound& term) {
        if (!term.missing.empty()) return true;
        const TermWhat what = term.info->what;
        switch (term.info->of) {
            case TermOf::part:
            case TermOf::product:
                return what == TermWhat::max || what == TermWhat::min || what == TermWhat::mean || what == TermWhat::mass;
            case TermOf::cooling:
                return what != TermWhat::mean;
            case TermOf::sensor:
            case TermOf::hold:
            case TermOf::power:
                return true;
            case TermOf::surface:
            case TermOf::joint:
            case TermOf::resistor:
                return false;
        }
        return false;
    };
    // Joints that bend are no sums over modes; what else does is added to them.
    const bool joints_bend = step.driven->contact_law != nullptr && !joints.empty();
    out->all_nodes = joints_bend || !std::all_of(named->terms().begin(), named->terms().end(), is_simple);
    if (!out->all_nodes) {
        const ContactTemperatures none{std::vector<double>(mesh->contacts.size()), std::vector<double>(mesh->contacts.size()),
                                       std::vector<double>(mesh->contacts.size())};
        out->linear = course.frame()->linear([&](const Network& network, const NodeTemperatures& nodes) {
            std::vector<double> row(mesh->bodies.size(), 0.0);
            for (Index cell = 0; cell < mesh->cells.size(); ++cell) row[mesh->cells.body[cell]] += mesh->cells.volume[cell] * nodes.rise[cell];
            for (std::size_t b = 0; b < row.size(); ++b) row[b] = nodes.reference + row[b] / mesh->bodies[b].volume;
            const std::vector<double> flows = in_a_row(heat_flows(network, nodes));
            row.insert(row.end(), flows.begin(), flows.end());
            const PairReadings pairs = read_pairs(*mesh, network, nodes, none);
            for (const JointGroup& group : joints) {
                row.push_back(0.0);
                for (std::size_t i = 0; i < group.pairs.size(); ++i)
                    row.back() += (group.swapped[i] ? -1.0 : 1.0) * mesh->multiplicity * pairs.flow[group.pairs[i]];
            }
            return row;
        });
        out->coldest.resize(mesh->bodies.size());
        out->hottest.resize(mesh->bodies.size());
        const auto add = [](std::vector<Place>& places, const Place& place) {
            if (std::find(places.begin(), places.end(), place) == places.end()) places.push_back(place);
        };
        for (const TriedMoment& moment : course.frame()->tried) {
            step.drive->set(step.clock + moment.time * (1.0 - 1e-9), moment.on);
            const std::vector<double> rise = course.frame()->network->rises(moment.state);
            const NodeTemperatures nodes{step.reference, rise};
            const BodyTemperatures bodies =
                extremes_.of(nodes, patch_temperatures(*mesh, *step.driven, nodes), contact_temperatures(contacts_, *mesh, *step.driven, nodes));
            for (std::size_t b = 0; b < mesh->bodies.size(); ++b) {
                add(out->coldest[b], bodies.coldest_place[b]);
                add(out->hottest[b], bodies.hottest_place[b]);
            }
        }
    }
    reduced_ = out;
    return *reduced_;
}

/// Nothing where the step is none of a reduced run, or all nodes have to be read.
std::optional<Sample> Gauges::reduced_sample(const TimeStep& step, double time) const {
    const auto* course = dynamic_cast<const ReducedCourse*>(step.course);
    if (course == nullptr) return std::nullopt;
    const ReducedReadings& readings = readings_of(step, *course);
    if (readings.all_nodes) return std::nullopt;
    Sample out;
    out.time = time;
    const Network& network = step.network(time);
    const NodeReading nodes{step.reference, [&](Index node) { return course->rise(node, time); }};
    const std::vector<double> row = readings.linear.at(course->at(time), course->factors(time));
    const std::size_t bodies = mesh->bodies.size();
    const auto temperature_at = [&](const Place& place) {
        switch (place.kind) {
            case Place::Kind::cell:
                return nodes.at(place.index);
            case Place::Kind::patch:
                return read(readout_of_patch(network, place.index), network, contacts_, nodes);
            case Place::Kind::first_of_contact:
                return contacts_.state(network, place.index, nodes).first;
            case Place::Kind::second_of_contact:
                return contacts_.state(network, place.index, nodes).second;
        }
        return 0.0;
    };
    for (std::size_t b = 0; b < bodies; ++b) {
        for (const bool hot : {false, true}) {
            const std::vector<Place>& places = (hot ? readings.hottest : readings.coldest)[b];
            Place best = places.front();
            double temperature = temperature_at(best);
            for (std::size_t i = 1; i < places.size(); ++i) {
                const double here = temperature_at(places[i]);
                if (hot ? here > temperature : here < temperature) best = places[i], temperature = here;
            }
            (hot ? out.bodies.hottest : out.bodies.coldest).push_back(extremes_.spot(best, temperature));
            (hot ? out.bodies.hottest_place : out.bodies.coldest_place).push_back(best);
        }
        // Each is off a little by itself.
        const double low = out.bodies.coldest[b].temperature, high = std::max(low, out.bodies.hottest[b].temperature);
        out.bodies.mean.push_back(std::clamp(row[b], low, high));
    }
    for (const Probe& probe : probes_) out.sensors.push_back(probe.read(network, nodes));
    out.flows = from_row(std::span(row).subspan(bodies), network);
    if (course->frame()->bent) out.flows.add(1.0, course->flows_beyond(time, step.drive->now()));
    out.joint_flows.assign(row.end() - static_cast<std::ptrdiff_t>(joints.size()), row.end());
    if (!named->figures().empty()) read_figures(network, {step.reference, {}}, {}, out);
    judge(out);
    return out;
}

}  // namespace firnfield
