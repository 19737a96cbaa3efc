// Parts with one temperature throughout: stirred ones and held ones; and heat on faces in contact. Against closed forms.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

Findings solved(const Model& m) { return findings(m, solve_steady(m)); }

const PartFinding& part(const Findings& f, const std::string& name) {
    const auto found = std::find_if(f.parts.begin(), f.parts.end(), [&](const PartFinding& p) { return p.name == name; });
    REQUIRE(found != f.parts.end());
    return *found;
}

Material water() { return {.name = "bath water", .conductivity = isotropic(0.6), .density = 1000.0, .specific_heat = 4200.0}; }

constexpr double film = 500.0, air = 20.0, wall_k = 15.0;  // W/(m² K), W/(m² K), W/(m K)

/// A slab of water, 40 mm thick, on a wall of 10 mm that the air cools on its other side; all 0.01 m².
Model vessel() {
    Model m;
    m.mesh.cell = 5_mm;
    m.add(water()).add(plain("wall", wall_k));
    Part bath = block("bath", {100_mm, 100_mm, 40_mm}, {0.0, 0.0, 10_mm}, "bath water");
    bath.stirred = true;
    m.add(bath);
    m.add(block("wall", {100_mm, 100_mm, 10_mm}, {}, "wall"));
    m.add(Joint{.between = {"bath", "wall"}, .coefficient = film});
    m.add(convection(side("wall", Side::minus_z), air, 20_degC));
    m.coolings.front().name = "air";
    return m;
}
constexpr double footprint = 0.01, capacity = 1000.0 * 4200.0 * footprint * 0.04;
constexpr double to_air = 1.0 / (footprint / (1.0 / film + 0.01 / wall_k + 1.0 / air));  // K/W

}  // namespace

TEST_CASE("a stirred vessel has one temperature, that of its films in series", "[network]") {
    Model m = vessel();
    m.add(heat("bath", 30_W));
    const Findings f = solved(m);
    const PartFinding& bath = part(f, "bath");
    CHECK(bath.mean == Approx(20_degC + 30.0 * to_air).margin(5e-3));
    CHECK(bath.hottest.temperature - bath.coldest.temperature < 5e-3);
    CHECK(part(f, "wall").hottest.temperature == Approx(20_degC + 30.0 * (to_air - 1.0 / (film * footprint))).margin(0.02));
    CHECK(std::abs(f.ledger.relative_residual()) < 1e-9);
    // Heated in one corner it mixes all the same.
    Model corner = vessel();
    corner.add(block("rod", {20_mm, 20_mm, 20_mm}, {0.0, 0.0, 20_mm}, "wall"));
    corner.add(Joint{.between = {"rod", "bath"}, .coefficient = 2000.0}).add(heat("rod", 30_W));
    const Findings mixed = solved(corner);
    CHECK(part(mixed, "bath").hottest.temperature - part(mixed, "bath").coldest.temperature < 0.02);
    CHECK(part(mixed, "bath").mean == Approx(20_degC + 30.0 * to_air).margin(0.01));
    CHECK(through_file(m) == m);
}

TEST_CASE("a stirred vessel cools down by one exponential", "[network]") {
    Model m = vessel();
    m.materials[1].density = 10.0;  // of the wall: next to nothing
    m.materials[1].specific_heat = 10.0;
    Study study{.name = "cooling", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 2.0 * capacity * to_air, .tolerance = 0.02};
    study.start.temperature = 80_degC;
    m.add(study);
    m.add(Milestone{.name = "half", .part = "bath", .falls_below = 50_degC});
    const TimeFindings f = solve_over_time(m, m.studies.front());
    CHECK(f.milestones.front().first.value() == Approx(capacity * to_air * std::log(2.0)).epsilon(2e-3));
    CHECK(std::abs(f.energy.relative_residual()) < 1e-9);
    CHECK(f.energy.of(HeatKind::convection, "air") == Approx(capacity * 60.0 * (1.0 - std::exp(-2.0))).epsilon(3e-3));
    CHECK(f.summary.steps < 400);
}

