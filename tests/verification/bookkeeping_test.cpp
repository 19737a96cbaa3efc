// Joints of images and copies, cells of two-dimensional models, places on edges, melting at one temperature, ledgers and peaks in time.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

const JointFinding& joint_of(const Findings& f, const std::string& first) {
    return *std::find_if(f.joints.begin(), f.joints.end(), [&](const JointFinding& j) { return j.first == first; });
}

/// A chip on each side of a plane through x = 0, or one that the plane cuts, on a plate; each chip joined by 0.5 K/W.
Model chips_on_plate(bool straddles) {
    Model m;
    m.mesh.cell = 2_mm;
    m.add(block("plate", {80_mm, 40_mm, 4_mm}, {-40_mm, 0.0, 0.0}, "copper"));
    const auto chip = [&](const std::string& name, double x) { m.add(block(name, {10_mm, 10_mm, 2_mm}, {x, 15_mm, 4_mm}, "copper")); };
    if (straddles) {
        chip("chip", -5_mm);
    } else {
        chip("chip", 15_mm);
        chip("twin", -25_mm);
    }
    m.add(Joint{.between = {straddles ? "chip" : "*i*", "plate"}, .total = 0.5});
    m.add(heat(straddles ? "chip" : "*i*", 8_W));
    m.add(convection(exposed(), 20.0, 25_degC));
    return m;
}

std::string message(const auto& run) {
    try {
        run();
    } catch (const ModelError& error) {
        return error.what();
    }
    return {};
}

}  // namespace

TEST_CASE("a joint's total is that of each pair: of a chip that the mirror cuts, of one with a twin, of copies, in a sector", "[verification]") {
    for (const bool straddles : {true, false}) {
        INFO((straddles ? "straddles" : "with a twin"));
        const Model whole = chips_on_plate(straddles);
        Model half = whole;
        if (!straddles) {
            half.parts.pop_back();
            for (Joint& j : half.joints) j.between[0] = "chip";
            for (Power& p : half.powers) p.into = {"chip"};
        }
        half.add(Mirror{.axis = 0, .at = 0.0, .keep_plus = true});
        const Findings a = findings(whole, solve_steady(whole)), b = findings(half, solve_steady(half));
        const JointFinding& kept = joint_of(b, "chip");
        // A chip of its own carries 8 W over 0.5 K/W; two share them.
        const double pairs = straddles ? 1.0 : 2.0;
        CHECK(kept.pairs == pairs);
        CHECK(kept.drop / (kept.flow / pairs) == Approx(0.5).epsilon(0.01));
        CHECK(joint_of(a, "chip").drop == Approx(kept.drop).epsilon(1e-3));
        CHECK_THAT(kept.contact, Contains(straddles ? "0.500 K/W" : "0.500 K/W, each of 2"));
        CHECK((kept.contact.find("each") != std::string::npos) == !straddles);
        CHECK_THAT(to_text(inspect(half, build_mesh(half))), Contains(straddles ? "0.500 K/W" : "0.500 K/W, each of 2"));
    }
    // Four copies, in the whole and as one of four sectors.
    Model ring;
    ring.mesh.cell = 2_mm;
    ring.add(Part{.name = "disc", .shape = Cylinder{.radius = 30_mm, .length = 4_mm}, .material = "copper"});
    ring.add(Part{.name = "post",
                  .shape = Cylinder{.radius = 4_mm, .length = 6_mm, .at = {20_mm * std::sqrt(0.5), 20_mm * std::sqrt(0.5), 4_mm}},
                  .material = "copper",
                  .repeat = {{.count = 4, .turn = 90.0}}});
    ring.add(Joint{.between = {"post", "disc"}, .total = 2.0});
    ring.add(heat("post", 4_W));
    ring.add(convection(exposed(), 20.0, 25_degC));
    Model sector = ring;
    sector.parts[1].repeat.clear();
    sector.add(Sector{.pieces = 4});
    for (const Model& m : {ring, sector}) {
        const JointFinding j = findings(m, solve_steady(m)).joints.front();
        CHECK(j.pairs == 4);
        CHECK(std::abs(j.drop / (j.flow / 4.0)) == Approx(2.0).epsilon(0.02));
        CHECK_THAT(j.contact, Contains("each of 4"));
    }
}

