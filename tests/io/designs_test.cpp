// Parameters, expressions, variants and sweeps of model files.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

const std::string plate = R"toml(firnfield = 1
title = "Plate with fins"
[units]
length = "mm"
temperature = "degC"
[mesh]
cell = 4
[parameters]
width = "80 mm"
fins = { value = 5, uniform = 1 }
pitch = "= (width - 2 mm) / (fins - 1)"
film = "9 W/(m^2 K)"
room = { value = "25 degC", normal = "2 K" }
[[part]]
name = "plate"
size = ["= width", 60, 4]
material = "aluminium 6061-T6"
[[part]]
name = "fin"
size = [2, 60, 20]
at = [0, 0, 4]
repeat = { count = "= fins", step = ["= pitch", 0, 0] }
material = "aluminium 6061-T6"
[[joint]]
between = ["fin", "plate"]
resistance = "0.1 K cm^2/W"
[[power]]
name = "heater"
into = ["plate"]
total = "= 2 * 6 W + 10 W/m^2 * width^2"
[[cooling]]
name = "air"
on = "exposed"
convection = "= film"
ambient = "= room"
[[limit]]
part = "plate"
below = 60
[[limit]]
part = "plate"
above = 0
)toml";

Model read_design(const std::string& more, const std::string& design = "", const std::vector<Change>& changes = {}) {
    const ModelFile file(plate + more, "plate.toml");
    return file.model(file.design(design), changes);
}

std::string mistakes(const std::string& more) {
    try {
        const ModelFile file(plate + more, "plate.toml");
        file.check(file.designs());
    } catch (const ModelError& error) {
        std::string all;
        for (const Problem& p : error.problems()) all += p.location + ": " + p.message + "\n";
        return all;
    }
    return {};
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    const std::size_t at = text.find(from);
    REQUIRE(at != std::string::npos);
    return text.replace(at, from.size(), to);
}

std::string mistakes_with(const std::string& from, const std::string& to) {
    try {
        static_cast<void>(read_model_text(replaced(plate, from, to), "plate.toml"));
    } catch (const ModelError& error) {
        return error.problems().front().location + ": " + error.problems().front().message;
    }
    return {};
}

}  // namespace

TEST_CASE("expressions of parameters stand where quantities do", "[io]") {
    const Model model = read_design("");
    CHECK(std::get<Box>(model.parts[0].shape).size.x == Approx(80_mm));
    CHECK(model.parts[1].repeat[0].count == 5);
    CHECK(model.parts[1].repeat[0].step.x == Approx(19.5_mm));
    CHECK(*model.powers[0].total == Approx(12.0 + 10.0 * 0.0064));
    CHECK(*model.coolings[0].convection == Approx(9.0));
    const auto value = [](const std::string& expression) {
        return *read_design("", "", {{"cooling.air.convection", "= " + expression}}).coolings[0].convection;
    };
    CHECK(value("film + 2 W/(m^2 K)") == Approx(11.0));
    CHECK(value("2 W / width / 10 cm / 4 K") == Approx(2.0 / 0.08 / 0.1 / 4.0));
    CHECK(value("1 / (0.5 K m^2/W)") == Approx(2.0));
    CHECK(value("film * sqrt(width / 20 mm)") == Approx(18.0));
    CHECK(value("max(film, 12 W/(m^2 K))") == Approx(12.0));
    CHECK(*model.coolings[0].ambient == Approx(25_degC));
    CHECK(*read_design("", "", {{"cooling.air.emissivity", "= 0.9 * 0.5"}}).coolings[0].emissivity == Approx(0.45));
    // What was read is written with its values, and reads the same.
    CHECK(test::through_file(model) == model);
}

