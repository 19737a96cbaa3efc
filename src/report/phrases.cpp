// Phrases that several reports share.

#include "report/phrases.hpp"

#include <firnfield/quantity.hpp>
#include <firnfield/text.hpp>

#include "base/unit_text.hpp"
#include "base/words.hpp"
#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {

std::string printable(std::string text) {
    // Those of ASCII, and the second block of them, which UTF-8 writes as C2 80 to C2 9F.
    std::erase_if(text, [](char c) { return (static_cast<unsigned char>(c) < 0x20 && c != '\n' && c != '\t') || c == 0x7F; });
    for (std::size_t at = 0; (at = text.find('\xC2', at)) != std::string::npos;) {
        const bool controls = at + 1 < text.size() && static_cast<unsigned char>(text[at + 1]) >= 0x80 && static_cast<unsigned char>(text[at + 1]) < 0xA0;
        if (controls) {
            text.erase(at, 2);
        } else {
            ++at;
        }
    }
    return text;
}

std::string degrees(double kelvin, const Units& units) {
    const std::string text = show_temperature(kelvin, units, 1);
    return text.substr(0, text.find(' '));
}

std::string degrees_apart(double kelvin, const Units& units, int decimals, bool sign) {
    const double shown = unit_of(kinds::temperature_difference, units).out(kelvin);
    return sign ? fmt::format("{:+.{}f}", shown, decimals) : fmt::format("{:.{}f}", shown, decimals);
}

std::string about_degrees(double kelvin, const Units& units, int digits) {
    return fmt::format("{:.{}g} {}", unit_of(kinds::temperature_difference, units).out(kelvin), digits, difference_unit(units));
}

std::string degree_unit(const Units& units) { return unit_of(kinds::temperature, units).shown; }
std::string unit_of_lengths(const Units& units) { return pretty_unit(units.length); }
std::string difference_unit(const Units& units) { return unit_of(kinds::temperature_difference, units).shown; }

std::string amount_text(double si, const QuantityKind& kind, const Units& units, int digits) {
    if (kind.absolute_temperature) return show_temperature(si, units, 1);
    if (kind.dimension == kinds::time.dimension) return duration(si);
    if (!is_kelvin(kind)) return show_quantity(si, kind, units, digits);
    std::string text = fmt::format("{:#.{}g}", unit_of(kind, units).out(si), digits);
    if (text.ends_with('.')) text.pop_back();
    return text + " " + difference_unit(units);
}

std::string measured_text(const Measured& value, const Units& units, int digits) {
    if (value.on_a_scale) return show_temperature(value.value, units);
    if (value.dimension == Dimension{}) return fmt::format("{:.{}g}", value.value, std::max(digits, 6));
    const std::string name = name_of(value.dimension);
    const QuantityKind* kind = quantity_with(value.dimension);
    return show_quantity(value.value, kind != nullptr ? *kind : QuantityKind{name, value.dimension, "", ""}, units, digits);
}

std::string spread_text(const ParameterInfo& parameter, const Units& units, int digits) {
    return measured_text({parameter.spread->width, parameter.value.dimension}, units, digits);
}

std::string watts(double power, double scale) {
    const int decimals = std::clamp(3 - static_cast<int>(std::floor(std::log10(std::max(scale, 1e-9)))), 0, 9);
    std::string text = fmt::format("{:.{}f}", power, std::min(decimals, 6));
    if (text.find_first_not_of("-0.") == std::string::npos && text.starts_with('-')) text.erase(0, 1);
    return text;
}

std::string place(Vec3 p, const Units& units) {
    const double one = parse_quantity("1 " + units.length, kinds::length);
    // Tenths of a millimetre; small things lie in small places.
    const double largest = 1e3 * std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)});
    const int of_millimetres = largest >= 1.0 || largest == 0.0 ? 1 : largest >= 0.1 ? 3 : 4;
    const int decimals = std::clamp(of_millimetres + static_cast<int>(std::ceil(std::log10(one / 1e-3) - 1e-9)), 0, 9);
    const auto rounded = [&](double metre) {
        const double unit = std::pow(10.0, decimals);
        return std::round(metre / one * unit) / unit + 0.0;  // which makes a zero of a negative one
    };
    return fmt::format("({:.{}f}, {:.{}f}, {:.{}f})", rounded(p.x), decimals, rounded(p.y), decimals, rounded(p.z), decimals);
}

std::string duration(double seconds) { return show_quantity(seconds, kinds::time); }

std::string heading(std::string_view text) { return fmt::format("\n{}\n", text); }

void append_warnings(std::string& out, const std::vector<Warning>& warnings) {
    if (warnings.empty()) return;
    out += heading("Remarks");
    for (const Warning& warning : warnings) out += "  ! " + wrapped(warning.message, 4) + "\n";
}

std::string describe(const Study& study, const Units& units) {
    std::string text = fmt::format("Study \"{}\", ", study.name);
    switch (study.kind) {
        case StudyKind::steady:
            text += "steady";
            break;
        case StudyKind::transient:
            text += "transient over " + duration(study.lasts);
            break;
        case StudyKind::cyclic:
            text += "settled cycle";
            break;
    }
    if (study.ambient) text += fmt::format(", ambient {}", show_temperature(*study.ambient, units));
    if (!study.ambient_profile.empty()) text += fmt::format(", ambient after \"{}\"", study.ambient_profile);
    for (const auto& [power, factor] : study.scale) text += fmt::format(", {} × {:g}", power, factor);
    if (!study.without.empty()) text += fmt::format(", without {}", fmt::join(study.without, ", "));
    if (study.kind == StudyKind::steady) return text;
    if (!study.start.study.empty()) {
        text += fmt::format(", from where \"{}\" ended", study.start.study);
    } else if (study.kind == StudyKind::transient) {
        if (study.start.temperature) text += fmt::format(", from {}", show_temperature(*study.start.temperature, units));
        if (study.start.empty()) text += ", from ambient";
        for (const auto& [part, t] : study.start.parts) text += fmt::format(", {} from {}", part, show_temperature(t, units));
    }
    constexpr std::string_view until[] = {"", ", until steady", ", until all limits are decided", ", until all milestones are passed"};
    text += until[static_cast<std::size_t>(study.stop_when)];
    return text + fmt::format(", tolerance {}", show_quantity(study.tolerance, kinds::temperature_difference, units));
}

}  // namespace firnfield