TEST_CASE("the default cell goes by what is resolved: a thick fin in a plane model, whatever its depth", "[verification]") {
    double last = 0.0;
    for (const double depth : {10_mm, 1.0}) {
        Model m;
        m.space = Space{.depth = depth};
        m.materials.push_back(plain("fin", 15.0));
        m.add(block("fin", {4_mm, 40_mm, 1_mm}, {}, "fin"));
        m.add(Hold{.name = "root", .on = side("fin", Side::minus_y), .temperature = 100_degC});
        m.add(convection(exposed(), 60.0, 20_degC));
        const Findings f = findings(m, solve_steady(m));
        CHECK(f.cells >= 160);  // four through the thickness, where the depth of a metre had left two
        // The classical fin with the tip's film, per metre of depth; 4 mm thick, so two-dimensional by a few thousandths.
        const double k = 15.0, h = 60.0, half = 2e-3, length = 0.04, mm = std::sqrt(h / (k * half)), u = h / (mm * k);
        const double heat = 80.0 * std::sqrt(h * 2.0 * k * 4e-3) * (std::sinh(mm * length) + u * std::cosh(mm * length)) /
                            (std::cosh(mm * length) + u * std::sinh(mm * length));
        CHECK(-f.holds[0].flow / depth == Approx(heat).epsilon(0.01));
        if (last != 0.0) CHECK(-f.holds[0].flow / depth == Approx(last).epsilon(1e-9));
        last = -f.holds[0].flow / depth;
    }
    Model tower;
    tower.space = Space{.revolved = true};
    tower.add(Part{.name = "rod", .shape = Cylinder{.radius = 1_mm, .length = 200_mm}, .material = "copper"});
    tower.add(heat("rod", 1_W));
    tower.add(convection(exposed(), 20.0, 25_degC));
    CHECK(build_mesh(tower).grid.count(2) == 40);  // the length decides, not the width of the wedge
}

TEST_CASE("a revolved model has its true radius in areas, volumes and readings", "[verification]") {
    Model m;
    m.space = Space{.revolved = true};
    m.mesh.cell = 0.5_mm;
    m.materials.push_back(plain("k", 12.0));
    m.add(Part{.name = "rod", .shape = Cylinder{.radius = 5_mm, .length = 20_mm}, .material = "k"});
    m.add(heat("rod", 60_W));
    m.add(Hold{.name = "wall", .on = Selection{.sides = {"side"}}, .temperature = 40_degC});
    m.add(Sensor{.name = "wall", .in = "rod", .at = {5_mm, 0.0, 10_mm}});
    m.add(Sensor{.name = "axis end", .in = "rod", .at = {0.0, 0.0, 20_mm}});
    m.add(Sensor{.name = "rim", .in = "rod", .at = {5_mm, 0.0, 20_mm}});
    m.add(Sensor{.name = "middle", .in = "rod", .at = {0.0, 0.0, 10_mm}});
    const Findings f = findings(m, solve_steady(m));
    CHECK(f.parts[0].volume == Approx(std::numbers::pi * 25e-6 * 0.02).epsilon(1e-12));
    CHECK(f.holds[0].area == Approx(2.0 * std::numbers::pi * 5e-3 * 0.02).epsilon(1e-12));
    CHECK(f.holds[0].flow == Approx(60.0).epsilon(1e-9));
    CHECK(f.sensors[0].temperature == Approx(313.15).margin(1e-9));  // the wall is held, and nothing is read past it
    CHECK(f.sensors[2].temperature == Approx(313.15).margin(1e-9));
    const double rise = 60.0 / (std::numbers::pi * 25e-6 * 0.02) * 25e-6 / (4.0 * 12.0);
    CHECK(f.sensors[1].temperature == Approx(313.15 + rise).epsilon(2e-3));
    CHECK(f.sensors[3].temperature == Approx(313.15 + rise).epsilon(2e-3));
}

