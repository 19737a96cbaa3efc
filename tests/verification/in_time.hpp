// Runs a model's study in time by way of its file, and reads temperatures at points and times.
#pragma once

#include "models.hpp"
#include "study/run.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <memory>
#include <vector>

namespace firnfield::test {

struct Reading {
    std::string part{};
    Vec3 at{};
};

struct InTime {
    Model model{};
    std::shared_ptr<const Mesh> mesh{};
    TransientSolution solution{};
    TimeFindings findings{};
    std::vector<std::vector<double>> celsius{};  // per reading, per time
    std::vector<double> mean{};                  // °C of everything, by volume, per time
};

/// J that left into the first hold.
inline double held(const TimeFindings& findings) {
    for (const EnergyFinding& e : findings.energy.entries) {
        if (e.kind == HeatKind::hold) return e.energy;
    }
    return 0.0;
}

/// By what in_time() marches.
inline TimeMethod& method_of_march() {
    static TimeMethod method = TimeMethod::full;
    return method;
}

/// Runs a test case once with the whole network, and once with a reduced one.
struct ByEitherMethod {
    ByEitherMethod() { method_of_march() = GENERATE(TimeMethod::full, TimeMethod::reduced); }
    ~ByEitherMethod() { method_of_march() = TimeMethod::full; }
    ByEitherMethod(const ByEitherMethod&) = delete;
    ByEitherMethod& operator=(const ByEitherMethod&) = delete;
};

/// The model's study number `index`; the ledger closes and nothing leaves the range of what drives it by more than the tolerance.
inline InTime in_time(const Model& built, const std::vector<Reading>& readings = {}, const std::vector<double>& times = {}, std::size_t index = 0) {
    InTime out;
    out.model = through_file(built);
    REQUIRE(out.model == built);
    Study study = out.model.studies[index];
    study.method = method_of_march();
    INFO("marched by " << (study.method == TimeMethod::full ? "the whole network" : "a reduced model"));
    out.mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(out.model, study)));
    out.celsius.assign(readings.size(), std::vector<double>(times.size(), std::nan("")));
    out.mean.assign(times.size(), std::nan(""));
    HistoryRecorder recorder(out.model, out.mesh, study);
    const ContactReader contacts(out.model, *out.mesh);
    TransientOptions options;
    const std::vector<double> start = start_temperatures(out.model, *out.mesh, study);
    // Where heat is only put in, nothing gets colder than it was or than its surroundings have been.
    double lowest = *std::min_element(start.begin(), start.end()), below = 0.0;
    const auto surroundings = [&](const Network& network) {
        for (const Known& known : network.knowns) lowest = std::min(lowest, known.temperature);
    };
    options.observe = [&](const TimeStep& step) {
        surroundings(step.network(step.begin));
        surroundings(step.network(step.end));
        for (const double r : step.rises(step.end)) below = std::max(below, lowest - step.reference - r);
        for (std::size_t t = 0; t < times.size(); ++t) {
            if (!(times[t] > step.begin && times[t] <= step.end) && !(times[t] == 0.0 && step.begin == 0.0)) continue;
            const SteadySolution at = moment(out.mesh, step.network(times[t]), contacts, study, step.reference, step.rises(times[t]));
            for (std::size_t r = 0; r < readings.size(); ++r)
                out.celsius[r][t] = temperature_at(out.model, at, readings[r].part, readings[r].at, "test") - zero_celsius;
            double sum = 0.0, volume = 0.0;
            for (std::size_t i = 0; i < out.mesh->cells.size(); ++i) {
                sum += out.mesh->cells.volume[i] * at.temperature[i];
                volume += out.mesh->cells.volume[i];
            }
            out.mean[t] = sum / volume - zero_celsius;
        }
        return recorder(step);
    };
    out.solution = solve_in_time(out.model, out.mesh, study, start, options);
    if (out.solution.reduction) CHECK(out.solution.reduction->open <= study.tolerance);
    out.findings = recorder.findings(out.solution);
    CHECK(std::abs(out.solution.ledger.relative_residual()) <= 1e-6);
    CHECK(below <= study.tolerance);
    return out;
}

