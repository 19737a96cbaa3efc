// Near words, wildcards, texts for messages.

#include "base/words.hpp"

#include <catch2/catch.hpp>

using namespace firnfield;

TEST_CASE("near words are found, far ones are not", "[base]") {
    const std::vector<std::string> words{"conductivity", "density", "specific_heat", "aluminium 6061-T6"};
    CHECK(nearest_word("condutcivity", words) == "conductivity");
    CHECK(nearest_word("Density", words) == "density");
    CHECK(nearest_word("6061", words) == "aluminium 6061-T6");
    CHECK(nearest_word("colour", words).empty());
    CHECK(nearest_word("", words).empty());
    CHECK(edit_distance("form", "from") == 1);
}

TEST_CASE("wildcards", "[base]") {
    CHECK(matches_wildcard("fin *", "fin 12"));
    CHECK_FALSE(matches_wildcard("fin *", "final"));
    CHECK(matches_wildcard("*a*b", "xaxxb"));
    CHECK(matches_wildcard("f?n", "fin"));
    CHECK_FALSE(matches_wildcard("f?n", "fn"));
    CHECK(matches_wildcard("*", ""));
    CHECK_FALSE(matches_wildcard("", "x"));
}

TEST_CASE("texts for messages", "[base]") {
    const std::vector<std::string> three{"a", "b", "c"};
    CHECK(quoted_list(three) == "\"a\", \"b\" and \"c\"");
    CHECK(quoted_list(three, 2) == "\"a\", \"b\" and 1 more");
    CHECK(in_quotes("a\tb") == "\"a\\x09b\"");
    CHECK(grouped(1234567) == "1 234 567");
    CHECK(grouped(999) == "999");
    CHECK(display_width("10 µm²") == 6);
}
