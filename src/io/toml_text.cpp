// Values as they stand in a model file.

#include "io/toml_text.hpp"

#include <fmt/format.h>

namespace firnfield {

std::string toml_text(std::string_view text) {
    std::string out = "\"";
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (c == '"' || c == '\\') {
            out += '\\';
            out += c;
        } else if (byte < 0x20 || byte == 0x7F) {
            out += fmt::format("\\u{:04X}", byte);
        } else {
            out += c;
        }
    }
    return out + '"';
}

std::string toml_quantity(double value, const QuantityKind& kind) {
    const std::string text = write_quantity(value, kind);
    for (const std::string_view bare : {" mm", " degC"}) {
        if (text.ends_with(bare)) return text.substr(0, text.size() - bare.size());
    }
    return kind.dimension == Dimension{} ? text : toml_text(text);
}

std::string toml_threshold(const Threshold& held) {
    if (held.kind->dimension == Dimension{}) return fmt::format("{}", held.value);
    if (!held.kind->absolute_temperature) return toml_text(write_quantity(held.value, *held.kind));
    // In kelvin it would be read back as a difference.
    std::string text;
    for (int digits = 1; digits <= 17; ++digits) {
        text = fmt::format("{:.{}g} degC", held.value - zero_celsius, digits);
        if (parse_quantity(text, *held.kind) == held.value) break;
    }
    return toml_text(text);
}

std::string toml_quantities(const std::vector<double>& values, const QuantityKind& kind) {
    return "[" + joined(values, [&](double value) { return toml_quantity(value, kind); }) + "]";
}

std::string toml_curve(const Curve& curve, const QuantityKind& at, const QuantityKind& value) {
    return in_place({{"at", toml_quantities(curve.at, at)}, {"value", toml_quantities(curve.value, value)}});
}

std::string toml_point(Vec3 p) { return toml_quantities({p.x, p.y, p.z}, kinds::length); }

std::string toml_direction(Vec3 d) {
    for (const Side side : all_sides) {
        if (d == outward(side)) return toml_text(name_of(side));
    }
    return toml_quantities({d.x, d.y, d.z}, kinds::number);
}

std::string toml_outline(const Outline& outline) {
    const auto corner = [](const OutlinePoint& p) {
        const std::string to = toml_quantities({p.x, p.y}, kinds::length);
        return p.through ? in_place({{"to", to}, {"through", toml_quantities({(*p.through)[0], (*p.through)[1]}, kinds::length)}}) : to;
    };
    return "[" + joined(outline, corner) + "]";
}

std::string toml_factors(const std::map<std::string, double>& values, const QuantityKind& kind) {
    Entries entries;
    for (const auto& [name, value] : values) entries.emplace_back(toml_text(name), toml_quantity(value, kind));
    return in_place(entries);
}

std::string toml_start(const Start& start) {
    if (!start.study.empty()) {
        Entries from{{"study", toml_text(start.study)}};
        if (!start.results.empty()) from.emplace_back("results", toml_text(start.results));
        return in_place(from);
    }
    if (start.parts.empty()) return start.temperature ? toml_quantity(*start.temperature, kinds::temperature) : std::string();
    std::map<std::string, double> all = start.parts;
    if (start.temperature) all.emplace("*", *start.temperature);
    return toml_factors(all, kinds::temperature);
}

/// Keys of points by what they give, in the order of CourseOf.
const std::array<std::pair<std::string_view, const QuantityKind*>, 3> course_words{
    {{"points", &kinds::number}, {"temperatures", &kinds::temperature}, {"powers", &kinds::power}}};

Entries course_keys(const Profile& profile) {
    // A level carries its unit, which tells a temperature from a factor.
    const auto level = [&](double value) {
        return profile.gives == CourseOf::temperature ? toml_text(write_quantity(value, kinds::temperature)) : toml_quantity(value, kinds::number);
    };
    const auto time = [](double value) { return toml_quantity(value, kinds::time); };
    Entries out;
    if (profile.duty) {
        const Duty& duty = *profile.duty;
        out = {{"on", time(duty.on)}, {"off", time(duty.off)}};
        if (duty.delay != 0.0) out.emplace_back("delay", time(duty.delay));
        if (duty.ramp != 0.0) out.emplace_back("ramp", time(duty.ramp));
        if (duty.cycles != 0) out.emplace_back("cycles", std::to_string(duty.cycles));
        out.emplace_back("high", level(duty.high));
        out.emplace_back("low", level(duty.low));
    } else if (profile.sine) {
        const Sine& sine = *profile.sine;
        out = {{"sine",
                in_place({{"mean", level(sine.mean)},
                          {"amplitude", toml_quantity(sine.amplitude, profile.gives == CourseOf::temperature ? kinds::temperature_difference : kinds::number)},
                          {"period", time(sine.period)},
                          {"delay", time(sine.delay)}})}};
    } else {
        const auto& [key, kind] = course_words[static_cast<std::size_t>(profile.gives)];
        std::string points;
        for (std::size_t i = 0; i < profile.points.at.size(); ++i) {
            points += fmt::format("{}[{}, {}]", i == 0 ? "" : ", ", time(profile.points.at[i]), toml_quantity(profile.points.value[i], *kind));
        }
        out = {{std::string(key), "[" + points + "]"}};
    }
    return out;
}

std::string in_place(const Entries& entries) {
    if (entries.empty()) return "{}";
    return "{ " + joined(entries, [](const auto& entry) { return entry.first + " = " + entry.second; }) + " }";
}

}  // namespace firnfield
