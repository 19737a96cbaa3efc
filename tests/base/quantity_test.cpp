// Quantities: reading, refusing, writing to the last bit.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include <rapidcheck/catch.h>
#include <catch2/catch.hpp>

#include <array>
#include <cmath>

using namespace firnfield;
using Catch::Matchers::Contains;

TEST_CASE("quantities are read with their units", "[base]") {
    struct Example {
        const char* text;
        QuantityKind kind;
        double value;
    };
    const Example examples[] = {
        {"25 mW", kinds::power, 0.025},
        {"0.5 W/mm^2", kinds::heat_flux, 5e5},
        {"75 degF", kinds::temperature, (75.0 + 459.67) * 5.0 / 9.0},
        {"-40 degC", kinds::temperature, 233.15},
        {"-40 degF", kinds::temperature, 233.15},
        {"300 K", kinds::temperature, 300.0},
        {"20 °C", kinds::temperature, 293.15},
        {"30 min", kinds::time, 1800.0},
        {"2 h", kinds::time, 7200.0},
        {"0.3 K cm^2/W", kinds::area_resistance, 3e-5},
        {"0.3 K·cm²/W", kinds::area_resistance, 3e-5},
        {"20 mm^2*K/W", kinds::area_resistance, 2e-5},
        {"1/4 in", kinds::length, 0.00635},
        {"5 mil", kinds::length, 1.27e-4},
        {"35um", kinds::length, 35e-6},
        {"35 µm", kinds::length, 35e-6},
        {"1.5e-3 m", kinds::length, 1.5e-3},
        {"8 W/(m^2 K)", kinds::heat_transfer_coefficient, 8.0},
        {"8 W m^-2 K^-1", kinds::heat_transfer_coefficient, 8.0},
        {"1 BTU/(h ft^2 degR)", kinds::heat_transfer_coefficient, 5.678263341},
        {"167 W/(m K)", kinds::conductivity, 167.0},
        {"2.7 g/cm^3", kinds::density, 2700.0},
        {"0.9 kJ/(kg K)", kinds::specific_heat, 900.0},
        {"1.7 uOhm cm", kinds::resistivity, 1.7e-8},
        {"5 K", kinds::temperature_difference, 5.0},
        {"85 %", kinds::number, 0.85},
        {"0.85", kinds::number, 0.85},
        {"3 kWh/d", kinds::power, 125.0},
    };
    for (const Example& e : examples) {
        INFO(e.text);
        CHECK(parse_quantity(e.text, e.kind) == Approx(e.value).epsilon(1e-9));
    }
}

TEST_CASE("what cannot be meant is refused, with the column and a near word", "[base]") {
    struct Example {
        const char* text;
        QuantityKind kind;
        std::size_t column;
        const char* says;
    };
    const Example examples[] = {
        {"8 W/m^2 K", kinds::heat_transfer_coefficient, 9, "ambiguous"},
        {"8 W/m K", kinds::conductivity, 7, "parentheses"},
        {"25", kinds::power, 3, "without a unit"},
        {"25 Wat", kinds::power, 4, "unknown unit"},
        {"25 MM", kinds::length, 4, "did you mean \"mm\""},
        {"25 kelvin", kinds::temperature, 4, "unknown unit"},
        {"25 W", kinds::length, 4, "does not measure a length"},
        {"5 degC", kinds::temperature_difference, 3, "difference is in K"},
        {"8 W/(m^2 degC)", kinds::heat_transfer_coefficient, 3, "difference is in K"},
        {"warm", kinds::temperature, 1, "no number"},
        {"", kinds::power, 1, "nothing"},
        {"nan W", kinds::power, 1, "not finite"},
        {"inf W", kinds::power, 1, "not finite"},
        {"1e999 W", kinds::power, 1, "out of range"},
        {"1 W W/", kinds::power, 7, "nothing after"},
        {"1 W/(m K", kinds::conductivity, 9, "missing \")\""},
        {"1 W/m/K", kinds::conductivity, 6, "second \"/\""},
        {"1 m^0", kinds::length, 5, "whole power"},
        {"1 m^99", kinds::length, 5, "whole power"},
        {"1/0 in", kinds::length, 3, "division by zero"},
        {"5 m )", kinds::length, 5, "unexpected"},
        {"1 ((((((((((m))))))))))", kinds::length, 12, "nested"},
    };
    for (const Example& e : examples) {
        INFO(e.text);
        try {
            static_cast<void>(parse_quantity(e.text, e.kind));
            FAIL("was accepted");
        } catch (const QuantityError& error) {
            CHECK_THAT(error.what(), Contains(e.says));
            CHECK_THAT(error.what(), Contains(std::string(e.kind.example)));
            CHECK(error.column == e.column);
        }
    }
}

