// Words for messages: quoting, near words, wildcards, lists.

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

namespace firnfield {
namespace {

char lower(char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); }

}  // namespace

std::size_t edit_distance(std::string_view a, std::string_view b) {
    // Optimal string alignment: three rows of the dynamic-programming table suffice.
    std::vector<std::size_t> before(b.size() + 1), previous(b.size() + 1), current(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j) previous[j] = j;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        current[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const bool same = lower(a[i - 1]) == lower(b[j - 1]);
            current[j] = std::min({previous[j] + 1, current[j - 1] + 1, previous[j - 1] + (same ? 0U : 1U)});
            if (i > 1 && j > 1 && lower(a[i - 1]) == lower(b[j - 2]) && lower(a[i - 2]) == lower(b[j - 1])) {
                current[j] = std::min(current[j], before[j - 2] + 1);
            }
        }
        std::swap(before, previous);
        std::swap(previous, current);
    }
    return previous[b.size()];
}

std::string nearest_word(std::string_view word, std::span<const std::string> candidates) {
    constexpr std::size_t longest_considered = 64;
    if (word.empty() || word.size() > longest_considered) return {};
    std::string best;
    std::size_t best_distance = std::max<std::size_t>(1, word.size() / 3) + 1;
    for (const std::string& candidate : candidates) {
        if (candidate.size() > longest_considered) continue;
        const std::size_t distance = edit_distance(word, candidate);
        if (distance < best_distance) {
            best_distance = distance;
            best = candidate;
        }
    }
    if (!best.empty() || word.size() < 3) return best;
    // A word that starts or contains the other ("6061" for "aluminium 6061-T6") counts as near, too.
    for (const std::string& candidate : candidates) {
        const auto found = std::search(candidate.begin(), candidate.end(), word.begin(), word.end(), [](char x, char y) { return lower(x) == lower(y); });
        if (found != candidate.end()) return candidate;
    }
    return {};
}

std::string did_you_mean(std::string_view word, std::span<const std::string> candidates) {
    const std::string near = nearest_word(word, candidates);
    return near.empty() ? std::string{} : fmt::format(" (did you mean \"{}\"?)", near);
}

bool matches_wildcard(std::string_view pattern, std::string_view text) {
    std::size_t p = 0, t = 0, star = std::string_view::npos, mark = 0;
    while (t < text.size()) {
        if (p < pattern.size() && (pattern[p] == '?' || pattern[p] == text[t]) && pattern[p] != '*') {
            ++p;
            ++t;
        } else if (p < pattern.size() && pattern[p] == '*') {
            star = p++;
            mark = t;
        } else if (star != std::string_view::npos) {
            p = star + 1;
            t = ++mark;
        } else {
            return false;
        }
    }
    while (p < pattern.size() && pattern[p] == '*') ++p;
    return p == pattern.size();
}

std::string quoted_list(std::span<const std::string> words, std::size_t most) {
    std::string text;
    const std::size_t shown = std::min(most, words.size());
    for (std::size_t i = 0; i < shown; ++i) {
        if (i > 0) text += (i + 1 == words.size()) ? " and " : ", ";
        text += in_quotes(words[i]);
    }
    if (words.size() > shown) text += fmt::format(" and {} more", words.size() - shown);
    return text;
}

std::string in_quotes(std::string_view text) {
    constexpr std::size_t longest = 60;
    std::string out = "\"";
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (i >= longest && (static_cast<unsigned char>(text[i]) & 0xC0U) != 0x80U) {
            out += "…";
            break;
        }
        const auto byte = static_cast<unsigned char>(text[i]);
        if (byte < 0x20 || byte == 0x7F) {
            out += fmt::format("\\x{:02x}", byte);
        } else {
            out += text[i];
        }
    }
    return out + '"';
}

std::string grouped(unsigned long long number) {
    std::string digits = fmt::format("{}", number);
    for (std::size_t place = digits.size(); place > 3;) {
        place -= 3;
        digits.insert(place, " ");
    }
    return digits;
}

std::size_t display_width(std::string_view text) {
    return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

}  // namespace firnfield
