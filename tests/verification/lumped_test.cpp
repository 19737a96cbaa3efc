// Bodies of one temperature each, against exact solutions: tables, duty cycles, thermostats, ladders, melting.

#include "verification/in_time.hpp"

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

const Reading first{"one"};
const Reading first_lump{"one", {5e-3, 5e-3, 5e-3}};

Profile stepped(std::string name, std::vector<double> at, std::vector<double> value) {
    Profile p{.name = std::move(name)};
    p.points = {std::move(at), std::move(value)};
    p.stepped = true;
    return p;
}

}  // namespace

TEST_CASE("l01: cooling to a threshold", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    add_node(m, "one", 340.0);
    cool_node(m, "one", 1.9, 24.0);
    m.add(Limit{.sensor = "one", .below = celsius(45)});
    Study study = transient(600.0, 140.0);
    m.add(study);
    const InTime r = in_time(m, {first}, {200.0});
    CHECK(r.celsius[0][0] == Approx(61.93761622031006).margin(0.2));
    CHECK(*r.findings.limits[0].met_from == Approx(305.833176921158).epsilon(0.005));
    CHECK(*r.findings.limits[0].first_crossing == 0.0);
    m.studies[0].tolerance = 1e-3;
    CHECK(*in_time(m).findings.limits[0].met_from == Approx(305.833176921158).epsilon(1e-4));
    CHECK(*r.solution.time_constant == Approx(340.0 / 1.9).epsilon(1e-3));
    // All that is left of the difference would go.
    CHECK(*r.solution.remaining_change == Approx(r.solution.end.temperature[0] - celsius(24)).epsilon(1e-3));
}

TEST_CASE("l02: a coefficient that depends on the difference", "[verification][time]") {
    Model m;
    add_node(m, "one", 500.0);
    cool_node_by(m, "one", celsius(20), celsius(121), [](double t) { return 0.25 * std::pow(t - celsius(20), 0.25); });
    m.add(Limit{.sensor = "one", .below = celsius(40)});
    m.add(transient(3600.0, 120.0));
    const InTime r = in_time(m, {first}, {300.0, 1200.0, 3600.0});
    check_near(r.celsius[0], {83.87389423577886, 41.164473209291124, 22.901138467865003}, {0.2});
    CHECK(*r.findings.limits[0].met_from == Approx(1253.1443078779998).epsilon(0.006));
}

TEST_CASE("l04: cooling by radiation", "[verification][time]") {
    Model m;
    add_node(m, "one", 77.0);
    // ε A = 0.0096 m².
    cool_node_by(m, "one", 300.0, 901.0, [](double t) { return stefan_boltzmann * 0.0096 * (t * t + 300.0 * 300.0) * (t + 300.0); });
    m.add(Limit{.sensor = "one", .below = 450.0});
    m.add(transient(1500.0, 900.0 - zero_celsius));
    const InTime r = in_time(m, {first}, {200.0, 600.0, 1500.0});
    check_near(r.celsius[0], {568.8919033657118 - zero_celsius, 429.8623661585767 - zero_celsius, 347.0901047225648 - zero_celsius}, {0.5});
    CHECK(*r.findings.limits[0].met_from == Approx(502.65944244873566).epsilon(0.005));
}

TEST_CASE("l06: a table of power", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    add_node(m, "one", 320.0);
    cool_node(m, "one", 1.4, 25.0);
    Profile table{.name = "table"};
    table.points = {{0.0, 60.0, 300.0, 360.0, 900.0, 960.0, 1500.0}, {0.0, 40.0, 40.0, 10.0, 10.0, 0.0, 0.0}};
    m.add(table);
    Power power = heat("one", 1.0);
    power.profile = {"table"};
    m.add(power);
    Study study = transient(1500.0, 25.0, 0.01);
    m.add(study);
    const InTime r = in_time(m, {first}, {60.0, 300.0, 500.0, 900.0, 1500.0});
    check_near(r.celsius[0], {28.44232537344986, 44.77780676114597, 38.69200111560548, 33.28092771722634, 25.674134356480856},
               {0.0247, 0.0989, 0.0685, 0.0414, 0.0247});
    CHECK(r.findings.hottest.spot.temperature - zero_celsius == Approx(45.21995617779538).margin(0.1));
    CHECK(r.findings.hottest.time == Approx(323.4).margin(3.234));
    CHECK(r.findings.energy.entries[0].energy == Approx(18000.0).margin(0.018));
}

