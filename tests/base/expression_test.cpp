// The grammar of expressions: what it takes, and that nothing else reaches the evaluator.

#include "base/expression.hpp"
#include "io/parameters.hpp"

#include <firnfield/firnfield.hpp>

#include <catch2/catch.hpp>

using namespace firnfield;
using Catch::Matchers::Contains;

namespace {

Parameters some() {
    Parameters out;
    out.set("pad", {0.002, kinds::length.dimension});
    out.set("fins", {12.0, {}});
    return out;
}

double value(const std::string& expression) { return some().evaluate("=" + expression).value; }

}  // namespace

TEST_CASE("expressions follow the usual precedence", "[io]") {
    CHECK(value("1 + 2 * 3") == 7.0);
    CHECK(value("(1 + 2) * 3") == 9.0);
    CHECK(value("-2 ^ 2") == -4.0);
    CHECK(value("2 ^ -1") == 0.5);
    CHECK(value("8 / 4 / 2") == 1.0);
    CHECK(value("fins > 10 ? 1 : 2") == 1.0);
    CHECK(value("fins > 10 && pad > 3 mm ? 1 : 2") == 2.0);
    CHECK(value("pad * 2 + 1 mm") == Approx(0.005));
    CHECK(value("max(pad, 3 mm, 1 mm)") == Approx(0.003));
    CHECK(value("sqrt(pad * pad)") == Approx(0.002));
    CHECK(value("1e-3 + 2E2") == Approx(200.001));
}

TEST_CASE("what is no expression is refused with what was expected", "[io]") {
    for (const char* text : {"",      " ",          "1 +",        "* 2",      "(1",       "1)",       "1 2 mm 3", "pad = 3", "pad += 1", "1, 2", "max(",
                             "max()", "sqrt(1, 2)", "nothing(1)", "fins ? 1", "\"text\"", "pad;fins", "{1}",      "1 == ",   "0x",       "_pi",  "\x01",
                             "°",     "fins fins",  "pad(2)",     "1 ? 2 : ", "&&",       "a.b",      "$x",       "v0",      "x0",       "q0"}) {
        INFO(text);
        CHECK_THROWS_AS(value(text), QuantityError);
    }
    CHECK_THROWS_AS(value(std::string("1\0+ 2", 6)), QuantityError);
    CHECK_THROWS_AS(value(operand_name(0)), QuantityError);
    CHECK_THROWS_WITH(value("pda * 2"), Contains("no parameter is called \"pda\""));
    CHECK_THROWS_WITH(value("pad + fins"), Contains("quantities of different kinds"));
    CHECK_THROWS_WITH(value("1 / (fins - 12)"), Contains("not a finite number"));
}

TEST_CASE("depth and length of expressions are bounded", "[io]") {
    CHECK(value(std::string(50, '(') + "1" + std::string(50, ')')) == 1.0);
    CHECK_THROWS_AS(value(std::string(5000, '(') + "1"), QuantityError);
    CHECK_THROWS_AS(value(std::string(3000, '-') + "1"), QuantityError);
    std::string tower = "2", sum = "1";
    for (int i = 0; i < 1000; ++i) tower += "^1";
    for (int i = 0; i < 100000; ++i) sum += "+1";
    CHECK_THROWS_AS(value(tower), QuantityError);
    CHECK_THROWS_AS(value(sum), QuantityError);
}