TEST_CASE("a point on the surface is in the part, on every resolution; others are told how far away they are", "[verification]") {
    for (const double cell : {1.1_mm, 2.3_mm, 4.7_mm}) {
        INFO("cell " << cell);
        Model m;
        m.mesh.cell = cell;
        m.mesh.through = 1;
        m.add(Part{.name = "prism",
                   .shape = Prism{.outline = {{.x = 0.0, .y = 0.0}, {.x = 30_mm, .y = 3_mm}, {.x = 11_mm, .y = 24_mm}}, .length = 7_mm},
                   .material = "copper"});
        m.add(Part{.name = "can", .shape = Cylinder{.radius = 9_mm, .length = 21_mm, .at = {60_mm, 0.0, 0.0}}, .material = "copper"});
        m.add(heat("prism", 1_W));
        m.add(heat("can", 1_W));
        m.add(convection(exposed(), 10.0, 25_degC));
        for (const Vec3 at : {Vec3{0.0, 0.0, 0.0}, Vec3{30_mm, 3_mm, 7_mm}, Vec3{11_mm, 24_mm, 3_mm}, Vec3{15_mm, 1.5_mm, 7_mm}})
            m.add(Sensor{.name = "p" + std::to_string(m.sensors.size()), .in = "prism", .at = at});
        for (const Vec3 at :
             {Vec3{60_mm, 0.0, 21_mm}, Vec3{69_mm, 0.0, 21_mm}, Vec3{60_mm, -9_mm, 0.0}, Vec3{60_mm + 9_mm * std::cos(0.7), 9_mm * std::sin(0.7), 11_mm}}) {
            m.add(Sensor{.name = "c" + std::to_string(m.sensors.size()), .in = "can", .at = at});
        }
        const Findings f = findings(m, solve_steady(m));
        for (const SensorFinding& s : f.sensors) {
            const PartFinding& part = f.parts[s.part == "prism" ? 0 : 1];
            CHECK(s.temperature >= part.coldest.temperature - 0.05);
            CHECK(s.temperature <= part.hottest.temperature + 0.05);
        }
        m.sensors = {{.name = "off", .in = "can", .at = {72_mm, 0.0, 10_mm}}};
        CHECK_THAT(message([&] { static_cast<void>(solve_steady(m)); }),
                   Contains("(72, 0, 10) mm is not in part \"can\": it is ") && Contains(" mm away, and the nearest point of it is (69"));
    }
    // What planes of symmetry leave: the centre of an octant, the top centre of a quarter.
    Model ball;
    ball.mesh.cell = 2_mm;
    ball.add(Part{.name = "ball", .shape = Sphere{.radius = 10_mm}, .material = "copper"});
    ball.add(heat("ball", 1_W));
    ball.add(convection(exposed(), 10.0, 25_degC));
    for (int axis = 0; axis < 3; ++axis) ball.add(Mirror{.axis = axis, .keep_plus = true});
    ball.add(Sensor{.name = "centre", .in = "ball", .at = {}});
    ball.add(Sensor{.name = "top", .in = "ball", .at = {0.0, 0.0, 10_mm}});
    const Findings f = findings(ball, solve_steady(ball));
    CHECK(f.sensors.size() == 2);
    CHECK(std::none_of(f.warnings.begin(), f.warnings.end(), [](const Warning& w) { return w.kind == "surface_not_closed"; }));
}