TEST_CASE("l08: a ladder of four stages", "[verification][time]") {
    const ByEitherMethod method;
    const double capacity[] = {0.004, 0.05, 0.9, 25.0}, resistance[] = {0.12, 0.35, 0.5, 2.2};
    const char* names[] = {"one", "two", "three", "four"};
    Model m;
    for (int n = 0; n < 4; ++n) add_node(m, names[n], capacity[n]);
    for (int n = 0; n < 3; ++n) connect(m, names[n], names[n + 1], 1.0 / resistance[n]);
    cool_node(m, "four", 1.0 / 2.2, 25.0);
    m.add(stepped("pulse", {0.0, 100.0}, {1.0, 0.0}));
    m.add(heat("one", 15.0));
    SECTION("step") {
        m.add(transient(100.0, 25.0, 1e-3));
        const InTime r = in_time(m, {first}, {1e-4, 1e-3, 1e-2, 0.1, 1.0, 10.0, 100.0});
        const double zth[] = {0.022580617045000875, 0.11046436911363237, 0.2534536220350547, 0.5292846308057223,
                              0.913410551525895,    1.2914207126484203,  2.781402270091887};
        for (std::size_t i = 0; i < 7; ++i) CHECK((r.celsius[0][i] - 25.0) / 15.0 == Approx(zth[i]).epsilon(0.005));
        CHECK(*r.solution.time_constant == Approx(57.1165154912593).epsilon(0.01));
    }
    SECTION("pulse") {
        m.profiles[0].points.at[1] = 1.0;
        m.powers[0].profile = {"pulse"};
        m.add(transient(1.5, 25.0, 1e-3));
        CHECK(in_time(m, {first}, {1.5}).celsius[0][0] == Approx(27.837630155543952).margin(0.02));
    }
}

TEST_CASE("d01: duty cycle of two bodies, settled and from the start", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    add_node(m, "one", 12.0);
    add_node(m, "two", 180.0);
    connect(m, "one", "two", 0.8);
    cool_node(m, "two", 0.45, 25.0);
    Profile duty{.name = "duty"};
    duty.duty = Duty{.on = 30.0, .off = 90.0};
    m.add(duty);
    Power power = heat("one", 20.0);
    power.profile = {"duty"};
    m.add(power);
    Study cyclic;
    cyclic.name = "settled";
    cyclic.kind = StudyKind::cyclic;
    cyclic.ambient = celsius(25);
    m.add(cyclic);
    m.add(transient(360.0, 25.0));
    const InTime r = in_time(m, {first, {"two"}}, {30.0, 120.0});
    check_near(r.celsius[0], {57.439640603017565, 35.715116833674436}, {0.162, 0.0536});
    check_near(r.celsius[1], {36.39341346354448, 35.306666063515664}, {0.057, 0.0515});
    const std::vector<SensorOverTime>& s = r.findings.sensors;
    check_near({s[0].highest - zero_celsius, s[0].lowest - zero_celsius, s[1].highest - zero_celsius, s[1].lowest - zero_celsius},
               {57.439640603017565, 35.71511683367443, 36.83176542220127, 35.264746682175314}, {0.162, 0.0536, 0.059, 0.0513});
    check_near({s[0].mean - zero_celsius, s[1].mean - zero_celsius}, {42.361111111111114, 36.111111111111114}, {0.0694, 0.0444});
    CHECK(r.findings.cycle->computed <= 4);
    REQUIRE(r.findings.cycle->cycles_to_settle);
    CHECK(*r.findings.cycle->cycles_to_settle == Approx(14.0).margin(1.0));
    CHECK(std::abs(r.findings.energy.stored) <= 1e-3 * r.findings.energy.throughput);
    const InTime marched = in_time(m, {first}, {30.0, 150.0, 270.0}, 1);
    check_near(marched.celsius[0], {47.47613809479556, 49.91680420135885, 51.75748483184513}, {0.112, 0.125, 0.134});
}

