// Conduction in time against series, error functions and closed forms.

#include "verification/in_time.hpp"

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

Hold held(Selection on, double celsius_value) { return Hold{.on = std::move(on), .temperature = celsius(celsius_value)}; }

Power flux_on(Selection on, double flux) {
    Power power{.on = std::move(on)};
    power.flux = flux;
    return power;
}

}  // namespace

TEST_CASE("t01: slab with a sinusoidal end temperature", "[verification][time]") {
    const ByEitherMethod method;
    Model m = bar(0.1, storing("m", 35.0, 7200.0, 440.5), 1_mm);
    Profile wave{.name = "wave"};
    wave.sine = Sine{.mean = celsius(0), .amplitude = 100.0, .period = 80.0};
    wave.gives = CourseOf::temperature;
    m.add(wave);
    m.add(held(side("bar", Side::minus_x), 0));
    Hold end = held(side("bar", Side::plus_x), 0);
    end.profile = "wave";
    m.add(end);
    m.add(transient(60.0, 0.0));
    const InTime r = in_time(m, {on_bar(0.08), on_bar(0.06), on_bar(0.02)}, {32.0, 20.0, 60.0});
    check_near({r.celsius[0][0], r.celsius[1][1], r.celsius[2][2]}, {36.60311595901317, 2.227039140551007, 1.7346928077498909}, {0.15});
}

TEST_CASE("t03: semi-infinite solid, three kinds of step", "[verification][time]") {
    const ByEitherMethod method;
    const std::vector<double> times{600.0, 1800.0};
    const auto solid = [] {
        Model m = bar(0.32, storing("m", 1.1, 2300.0, 880.0), 2_mm);
        m.mesh.regions.push_back({.box = Box{.size = {0.04, 2e-3, 2e-3}}, .cell = 0.5e-3});
        return m;
    };
    const std::vector<Reading> places{on_bar(0.0), on_bar(0.01), on_bar(0.03)};
    SECTION("flux") {
        Model m = solid();
        m.add(flux_on(side("bar", Side::minus_x), 1500.0));
        m.add(transient(1800.0, 20.0));
        const InTime r = in_time(m, places, times);
        check_near({r.celsius[0][0], r.celsius[1][0], r.celsius[2][1], r.celsius[0][1]},
                   {47.78563631170516, 36.25269688113906, 37.8804861154224, 68.12613381250404}, {0.2779, 0.1625, 0.1788, 0.4813});
        CHECK_FALSE(r.solution.remaining_change);  // nothing leads away
    }
    SECTION("temperature") {
        Model m = solid();
        m.add(held(side("bar", Side::minus_x), 90));
        m.add(transient(1800.0, 20.0));
        const InTime r = in_time(m, places, times);
        check_near({r.celsius[0][0], r.celsius[1][0], r.celsius[2][1], r.celsius[0][1]}, {90.0, 68.67590299291396, 54.83367812229253, 90.0},
                   {0.7, 0.4868, 0.3483, 0.7});
        CHECK(-held(r.findings) / 4e-6 == Approx(5000241.134940753).epsilon(0.01));
    }
    SECTION("convection") {
        Model m = solid();
        m.add(convection(side("bar", Side::minus_x), 35.0, celsius(90)));
        m.add(transient(1800.0, 20.0));
        const InTime r = in_time(m, places, times);
        check_near({r.celsius[0][0], r.celsius[1][0], r.celsius[2][1], r.celsius[0][1]},
                   {49.44413353302106, 38.083834127940264, 36.71558198303106, 59.97676300467623}, {0.2944, 0.1808, 0.1672, 0.3998});
    }
}