TEST_CASE("melting at one temperature takes up all its latent heat, and the results say over what range", "[verification][time]") {
    Model m;
    m.mesh.cell = 5_mm;
    m.materials.push_back({.name = "ice",
                           .conductivity = isotropic(2000.0),
                           .density = 920.0,
                           .specific_heat = 2100.0,
                           .melting = Melting{.from = 273.15, .to = 273.15, .latent_heat = 334e3}});
    m.add(block("block", {10_mm, 10_mm, 10_mm}, {}, "ice"));
    m.add(heat("block", 1_W));
    m.add(Cooling{.name = "none", .on = exposed(), .convection = 1e-9, .ambient = 273.15});
    Study study{.name = "thaw", .kind = StudyKind::transient, .lasts = 300.0, .start = {.temperature = 263.15}};
    study.tolerance = 0.05;
    m.add(study);
    CHECK(through_file(m) == m);
    const TimeFindings f = solve_over_time(m, m.studies[0]);
    const double mass = 920.0 * 1e-6, sensible = mass * 2100.0 * 10.0, latent = mass * 334e3;
    CHECK(f.parts[0].liquid.value().end == Approx((1.0 * 300.0 - sensible) / latent).epsilon(1e-3));
    CHECK(f.parts[0].end_mean == Approx(273.15).margin(0.01));
    CHECK(std::any_of(f.warnings.begin(), f.warnings.end(),
                      [](const Warning& w) { return w.kind == "melts_at_one_temperature" && w.message.find("10.0 mK") != std::string::npos; }));
    for (const auto& [melting, says] : std::vector<std::pair<Melting, std::string>>{{{280.0, 270.0, 1e5}, "must not be below `from`"},
                                                                                    {{270.0, 280.0, -1.0}, "latent heat must be positive"},
                                                                                    {{-5.0, 280.0, 1e5}, "absolute zero"}}) {
        m.materials[0].melting = melting;
        CHECK_THAT(message([&] { static_cast<void>(build_mesh(m)); }), Contains(says));
    }
    m.materials[0].melting = Melting{270.0, 280.0, 1e5};
    m.materials[0].specific_heat_factor = {{250.0, 300.0}, {1.0, -0.5}};
    CHECK_THAT(message([&] { static_cast<void>(build_mesh(m)); }), Contains("specific heat must be positive everywhere"));
    // Beside a curve of specific heat it works.
    m.materials[0].specific_heat_factor = {{250.0, 300.0}, {1.0, 1.5}};
    m.studies[0].lasts = 60.0;
    const TimeFindings both = solve_over_time(m, m.studies[0]);
    CHECK(std::isfinite(both.parts[0].end_mean));
    CHECK(std::abs(both.energy.relative_residual()) <= 1e-9);
}

TEST_CASE("the ledger closes to 1e-9 with a temperature course, tables and curves everywhere", "[verification][time]") {
    Model m;
    m.mesh.cell = 4_mm;
    m.materials.push_back({.name = "varying",
                           .conductivity = isotropic(40.0),
                           .conductivity_factor = {{250.0, 400.0}, {1.0, 0.6}},
                           .density = 3000.0,
                           .specific_heat = 800.0,
                           .specific_heat_factor = {{250.0, 400.0}, {1.0, 1.3}}});
    m.add(block("slab", {40_mm, 20_mm, 8_mm}, {}, "varying"));
    m.add(block("cap", {20_mm, 20_mm, 4_mm}, {0.0, 0.0, 8_mm}, "varying"));
    m.add(Joint{.between = {"cap", "slab"}, .resistance = 5e-5, .resistance_factor = {{250.0, 400.0}, {1.0, 0.5}}});
    Power p = heat("cap", 20_W);
    p.profile = {"steps"};
    p.temperature_factor = {{250.0, 400.0}, {1.0, 0.8}};
    m.add(p);
    m.add(Profile{.name = "steps", .points = {{0.0, 7.0, 7.5, 31.0, 40.0}, {0.2, 1.0, 0.1, 1.4, 0.0}}, .repeat = true});
    m.add(Profile{.name = "course", .points = {{0.0, 20.0, 90.0, 400.0}, {293.0, 330.0, 280.0, 300.0}}, .gives = CourseOf::temperature});
    m.add(Hold{.name = "foot", .on = side("slab", Side::minus_z), .temperature = 293.0, .profile = "course"});
    m.add(Cooling{.name = "air", .on = exposed(), .convection_curve = {{0.0, 10.0, 80.0}, {0.0, 4.0, 9.0}}, .emissivity = 0.8, .ambient = 293.0});
    m.add(Study{.name = "day", .ambient = 293.0, .kind = StudyKind::transient, .lasts = 400.0});
    const TimeFindings f = solve_over_time(m, m.studies[0]);
    CHECK(std::abs(f.energy.relative_residual()) <= 1e-9);
    // Shares of what came in and of what went out or was kept are 100 % each.
    const std::string text = to_text(f);
    double in = 0.0, out = 0.0;
    const std::size_t begin = text.find("Energy over the whole time"), end = text.find("unaccounted");
    std::istringstream lines(text.substr(begin, end - begin));
    bool going_in = true;
    for (std::string line; std::getline(lines, line);) {
        const std::size_t percent = line.rfind(" %");
        if (percent == std::string::npos) continue;
        if (line.find("  out ") != std::string::npos || line.find("  kept ") != std::string::npos) going_in = false;
        (going_in ? in : out) += std::stod(line.substr(line.find_last_of(' ', percent - 1)));
    }
    CHECK(in == Approx(100.0).margin(0.31));
    CHECK(out == Approx(100.0).margin(0.31));
}