TEST_CASE("d03: square wave on a slab", "[verification][time]") {
    const ByEitherMethod method;
    Model m = bar(20_mm, storing("m", 2.0, 2200.0, 900.0), 0.25_mm);
    Profile duty{.name = "duty"};
    duty.duty = Duty{.on = 60.0, .off = 180.0};
    m.add(duty);
    Power power{.on = side("bar", Side::minus_x)};
    power.flux = 6000.0;
    power.profile = {"duty"};
    m.add(power);
    m.add(convection(side("bar", Side::plus_x), 80.0, celsius(25)));
    m.add(sensor_in("inside", "bar", {8_mm, 1_mm, 1_mm}));
    m.add(sensor_in("far", "bar", {20_mm, 1_mm, 1_mm}));
    m.add(sensor_in("near", "bar", {0, 1_mm, 1_mm}));
    Study cyclic;
    cyclic.name = "settled";
    cyclic.kind = StudyKind::cyclic;
    cyclic.ambient = celsius(25);
    m.add(cyclic);
    const InTime r = in_time(m, {on_bar(0.0), on_bar(8_mm), on_bar(20_mm)}, {60.0, 240.0});
    check_near({r.celsius[0][0], r.celsius[1][0], r.celsius[2][0]}, {74.41273163533856, 55.952639499135444, 42.75773419957362}, {0.346, 0.217, 0.124});
    check_near({r.celsius[0][1], r.celsius[1][1], r.celsius[2][1]}, {50.38560635348158, 49.09180542319875, 42.771867930905024}, {0.178, 0.169, 0.124});
    const std::vector<SensorOverTime>& s = r.findings.sensors;
    check_near({s[0].highest - zero_celsius, s[0].lowest - zero_celsius}, {56.91029270743996, 48.936145320701655}, {0.223, 0.168});
    check_near({s[1].highest - zero_celsius, s[1].lowest - zero_celsius}, {45.15044391459213, 42.10265505076622}, {0.141, 0.12});
    check_near({s[2].mean - zero_celsius, s[1].mean - zero_celsius}, {58.75, 43.75}, {0.10125, 0.05625});
    CHECK(r.findings.cycle->computed <= 4);
}

TEST_CASE("the settled cycle is found for any period, with radiation, too", "[verification][time]") {
    for (const double period : {0.01, 1.0, 60.0, 1200.0}) {
        Model m = bar(20_mm, storing("m", 2.0, 2200.0, 900.0), 1_mm);
        Profile duty{.name = "duty"};
        duty.duty = Duty{.on = 0.3 * period, .off = 0.7 * period};
        m.add(duty);
        Power power{.on = side("bar", Side::minus_x)};
        power.flux = 9000.0;
        power.profile = {"duty"};
        m.add(power);
        Cooling cooling = convection(side("bar", Side::plus_x), 30.0, celsius(25));
        cooling.emissivity = 0.9;
        m.add(cooling);
        Study cyclic;
        cyclic.name = "settled";
        cyclic.kind = StudyKind::cyclic;
        cyclic.ambient = celsius(25);
        m.add(cyclic);
        Study march = transient(period, 25.0, 0.01);
        m.add(march);
        const InTime r = in_time(m);
        INFO("period " << period << ": " << r.findings.stopped);
        CHECK(r.findings.cycle->computed <= 4);
        // One more cycle, marched from there, comes back to where it began.
        const TransientSolution again = solve_transient(r.model, r.mesh, r.model.studies[1], r.solution.end.temperature);
        double most = 0.0;
        for (std::size_t i = 0; i < again.end.temperature.size(); ++i)
            most = std::max(most, std::abs(again.end.temperature[i] - r.solution.end.temperature[i]));
        CHECK(most <= 0.02);
    }
}