TEST_CASE("t05: slab that cools, Bi = 2", "[verification][time]") {
    const ByEitherMethod method;
    Model m = bar(20_mm, storing("m", 0.5, 1200.0, 1500.0), 0.5_mm);
    m.add(convection(side("bar", Side::plus_x), 50.0, celsius(20)));
    m.add(transient(2160.0, 80.0));
    const InTime r = in_time(m, {on_bar(0.0), on_bar(20_mm)}, {72.0, 288.0, 720.0, 2160.0});
    check_near(r.celsius[0], {79.97222187056161, 75.07353208214168, 59.57710372989743, 32.416957922247875}, {0.3});
    check_near(r.celsius[1], {58.62729632549629, 47.45827991630651, 38.78796199003484, 25.886669562042112}, {0.3});
    check_near(r.mean, {75.54755670392467, 65.97694858625675, 52.37693432683804, 30.15242710585614}, {0.18});
}

TEST_CASE("t06: cylinder that warms, Bi = 0.4", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    m.mesh.cell = 0.5_mm;
    m.materials = {storing("m", 15.0, 7900.0, 480.0)};
    m.space = Space{.revolved = true};
    m.add(Part{.name = "rod", .shape = Cylinder{.radius = 15_mm, .length = 2_mm}, .material = "m"});
    Selection on;
    on.sides = {"side"};
    m.add(convection(on, 400.0, celsius(180)));
    m.add(transient(113.76, 25.0));
    const InTime r = in_time(m, {{"rod", {0, 0, 1_mm}}, {"rod", {15_mm, 0, 1_mm}}}, {2.844, 11.376, 34.128, 113.76});
    check_near(r.celsius[0], {25.071798801029786, 34.33313338805439, 70.34319536524578, 140.26978103590614}, {0.775});
    check_near(r.celsius[1], {41.03892185564595, 58.470296154719236, 89.3382226530832, 147.15276410583527}, {0.775});
    check_near(r.mean, {30.775322563057017, 46.30988338207487, 79.98582481934403, 143.7640618591878}, {0.465});
}

TEST_CASE("t10: block that warms from all sides", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    m.mesh.cell = 2_mm;
    m.materials = {storing("m", 0.8, 1900.0, 1000.0)};
    m.add(block("block", {20_mm, 20_mm, 40_mm}, {}, "m"));  // an eighth
    for (int axis = 0; axis < 3; ++axis) m.add(Mirror{.axis = axis, .at = 0.0, .keep_plus = true});
    m.add(convection(exposed(), 60.0, celsius(100)));
    m.add(transient(1800.0, 20.0));
    const InTime r = in_time(m, {{"block", {0, 0, 0}}, {"block", {20_mm, 20_mm, 40_mm}}}, {120.0, 600.0, 1800.0});
    check_near(r.celsius[0], {23.307655559664795, 70.92647560304914, 98.37775189749195}, {0.4});
    check_near(r.celsius[1], {82.79870424784427, 96.43077152208969, 99.81835603237376}, {0.64});
    check_near(r.mean, {43.98649899231963, 83.21168126476007, 99.09680016757584}, {0.32});
    for (const double t : r.solution.end.temperature) CHECK(t <= celsius(100) + 0.1);
}

TEST_CASE("t11: two layers with a joint, step of flux", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    m.mesh.cell = 0.25_mm;
    m.mesh.through = 1;
    m.materials = {storing("a", 390.0, 8900.0, 385.0), storing("b", 0.8, 1800.0, 1100.0)};
    m.add(block("first", {3_mm, 2_mm, 2_mm}, {}, "a"));
    m.add(block("second", {12_mm, 2_mm, 2_mm}, {3_mm, 0, 0}, "b"));
    m.add(Joint{.between = {"first", "second"}, .resistance = 2e-4});
    m.add(flux_on(side("first", Side::minus_x), 4000.0));
    m.add(convection(side("second", Side::plus_x), 35.0, celsius(20)));
    m.add(transient(600.0, 20.0));
    const InTime r = in_time(m, {{"first", {0, 1_mm, 1_mm}}, {"second", {3.0001_mm, 1_mm, 1_mm}}, {"second", {15_mm, 1_mm, 1_mm}}}, {5.0, 30.0, 120.0, 600.0});
    check_near(r.celsius[0], {21.65764184943709, 27.8057800778263, 42.784103920070606, 92.92597909671808}, {0.1823, 0.1823, 0.2278, 0.7293});
    check_near(r.celsius[1], {21.454922810276663, 27.420261673433128, 42.24505707541141, 92.27081141700421}, {0.1807, 0.1807, 0.2225, 0.7227});
    check_near(r.celsius[2], {20.000000000270933, 20.046999530717102, 24.073680736686676, 59.119990109923314}, {0.0978, 0.0978, 0.0978, 0.3912});
}