TEST_CASE("the peak of a flat top is located well at any tolerance", "[verification][time]") {
    // One body under a sine of power: its own temperature is a sine with a known lag, and its top is flat.
    for (const double tolerance : {0.1, 1e-3}) {
        Model m;
        m.mesh.cell = 10_mm;
        m.mesh.through = 1;
        m.materials.push_back({.name = "lump", .conductivity = isotropic(1e5), .density = 2000.0, .specific_heat = 1000.0});
        m.add(block("lump", {20_mm, 20_mm, 20_mm}, {}, "lump"));
        Power p = heat("lump", 10_W);
        p.profile = {"sine"};
        m.add(p);
        m.add(Profile{.name = "sine", .sine = Sine{.mean = 1.0, .amplitude = 1.0, .period = 600.0}});
        m.add(convection(exposed(), 50.0, 300.0));
        Study s{.name = "t", .kind = StudyKind::transient, .lasts = 1200.0, .start = {.temperature = 300.0}};
        s.tolerance = tolerance;
        m.add(s);
        const TimeFindings f = solve_over_time(m, m.studies[0]);
        const double c = 2000.0 * 1000.0 * 8e-6, g = 50.0 * 24e-4, tau = c / g, w = 2.0 * std::numbers::pi / 600.0;
        // θ = 10/G (1 − e^(−t/τ)) + A sin(wt − φ) + B e^(−t/τ); its highest point from the exact course.
        const double amplitude = 10.0 / g / std::sqrt(1.0 + w * w * tau * tau), phi = std::atan(w * tau);
        const auto exact = [&](double t) {
            return 10.0 / g * (1.0 - std::exp(-t / tau)) + amplitude * (std::sin(w * t - phi) + std::sin(phi) * std::exp(-t / tau));
        };
        double best = 0.0;
        for (double t = 0.0; t <= 1200.0; t += 0.01) best = exact(t) > exact(best) ? t : best;
        INFO("tolerance " << tolerance << ", exact " << best << ", found " << f.parts[0].hottest.time);
        CHECK(f.parts[0].hottest.time == Approx(best).margin(tolerance > 0.01 ? 3.0 : 0.5));
        CHECK(f.parts[0].hottest.spot.temperature == Approx(300.0 + exact(best)).margin(tolerance));
    }
}

TEST_CASE("a surface that takes up heat is claimed; symmetric models in two dimensions have no surface in their planes", "[verification]") {
    Model m;
    m.add(block("slab", {20_mm, 20_mm, 5_mm}, {}, "copper"));
    Power p;
    p.on = side("slab", Side::minus_z);
    p.total = 5.0;
    m.add(p);
    m.add(convection(side("slab", Side::plus_z), 50.0, 300.0));
    const auto unclaimed = [](const Model& model) { return findings(model, solve_steady(model)).unclaimed_area; };
    CHECK(unclaimed(m) == Approx(4.0 * 20e-3 * 5e-3));  // the four sides
    Model plane;
    plane.space = Space{.depth = 10_mm};
    plane.add(Mirror{.axis = 0, .keep_plus = true});
    plane.add(Part{.name = "bar", .shape = Cylinder{.radius = 5_mm, .length = 10_mm}, .material = "copper"});
    plane.add(heat("bar", 1_W));
    plane.add(convection(Selection{.sides = {"side"}}, 50.0, 300.0));
    CHECK(unclaimed(plane) == 0.0);
    Model cup;
    cup.space = Space{.revolved = true};
    cup.add(Mirror{.axis = 2, .keep_plus = true});
    cup.add(Part{.name = "rod", .shape = Cylinder{.radius = 5_mm, .length = 20_mm, .at = {0.0, 0.0, -10_mm}}, .material = "copper"});
    cup.add(heat("rod", 1_W));
    cup.add(convection(Selection{.sides = {"side", "top"}}, 50.0, 300.0));
    CHECK(unclaimed(cup) == 0.0);
}

