// The units that answers are told in.

#include <firnfield/error.hpp>
#include <firnfield/units.hpp>

#include <catch2/catch.hpp>

using namespace firnfield;

TEST_CASE("units of answers are read, one of each", "[base]") {
    CHECK(parse_units("in, degF") == Units{"in", "degF"});
    CHECK(parse_units(" degF ,in ") == Units{"in", "degF"});
    CHECK(parse_units("°F") == Units{"mm", "degF"});
    CHECK(parse_units("um", {"in", "K"}) == Units{"um", "K"});
    for (const char* text : {"", ",", "in, in", "degC, degF", "kg", "in degF", "in, degF, mm", "bananas"}) {
        INFO(text);
        CHECK_THROWS_AS(parse_units(text), QuantityError);
    }
}

TEST_CASE("temperatures, differences and lengths follow the reader, data of materials do not", "[base]") {
    const Units usual, inch{"in", "degF"}, micro{"um", "K"};
    CHECK(show_temperature(373.15, usual) == "100.0 °C");
    CHECK(show_temperature(373.15, inch) == "212.0 °F");
    CHECK(show_temperature(373.15, micro) == "373.1 K");
    CHECK(show_temperature(zero_celsius - 1e-9, usual) == "0.0 °C");
    CHECK(show_difference(10.0, inch) == "18.0 °F");
    CHECK(show_quantity(0.0127, kinds::length, inch) == "0.500 in");
    CHECK(show_quantity(35e-6, kinds::length, micro) == "35.0 µm");
    CHECK(show_quantity(0.0254 * 0.0254, kinds::area, inch) == "1.00 in²");
    CHECK(show_quantity(0.5, kinds::thermal_resistance, inch) == "0.900 °F/W");
    CHECK(show_quantity(0.9, kinds::thermal_conductance, inch) == "0.500 W/°F");
    CHECK(show_quantity(1e4, kinds::heat_flux, inch) == "6.45 W/in²");
    for (const QuantityKind* kind :
         {&kinds::power, &kinds::conductivity, &kinds::heat_transfer_coefficient, &kinds::area_resistance, &kinds::mass, &kinds::time}) {
        INFO(kind->name);
        CHECK(show_quantity(0.321, *kind, inch) == show_quantity(0.321, *kind));
    }
}

TEST_CASE("a column's unit is undone exactly enough, and its name tells which kind it is of", "[base]") {
    for (const Units& units : {Units{}, Units{"in", "degF"}, Units{"ft", "K"}, Units{"um", "degR"}, Units{"cm", "degC"}}) {
        for (const QuantityKind* kind : all_quantities()) {
            INFO(units.length << " " << units.temperature << " " << kind->name);
            const UnitOf unit = unit_of(*kind, units);
            CHECK(unit.in(unit.out(321.5)) == Approx(321.5).epsilon(1e-13));
            const Told told = told_by_name(unit.name, units), back = told_by_machine_unit(kind->unit, units);
            REQUIRE(told.kind != nullptr);
            // Kinds that share a unit of machines share what is told, so either will do.
            CHECK(told.in(told.out(7.25)) == Approx(7.25).epsilon(1e-12));
            CHECK(told.out(7.25) == Approx(back.out(7.25)).epsilon(1e-12));
        }
    }
    CHECK(told_by_name("furlong", {}).kind == nullptr);
    CHECK(told_by_machine_unit("furlong", {}).kind == nullptr);
}