inline Study transient(double lasts, double start_celsius, double tolerance = 0.1) {
    Study study;
    study.name = "run";
    study.kind = StudyKind::transient;
    study.lasts = lasts;
    study.start.temperature = celsius(start_celsius);
    study.tolerance = tolerance;
    return study;
}

inline Material storing(std::string name, double conductivity, double density, double specific_heat) {
    return Material{.name = std::move(name), .conductivity = isotropic(conductivity), .density = density, .specific_heat = specific_heat};
}

/// A bar along x of 2 × 2 mm.
inline Model bar(double length, const Material& material, double cell) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.materials = {material};
    m.add(block("bar", {length, 2e-3, 2e-3}, {}, material.name));
    return m;
}
inline Reading on_bar(double x) { return {"bar", {x, 1e-3, 1e-3}}; }

/// A cube of one temperature and a given heat capacity, J/K, the n-th in a row along x.
inline void add_lump(Model& m, const std::string& name, double capacity, int n) {
    constexpr double edge = 10e-3;
    m.mesh.cell = edge;
    m.mesh.through = 1;
    m.materials.push_back(storing(name + " stuff", 1e6, capacity / (edge * edge * edge) / 1000.0, 1000.0));
    m.add(block(name, {edge, edge, edge}, {n * edge, 0, 0}, name + " stuff"));
}
constexpr double lump_face = 1e-4;  // m²

/// h·A, W/K, of a lump to ambient, through one of its sides.
inline void cool_lump(Model& m, const std::string& name, double hA, double ambient_celsius, const std::string& called) {
    Cooling c = convection(side(name, Side::plus_z), hA / lump_face, celsius(ambient_celsius));
    c.name = called;
    m.add(c);
}
inline void couple(Model& m, const std::string& a, const std::string& b, double watt_per_kelvin) {
    Joint joint;
    joint.between = {a, b};
    joint.total = 1.0 / watt_per_kelvin;
    m.add(joint);
}

/// A lumped node of a heat capacity, J/K, and conductances, W/K, between nodes and to an ambient.
inline void add_node(Model& m, const std::string& name, double capacity) { m.add(Node{.name = name, .capacity = capacity}); }
inline void connect(Model& m, const std::string& a, const std::string& b, double watt_per_kelvin) {
    m.add(Resistor{.between = {a, b}, .total = 1.0 / watt_per_kelvin});
}
inline void cool_node(Model& m, const std::string& name, double watt_per_kelvin, double ambient_celsius) {
    connect(m, name, "ambient", watt_per_kelvin);
    m.resistors.back().ambient = celsius(ambient_celsius);
}
/// Of a conductance, W/K, that depends on the temperature of the node and on the ambient: the resistance over the mean of both.
template <typename Conductance>
void cool_node_by(Model& m, const std::string& name, double ambient, double hottest, const Conductance& conductance) {
    Resistor r{.between = {name, "ambient"}, .total = 1.0 / conductance(hottest), .ambient = ambient};
    constexpr int points = 400;
    for (int i = 1; i <= points; ++i) {
        // Dense where the difference is small.
        const double temperature = ambient + (hottest - ambient) * std::pow(static_cast<double>(i) / points, 3);
        r.resistance_factor.at.push_back(0.5 * (ambient + temperature));
        r.resistance_factor.value.push_back(conductance(hottest) / conductance(temperature));
    }
    m.add(r);
}

inline Sensor sensor_in(const std::string& name, const std::string& part, Vec3 at) { return Sensor{.name = name, .in = part, .at = at}; }
inline Sensor lump_sensor(const std::string& part, int n) { return sensor_in(part + " sensor", part, {(n + 0.5) * 10e-3, 5e-3, 5e-3}); }

inline void check_near(const std::vector<double>& found, const std::vector<double>& expected, const std::vector<double>& margin) {
    REQUIRE(found.size() == expected.size());
    for (std::size_t i = 0; i < found.size(); ++i) {
        INFO("number " << i);
        CHECK(found[i] == Approx(expected[i]).margin(margin.size() == 1 ? margin[0] : margin[i]));
    }
}

}  // namespace firnfield::test
