// What must hold for any assembly of any shapes: nothing reported lies outside of what physics allows, the heat balance closes, the mirror
// image has the mirrored temperatures.

#include "random_assemblies.hpp"

#include "findings/surface_field.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

using namespace firnfield;
using namespace firnfield::test;

namespace {

struct Range {
    double low = 1e300, high = -1e300;
    void take(double t) {
        low = std::min(low, t);
        high = std::max(high, t);
    }
};

/// Everything that a steady study reports of temperatures.
Range reported(const Model& model, const SteadySolution& s) {
    Range out;
    const Findings f = findings(model, s);
    for (const Figure& figure : f.figures) REQUIRE(std::isfinite(figure.error()));
    for (const PartFinding& p : f.parts) {
        out.take(p.coldest.temperature);
        out.take(p.mean);
        out.take(p.hottest.temperature);
    }
    for (const CoolingFinding& c : f.coolings) {
        if (c.area > 0.0) out.take(c.mean_surface);
    }
    for (const double t : s.patch_temperature) out.take(t);
    for (const double t : surface_field(s, {.hidden = std::vector<bool>(s.mesh->bodies.size(), false)}).temperature) out.take(t);
    // Corners, edges and middles of parts, where readings are continued furthest.
    for (const Body& body : s.mesh->bodies) {
        for (const double x : {0.0, 0.5, 1.0}) {
            for (const double z : {0.0, 0.5, 1.0}) {
                const Vec3 at = body.box.at + Vec3{x * body.box.size.x, 0.5 * body.box.size.y, z * body.box.size.z};
                try {
                    out.take(temperature_at(model, s, body.name, at, "corner"));
                } catch (const ModelError&) {  // round parts do not reach into the corners of their extent
                }
            }
        }
    }
    return out;
}

/// How far two models that are the same but for where they stand differ in the means and maxima of their parts, as a share of all differences.
double apart_by(const Model& one, const Model& other) {
    const SteadySolution a = solve_steady(one), b = solve_steady(other);
    const Findings f = findings(one, a, {.errors = false}), g = findings(other, b, {.errors = false});
    Range range;
    for (const double t : a.temperature) range.take(t);
    double most = 0.0;
    for (std::size_t p = 0; p < f.parts.size(); ++p) {
        most = std::max({most, std::abs(f.parts[p].mean - g.parts[p].mean), std::abs(f.parts[p].hottest.temperature - g.parts[p].hottest.temperature)});
    }
    return most / std::max(range.high - range.low, 1e-3);
}

/// What is written of findings can be read back: every number in it is one.
void check_kept(const Model& model, StudyFindings found) {
    const std::size_t figures = outcome(found).figures.size();
    const Summary read = parse_summary(to_json(summarise(model, std::vector{std::move(found)})));
    CHECK(outcome(read.studies.at(0)).figures.size() == figures);
}

double start_of(const Network& network) { return 0.5 * (network.lowest_known + network.highest_known); }

}  // namespace

TEST_CASE("steady: nothing reported is colder than the surroundings, nor hotter where nothing heats", "[random-steady]") {
    for (unsigned seed = 1; seed <= many(60); ++seed) {
        INFO("seed " << seed);
        Model model = random_assembly_of_shapes(seed);
        const auto mesh = std::make_shared<const Mesh>(build_mesh(model));
        const SteadySolution s = solve_steady(model, mesh, studies_of(model).front());
        const double lowest = s.network->lowest_known, highest = s.network->highest_known, slack = 1e-4 + 1e-6 * (highest - lowest);
        CHECK(reported(model, s).low >= lowest - slack);
        const Findings f = findings(model, s);
        CHECK(std::abs(f.ledger.relative_residual()) <= 1e-9);
        check_kept(model, f);
        model.powers.clear();
        const SteadySolution still = solve_steady(model, mesh, studies_of(model).front());
        const Range unheated = reported(model, still);
        CHECK(unheated.low >= lowest - slack);
        CHECK(unheated.high <= highest + slack);
    }
}

