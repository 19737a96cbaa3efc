// From the modes of a study to equations with named inputs and outputs.

#include <firnfield/error.hpp>
#include <firnfield/state_space.hpp>

#include "base/words.hpp"
#include "findings/beginning.hpp"
#include "network/probe.hpp"
#include "reduce/reduced_run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// Names of known temperatures: of a cooling its ambient, or what it radiates to where that differs.
std::string name_of(const Known& known, const Model& model) {
    const Index n = known.origin.index;
    switch (known.origin.kind) {
        case OriginKind::hold:
            return display_name(model.holds[n], n);
        case OriginKind::resistor:
            return display_name(model.resistors[n]) + ", ambient";
        default:
            return fmt::format("{}, {}", display_name(model.coolings[n], n), known.channel == Channel::radiation ? "radiant" : "ambient");
    }
}

/// Sensors, and the means of parts.
class Outputs {
public:
    Outputs(const Model& model, const Mesh& mesh, const Network& network) : mesh_(mesh), contacts_(model, mesh) {
        const std::vector<Sensor> sensors = sensors_of(model);
        for (std::size_t s = 0; s < sensors.size(); ++s) {
            names_.push_back(sensors[s].name);
            probes_.emplace_back(model, mesh, network, contacts_, sensors[s].in, sensors[s].at, fmt::format("sensor[{}]", s));
        }
        for (const Body& body : mesh.bodies) names_.push_back(body.name + ".mean");
    }
    [[nodiscard]] const std::vector<std::string>& names() const { return names_; }
    [[nodiscard]] std::vector<double> read(const Network& network, const NodeTemperatures& nodes) const {
        std::vector<double> out;
        for (const Probe& probe : probes_) out.push_back(probe.read(network, nodes));
        std::vector<double> mean(mesh_.bodies.size(), 0.0);
        for (Index cell = 0; cell < mesh_.cells.size(); ++cell) mean[mesh_.cells.body[cell]] += mesh_.cells.volume[cell] * nodes.rise[cell];
        for (std::size_t b = 0; b < mean.size(); ++b) out.push_back(nodes.reference + mean[b] / mesh_.bodies[b].volume);
        return out;
    }

private:
    const Mesh& mesh_;
    ContactReader contacts_;
    std::vector<Probe> probes_;
    std::vector<std::string> names_;
};

}  // namespace

StateSpace reduce_study(const Model& model, const Study& study, std::shared_ptr<const Mesh> mesh, const ProgressCallback& progress) {
    if (study.kind == StudyKind::steady)
        throw ModelError("study", fmt::format("study {} is steady; name one in time: how long it lasts says what rates matter", in_quotes(study.name)));
    if (!mesh) mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    TransientOptions options;
    options.progress = progress;
    options.network = std::make_shared<const Network>(build_network(model, *mesh, study));
    const bool cyclic = study.kind == StudyKind::cyclic;
    const double length = !cyclic ? study.lasts : study.period ? *study.period : period_of(model, study).value();
    const double phase = cyclic ? settled_phase(model, study, length) : 0.0;
    ReducedRun run(model, mesh, study, start_of(model, mesh, study, false).temperature, options, phase, length);
    run.begin();
    const Outputs outputs(model, *mesh, *options.network);
    const ReducedNetwork& reduced = run.reduced();
    const LinearReading reading = run.read_linear([&](const Network& network, const NodeTemperatures& nodes) { return outputs.read(network, nodes); });
    const Drive::Values at_start = run.driven();

    StateSpace out;
    out.study = study.name;
    out.outputs = outputs.names();
    out.rate = reduced.modes.fine.rate();
    out.start = reduced.start.fine;
    out.within = run.told().open;
    out.linearised = !run.is_linear();
    out.constant = reading.nothing;
    out.in_constant = run.constant_input();
    const double reference = run.reference();
    out.out.assign(out.outputs.size(), {});
    out.through.assign(out.outputs.size(), {});
    for (std::size_t o = 0; o < out.outputs.size(); ++o) {
        for (const std::vector<double>& mode : reading.mode) out.out[o].push_back(mode[o]);
    }
    const auto add = [&](StateSpace::Input input, const Amplitudes& pattern, const std::vector<double>& at_once, double unit) {
        out.inputs.push_back(std::move(input));
        out.in.emplace_back();
        for (const double x : pattern) out.in.back().push_back(x / unit);
        for (std::size_t o = 0; o < out.outputs.size(); ++o) out.through[o].push_back(at_once[o] / unit);
    };
    for (std::size_t l = 0; l < reduced.load.size(); ++l) {
        const double unit = mesh->multiplicity * reduced.heat_of_load[l];
        if (unit != 0.0) add({display_name(model.powers[l]), false, unit * at_start.load[l]}, reduced.load[l].fine, reading.input[l], unit);
    }
    for (std::size_t k = 0; k < reduced.known.size(); ++k) {
        add({name_of(options.network->knowns[k], model), true, at_start.known[k]}, reduced.known[k].fine, reading.input[reduced.load.size() + k], 1.0);
        // Inputs are absolute temperatures, and the modes count from the reference.
        for (std::size_t m = 0; m < out.rate.size(); ++m) out.in_constant[m] -= reference * out.in.back()[m];
        for (std::size_t o = 0; o < out.outputs.size(); ++o) out.constant[o] -= reference * out.through[o].back();
    }
    return out;
}

std::vector<double> StateSpace::read(const std::vector<double>& state, const std::vector<double>& input) const {
    std::vector<double> y = constant;
    for (std::size_t o = 0; o < y.size(); ++o) {
        for (std::size_t m = 0; m < state.size(); ++m) y[o] += out[o][m] * state[m];
        for (std::size_t i = 0; i < input.size(); ++i) y[o] += through[o][i] * input[i];
    }
    return y;
}

std::vector<FosterTerm> foster_terms(const StateSpace& system, std::size_t input, std::size_t output) {
    std::vector<FosterTerm> out;
    double all = std::abs(system.through[output][input]);
    if (all > 0.0) out.push_back({system.through[output][input], 0.0});
    for (std::size_t m = system.rate.size(); m-- > 0;) {
        if (!(system.rate[m] > 0.0)) continue;  // what never fades has no resistance
        out.push_back({system.out[output][m] * system.in[input][m] / system.rate[m], 1.0 / system.rate[m]});
        all += std::abs(out.back().resistance);
    }
    constexpr double nothing = 1e-7;
    std::erase_if(out, [&](const FosterTerm& t) { return !(std::abs(t.resistance) > nothing * all); });
    return out;
}

double step_response(const std::vector<FosterTerm>& terms, double time) {
    double sum = 0.0;
    for (const FosterTerm& t : terms) sum += t.time_constant > 0.0 ? -t.resistance * std::expm1(-time / t.time_constant) : t.resistance;
    return sum;
}

}  // namespace firnfield
