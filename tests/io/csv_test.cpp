// Tables as people export them: separators, quotes, remarks, line ends, long ones; and what is refused.

#include "models.hpp"

#include "io/csv.hpp"

#include <fmt/format.h>
#include <rapidcheck/catch.h>
#include <catch2/catch.hpp>

using namespace firnfield;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

Curve columns(const std::string& text, const std::string& x = {}, const std::string& y = {}) { return read_csv_columns_text(text, "t.csv", x, y); }

std::string refusal(const std::string& text, const std::string& x = {}, const std::string& y = {}) {
    try {
        static_cast<void>(columns(text, x, y));
    } catch (const FileError& error) {
        return error.what();
    }
    return "taken";
}

}  // namespace

TEST_CASE("cells of a line, with quotes and what they hold", "[io]") {
    using Cells = std::vector<std::string>;
    CHECK(csv_cells("a,b", ',') == Cells{"a", "b"});
    CHECK(csv_cells("", ',') == Cells{""});
    CHECK(csv_cells(",", ',') == Cells{"", ""});
    CHECK(csv_cells("\"a,b\",c", ',') == Cells{"a,b", "c"});
    CHECK(csv_cells("\"say \"\"on\"\"\";2", ';') == Cells{"say \"on\"", "2"});
    CHECK(csv_cells("\"\",x", ',') == Cells{"", "x"});
    CHECK(csv_cells("\"\"\"\"", ',') == Cells{"\""});
    CHECK_FALSE(csv_cells("\"open,1", ',').has_value());
    CHECK_FALSE(csv_cells("a,\"\"\"", ',').has_value());
}

TEST_CASE("any cells that are written are read again", "[io][property]") {
    rc::prop("rows of cells", [](std::vector<std::string> texts) {
        if (texts.empty()) texts.emplace_back();
        std::string line;
        for (std::string& text : texts) {
            std::erase_if(text, [](char c) { return static_cast<unsigned char>(c) < 32 || c == 127; });  // as names are
            if (&text != &texts.front()) line += ',';
            line += csv_cell(text);
        }
        const auto cells = csv_cells(line, ',');
        RC_ASSERT(cells.has_value());
        RC_ASSERT(cells->size() == texts.size());
        for (std::size_t i = 0; i < texts.size(); ++i) RC_ASSERT(text_of_csv_cell((*cells)[i]) == texts[i]);
    });
}

TEST_CASE("tables with commas, semicolons and tabs, of any system, give the same columns", "[io]") {
    for (const char separator : {',', ';', '\t'}) {
        for (const std::string end : {"\n", "\r\n"}) {
            std::string text = "time?fan?P" + end + "# measured" + end + "0?1?2.5" + end + "  " + end + " 10 ? 2 ? -3e-1 " + end;
            std::replace(text.begin(), text.end(), '?', separator);
            INFO(text);
            const Curve c = columns(text, {}, "P");
            CHECK(c.at == std::vector<double>{0.0, 10.0});
            CHECK(c.value == std::vector<double>{2.5, -0.3});
            CHECK(columns(text).value == std::vector<double>{1.0, 2.0});
            CHECK(columns(text, "fan", "time").at == std::vector<double>{1.0, 2.0});
        }
    }
    CHECK(columns("t,\"fan \"\"A\"\", left\"\n0,1\n", {}, "fan \"A\", left").value == std::vector<double>{1.0});
    CHECK(columns("t,P\n0,1").value == std::vector<double>{1.0});        // no end of line at the end
    CHECK(columns("t,P\n0,1,2,3\n").value == std::vector<double>{1.0});  // more cells than names
}

TEST_CASE("what is no table is refused at its line", "[io]") {
    CHECK_THAT(refusal(""), Contains("empty"));
    CHECK_THAT(refusal("t,P\n0,1\n1\n"), Contains("t.csv:3: expected a number in column 2"));
    CHECK_THAT(refusal("t,P\n0,1\n1,\n"), Contains("t.csv:3"));
    CHECK_THAT(refusal("t,P\n0,1\n1,2 W\n"), Contains("found \"2 W\""));
    CHECK_THAT(refusal("t;P\n0;1,5\n"), Contains("found \"1,5\""));  // decimal commas are told, not guessed
    CHECK_THAT(refusal("t,P\n0,0x10\n"), Contains("0x10"));
    CHECK_THAT(refusal("t,P\n0,1e999\n"), Contains("1e999"));
    CHECK_THAT(refusal("t,P\n0,\"1\n2,3\n"), Contains("t.csv:2: a quote is left open"));
    CHECK_THAT(refusal("t,\"P\n0,1\n"), Contains("t.csv:1: a quote is left open"));
    CHECK_THAT(refusal("t,Power\n0,1\n", {}, "Pover"), Contains("no column \"Pover\"") && Contains("Power"));
    CHECK_THAT(refusal("t,P\n0,1\n", "tme"), Contains("no column \"tme\""));
    CHECK_THAT(refusal("t\n0\n"), Contains("column 2"));
}

TEST_CASE("numbers that are none do not get into a model", "[io]") {
    // Through the model file: not finite, not ascending, one point only, below absolute zero.
    const auto problem = [](const std::string& rows, const std::string& keys = "") {
        Model m = block_on_plate();
        try {
            const Curve c = columns("t,P\n" + rows);
            m.add(Profile{.name = "p", .points = c, .gives = keys.empty() ? CourseOf::factor : CourseOf::temperature});
        } catch (const FileError& error) {
            return std::string(error.what());
        }
        const std::vector<Problem> found = validate(m);
        return found.empty() ? std::string() : found.front().message;
    };
    CHECK(problem("0,1\n1,2\n").empty());
    CHECK_FALSE(problem("0,nan\n1,2\n").empty());
    CHECK_FALSE(problem("0,1\ninf,2\n").empty());
    CHECK_THAT(problem("0,1\n2,2\n1,3\n"), Contains("ascend"));
    CHECK_FALSE(problem("0,-500\n1,2\n", "temperature").empty());
}

TEST_CASE("a table of two hundred thousand rows comes through whole", "[io]") {
    std::string text = "t,a,b\n";
    constexpr int rows = 200'000;
    for (int i = 0; i < rows; ++i) text += fmt::format("{},{},{}\n", 0.1 * i, i % 7, -i);
    const Curve c = columns(text, "t", "b");
    REQUIRE(c.at.size() == rows);
    CHECK(c.at.back() == 0.1 * (rows - 1));
    CHECK(c.value.back() == -(rows - 1));
    CHECK(c(0.1 * 1234.5) == Approx(-1234.5));
}