TEST_CASE("a film may follow the difference across it, or a law, whichever side is named first", "[network]") {
    const double flux = 30.0 / footprint, wall_face = 20_degC + flux * (0.01 / wall_k + 1.0 / air);
    const auto bath_over_face = [&](const Joint& joint) {
        Model m = vessel();
        m.joints = {joint};
        m.add(heat("bath", 30_W));
        CHECK(through_file(m) == m);
        const Findings f = solved(m);
        CHECK(std::abs(f.ledger.relative_residual()) < 1e-9);
        REQUIRE(f.joints.size() == 1);
        const double drop = std::abs(f.joints.front().drop);
        CHECK(drop == Approx(part(f, "bath").mean - wall_face).margin(0.02));
        CHECK(*f.joints.front().resistance == Approx(drop / flux).epsilon(1e-3));
        return part(f, "bath").mean - wall_face;
    };
    // δ (100 + 20 δ) is this flux at 10 K.
    const Curve rising{{0.0, 40.0}, {100.0, 900.0}};
    CHECK(bath_over_face({.name = "film", .between = {"bath", "wall"}, .coefficient_curve = rising}) == Approx(10.0).margin(0.01));
    CHECK(bath_over_face({.name = "film", .between = {"wall", "bath"}, .coefficient_curve = rising}) == Approx(10.0).margin(0.01));
    for (const bool turned : {false, true}) {
        const ConvectionLaw law{.law = "vertical plate", .fluid = "water", .length = 0.1};
        double low = 0.0, high = 100.0;
        while (high - low > 1e-9) {
            const double drop = 0.5 * (low + high);
            (convection(law, wall_face, wall_face + drop).coefficient * drop < flux ? low : high) = drop;
        }
        Joint joint{.name = "film", .between = {"bath", "wall"}, .law = law};
        if (turned) std::swap(joint.between[0], joint.between[1]);
        CHECK(bath_over_face(joint) == Approx(low).margin(0.01));
    }
}

TEST_CASE("a bath whose film weakens with the difference cools down as its closed form says", "[network]") {
    Model m = vessel();
    m.coolings.clear();
    constexpr double per_kelvin = 5.0;  // W/(m² K) for every K: natural convection of a power of one
    m.joints = {{.name = "film", .between = {"bath", "wall"}, .coefficient_curve = {{0.0, 200.0}, {0.0, 200.0 * per_kelvin}}}};
    m.add(Hold{.name = "jacket", .in = {"wall"}, .temperature = 20_degC});
    constexpr double half = capacity / (footprint * per_kelvin * 60.0);  // s: θ = θ₀ / (1 + t/half)
    Study study{.name = "cooling", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 3.0 * half, .tolerance = 0.02};
    study.start.temperature = 80_degC;
    m.add(study);
    m.add(Milestone{.name = "half", .part = "bath", .falls_below = 50_degC});
    m.add(Milestone{.name = "third", .part = "bath", .falls_below = 40_degC});
    const TimeFindings f = solve_over_time(m, m.studies.front());
    CHECK(f.milestones.at(0).first.value() == Approx(half).epsilon(2e-3));
    CHECK(f.milestones.at(1).first.value() == Approx(2.0 * half).epsilon(2e-3));
    CHECK(std::abs(f.energy.relative_residual()) < 1e-9);
    CHECK(f.summary.steps < 400);
}

TEST_CASE("a film that varies on a vessel which the grid cuts acts like a constant one of the same strength", "[network]") {
    for (const double cell : {4e-3, 2.9e-3}) {
        Model m;
        m.mesh.cell = cell;
        m.add(water()).add(plain("wall", wall_k));
        m.add(Part{.name = "bath", .shape = Cylinder{.radius = 40_mm, .length = 60_mm}, .material = "bath water", .stirred = true});
        m.add(Part{.name = "wall", .shape = Tube{.outer_radius = 46_mm, .inner_radius = 40_mm, .length = 60_mm}, .material = "wall"});
        m.add(heat("bath", 40_W)).add(Cooling{.name = "air", .on = {.parts = {"wall"}}, .convection = 100.0, .ambient = 20_degC});
        const auto bath_with = [&](const Joint& joint) {
            m.joints = {joint};
            return part(solved(m), "bath").mean;
        };
        const double constant = bath_with({.between = {"bath", "wall"}, .coefficient = 400.0});
        // As strong at the drop that there is, on a curve that starts from nothing and goes on to ten times as much.
        const double drop = 40.0 / (2.0 * std::acos(-1.0) * 0.04 * 0.06) / 400.0;
        CHECK(bath_with({.between = {"bath", "wall"}, .coefficient_curve = {{0.0, 10.0 * drop}, {0.0, 4000.0}}}) == Approx(constant).margin(0.01 * drop));
    }
}