TEST_CASE("t13: two bodies alone equalise", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    add_node(m, "one", 45.0);
    add_node(m, "two", 110.0);
    connect(m, "one", "two", 1.0 / 1.6);
    Study study = transient(2000.0, 15.0);
    study.start.parts = {{"one", celsius(95)}};
    m.add(study);
    const InTime r = in_time(m, {{"one"}, {"two"}}, {10.0, 40.0, 150.0, 2000.0});
    check_near(r.celsius[0], {84.90856090595744, 64.17793420806356, 41.240432592970926, 38.225806451612904}, {0.2, 0.2, 0.2, 0.02});
    check_near(r.celsius[1], {19.12831599301741, 27.60902691488309, 36.99255030287553, 38.225806451612904}, {0.2, 0.2, 0.2, 0.02});
}

TEST_CASE("t15: short cylinder, side and ends", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    m.mesh.cell = 0.75_mm;
    m.materials = {storing("m", 1.1, 2000.0, 1000.0)};
    m.space = Space{.revolved = true};
    m.add(Part{.name = "puck", .shape = Cylinder{.radius = 20_mm, .length = 15_mm}, .material = "m"});  // the upper half
    Selection round, top;
    round.sides = {"side"};
    top.sides = {"top"};
    m.add(convection(round, 60.0, celsius(25)));
    m.add(convection(top, 110.0, celsius(25)));
    m.add(transient(900.0, 150.0));
    const InTime r = in_time(m, {{"puck", {0, 0, 0}}, {"puck", {19.9999_mm, 0, 14.9999_mm}}}, {60.0, 300.0, 900.0});
    check_near(r.celsius[0], {144.47170101033487, 67.92452250347984, 27.551643542709456}, {0.625});
    check_near(r.celsius[1], {75.04263150688855, 39.67629009836953, 25.87164122374035}, {1.0});
    check_near(r.mean, {116.00312566612726, 54.162469411086526, 26.732572727670217}, {0.5});
}

TEST_CASE("t16: hollow cylinder, step of flux inside", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    m.mesh.cell = 0.25_mm;
    m.materials = {storing("m", 0.7, 2200.0, 1000.0)};
    m.space = Space{.revolved = true};
    m.add(Part{.name = "pipe", .shape = Tube{.outer_radius = 16_mm, .inner_radius = 5_mm, .length = 1_mm}, .material = "m"});
    Selection bore, outside;
    bore.parts = {"pipe"};
    bore.sides = {"bore"};
    outside.parts = {"pipe"};
    outside.sides = {"side"};
    m.add(flux_on(bore, 3000.0));
    m.add(convection(outside, 30.0, celsius(20)));
    m.add(transient(1200.0, 20.0));
    const InTime r = in_time(m, {{"pipe", {5_mm, 0, 0.5_mm}}, {"pipe", {16_mm, 0, 0.5_mm}}}, {10.0, 60.0, 300.0, 1200.0});
    check_near(r.celsius[0], {27.485735204611693, 35.55857632618763, 49.51475140939387, 70.1017967068739}, {0.1002, 0.1245, 0.2361, 0.4008});
    check_near(r.celsius[1], {20.000031421947654, 20.739361530210495, 30.263598992301066, 46.46929616812264}, {0.0529, 0.0529, 0.0821, 0.2118});
}