TEST_CASE("h01: thermostat on one body", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    add_node(m, "one", 600.0);
    cool_node(m, "one", 1.5, 20.0);
    m.add(heat("one", 60.0));
    m.powers[0].name = "heater";
    m.add(Thermostat{.name = "control", .sensor = "one", .switches = {"heater"}, .lower = celsius(48), .upper = celsius(52)});
    m.add(transient(22000.0, 20.0));
    const InTime r = in_time(m);
    const ThermostatFinding& t = r.findings.thermostats[0];
    const double expected[] = {643.7751649736401,  697.1877220234492,  859.3737652667149,  912.786322316524,   1074.9723655597898,
                               1128.3849226095988, 1290.5709658528644, 1343.9835229026735, 1506.1695661459391, 1559.5821231957482};
    REQUIRE(t.switchings.size() >= 190);
    for (std::size_t i = 0; i < 10; ++i) CHECK(t.switchings[i].time == Approx(expected[i]).epsilon(0.005));
    // Two hundred switchings on, the clock is still right.
    const double period = 215.59860029307478;
    CHECK(t.switchings[188].time == Approx(expected[0] + 94 * period).epsilon(1e-3));
    CHECK(*t.period == Approx(period).margin(1.078));
    CHECK(t.duty == Approx(0.7522592587465666).margin(0.005));
    CHECK(r.findings.sensors[0].highest <= celsius(52) + 0.02);
    CHECK(t.energy == Approx(60.0 * t.on_time).epsilon(1e-6));
}

TEST_CASE("two thermostats at one switch at the same moment", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    add_node(m, "one", 600.0);
    cool_node(m, "one", 1.5, 20.0);
    for (const char* name : {"left", "right"}) {
        Power power = heat("one", 30.0);
        power.name = name;
        m.add(power);
        m.add(Thermostat{.name = name, .sensor = "one", .switches = {name}, .lower = celsius(48), .upper = celsius(52)});
    }
    m.add(transient(1600.0, 20.0));
    const InTime r = in_time(m);  // together they are h01
    for (const ThermostatFinding& t : r.findings.thermostats) {
        REQUIRE(t.switchings.size() == 10);
        CHECK(t.switchings[0].time == Approx(643.7751649736401).epsilon(0.005));
        CHECK(t.switchings[9].time == Approx(1559.5821231957482).epsilon(0.005));
    }
    CHECK(r.findings.sensors[0].highest <= celsius(52) + 0.02);
}

TEST_CASE("h03: thermostat whose sensor lags behind", "[verification][time]") {
    const ByEitherMethod method;
    Model m;
    add_node(m, "one", 300.0);
    add_node(m, "two", 20.0);
    connect(m, "one", "two", 0.4);
    cool_node(m, "one", 1.2, 22.0);
    cool_node(m, "two", 0.02, 22.0);
    m.add(heat("one", 80.0));
    m.powers[0].name = "heater";
    m.add(Thermostat{.name = "control", .sensor = "two", .switches = {"heater"}, .lower = celsius(58), .upper = celsius(62)});
    m.add(transient(6000.0, 22.0));
    const InTime r = in_time(m);
    const ThermostatFinding& t = r.findings.thermostats[0];
    const double expected[] = {318.4006134856426, 406.07420788098807, 532.8586333492777, 617.0913718192035, 743.5011993316501, 827.72014685519};
    for (std::size_t i = 0; i < 6; ++i) CHECK(t.switchings[i].time == Approx(expected[i]).epsilon(0.005));
    CHECK(*t.period == Approx(210.62725399548071).margin(1.474));
    CHECK(t.duty == Approx(0.6001519655697599).margin(0.005));
    CHECK(r.findings.sensors[0].highest - zero_celsius == Approx(68.2483879487316).margin(0.231));  // the first overshoot
    CHECK(r.findings.sensors[1].highest - zero_celsius == Approx(62.57571611126997).margin(0.3));
}