TEST_CASE("in the first moments: nothing reported leaves the range of start and surroundings", "[random-moments]") {
    for (unsigned seed = 1; seed <= many(60); ++seed) {
        INFO("seed " << seed);
        Model model = random_assembly_of_shapes(seed);
        model.sensors.push_back({.name = "corner", .in = "base", .at = std::get<Box>(model.parts[0].shape).at});
        Study study{.name = "first", .kind = StudyKind::transient, .lasts = 0.008};
        const auto mesh = std::make_shared<const Mesh>(build_mesh(model));
        const double start = start_of(build_network(model, *mesh, studies_of(model).front()));
        study.start.temperature = start;
        model.add(study);
        const Network network = build_network(model, *mesh, study);
        const double lowest = std::min(start, network.lowest_known), highest = std::max(start, network.highest_known), slack = study.tolerance;
        for (const bool heated : {true, false}) {
            if (!heated) model.powers.clear();
            const TimeFindings f = solve_over_time(model, model.studies.front(), mesh);
            for (const PartOverTime& p : f.parts) {
                INFO(p.name << " at " << p.coldest.time << " s, " << p.hottest.time << " s");
                CHECK(p.coldest.spot.temperature >= lowest - slack);
                if (!heated) CHECK(p.hottest.spot.temperature <= highest + slack);
            }
            for (const SensorOverTime& s : f.sensors) CHECK(s.lowest >= lowest - slack);
            CHECK(std::abs(f.energy.relative_residual()) <= 1e-9);
            check_kept(model, f);
            CHECK(std::none_of(f.warnings.begin(), f.warnings.end(), [](const Warning& w) { return w.kind == "ledger_open"; }));
        }
    }
}

TEST_CASE("the mirror image of any assembly has the mirrored temperatures", "[random-mirror]") {
    unsigned apart = 0;
    double worst = 0.0;
    for (unsigned seed = 1; seed <= many(60); ++seed) {
        INFO("seed " << seed);
        const Model model = random_assembly_of_shapes(seed);
        const int axis = static_cast<int>(seed % 3);
        Model image = model;
        for (Part& part : image.parts) {
            // Mirrored about its own origin, which moves to its image.
            part.mirrored = axis;
            std::visit([&](auto& s) { s.at[axis] = -s.at[axis]; }, part.shape);
            for (Rotation& r : part.rotate) {
                if (axis != 2) r.angle = -r.angle;
                if (r.about) (*r.about)[axis] = -(*r.about)[axis];
            }
        }
        for (Hold& hold : image.holds) {
            for (Vec3& d : hold.on.facing) d[axis] = -d[axis];
        }
        for (Surface& surface : image.surfaces) {
            for (Vec3& d : surface.pick.facing) d[axis] = -d[axis];
        }
        const double share = apart_by(model, image);
        worst = std::max(worst, share);
        if (share > 1e-6) ++apart;
        CHECK(share < 1e-4);
    }
    WARN(apart << " images differ by more than 1e-6 of the range, the worst by " << worst);
    CHECK(apart <= many(60) / 40);
}

TEST_CASE("an assembly that stands elsewhere has the same temperatures", "[random-mirror]") {
    unsigned apart = 0;
    for (unsigned seed = 1; seed <= many(40); ++seed) {
        INFO("seed " << seed);
        const Model model = random_assembly_of_shapes(seed);
        const Vec3 offset{0.1 + 0.001 * seed, -0.037, 1.0 / 3.0};
        Model moved = model;
        for (Part& part : moved.parts) {
            std::visit([&](auto& s) { s.at = s.at + offset; }, part.shape);
            for (Rotation& r : part.rotate) {
                if (r.about) r.about = *r.about + offset;
            }
        }
        const double share = apart_by(model, moved);
        if (share > 1e-6) ++apart;
        CHECK(share < 1e-4);
    }
    CHECK(apart <= many(40) / 20);
}

TEST_CASE("any assembly comes back from its file, and so do its temperatures to the last digit", "[random-steady]") {
    for (unsigned seed = 1; seed <= many(100); ++seed) {
        INFO("seed " << seed);
        const Model model = random_assembly_of_shapes(seed);
        const Model back = read_model_text(write_model(model));
        REQUIRE(back == model);
        if (seed % 20 == 0) CHECK(solve_steady(back).rise == solve_steady(model).rise);
    }
}

TEST_CASE("in linear assemblies temperatures add up load by load", "[random-steady]") {
    for (unsigned seed = 1; seed <= many(10); ++seed) {
        INFO("seed " << seed);
        Model model = random_assembly_of_shapes(seed);
        make_linear(model);
        const auto mesh = std::make_shared<const Mesh>(build_mesh(model));
        const Study study = studies_of(model).front();
        REQUIRE(build_network(model, *mesh, study).is_linear());
        const std::vector<Power> powers = model.powers;
        const SteadySolution all = solve_steady(model, mesh, study);
        model.powers.clear();
        const SteadySolution none = solve_steady(model, mesh, study);
        std::vector<double> sum = none.temperature;
        for (const Power& power : powers) {
            model.powers = {power};
            const SteadySolution one = solve_steady(model, mesh, study);
            for (std::size_t i = 0; i < sum.size(); ++i) sum[i] += one.temperature[i] - none.temperature[i];
        }
        Range range;
        for (const double t : all.temperature) range.take(t);
        double most = 0.0;
        for (std::size_t i = 0; i < sum.size(); ++i) most = std::max(most, std::abs(sum[i] - all.temperature[i]));
        CHECK(most <= 1e-6 * (range.high - range.low) + 1e-6);
    }
}