TEST_CASE("z01: step of power on a source on a plate", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    m.mesh.cell = 2.5_mm;
    m.mesh.regions.push_back({.box = Box{.size = {10_mm, 10_mm, 1.5_mm}, .at = {20_mm, 20_mm, 2.5_mm}}, .cell = 0.5e-3});
    m.materials = {storing("m", 180.0, 2430.0, 1000.0)};
    m.add(block("plate", {50_mm, 50_mm, 4_mm}, {}, "m"));
    Selection source = side("plate", Side::plus_z);
    source.region = Box{.size = {10_mm, 10_mm, 2_mm}, .at = {20_mm, 20_mm, 3_mm}};
    Power power{.on = source};
    power.total = 25.0;
    m.add(power);
    m.add(convection(side("plate", Side::minus_z), 150.0, celsius(25)));
    m.add(transient(200.0, 25.0));
    const std::vector<double> times{0.02, 0.2, 2.0, 20.0, 200.0};
    const InTime r = in_time(m, {{"plate", {25_mm, 25_mm, 4_mm}}, {"plate", {0, 0, 4_mm}}}, times);
    check_near(r.celsius[0], {26.906340912523902, 30.339171885449574, 36.042152142766035, 52.0577360979899, 98.08472355958602},
               {0.1827, 0.1827, 0.1827, 0.2706, 0.7308});
    check_near(r.celsius[1], {25.0, 25.000000018006837, 25.49249747609527, 40.90025505051267, 86.92724251177833}, {0.67});
    CHECK(r.solution.summary.solves <= 160);  // for five decades of time
}

TEST_CASE("n01: conductivity and heat capacity that vary with temperature", "[verification][time]") {
    Material varying = storing("m", 2.0 * (1.0 + 0.003 * 0.0), 2000.0, 1000.0);
    varying.conductivity_factor = {{celsius(0), celsius(400)}, {1.0, 2.2}};
    varying.specific_heat_factor = {{celsius(0), celsius(400)}, {1.0, 1.4}};
    Model m = bar(20_mm, varying, 0.5_mm);
    m.add(held(side("bar", Side::minus_x), 300));
    m.add(transient(200.0, 20.0));
    const InTime r = in_time(m, {on_bar(10_mm), on_bar(20_mm)}, {20.0, 80.0, 200.0});
    check_near(r.celsius[0], {70.87881918186882, 179.2850488298982, 258.13173207933136}, {0.7, 1.59, 2.38});
    check_near(r.celsius[1], {21.802114032599853, 118.73405671623328, 239.72411122119303}, {0.7, 0.987, 2.197});
}

TEST_CASE("n02: slab warmed by flux, radiating from its far face", "[verification][time]") {
    Model m = bar(15_mm, storing("m", 1.5, 2400.0, 1000.0), 0.5_mm);
    m.add(flux_on(side("bar", Side::minus_x), 8000.0));
    Cooling cooling = convection(side("bar", Side::plus_x), 10.0, celsius(25));
    cooling.emissivity = 0.9;
    cooling.radiant = celsius(15);
    m.add(cooling);
    m.add(transient(3000.0, 25.0));
    const InTime r = in_time(m, {on_bar(0.0), on_bar(7.5_mm), on_bar(15_mm)}, {120.0, 600.0, 3000.0});
    check_near(r.celsius[0], {77.59889464349246, 173.302700711658, 364.2033745449563}, {0.848, 1.483, 3.392});
    check_near(r.celsius[1], {48.042440468668325, 141.14499962437864, 325.0988636546014}, {0.848, 1.161, 3.0});
    check_near(r.celsius[2], {37.90433054358507, 124.26964276247955, 287.6973098732071}, {0.848, 0.993, 2.627});
}