namespace {

const std::array all_kinds{kinds::number,
                           kinds::length,
                           kinds::area,
                           kinds::volume,
                           kinds::time,
                           kinds::temperature,
                           kinds::power,
                           kinds::power_density,
                           kinds::heat_flux,
                           kinds::conductivity,
                           kinds::density,
                           kinds::specific_heat,
                           kinds::resistivity,
                           kinds::mass,
                           kinds::area_resistance,
                           kinds::thermal_resistance,
                           kinds::heat_transfer_coefficient,
                           kinds::temperature_difference};

}  // namespace

TEST_CASE("writing and reading gives the same value, to the last bit", "[base][property]") {
    rc::prop("any value of any kind", [] {
        const auto kind = *rc::gen::elementOf(all_kinds);
        const double mantissa = 1e-6 * *rc::gen::inRange(-1000000, 1000000);
        const double value = kind.absolute_temperature ? 1.0 + 4000.0 * std::abs(mantissa) : mantissa * std::pow(10.0, *rc::gen::inRange(-12, 12));
        RC_ASSERT(parse_quantity(write_quantity(value, kind), kind) == value);
    });
}

TEST_CASE("any text is read or refused, never more", "[base][property]") {
    rc::prop("random text", [] {
        const auto piece =
            rc::gen::elementOf(std::vector<std::string>{"1", "e", "-", ".", "/", "^", "(", ")", " ", "W", "m", "K", "degC", "²", "·", "\xff", "%", "9"});
        std::string text;
        for (const std::string& p : *rc::gen::container<std::vector<std::string>>(piece)) text += p;
        for (const QuantityKind& kind : all_kinds) {
            try {
                RC_ASSERT(std::isfinite(parse_quantity(text, kind)));
            } catch (const QuantityError& error) {
                RC_ASSERT(error.column >= 1 && error.column <= text.size() + 1);
            }
        }
    });
}

TEST_CASE("quantities are written in the units of the trade", "[base]") {
    CHECK(write_quantity(0.0005, kinds::length) == "0.5 mm");
    CHECK(write_quantity(308.15, kinds::temperature) == "35 degC");
    CHECK(write_quantity(2e-5, kinds::area_resistance) == "0.2 K cm^2/W");
    CHECK(show_quantity(0.0382, kinds::power) == "38.2 mW");
    CHECK(show_quantity(3e-5, kinds::area_resistance) == "0.300 K cm²/W");
    CHECK(show_quantity(35e-6, kinds::length, 2) == "35 µm");
    CHECK(show_quantity(0.0907, kinds::area) == "907 cm²");
    CHECK(show_celsius(273.12) == "0.0 °C");
}

TEST_CASE("literals are SI", "[base]") {
    using namespace firnfield::literals;
    CHECK(80_mm == parse_quantity("80 mm", kinds::length));
    CHECK(35_degC == parse_quantity("35 degC", kinds::temperature));
    CHECK(celsius(-20) == parse_quantity("-20 degC", kinds::temperature));
    CHECK(25_mW == parse_quantity("25 mW", kinds::power));
}
