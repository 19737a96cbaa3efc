// Addresses of what a solution tells, and expressions of them: what they name, what kind of quantity they give, and what is refused.

#include "models.hpp"

#include "model/figure_forms.hpp"

#include <catch2/catch.hpp>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

Model model() {
    Model m = block_on_plate();
    m.coolings.front().name = "air";
    m.add(Part{.name = "rod.5",
               .shape = Box{.size = {1_mm, 1_mm, 4_mm}, .at = {0.0, 0.0, 4_mm}},
               .material = "copper",
               .repeat = {{.count = 3, .step = {5_mm, 0.0, 0.0}}}});
    m.add(Sensor{.name = "tip", .in = "block", .at = {40_mm, 30_mm, 7_mm}});
    m.add(Sensor{.name = "edge", .in = "plate", .at = {1_mm, 1_mm, 1_mm}});
    m.add(Surface{.name = "block", .pick = side("block", Side::plus_z)});
    m.add(Node{.name = "junction"});
    m.add(Resistor{.name = "inside", .between = {"junction", "plate"}, .total = 2.0});
    return m;
}

std::string meaning(const std::string& address) {
    const FigureTerm term = figure_term(model(), address);
    return std::string(word_of(term.info->of)) + "|" + term.name + "|" + std::string(term.info->word);
}

const QuantityKind& kind_of(const std::string& value) {
    static FigureForms forms;
    Model m = model();
    m.add(NamedFigure{.name = "rise", .value = "= 'plate.max' - 35 degC"}).add(NamedFigure{.name = "hot", .value = "plate.max"});
    m.add(NamedFigure{.name = "it", .value = value});
    forms = forms_of_figures(m);
    return *forms.find("it")->quantity;
}

void refused(const std::string& value, const std::string& why) {
    Model m = model();
    m.add(NamedFigure{.name = "it", .value = value});
    INFO(value);
    const std::vector<Problem> problems = check_figures(m);
    REQUIRE(problems.size() == 1);
    CHECK(problems.front().address == "figure[0].value");
    CHECK_THAT(problems.front().message, Contains(why));
}

}  // namespace

TEST_CASE("addresses name parts, sensors, joints and the rest of a model", "[model]") {
    CHECK(meaning("plate.max") == "part|plate|max");
    CHECK(meaning("part.block.mean") == "part|block|mean");
    CHECK(meaning("surface.block.mean") == "surface|block|mean");
    CHECK(meaning("rod.5.min") == "part|rod.5|min");
    CHECK(meaning("rod.5 2.min") == "part|rod.5 2|min");
    CHECK(meaning("part.*.max") == "part|*|max");
    CHECK(meaning("tip") == "sensor|tip|");
    CHECK(meaning("sensor.tip") == "sensor|tip|");
    CHECK(meaning("junction") == "sensor|junction|");
    CHECK(meaning("sensor.*.mean") == "sensor|*|mean");
    CHECK(meaning("pad.flow") == "joint|pad|flow");
    CHECK(meaning("joint.plate - block.drop") == "joint|plate - block|drop");
    CHECK(meaning("inside.drop") == "resistor|inside|drop");
    CHECK(meaning("air.convection") == "cooling|air|convection");
    CHECK(meaning("power.block.heat") == "power|block|heat");
    CHECK(meaning("mass") == "product||mass");
    CHECK(meaning("plate.mass") == "part|plate|mass");
}

TEST_CASE("expressions of figures have the kind of quantity that they give", "[model]") {
    CHECK(kind_of("plate.mean").name == "temperature");
    CHECK(kind_of("= 'plate.mean'").name == "temperature");
    CHECK(kind_of("= 'part.block.max' - 'plate.min'").name == "temperature difference");
    CHECK(kind_of("= ('part.block.max' + 'plate.min') / 2").name == "temperature");
    CHECK(kind_of("= max('part.block.max', 'plate.min')").name == "temperature");
    CHECK(kind_of("= rise / 'power.block.heat'").name == "thermal resistance");
    CHECK(kind_of("= 'pad.flow' / ('part.block.mean' - 'plate.mean')").name == "thermal conductance");
    CHECK(kind_of("= 'pad.flow' / 'power.block.heat'").name == "number");
    CHECK(kind_of("= hot > 80 degC ? 1 : 0").name == "number");
    CHECK(kind_of("= rise + 5 K").name == "temperature difference");
    CHECK(kind_of("= hot + 5 K").name == "temperature");
    CHECK(kind_of("= 2 * 'mass'").name == "mass");
}