TEST_CASE("d05: warm-up and cool-down times", "[verification][time]") {
    const ByEitherMethod method;
    Model m = bar(12_mm, storing("m", 0.9, 1900.0, 1050.0), 0.25_mm);
    Profile once{.name = "once"};
    once.points = {{0.0, 1200.0}, {1.0, 0.0}};
    once.stepped = true;
    m.add(once);
    Power power = flux_on(side("bar", Side::minus_x), 2500.0);
    power.profile = {"once"};
    m.add(power);
    m.add(convection(side("bar", Side::plus_x), 45.0, celsius(22)));
    m.add(sensor_in("face", "bar", {0, 1_mm, 1_mm}));
    m.add(Limit{.sensor = "face", .below = celsius(55)});
    m.add(Limit{.sensor = "face", .below = celsius(40)});
    m.add(transient(4000.0, 22.0));
    const InTime r = in_time(m);
    const std::vector<LimitOverTime>& limits = r.findings.limits;
    CHECK(*limits[0].first_crossing == Approx(221.3179867253049).epsilon(0.01));
    CHECK(*limits[1].met_from - 1200.0 == Approx(841.1743134076598).epsilon(0.01));
    CHECK(limits[0].worst.spot.temperature - zero_celsius == Approx(98.7169708910732).margin(0.38));
    CHECK(limits[0].worst.time == Approx(1200.0));
    REQUIRE(limits[1].beyond.size() == 1);
    CHECK_FALSE(limits[0].kept());
}

TEST_CASE("the method is of order four in time", "[verification][time]") {
    // Smooth: a bar that follows a sine, away from the start.
    const auto end_with = [](double step) {
        Model m = bar(20_mm, storing("m", 5.0, 2000.0, 1000.0), 2_mm);
        Profile wave{.name = "wave"};
        wave.sine = Sine{.mean = 1.0, .amplitude = 1.0, .period = 100.0, .delay = 25.0};  // begins at 0 with no slope
        m.add(wave);
        Power power = heat("bar", 0.2);
        power.profile = {"wave"};
        m.add(power);
        m.add(convection(side("bar", Side::plus_x), 200.0, celsius(20)));
        Study study = transient(80.0, 20.0, 1e-6);
        study.fixed_step = step;
        m.add(study);
        return in_time(m).solution.end.temperature;
    };
    const std::vector<double> best = end_with(0.5);
    const auto error = [&](double step) {
        const std::vector<double> t = end_with(step);
        double most = 0.0;
        for (std::size_t i = 0; i < t.size(); ++i) most = std::max(most, std::abs(t[i] - best[i]));
        return most;
    };
    const double coarse = error(8.0), fine = error(4.0);
    INFO("errors " << coarse << " and " << fine);
    CHECK(std::log2(coarse / fine) >= 3.7);
}

TEST_CASE("a first step that is much too long does not overshoot", "[verification][time]") {
    Model m = bar(50_mm, storing("m", 20.0, 2000.0, 1000.0), 1_mm);
    m.add(held(side("bar", Side::minus_x), 100));
    m.add(convection(side("bar", Side::plus_x), 10.0, celsius(20)));
    Study study = transient(400.0, 20.0);
    study.fixed_step = 100.0;  // the first cells settle within milliseconds
    m.add(study);
    const InTime r = in_time(m);
    for (const PartOverTime& p : r.findings.parts) {
        CHECK(p.hottest.spot.temperature <= celsius(100) + 0.1);
        CHECK(p.coldest.spot.temperature >= celsius(20) - 0.1);
    }
}

TEST_CASE("the estimate of the error is honest at three tolerances", "[verification][time]") {
    const auto end_with = [](double tolerance) {
        Model m = block_on_plate();
        Profile duty{.name = "duty"};
        duty.duty = Duty{.on = 20.0, .off = 40.0};
        m.add(duty);
        m.powers[0].profile = {"duty"};
        m.limits.clear();
        m.add(transient(150.0, 35.0, tolerance));
        return in_time(m).solution;
    };
    const std::vector<double> best = end_with(1e-4).end.temperature;
    for (const double tolerance : {1.0, 0.1, 0.01}) {
        const TransientSolution s = end_with(tolerance);
        double most = 0.0;
        for (std::size_t i = 0; i < best.size(); ++i) most = std::max(most, std::abs(s.end.temperature[i] - best[i]));
        INFO("tolerance " << tolerance << ", " << s.summary.text());
        CHECK(most <= tolerance);
    }
}
