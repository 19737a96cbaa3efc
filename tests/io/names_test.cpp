// Names from models on their way into files: of files, cells of CSV, text of XML, a terminal.

#include <firnfield/firnfield.hpp>

#include <rapidcheck/catch.h>
#include <catch2/catch.hpp>

#include <algorithm>
#include <set>

using namespace firnfield;

TEST_CASE("names make file names that stay in their folder and can be read", "[io]") {
    CHECK(file_stem("warm up, 20 °C") == "warm up, 20 °C");
    CHECK(file_stem("W/K") == "W-K");
    for (const char* name : {"", ".", "..", "../../up", ".hidden", "-rf", "a\nb", "con\x01trol", "`x`", "$(x)", "a\\b", "'q'", "\"q\"", " ", "CON", "nul"}) {
        INFO(name);
        const std::string stem = file_stem(name);
        CHECK_FALSE(stem.empty());
        CHECK(stem.find_first_of("/\\`$\"\n\x01") == std::string::npos);
        CHECK(stem.front() != '.');
        CHECK(stem.front() != '-');
        CHECK(stem == file_stem(stem));
    }
    const std::string a = file_stem(std::string(300, 'x') + "a"), b = file_stem(std::string(300, 'x') + "b");
    CHECK(a.size() < 200);
    CHECK(a != b);
}

TEST_CASE("no two names share a file", "[io][property]") {
    CHECK(file_names(std::vector<std::string>{"a/b", "a-b", "A-B", "c"}) == std::vector<std::string>{"a-b (3)", "a-b", "A-B (2)", "c"});
    rc::prop("any names", [](const std::vector<std::string>& names) {
        std::set<std::string> seen;
        for (std::string name : file_names(names)) {
            std::transform(name.begin(), name.end(), name.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
            RC_ASSERT(seen.insert(name).second);
        }
    });
    // A study "a" with the picture "b - c", and a study "a - b" with the picture "c".
    Model model;
    model.pictures = {{.name = "b - c"}, {.name = "c"}};
    model.studies = {{.name = "a"}, {.name = "a - b"}};
    const ResultNames results(model);
    CHECK(results.picture("a", "b - c") != results.picture("a - b", "c"));
    CHECK_THROWS_AS(results.study("none"), Error);
}

TEST_CASE("cells of CSV come back as they went, and none is a formula", "[io][property]") {
    CHECK(csv_cell("lid, upper") == "\"lid, upper\"");
    CHECK(csv_cell("=cmd|' /C calc'!A0").find("'=") <= 1);
    rc::prop("any text without control characters", [](std::string text) {
        text.erase(std::remove_if(text.begin(), text.end(), [](unsigned char c) { return c < 0x20 || c == 0x7F; }), text.end());
        const std::string cell = csv_cell(text);
        std::string read = cell;
        if (cell.starts_with('"')) {
            read.clear();
            for (std::size_t i = 1; i + 1 < cell.size(); ++i) {
                read += cell[i];
                if (cell[i] == '"') ++i;
            }
        }
        RC_ASSERT(text_of_csv_cell(read) == text);
        RC_ASSERT((read.empty() || std::string("=+-@").find(read.front()) == std::string::npos));
    });
}

TEST_CASE("text in XML is text, and a terminal takes no commands", "[io]") {
    CHECK(xml_text("<a href=\"x\">&'</a>").find_first_of("<>\"") == std::string::npos);
    CHECK(printable("a\x1b[31mb\tc\nd\x07").find('\x1b') == std::string::npos);
    CHECK(printable("°C → ∞\tx\n") == "°C → ∞\tx\n");
    CHECK(printable("\xc2\x9b"
                    "31m")
              .find("\xc2\x9b") == std::string::npos);  // a control sequence in one character
}