TEST_CASE("parameters tell their values and spreads", "[io]") {
    const ModelFile file(plate, "plate.toml");
    REQUIRE(file.parameters().size() == 5);
    CHECK(file.parameters()[0].name == "width");
    CHECK(file.parameters()[2].value.value == Approx(19.5_mm));
    CHECK(name_of(file.parameters()[2].value.dimension) == "length");
    CHECK_FALSE(file.parameters()[1].spread->normal);
    CHECK(file.parameters()[4].spread->normal);
    CHECK(file.parameters()[4].spread->width == Approx(2.0));
}

TEST_CASE("expressions of the wrong kind, unknown names and circles are told with their place", "[io]") {
    CHECK_THAT(mistakes_with("\"= film\"", "\"= width\""), Contains("plate.toml:34:14") && Contains("gives a length; expected a heat transfer coefficient"));
    CHECK_THAT(mistakes_with("(width - 2 mm)", "(width - 2)"), Contains("quantities of different kinds are added"));
    CHECK_THAT(mistakes_with("(width - 2 mm)", "(widht - 2 mm)"), Contains("no parameter is called \"widht\" (did you mean \"width\"?)"));
    CHECK_THAT(mistakes_with("\"80 mm\"", "\"= pitch\""), Contains("depends on itself"));
    CHECK_THAT(mistakes_with("\"80 mm\"", "\"80 mn\""), Contains("unknown unit \"mn\""));
    CHECK_THAT(mistakes_with("\"= fins\"", "\"= fins / 2\""), Contains("whole number") && Contains("2.5"));
    CHECK_THAT(mistakes_with("\"= fins\"", "\"= fins *\""), Contains("in the expression \"= fins *\""));
    CHECK_THAT(mistakes_with("fins = {", "\"fin count\" = {"), Contains("letters, digits"));
    CHECK_THAT(mistakes_with("uniform = 1", "uniform = \"1 mm\""), Contains("number"));
    CHECK_THAT(mistakes_with("uniform = 1", "unifrom = 1"), Contains("did you mean \"uniform\""));
}

TEST_CASE("a variant is the file with some values replaced, and so are variants of it", "[io]") {
    const std::string designs = R"toml(
[[variant]]
name = "more fins"
note = "as far as the tool goes"
change = { fins = 9, "cooling.air.emissivity" = 0.8 }
[[variant]]
name = "more fins, painted plate"
from = "more fins"
change = { "joint.fin - plate.resistance" = "0.5 K cm^2/W", "part.plate.size.z" = 6, "limit.2.above" = 5 }
)toml";
    const ModelFile file(plate + designs, "plate.toml");
    REQUIRE(file.designs().size() == 2);
    CHECK(file.designs()[1].from == "more fins");
    const Model first = file.model(file.design("more fins")), second = file.model(file.design("more fins, painted plate"));
    // Bit for bit what a file of its own gives.
    CHECK(first == read_model_text(replaced(replaced(plate, "value = 5", "value = 9"), "ambient =", "emissivity = 0.8\nambient =")));
    CHECK(second.parts[1].repeat[0].count == 9);
    CHECK(second.parts[1].repeat[0].step.x == Approx(78_mm / 8.0));
    CHECK(std::get<Box>(second.parts[0].shape).size.z == Approx(6_mm));
    CHECK(*second.joints[0].resistance == Approx(0.5e-4));
    CHECK(*second.limits[1].above == Approx(5_degC));
    CHECK(*second.limits[0].below == Approx(60_degC));
    CHECK_THROWS_WITH(file.design("more fin"), Contains("did you mean \"more fins\""));
}