TEST_CASE("figures that make no sense are refused, with what to write instead", "[model]") {
    refused("block.max", "\"part.block.max\" and \"surface.block.max\"");
    refused("plate.hottest", "\"max\"");
    refused("plate", "\"max\"");
    refused("part.plat.max", "did you mean \"plate\"");
    refused("plat.max", "did you mean \"plate\"");
    refused("joint.pda.flow", "did you mean \"pad\"");
    refused("joint.pad", "\"flow\"");
    refused("tipp", "did you mean \"tip\"");
    refused("joint.*.flow", "no joint");
    refused("= 'plate.max' + 'plate.min'", "where their scale begins");
    refused("= 2 * 'plate.max'", "where their scale begins");
    refused("= 'plate.max' / 'plate.min'", "where their scale begins");
    refused("= sqrt('plate.max')", "kinds");
    refused("= 'plate.max' - 5 W", "different kinds");
    refused("= 'pad.flow' * 'pad.flow'", "which has no name here");
    refused("= 3 K", "names nothing that a solution tells");
    refused("= 'plate.max", "ends with");
    refused("= it - 3 K", "names nothing");
    refused("= ''", "empty");
    refused("= 'plate.max' -", "expected");

    Model m = model();
    m.add(NamedFigure{.name = "a", .value = "plate.max"}).add(NamedFigure{.name = "a", .value = "plate.min"}).add(NamedFigure{.value = "mass"});
    m.add(NamedFigure{.name = "empty"}).add(NamedFigure{.name = "tip", .value = "mass"}).add(NamedFigure{.name = "plate max", .value = "mass"});
    const std::vector<Problem> problems = check_figures(m);
    REQUIRE(problems.size() == 5);
    CHECK_THAT(problems[3].message, Contains("the name \"tip\" is taken"));
    CHECK_THAT(problems[4].message, Contains("the name \"plate max\" is taken"));
    CHECK_THAT(problems[0].message, Contains("used twice"));
    CHECK_THAT(problems[1].message, Contains("needs a name"));
    CHECK_THAT(problems[2].message, Contains("needs a value"));
}

TEST_CASE("limits and milestones on figures have values of their kind", "[model]") {
    const auto problem_with = [](const Limit& limit) {
        Model m = model();
        m.add(NamedFigure{.name = "spread", .value = "= 'plate.max' - 'plate.min'"}).add(limit);
        const std::vector<Problem> problems = validate(m);
        return problems.empty() ? std::string("none") : problems.front().address + ": " + problems.front().message;
    };
    const Threshold kelvin(5.0, kinds::temperature_difference);
    CHECK(problem_with({.figure = "spread", .below = kelvin}) == "none");
    CHECK(problem_with({.figure = "plate.mean", .below = 80_degC}) == "none");
    CHECK_THAT(problem_with({.figure = "spread", .below = 80_degC}),
               Contains("limit[1].below") && Contains("is a temperature difference, found a temperature"));
    CHECK_THAT(problem_with({.figure = "plate.mean", .above = kelvin}), Contains("limit[1].above"));
    CHECK_THAT(problem_with({.figure = "spraed", .below = kelvin}), Contains("limit[1].figure") && Contains("did you mean \"spread\""));
    CHECK_THAT(problem_with({.part = "plate", .figure = "spread", .below = kelvin}), Contains("a limit is on a \"part\", on a \"sensor\" or on a \"figure\""));

    const std::string start = write_model(model()) + "\n[[figure]]\nname = \"spread\"\nvalue = \"= 'plate.max' - 'plate.min'\"\n";
    const Model read =
        read_model_text(start + "[[limit]]\nfigure = \"spread\"\nbelow = \"5 K\"\n[[milestone]]\nfigure = \"pad.flow\"\nrises_above = \"= 2 * 3 W\"\n");
    CHECK(read.limits.back().below == kelvin);
    CHECK(read.milestones.back().rises_above == Threshold(6.0, kinds::power));
    CHECK(through_file(read) == read);
    Model absolute = model();
    absolute.add(Limit{.figure = "plate.mean", .below = 300.0, .above = celsius(-12.345)});
    CHECK(through_file(absolute) == absolute);
    CHECK_THROWS_WITH(read_model_text(start + "[[limit]]\nfigure = \"spread\"\nbelow = 5\n"), Contains("is a temperature difference, found a number"));
    CHECK_THROWS_WITH(read_model_text(start + "[[limit]]\nfigure = \"spread\"\nbelow = \"5 kg m\"\n"), Contains("takes a quantity that figures can have"));
    CHECK_THROWS_WITH(read_model_text(start + "[[limit]]\nfigure = \"spread\"\nbelow = \"5 Kelvin\"\n"), Contains("Kelvin"));
}