TEST_CASE("h05: thermostat on a slab, sensor on the far face", "[verification][time]") {
    const ByEitherMethod method;
    Model m = bar(15_mm, storing("m", 0.5, 1500.0, 1200.0), 0.25_mm);
    Power power{.name = "heater", .on = side("bar", Side::minus_x)};
    power.flux = 3500.0;
    m.add(power);
    m.add(convection(side("bar", Side::plus_x), 40.0, celsius(20)));
    m.add(sensor_in("far", "bar", {15_mm, 1_mm, 1_mm}));
    m.add(Thermostat{.name = "control", .sensor = "far", .switches = {"heater"}, .lower = celsius(44), .upper = celsius(46)});
    m.add(transient(6000.0, 20.0));
    const InTime r = in_time(m);
    const ThermostatFinding& t = r.findings.thermostats[0];
    const double expected[] = {460.00401197016953, 894.3602766884037, 1071.4941650019455, 1478.0737197483322, 1655.0607299351873, 2061.5956055294077};
    for (std::size_t i = 0; i < 6; ++i) CHECK(t.switchings[i].time == Approx(expected[i]).epsilon(0.01));
    CHECK(*t.period == Approx(583.5215229332462).epsilon(0.01));
}

TEST_CASE("a fan keeps on for its least time and a heater waits for its", "[verification][time]") {
    Model m;
    add_lump(m, "one", 50.0, 0);
    cool_lump(m, "one", 0.2, 20.0, "still air");
    Cooling fan = convection(side("one", Side::minus_z), 1.0 / lump_face, celsius(20));
    fan.name = "fan";
    m.add(fan);
    m.add(heat("one", 20.0));
    m.add(lump_sensor("one", 0));
    m.add(Thermostat{
        .name = "control", .sensor = "one sensor", .switches = {"fan"}, .lower = celsius(50), .upper = celsius(60), .cools = true, .least_on = 40.0});
    m.add(transient(1500.0, 20.0));
    const InTime r = in_time(m);
    const ThermostatFinding& t = r.findings.thermostats[0];
    REQUIRE(t.switchings.size() > 4);
    CHECK(t.switchings[0].on);
    // Warms against 0.2 W/K to 60 °C, as an exponential.
    CHECK(t.switchings[0].time == Approx(-250.0 * std::log(1.0 - 40.0 / 100.0)).epsilon(0.005));
    for (std::size_t i = 1; i < t.switchings.size(); ++i) {
        if (!t.switchings[i].on) CHECK(t.switchings[i].time - t.switchings[i - 1].time >= 40.0 * (1.0 - 1e-9));
    }
    CHECK(r.findings.sensors[0].lowest < celsius(50));  // since the fan may not stop in time
}

TEST_CASE("m01: one-phase melting", "[verification][time]") {
    Material wax = storing("wax", 0.2, 800.0, 2200.0);
    wax.melting = Melting{.from = celsius(43.95), .to = celsius(44.05), .latent_heat = 200e3};
    Model m = bar(32_mm, wax, 0.5_mm);
    m.add(Hold{.on = side("bar", Side::minus_x), .temperature = celsius(80)});
    Study study = transient(7200.0, 43.95);
    study.history_every = 5.0;
    m.add(study);
    const InTime r = in_time(m, {on_bar(6_mm)}, {600.0, 3600.0, 7200.0});
    check_near(r.celsius[0], {48.36979012814029, 66.61475128127185, 70.50058490175032}, {0.6326, 0.2677, 0.19});
    CHECK(-held(r.findings) / 4e-6 == Approx(4576444.312717015).epsilon(0.02));
    CHECK(r.findings.parts[0].liquid->end * 0.032 == Approx(0.0239902372670363).epsilon(0.02));
    // The front passes 6 mm when that much of the 32 mm has melted.
    const History& h = r.findings.history;
    const auto column = static_cast<std::size_t>(std::find(h.columns.begin(), h.columns.end(), "bar melted (1)") - h.columns.begin());
    std::size_t row = 0;
    while (h.rows.at(row)[column] < 6.0 / 32.0) ++row;
    CHECK(h.time[row] == Approx(450.3663259924092).epsilon(0.03));
}