TEST_CASE("changes from outside are written as in the file, or as bare text", "[io]") {
    CHECK(*read_design("", "", {{"film", "12 W/(m^2 K)"}}).coolings[0].convection == Approx(12.0));
    CHECK(read_design("", "", {{"part.fin.include", "false"}, {"fins", "7"}}).parts[1].include == false);
    CHECK(read_design("", "", {{"part.fin.at", "[1, 0, 4]"}}).parts[1].shape == Shape(Box{.size = {2_mm, 60_mm, 20_mm}, .at = {1_mm, 0, 4_mm}}));
    CHECK_THROWS_WITH(read_design("", "", {{"part.fun.size.x", "3"}}), Contains("no [[part]] is called \"fun\" (did you mean \"fin\"?)"));
    CHECK_THROWS_WITH(read_design("", "", {{"flim", "3 mm"}}), Contains("no parameter is called \"flim\" (did you mean \"film\"?)"));
    CHECK_THROWS_WITH(read_design("", "", {{"film", "3 mm"}}), Contains("expected a heat transfer coefficient"));
    CHECK_THROWS_WITH(read_design("", "", {{"limit.plate.below", "70"}}), Contains("limit.1, limit.2"));
    CHECK_THROWS_WITH(read_design("", "", {{"part.fin", "3"}}), Contains("ends at an entry"));
    CHECK_THROWS_WITH(read_design("", "", {{"part.fin.repeat.step.4", "3"}}), Contains("count from 1"));
}

TEST_CASE("sweeps run over lists, ranges and grids", "[io]") {
    const std::string sweeps = R"toml(
[[sweep]]
name = "film"
over = { film = { from = "2 W/(m^2 K)", to = "32 W/(m^2 K)", count = 5, spacing = "log" } }
[[sweep]]
name = "grid"
over = { fins = [3, 5, 9], "power.heater.total" = ["5 W", "10 W"] }
)toml";
    const ModelFile file(plate + sweeps, "plate.toml");
    REQUIRE(file.designs().size() == 11);
    CHECK(file.designs()[2].name == "film 8 W/(m^2 K)");
    CHECK(*file.model(file.designs()[3]).coolings[0].convection == Approx(16.0));
    CHECK(file.designs()[10].name == "grid 9, 10 W");
    CHECK(file.model(file.designs()[10]).parts[1].repeat[0].count == 9);
    CHECK(*file.model(file.designs()[9]).powers[0].total == Approx(5.0));
}

TEST_CASE("mistakes in designs are told together, each with its place", "[io]") {
    const std::string all = mistakes(R"toml(
[[variant]]
name = "a"
change = { "cooling.air.emisivity" = 0.8 }
[[variant]]
name = "b"
change = { "part.plate.matrial" = "copper", film = "12 mm" }
)toml");
    CHECK_THAT(all, Contains("plate.toml:45:38: variant \"a\": unknown key \"emisivity\""));
    CHECK_THAT(all, Contains("did you mean \"emissivity\""));
    CHECK_THAT(all, Contains("variant \"b\": unknown key \"matrial\""));
    CHECK_THAT(mistakes("[[variant]]\nname = \"a\"\nfrom = \"c\"\nchange = { fins = 3 }\n"), Contains("no earlier variant is called \"c\""));
    CHECK_THAT(mistakes("[[variant]]\nname = \"base\"\nchange = { fins = 3 }\n"), Contains("there is another"));
    CHECK_THAT(mistakes("[[variant]]\nname = \"a\"\n"), Contains("\"change\" is missing"));
    CHECK_THAT(mistakes("[[variant]]\nname = \"\"\nchange = { fins = 3 }\n"), Contains("name is empty"));
    CHECK_THAT(mistakes("[[variant]]\nname = \"a\u0007\"\nchange = { fins = 3 }\n"), Contains("control character"));
    CHECK_THAT(mistakes("[[sweep]]\nname = \"a\"\nover = { fins = { from = 1, to = 4 } }\n"), Contains("count = 8"));
    CHECK_THAT(mistakes("[[sweep]]\nname = \"a\"\nover = { fims = [3] }\n"), Contains("did you mean \"fins\""));
    CHECK_THAT(mistakes("[[sweep]]\nname = \"a\"\nover = { film = { from = \"1 mm\", to = \"1 cm\", count = 3 } }\n"), Contains("same unit"));
}
