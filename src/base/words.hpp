/// Small text helpers: nearest known word, wildcard match, lists in prose.
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// Number of edits (insert, delete, replace, swap neighbours) between two words, ignoring case.
[[nodiscard]] std::size_t edit_distance(std::string_view a, std::string_view b);

/// The candidate nearest to `word`, or an empty string when none is near enough to be meant.
[[nodiscard]] std::string nearest_word(std::string_view word, std::span<const std::string> candidates);

/// " (did you mean \"…\"?)" for the nearest candidate, or an empty string.
[[nodiscard]] std::string did_you_mean(std::string_view word, std::span<const std::string> candidates);

/// Wildcard match: `*` stands for any run of characters, `?` for one.
[[nodiscard]] bool matches_wildcard(std::string_view pattern, std::string_view text);

/// `"a", "b" and "c"`; beyond `most` names the rest is counted.
[[nodiscard]] std::string quoted_list(std::span<const std::string> words, std::size_t most = 6);

/// The text in double quotes; control characters and stray bytes shown as \xNN, long texts shortened.
[[nodiscard]] std::string in_quotes(std::string_view text);

/// Whole number with thin groups of three: 1 234 567.
[[nodiscard]] std::string grouped(unsigned long long number);

/// Number of characters (not bytes) of UTF-8 text, for aligning tables.
[[nodiscard]] std::size_t display_width(std::string_view text);

}  // namespace firnfield