TEST_CASE("a part held as a whole stands beside conductivities that depend on temperature", "[network]") {
    Model m = vessel();
    m.add(Hold{.name = "tank", .in = {"bath"}, .temperature = 80_degC});
    m.coolings.clear();
    m.add(Hold{.name = "sink", .on = {.parts = {"wall"}, .facing = {{0.0, 0.0, -1.0}}}, .temperature = 20_degC});
    m.materials[1].conductivity_factor = {{273.15, 473.15}, {1.0, 3.0}};  // k = 15 (1 + (T - 0 °C)/100 K) W/(m K)
    const Findings f = solved(m);
    // Through wall and film in a row: the mean of k over the wall's two temperatures.
    double face = 60_degC;
    for (int i = 0; i < 100; ++i) {
        const double k = wall_k * (1.0 + (0.5 * (face + 20_degC) - 273.15) / 100.0);
        face = 20_degC + (80_degC - 20_degC) * (0.01 / k) / (0.01 / k + 1.0 / film);
    }
    CHECK(part(f, "wall").hottest.temperature == Approx(face).margin(0.05));
    CHECK(std::abs(f.ledger.relative_residual()) < 1e-9);
}

TEST_CASE("films that cannot be are refused", "[network]") {
    const ConvectionLaw law{.law = "vertical plate", .fluid = "water", .length = 0.1};
    Model m = vessel();
    m.add(heat("bath", 30_W));
    const auto with = [&](const Joint& joint) {
        Model changed = m;
        changed.joints = {joint};
        return changed;
    };
    Model solid = with({.between = {"bath", "wall"}, .law = law});
    solid.parts.front().stirred = false;
    CHECK_THROWS_WITH(solved(solid), Contains("joint[0].coefficient") && Contains("neither is stirred or held as a whole"));
    solid.parts.front().stirred = true;
    solid.add(Hold{.in = {"wall"}, .temperature = 20_degC}).coolings.clear();
    CHECK_THROWS_WITH(solved(solid), Contains("both are stirred or held as a whole"));
    CHECK_THROWS_WITH(solved(with({.between = {"bath", "wall"}, .coefficient = 0.0})), Contains("positive"));
    CHECK_THROWS_WITH(solved(with({.between = {"bath", "wall"}, .coefficient_curve = {{0.0, 9.0}, {0.0, 0.0}}})), Contains("positive somewhere"));
    CHECK_THROWS_WITH(solved(with({.between = {"bath", "wall"}, .coefficient_curve = {{0.0, 9.0}, {5.0, -1.0}}})), Contains("negative"));
    CHECK_THROWS_WITH(solved(with({.between = {"bath", "wall"}, .coefficient = 5.0, .law = law})), Contains("give only one of"));
    CHECK_THROWS_WITH(solved(with({.between = {"bath", "wall"}, .law = ConvectionLaw{.law = "vertical plate", .fluid = "water"}})), Contains("length"));
    Joint factor{.between = {"bath", "wall"}, .law = law};
    factor.resistance_factor = {{300.0, 400.0}, {1.0, 2.0}};
    CHECK_THROWS_WITH(solved(with(factor)), Contains("resistance_factor") && Contains("no factor"));
    Model rubbing = with({.between = {"bath", "wall"}, .law = law});
    rubbing.powers.front() = {.name = "stirrer", .between = {{"bath", "wall"}}, .total = 5.0};
    CHECK_THROWS_WITH(solved(rubbing), Contains("put it into one of them"));
}

