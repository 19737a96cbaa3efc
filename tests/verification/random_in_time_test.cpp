// What must hold for any assembly in time, without a reference: it settles where the steady study says, a cycle repeats itself and has
// the mean that the mean load gives, clocks and zero points of temperature do not matter, a stop changes no digit.

#include "random_assemblies.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <memory>

using namespace firnfield;
using namespace firnfield::test;

namespace {

using MeshPointer = std::shared_ptr<const Mesh>;

/// The first `count` random assemblies that coarse cells make small enough for runs in time.
template <typename Property>
void for_small_assemblies(unsigned count, bool linear, const Property& property) {
    for (unsigned seed = 1, done = 0; done < count; ++seed) {
        INFO("seed " << seed);
        REQUIRE(seed < 50 * count);
        Model model = random_assembly_of_shapes(seed);
        model.mesh.through = 1;
        model.mesh.cell = 6e-3;
        if (linear) make_linear(model);
        const auto mesh = std::make_shared<const Mesh>(build_mesh(model));
        if (mesh->cells.size() > 2500) continue;
        property(model, mesh);
        ++done;
    }
}

/// K; by volume, of everything.
double mean_rise(const Mesh& mesh, const std::vector<double>& rise) {
    double sum = 0.0, volume = 0.0;
    for (std::size_t i = 0; i < mesh.cells.size(); ++i) {
        sum += mesh.cells.volume[i] * rise[i];
        volume += mesh.cells.volume[i];
    }
    return sum / volume;
}

double range_of(const std::vector<double>& values) {
    const auto [low, high] = std::minmax_element(values.begin(), values.end());
    return *high - *low;
}

double most_apart(const std::vector<double>& a, const std::vector<double>& b) {
    double most = 0.0;
    for (std::size_t i = 0; i < a.size(); ++i) most = std::max(most, std::abs(a[i] - b[i]));
    return most;
}

Study run_of(double lasts, double start, double tolerance = 0.05) {
    Study study{.name = "run", .ambient = 300.0, .kind = StudyKind::transient, .lasts = lasts};
    study.start.temperature = start;
    study.tolerance = tolerance;
    return study;
}

}  // namespace

TEST_CASE("any assembly ends in time where its steady study says", "[random-time]") {
    for_small_assemblies(many(8), false, [](const Model& model, const MeshPointer& mesh) {
        const SteadySolution steady = solve_steady(model, mesh, studies_of(model).front());
        Study study = run_of(1e6, 320.0);
        study.stop_when = StopWhen::steady;
        study.steady_within = 0.02;
        const TransientSolution run = solve_transient(model, mesh, study, start_temperatures(model, *mesh, study));
        CHECK(run.stopped.find("steady") != std::string::npos);
        CHECK(run.end_time < 1e6);
        CHECK(most_apart(run.end.temperature, steady.temperature) <= study.steady_within + study.tolerance);
        CHECK(std::abs(run.ledger.relative_residual()) <= 1e-9);
        // The time that it tells is when that was so.
        REQUIRE(run.steady_time.has_value());
        CHECK(*run.steady_time <= run.end_time);
    });
}

TEST_CASE("a settled cycle repeats itself, from any start, about the mean that the mean load gives", "[random-time]") {
    for_small_assemblies(many(6), true, [](Model model, const MeshPointer& mesh) {
        const SteadySolution all = solve_steady(model, mesh, studies_of(model).front());
        model.add(Profile{.name = "pulse", .duty = Duty{.on = 30.0, .off = 90.0}});
        for (Power& p : model.powers) p.profile = {"pulse"};
        Model quarter = model;
        for (Power& p : quarter.powers) {
            p.profile.clear();
            for (auto amount : {&p.total, &p.each, &p.density, &p.flux}) {
                if (*amount) **amount *= 0.25;
            }
        }
        const SteadySolution mean = solve_steady(quarter, mesh, studies_of(quarter).front());
        Study study{.name = "cycle", .ambient = 300.0, .kind = StudyKind::cyclic};
        std::vector<double> ends[2];
        for (const double start : {290.0, 340.0}) {
            study.start.temperature = start;
            double integral = 0.0, length = 0.0;
            std::vector<double> first;
            const TransientSolution cycle =
                solve_cyclic(model, mesh, study, start_temperatures(model, *mesh, study), {.observe = [&](const TimeStep& step) {
                                 if (first.empty()) first.assign(step.rise_begin.begin(), step.rise_begin.end());
                                 // Simpson's rule is exact for the cubic of a step.
                                 const double h = step.end - step.begin;
                                 integral += h / 6.0 *
                                             (mean_rise(*mesh, step.rises(step.begin)) + 4.0 * mean_rise(*mesh, step.rises(0.5 * (step.begin + step.end))) +
                                              mean_rise(*mesh, step.rises(step.end)));
                                 integral += h * step.reference;
                                 length += h;
                                 return true;
                             }});
            CHECK(cycle.period == Approx(120.0));
            CHECK(length == Approx(120.0));
            CHECK(most_apart(first, cycle.end.rise) <= study.tolerance);
            CHECK(integral / length == Approx(mean_rise(*mesh, mean.temperature)).margin(0.3 * study.tolerance + 1e-3 * range_of(all.temperature)));
            ends[start > 300.0 ? 1 : 0] = cycle.end.temperature;
        }
        CHECK(most_apart(ends[0], ends[1]) <= study.tolerance);
    });
}

