// Curves: between points, outside, what is wrong with them.

#include <firnfield/curve.hpp>

#include <catch2/catch.hpp>

using namespace firnfield;

TEST_CASE("a curve runs straight between its points and stays level outside", "[base]") {
    const Curve c{{0.0, 10.0, 30.0}, {1.0, 3.0, 2.0}};
    CHECK(c(-5.0) == 1.0);
    CHECK(c(5.0) == Approx(2.0));
    CHECK(c(20.0) == Approx(2.5));
    CHECK(c(99.0) == 2.0);
    CHECK(c.slope(5.0) == Approx(0.2));
    CHECK(c.slope(20.0) == Approx(-0.05));
    CHECK(c.slope(31.0) == 0.0);
    CHECK(c.mean(0.0, 10.0) == Approx(2.0));
    CHECK(c.mean(30.0, 10.0) == Approx(2.5));
    CHECK(c.mean(-10.0, 40.0) == Approx((10.0 + 20.0 + 50.0 + 20.0) / 50.0));
    CHECK(c.mean(7.0, 7.0) == c(7.0));
}

TEST_CASE("what is wrong with a curve is told", "[base]") {
    CHECK(problem_of(Curve{}).empty());
    CHECK(problem_of(Curve{{0.0, 1.0}, {1.0, 2.0}}).empty());
    CHECK(problem_of(Curve{{0.0, 1.0}, {1.0}}).find("as many values as places") != std::string::npos);
    CHECK(problem_of(Curve{{0.0}, {1.0}}).find("two points") != std::string::npos);
    CHECK(problem_of(Curve{{1.0, 1.0}, {1.0, 2.0}}).find("ascend") != std::string::npos);
}