TEST_CASE("what is stirred without a film is told", "[network]") {
    Model m = vessel();
    m.joints.clear();
    m.add(heat("bath", 30_W));
    CHECK_THAT(to_text(solved(m)), Contains("\"bath on wall\": what is stirred exchanges heat"));
    Model two = vessel();
    two.joints.front().resistance = 1e-4;
    CHECK_THROWS_WITH(build_mesh(two), Contains("give only one of resistance, coefficient"));
}

TEST_CASE("a part can be held as a whole, and its heat is told", "[network]") {
    Model m = vessel();
    m.parts.front().stirred = false;
    m.add(Hold{.name = "tank", .in = {"bath"}, .temperature = 60_degC});
    const Findings f = solved(m);
    CHECK(part(f, "bath").hottest.temperature == Approx(60_degC).margin(5e-3));
    CHECK(part(f, "bath").coldest.temperature == Approx(60_degC).margin(5e-3));
    REQUIRE(f.holds.size() == 1);
    CHECK(f.holds.front().flow == Approx(-40.0 / to_air).epsilon(1e-3));
    CHECK(std::abs(f.ledger.relative_residual()) < 1e-9);
    CHECK_THAT(to_text(f), Contains("tank, held"));
    // Its temperature is imposed, and nothing else explains it; nor that of a held surface.
    const Explanation why = explain(m, solve_steady(m));
    CHECK(why.held_by == "tank");
    CHECK_THAT(to_text(why), Contains("hold \"tank\" imposes this temperature") && !Contains("Heat path"));
    CHECK(explain(m, solve_steady(m), {.part = "wall"}).held_by.empty());
    Model cold = m;
    cold.add(Hold{.name = "ice", .on = side("wall", Side::minus_y), .temperature = 0_degC});
    CHECK(explain(cold, solve_steady(cold), {.part = "wall", .coldest = true}).held_by == "ice");
    CHECK(through_file(m) == m);
    // Power into it leaves by the hold.
    m.add(heat("bath", 5_W));
    CHECK(solved(m).holds.front().flow == Approx(5.0 - 40.0 / to_air).epsilon(1e-3));

    Model twice = m;
    twice.add(Hold{.name = "other", .in = {"b*"}, .temperature = 50_degC});
    CHECK_THROWS_WITH(solve_steady(twice), Contains("part \"bath\" is held by \"tank\" already"));
    Model face = m;
    face.add(Hold{.name = "lid", .on = side("bath", Side::plus_z), .temperature = 50_degC});
    CHECK_THROWS_WITH(solve_steady(face), Contains("held as a whole already"));
    Model both = m;
    both.holds.front().on = side("bath", Side::plus_z);
    CHECK_THROWS_WITH(build_mesh(both), Contains("either \"on\" a surface or \"in\" whole parts"));
    Model beyond = m;
    beyond.add(block("far", {10_mm, 10_mm, 10_mm}, {200_mm, 0.0, 0.0}, "wall")).add(Mirror{.axis = 0, .at = 150_mm, .keep_plus = false});
    beyond.holds.front().in = {"far"};
    CHECK_THROWS_WITH(solve_steady(beyond), Contains("beyond a mirror plane"));
    Model resting = vessel();
    resting.add(heat("bath", 30_W)).add(block("far", {10_mm, 10_mm, 10_mm}, {200_mm, 0.0, 0.0}, "wall"));
    resting.parts.back().include = false;
    resting.add(Hold{.name = "tank", .in = {"far"}, .temperature = 60_degC});
    CHECK(solved(resting).holds.front().flow == 0.0);
    m.holds.front().in = {"bahth"};
    CHECK_THROWS_WITH(build_mesh(m), Contains("did you mean \"bath\""));
}