TEST_CASE("m03: two-phase melting", "[verification][time]") {
    Material wax = storing("wax", 0.25, 800.0, 1900.0);
    wax.conductivity_factor = {{celsius(41.95), celsius(42.05)}, {1.0, 0.18 / 0.25}};
    wax.specific_heat_factor = {{celsius(41.95), celsius(42.05)}, {1.0, 1840.0 / 1520.0}};
    wax.melting = Melting{.from = celsius(41.95), .to = celsius(42.05), .latent_heat = 190e3};
    Model m = bar(0.23, wax, 2_mm);
    m.mesh.regions.push_back({.box = Box{.size = {0.025, 2e-3, 2e-3}}, .cell = 0.4e-3});
    m.add(Hold{.on = side("bar", Side::minus_x), .temperature = celsius(75)});
    m.add(transient(5400.0, 20.0));
    const InTime r = in_time(m, {on_bar(4_mm), on_bar(15_mm)}, {5400.0});
    check_near({r.celsius[0][0], r.celsius[1][0]}, {66.1874704688145, 43.00887652381307}, {0.132, 0.48});
    CHECK(r.findings.parts[0].liquid->end * 0.23 == Approx(0.015509959520644974).epsilon(0.02));
}

TEST_CASE("m05: the plateau of a melting body", "[verification][time]") {
    Model m;
    Material wax = storing("wax", 0.2, 800.0, 2000.0);
    wax.specific_heat_factor = {{celsius(51.99), celsius(52.01)}, {1.0, 1.15}};
    wax.melting = Melting{.from = celsius(51.99), .to = celsius(52.01), .latent_heat = 210e3};
    m.materials = {wax};
    m.add(Node{.name = "one", .material = "wax", .mass = 0.08});
    cool_node(m, "one", 0.35, 20.0);
    m.add(stepped("until 70", {0.0, 1809.591368379401}, {1.0, 0.0}));
    Power power = heat("one", 25.0);
    power.profile = {"until 70"};
    m.add(power);
    m.add(Limit{.sensor = "one", .below = celsius(51.99)});
    m.add(Limit{.sensor = "one", .below = celsius(52.01)});
    m.add(transient(4000.0, 20.0));
    const InTime r = in_time(m, {first}, {1809.591368379401});
    const std::vector<LimitOverTime>& limits = r.findings.limits;
    CHECK(r.celsius[0][0] == Approx(70.0).margin(0.3));
    CHECK(limits[0].beyond[0].from == Approx(271.63759209373336).epsilon(0.01));
    CHECK(limits[1].beyond[0].from == Approx(1489.0288964415595).epsilon(0.01));
    // Off again: freezing begins where it falls below the upper end, and lasts 1500 s.
    CHECK(limits[1].beyond[0].to - 1809.591368379401 == Approx(234.61950538179772).epsilon(0.01));
    CHECK(limits[0].beyond[0].to - limits[1].beyond[0].to == Approx(1500.0).epsilon(0.01));
}

TEST_CASE("a run ends when it is steady, and when all limits are decided", "[verification][time]") {
    Model m;
    add_node(m, "one", 100.0);
    cool_node(m, "one", 1.0, 20.0);
    m.add(heat("one", 50.0));
    m.add(Limit{.sensor = "one", .below = celsius(60)});
    m.add(Limit{.sensor = "one", .below = celsius(90)});
    Study study = transient(1e5, 20.0, 0.01);
    study.stop_when = StopWhen::steady;
    m.add(study);
    study.name = "decided";
    study.stop_when = StopWhen::limits_decided;
    m.add(study);
    const InTime steady = in_time(m);
    CHECK(steady.findings.stopped == "steady");
    CHECK(*steady.findings.steady_time == Approx(100.0 * std::log(50.0 / 0.1)).epsilon(0.01));  // 50 K to go, 0.1 K left
    const InTime decided = in_time(m, {}, {}, 1);
    CHECK(decided.findings.stopped == "all limits are decided");
    CHECK(decided.findings.end_time < 500.0);
    // A load that is switched off when all is steady starts it anew: what counts is what still comes.
    m.add(stepped("until 900", {0.0, 900.0}, {1.0, 0.0}));
    m.powers[0].profile = {"until 900"};
    const InTime off = in_time(m);
    CHECK(off.findings.end_time > 900.0);
    CHECK(off.solution.end.temperature[0] == Approx(celsius(20)).margin(0.11));
    CHECK(*decided.findings.limits[0].first_crossing == Approx(-100.0 * std::log(1.0 - 40.0 / 50.0)).epsilon(0.01));
}
