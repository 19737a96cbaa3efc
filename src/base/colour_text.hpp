/// Colours as they are written: "#rrggbb".
#pragma once

#include <array>
#include <optional>
#include <string_view>

namespace firnfield {

/// Red, green and blue, 0 to 1; nothing for a text that is no colour.
[[nodiscard]] inline std::optional<std::array<double, 3>> read_colour(std::string_view text) {
    constexpr std::string_view digits = "0123456789abcdef";
    if (text.size() != 7 || text.front() != '#') return std::nullopt;
    std::array<double, 3> out{};
    for (std::size_t i = 1; i < text.size(); ++i) {
        const char small = text[i] >= 'A' && text[i] <= 'F' ? static_cast<char>(text[i] - 'A' + 'a') : text[i];
        const std::size_t digit = digits.find(small);
        if (digit == std::string_view::npos) return std::nullopt;
        out[(i - 1) / 2] += (i % 2 == 1 ? 16.0 : 1.0) * static_cast<double>(digit) / 255.0;
    }
    return out;
}

}  // namespace firnfield