TEST_CASE("a held part follows its profile, and conducts by itself where its hold is left out", "[network]") {
    Model m = vessel();
    m.parts.front().stirred = false;
    m.joints.front().coefficient.reset();
    m.add(Profile{.name = "melt", .points = {{0.0, 600.0, 600.0, 1200.0}, {60_degC, 60_degC, 90_degC, 90_degC}}, .gives = CourseOf::temperature});
    m.profiles.front().points.at[2] = 601.0;
    m.add(Hold{.name = "tank", .in = {"bath"}, .temperature = 60_degC, .profile = "melt"});
    Study study{.name = "steps", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 1200.0, .tolerance = 0.05};
    study.start.temperature = 20_degC;
    m.add(study);
    Study alone{.name = "alone", .ambient = 20_degC, .without = {"tank"}, .kind = StudyKind::transient, .lasts = 600.0, .tolerance = 0.05};
    alone.start.temperature = 60_degC;
    m.add(alone);
    const TimeFindings f = solve_over_time(m, m.studies[0]);
    const auto bath = std::find_if(f.parts.begin(), f.parts.end(), [](const PartOverTime& p) { return p.name == "bath"; });
    CHECK(bath->coldest.spot.temperature == Approx(60_degC).margin(0.05));
    CHECK(bath->hottest.spot.temperature == Approx(90_degC).margin(0.05));
    CHECK(f.summary.steps < 300);
    CHECK(std::abs(f.energy.relative_residual()) < 1e-8);
    const TimeFindings free = solve_over_time(m, m.studies[1]);
    const auto cooled = std::find_if(free.parts.begin(), free.parts.end(), [](const PartOverTime& p) { return p.name == "bath"; });
    CHECK(cooled->end_max - cooled->end_min > 5.0);  // still water conducts badly
}

TEST_CASE("heat on faces in contact goes to both sides by what keeps it away from the other", "[network]") {
    // Two bars end to end, their far ends held at 20 and 50 °C, a joint between: every temperature in closed form.
    constexpr double la = 0.04, lb = 0.06, ka = 50.0, kb = 5.0, joint = 2e-4, cross = 1e-4, power = 3.0;
    for (const double share : {0.0, 0.3, 1.0}) {
        Model m;
        m.mesh.cell = 2_mm;
        m.add(plain("a", ka)).add(plain("b", kb));
        m.add(block("belt", {la, 10_mm, 10_mm}, {}, "a"));
        m.add(block("pulley", {lb, 10_mm, 10_mm}, {la, 0.0, 0.0}, "b"));
        m.add(Joint{.name = "face", .between = {"pulley", "belt"}, .resistance = joint});
        m.add(Power{.name = "friction", .between = {{"belt", "pulley"}}, .share = share, .total = power});
        m.add(Hold{.name = "left", .on = side("belt", Side::minus_x), .temperature = 20_degC});
        m.add(Hold{.name = "right", .on = side("pulley", Side::plus_x), .temperature = 50_degC});
        // Resistances of the three, K/W; q1 and q2 on the two faces.
        const double ra = la / (ka * cross), rj = joint / cross, rb = lb / (kb * cross), q1 = share * power, q2 = (1.0 - share) * power;
        // From the balance of the two faces.
        const double first = (20.0 / ra + q1 + (50.0 / rb + q2) / (1.0 + rj / rb)) / (1.0 / ra + 1.0 / (rj + rb));
        const double second = (first / rj + 50.0 / rb + q2) / (1.0 / rj + 1.0 / rb);
        const Findings f = solved(m);
        CHECK(part(f, "belt").hottest.temperature == Approx(celsius(first)).margin(0.01));
        CHECK(part(f, "pulley").hottest.temperature == Approx(celsius(std::max(second, 50.0))).margin(0.01));
        REQUIRE(f.joints.size() == 1);
        const double from_belt = (first - second) / rj;
        CHECK((f.joints[0].first == "belt" ? 1.0 : -1.0) * f.joints[0].flow == Approx(from_belt).margin(2e-3));
        CHECK(std::abs(f.joints[0].drop) == Approx(std::abs(first - second)).margin(2e-3));
        CHECK(f.loads[0].heat == Approx(power));
        CHECK(f.loads[0].hottest_surface.value() == Approx(celsius(std::max(first, second))).margin(0.01));
        CHECK(std::abs(f.ledger.relative_residual()) < 1e-9);
        // What explains the face adds up to its rise.
        const SteadySolution solution = solve_steady(m);
        const Explanation why = explain(m, solution, {.part = "belt"});
        double along = 0.0, by_load = 0.0;
        for (const Contribution& c : why.along) along += c.rise;
        for (const Contribution& c : why.by_load) by_load += c.rise;
        CHECK(along == Approx(why.rise).margin(1e-6));
        CHECK(by_load == Approx(why.rise).margin(1e-6));
        CHECK(through_file(m) == m);
        m.powers[0].between = {{"pulley", "belt"}};
        m.powers[0].share = 1.0 - share;
        CHECK(part(solved(m), "belt").hottest.temperature == Approx(celsius(first)).margin(0.01));
    }
}

