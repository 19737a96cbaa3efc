// Courses over time: values on both sides of jumps, where edges lie, what repeats.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::test;

namespace {

Profile duty(Duty d) {
    Profile p{.name = "duty"};
    p.duty = d;
    return p;
}

Profile table(std::vector<double> at, std::vector<double> value) {
    Profile p{.name = "table"};
    p.points = {std::move(at), std::move(value)};
    return p;
}

/// All edges up to a time.
std::vector<double> edges(const Profile& p, double until) {
    std::vector<double> found;
    for (double t = next_edge(p, 0.0); t <= until; t = next_edge(p, t)) found.push_back(t);
    return found;
}

}  // namespace

TEST_CASE("a duty cycle is on first, then off", "[model]") {
    const Profile p = duty({.on = 60.0, .off = 180.0});
    CHECK(value_at(p, 0.0) == 1.0);
    CHECK(value_at(p, 59.999) == 1.0);
    CHECK(value_at(p, 60.0) == 0.0);
    CHECK(value_at(p, 239.999) == 0.0);
    CHECK(value_at(p, 240.0) == 1.0);
    CHECK(edges(p, 500.0) == std::vector<double>{60.0, 240.0, 300.0, 480.0});
    CHECK(*period_of(p) == 240.0);
}

TEST_CASE("delay, ramps, levels and a number of cycles", "[model]") {
    const Profile p = duty({.on = 10.0, .off = 10.0, .delay = 5.0, .ramp = 2.0, .cycles = 2, .high = 3.0, .low = 1.0});
    CHECK(value_at(p, 4.0) == 1.0);
    CHECK(value_at(p, 6.0) == Approx(2.0));
    CHECK(value_at(p, 10.0) == 3.0);
    CHECK(value_at(p, 14.0) == Approx(2.0));
    CHECK(value_at(p, 26.0) == Approx(2.0));
    CHECK(value_at(p, 50.0) == 1.0);  // both cycles are over
    CHECK(edges(p, 100.0) == std::vector<double>{5.0, 7.0, 13.0, 15.0, 25.0, 27.0, 33.0, 35.0});
    CHECK(std::isinf(next_edge(p, 35.0)));
    CHECK_FALSE(period_of(p));
}

TEST_CASE("edges of many cycles do not wander off", "[model]") {
    // A period that no binary fraction meets: the n-th edge is where it belongs, and none is met twice.
    const Profile p = duty({.on = 0.1, .off = 0.2});
    double t = 0.0;
    for (int n = 0; n < 20000; ++n) {
        const double next = next_edge(p, t);
        REQUIRE(next > t + 0.05);
        t = next;
    }
    CHECK(t == Approx(10000 * 0.3).epsilon(1e-12));
    CHECK(value_at(p, t) == 1.0);
}

TEST_CASE("tables are straight, stepped or repeated", "[model]") {
    Profile p = table({0.0, 10.0, 30.0}, {0.0, 1.0, 0.5});
    CHECK(value_at(p, 5.0) == Approx(0.5));
    CHECK(value_at(p, 20.0) == Approx(0.75));
    CHECK(value_at(p, 99.0) == 0.5);
    CHECK(edges(p, 100.0) == std::vector<double>{10.0, 30.0});
    CHECK_FALSE(period_of(p));
    p.stepped = true;
    CHECK(value_at(p, 9.99) == 0.0);
    CHECK(value_at(p, 10.0) == 1.0);
    p.repeat = true;
    CHECK(value_at(p, 45.0) == 1.0);
    CHECK(*period_of(p) == 30.0);
    CHECK(edges(p, 65.0) == std::vector<double>{10.0, 30.0, 40.0, 60.0});
}

TEST_CASE("a study repeats when all that acts in it does", "[model]") {
    Model m = block_on_plate();
    m.add(duty({.on = 1.0, .off = 3.0}));
    Profile slow = duty({.on = 6.0, .off = 6.0});
    slow.name = "slow";
    m.add(slow);
    m.powers[0].profile = {"duty"};
    Study study;
    CHECK(*period_of(m, study) == 4.0);
    m.powers[0].profile = {"duty", "slow"};
    CHECK(*period_of(m, study) == 12.0);  // three of the one fit into the other
    m.profiles[1].duty->off = 7.0;
    CHECK_FALSE(period_of(m, study));
    study.scale["block"] = 0.0;  // nothing of it acts
    CHECK_FALSE(period_of(m, study));
    CHECK(profiles_in(m, study).empty());
}