TEST_CASE("the zero of temperature does not matter to what is linear, nor do clocks to what only stores more", "[random-time]") {
    for_small_assemblies(many(6), true, [](const Model& model, const MeshPointer& mesh) {
        Study study = run_of(200.0, 310.0);
        const TransientSolution run = solve_transient(model, mesh, study, start_temperatures(model, *mesh, study));

        // Everything 40 K warmer.
        Model warmer = model;
        for (Cooling& c : warmer.coolings) c.ambient = *c.ambient + 40.0;
        for (Hold& h : warmer.holds) h.temperature += 40.0;
        for (Resistor& r : warmer.resistors) {
            if (r.ambient) *r.ambient += 40.0;
        }
        Study later = study;
        later.ambient = 340.0;
        later.start.temperature = 350.0;
        std::vector<double> shifted = solve_transient(warmer, mesh, later, start_temperatures(warmer, *mesh, later)).end.temperature;
        for (double& t : shifted) t -= 40.0;
        CHECK(most_apart(shifted, run.end.temperature) <= 1e-6 * std::max(1.0, range_of(run.end.temperature)));

        // Eight times the heat capacity and eight times the time. Steps are not the same, since their lengths are of a fixed series; results are.
        Model slower = model;
        for (Material& m : slower.materials) m.density = *m.density * 8.0;
        for (Node& n : slower.nodes) {
            if (n.capacity) *n.capacity *= 8.0;
        }
        Study longer = study;
        longer.lasts *= 8.0;
        CHECK(most_apart(solve_transient(slower, mesh, longer, start_temperatures(slower, *mesh, longer)).end.temperature, run.end.temperature) <=
              study.tolerance);
    });
}

TEST_CASE("a run put aside after any number of steps ends to the same digit", "[random-time]") {
    for_small_assemblies(many(5), false, [](Model model, const MeshPointer& mesh) {
        model.add(Profile{.name = "pulse", .duty = Duty{.on = 3.0, .off = 5.0}});
        for (Power& p : model.powers) p.profile = {"pulse"};
        const Study study = run_of(16.0, 300.0);
        const std::vector<double> start = start_temperatures(model, *mesh, study);
        std::vector<TransientState> kept;
        const auto keep = [&](const TransientState& s) { kept.push_back(s); };
        const TransientSolution whole = solve_transient(model, mesh, study, start, {.checkpoint = keep, .checkpoint_steps = 3});
        REQUIRE_FALSE(kept.empty());
        const std::vector<TransientState> states = kept;
        for (const std::size_t n : {std::size_t{0}, states.size() / 2, states.size() - 1}) {
            const TransientSolution rest =
                solve_transient(model, mesh, study, start, {.checkpoint = [](const TransientState&) {}, .checkpoint_steps = 3, .resume = states[n]});
            CHECK(rest.end.rise == whole.end.rise);
            CHECK(rest.summary.steps == whole.summary.steps);
            CHECK(rest.ledger.stored == whole.ledger.stored);
        }
    });
}

TEST_CASE("what is added for the mesh leaves temperatures where they can be, and every error is a number", "[random-time]") {
    for_small_assemblies(many(4), false, [](Model model, const MeshPointer& mesh) {
        model.add(Profile{.name = "pulse", .duty = Duty{.on = 3.0, .off = 5.0}});
        for (Power& p : model.powers) p.profile = {"pulse"};
        Study cycle{.name = "cycle", .ambient = 300.0, .kind = StudyKind::cyclic};
        cycle.start.temperature = 300.0;
        for (const Study& study : {run_of(16.0, 320.0), cycle}) {
            if (study.kind == StudyKind::cyclic && model.powers.empty()) continue;
            const TimeFindings found = solve_over_time(model, study, mesh);
            // The lowest that anything can be, where no load takes heat out.
            double lowest = study.start.temperature.value();
            for (const Known& known : build_network(model, *mesh, study).knowns) lowest = std::min(lowest, known.temperature);
            const bool cooled = std::any_of(model.powers.begin(), model.powers.end(), [](const Power& p) {
                return p.total.value_or(0.0) < 0.0 || p.each.value_or(0.0) < 0.0 || p.density.value_or(0.0) < 0.0 || p.flux.value_or(0.0) < 0.0;
            });
            int told = 0;
            for (const Figure& f : found.figures) {
                if (!f.bar) continue;
                INFO(study.name << ", " << info(f.kind).word << " of " << f.name << ": " << *f.value << " ± " << f.error());
                CHECK((std::isfinite(f.error()) && f.error() >= 0.0 && std::isfinite(*f.solved)));
                if (f.kind == FigureKind::min && !cooled) CHECK(*f.value >= lowest - 1e-6);
                ++told;
            }
            CHECK(told >= 3);
            for (const PartOverTime& part : found.parts) {
                CHECK(part.coldest.spot.temperature <= part.mean + 1e-6);
                CHECK(part.mean <= part.hottest.spot.temperature + 1e-6);
                CHECK((part.end_min <= part.end_mean + 1e-9 && part.end_mean <= part.end_max + 1e-9));
            }
            CHECK(std::abs(found.energy.relative_residual()) <= 1e-9);
        }
    });
}