TEST_CASE("a mirrored contact sets free its share of the heat, and in time as its profile says", "[network]") {
    const auto model = [](bool mirrored) {
        Model m;
        m.mesh.cell = 4_mm;
        m.add(plain("a", 50.0)).add(plain("b", 5.0));
        m.add(block("disc", {40_mm, 40_mm, 8_mm}, {}, "a")).add(block("pad", {40_mm, 40_mm, 8_mm}, {0.0, 0.0, 8_mm}, "b"));
        m.add(Power{.name = "braking", .between = {{"disc", "pad"}}, .by_effusivities = true, .total = 100.0, .profile = {"stops"}});
        m.add(Profile{.name = "stops", .points = {{0.0, 10.0, 20.0}, {1.0, 1.0, 0.0}}, .stepped = true});
        m.add(convection(exposed(), 30.0, 20_degC));
        if (mirrored) m.add(Mirror{.axis = 0, .at = 20_mm});
        Study study{.name = "stop", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 20.0, .tolerance = 0.02};
        m.add(study);
        return m;
    };
    const Model whole = model(false), half = model(true);
    const TimeFindings a = solve_over_time(whole, whole.studies[0]), b = solve_over_time(half, half.studies[0]);
    CHECK(a.energy.of(HeatKind::load, "braking") == Approx(1000.0 * 2.0).epsilon(1e-6));
    CHECK(b.energy.of(HeatKind::load, "braking") == Approx(1000.0 * 2.0).epsilon(1e-6));
    CHECK(a.hottest.spot.temperature == Approx(b.hottest.spot.temperature).margin(0.05));
    CHECK(std::abs(a.energy.relative_residual()) < 1e-9);
}

TEST_CASE("heat between parts that cannot be is refused", "[network]") {
    const auto refused = [](Power power, const std::string& why) {
        Model m = block_on_plate();
        m.add(block("far", {10_mm, 10_mm, 10_mm}, {0.0, 0.0, 50_mm}, "copper"));
        m.add(std::move(power));
        CHECK_THROWS_WITH(solve_steady(m), Contains(why));
    };
    refused({.name = "p", .between = {{"block", "far"}}, .total = 1.0}, "touch nowhere");
    refused({.name = "p", .between = {{"block", "plate"}}, .each = 1.0}, "given as total or flux");
    refused({.name = "p", .between = {{"block", "plate"}}, .share = 1.5, .total = 1.0}, "a share is 0 to 1");
    refused({.name = "p", .between = {{"block", "plate"}}, .share = 0.5, .by_effusivities = true, .total = 1.0}, "either a share");
    refused({.name = "p", .into = {"block"}, .share = 0.5, .total = 1.0}, "go with heat \"between\"");
    refused({.name = "p", .into = {"block"}, .between = {{"block", "plate"}}, .total = 1.0}, "give one of them");
    refused({.name = "p", .between = {{"blok", "plate"}}, .total = 1.0}, "did you mean \"block\"");
    Model open = block_on_plate();
    std::get<Box>(open.parts[1].shape).at.z += 1_mm;
    open.joints.front().may_be_open = true;
    open.powers.clear();
    open.add(Power{.name = "friction", .between = {{"block", "plate"}}, .total = 5.0}).add(heat("plate", 1.0));
    const Findings f = findings(open, solve_steady(open));
    CHECK(f.ledger.loads == Approx(1.0));
}