TEST_CASE("natural convection as a curve that begins at nothing: alone, from rest, with nothing to cool", "[verification]") {
    Model m;
    m.mesh.cell = 5_mm;
    m.add(block("slab", {40_mm, 40_mm, 5_mm}, {}, "copper"));
    m.add(heat("slab", 2_W));
    m.add(Cooling{.name = "air", .on = exposed(), .convection_curve = {{0.0, 10.0, 60.0}, {0.0, 4.0, 8.0}}, .ambient = 300.0});
    const Findings f = findings(m, solve_steady(m));
    const double rise = f.parts[0].mean - 300.0, area = 2.0 * 16e-4 + 4.0 * 2e-4;
    CHECK(2.0 == Approx(area * m.coolings[0].convection_curve(rise) * rise).epsilon(1e-3));
    m.powers.clear();
    CHECK(findings(m, solve_steady(m)).parts[0].mean == Approx(300.0).margin(1e-9));
    m.add(Study{.name = "t", .ambient = 300.0, .kind = StudyKind::transient, .lasts = 10.0});
    CHECK(solve_over_time(m, m.studies[0]).parts[0].end_max == Approx(300.0).margin(1e-6));
}

TEST_CASE("small models end at the limit of rounding: copper foil on insulation in a plane, at any cell size", "[verification]") {
    for (const double cell : {0.9_mm, 1.3_mm, 2_mm, 2.6_mm, 3.1_mm, 4_mm, 5.5_mm}) {
        Model m;
        m.space = Space{.depth = 10_mm};
        m.mesh.cell = cell;
        m.materials.push_back(plain("foam", 0.03));
        m.add(block("foam", {60_mm, 10_mm, 10_mm}, {}, "foam"));
        m.add(block("foil", {60_mm, 0.035_mm, 10_mm}, {0.0, 10_mm, 0.0}, "copper"));
        m.add(heat("foil", 0.5_W));
        m.add(convection(side("foam", Side::minus_y), 5.0, 300.0));
        const Findings f = findings(m, solve_steady(m));
        CHECK(std::abs(f.ledger.relative_residual()) <= 1e-9);
    }
}

TEST_CASE("a run that goes on counts the whole: time, steps, seconds, heat", "[verification]") {
    Model m;
    m.mesh.cell = 4_mm;
    m.add(block("slab", {40_mm, 40_mm, 8_mm}, {}, "copper"));
    m.add(heat("slab", 5_W));
    m.add(convection(exposed(), 15.0, 300.0));
    m.add(Study{.name = "t", .ambient = 300.0, .kind = StudyKind::transient, .lasts = 2000.0});
    const auto mesh = std::make_shared<const Mesh>(build_mesh(m));
    const std::vector<double> start(mesh->cells.size(), 300.0);
    std::vector<TransientState> kept;
    const TransientSolution whole =
        solve_transient(m, mesh, m.studies[0], start, {.checkpoint = [&](const TransientState& s) { kept.push_back(s); }, .checkpoint_steps = 2});
    REQUIRE(kept.size() >= 2);
    double begun = -1.0, last = 0.0;
    const auto progress = [&](const Progress& p) {
        if (begun < 0.0) begun = p.time - p.step;
        last = p.time;
        CHECK(p.end == 2000.0);
        return true;
    };
    TransientState from = kept.front();
    from.summary.solve_seconds = 1000.0;
    // Steps between keep what checkpoints do to the run.
    const TransientSolution rest = solve_transient(m, mesh, m.studies[0], start,
                                                   {.progress = progress, .checkpoint = [](const TransientState&) {}, .checkpoint_steps = 2, .resume = from});
    CHECK(begun == Approx(from.time));
    CHECK(last == Approx(2000.0));
    CHECK(rest.summary.solve_seconds >= 1000.0);
    CHECK(rest.summary.steps == whole.summary.steps);
    CHECK(rest.ledger.moved.throughput() == Approx(whole.ledger.moved.throughput()).epsilon(1e-12));
    CHECK(rest.end.rise == whole.end.rise);
}