TEST_CASE("figures of a run agree with each other and with what else is told of it", "[random-time]") {
    for_small_assemblies(many(4), false, [](Model model, const MeshPointer& mesh) {
        model.add(Profile{.name = "pulse", .duty = Duty{.on = 3.0, .off = 5.0}});
        if (model.powers.empty()) model.add(Power{.into = {"base"}, .total = 2.0});
        for (Power& p : model.powers) p.profile = {"pulse"};
        model.powers[0].name = "pulsed";
        for (const char* address :
             {"highest of base.max", "lowest of base.max", "mean of base.max", "swing of base.max", "time base.max is above 310 K",
              "first time base.max is above 310 K", "last time base.max is above 310 K", "time base.max is below 310 K", "total of power.pulsed.heat"})
            model.add(NamedFigure{.name = address, .value = address});
        Study cycle{.name = "cycle", .ambient = 300.0, .kind = StudyKind::cyclic};
        for (const Study& study : {run_of(16.0, 320.0), cycle}) {
            const TimeFindings found = solve_over_time(model, study, mesh);
            const auto value = [&](const std::string& name) {
                const auto row = std::find_if(found.of_run.begin(), found.of_run.end(), [&](const RunFigure& r) { return r.name == name; });
                REQUIRE(row != found.of_run.end());
                return row->value;
            };
            const double high = value("highest of base.max").value(), low = value("lowest of base.max").value(), mean = value("mean of base.max").value();
            INFO(study.name << ": " << low << " … " << mean << " … " << high);
            CHECK((low <= mean + 1e-6 && mean <= high + 1e-6));
            CHECK(value("swing of base.max").value() == Approx(high - low).margin(1e-9));
            const auto base = std::find_if(found.parts.begin(), found.parts.end(), [](const PartOverTime& p) { return p.name == "base"; });
            REQUIRE(base != found.parts.end());
            CHECK(high == Approx(base->hottest.spot.temperature).margin(1e-6));
            // Above and below share the time between them, but for moments at the value itself.
            const double above = value("time base.max is above 310 K").value(), below = value("time base.max is below 310 K").value();
            CHECK(above + below == Approx(found.end_time).epsilon(1e-3));
            const auto first = value("first time base.max is above 310 K"), last = value("last time base.max is above 310 K");
            CHECK(first.has_value() == (above > 0.0));
            CHECK(first.has_value() == last.has_value());
            if (first) CHECK((0.0 <= *first && *first + above <= *last + 1e-6 && *last <= found.end_time + 1e-9));
            CHECK((high > 310.0) == (above > 0.0));
            CHECK(value("total of power.pulsed.heat").value() == Approx(found.energy.of(HeatKind::load, "pulsed")).epsilon(1e-6).margin(1e-9));
        }
    });
}

TEST_CASE("heat in one part of any shapes is seen in another as the other way round", "[random-time]") {
    // Reciprocity: the mean rise of B by a watt spread evenly in A is that of A by a watt in B.
    for_small_assemblies(many(12), true, [](Model model, const MeshPointer& mesh) {
        for (Hold& h : model.holds) h.temperature = 300.0;
        for (Resistor& r : model.resistors) {
            if (r.ambient) r.ambient = 300.0;
        }
        const auto mean_of = [&](const char* heated, std::size_t seen) {
            model.powers = {Power{.into = {heated}, .total = 1.0}};
            return findings(model, solve_steady(model, mesh, studies_of(model).front()), {.errors = false}).parts[seen].mean - 300.0;
        };
        const std::size_t last = model.parts.size() - 1;
        if (last == 0) return;
        const std::string other = model.parts[last].name;
        const double there = mean_of("base", last), back = mean_of(other.c_str(), 0);
        CHECK(there == Approx(back).epsilon(1e-7));
        CHECK(there > 0.0);
        // What is heated is warmer than what is not.
        CHECK(mean_of(other.c_str(), last) >= back * (1.0 - 1e-9));
    });
}
