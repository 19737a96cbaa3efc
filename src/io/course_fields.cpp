// Reading courses of profiles, starts of studies, and factors by name.

#include "io/course_fields.hpp"

#include "io/csv.hpp"

#include <fmt/format.h>

namespace firnfield {
namespace {

/// A factor, or a temperature when a unit of temperature stands beside it.
std::optional<double> factor_or_temperature(Fields& fields, std::string_view key, bool& temperature, const QuantityKind& degrees = kinds::temperature) {
    const toml::node* node = fields.node(key);
    if (node == nullptr) return std::nullopt;
    if (const auto text = node->value_exact<std::string>()) {
        try {
            const double value = parse_quantity(*text, degrees);
            temperature = true;
            return value;
        } catch (const QuantityError&) {  // then it has to be a number, and the message below tells
        }
    }
    return fields.quantity_of(*node, kinds::number, fmt::format("{}.{}", fields.address(), key));
}

/// Pairs of time and value.
Curve read_points(Fields& fields, std::string_view key, const QuantityKind& kind) {
    Curve curve;
    const toml::node* node = fields.node(key);
    if (node == nullptr) return curve;
    const toml::array* list = node->as_array();
    const std::string form = fmt::format("{} takes pairs of time and value, as in [[\"0 s\", {}], [\"5 s\", …]]", key,
                                         kind.absolute_temperature ? "\"20 degC\""
                                         : &kind == &kinds::power  ? "\"12 W\""
                                                                   : "0.5");
    if (list == nullptr) {
        fields.report(*node, fmt::format("{}; found {}", form, describe_type(*node)));
        return curve;
    }
    for (std::size_t i = 0; i < list->size(); ++i) {
        const toml::array* pair = (*list)[i].as_array();
        if (pair == nullptr || pair->size() != 2) {
            fields.report((*list)[i], form);
            return {};
        }
        const std::string address = fmt::format("{}.{}[{}]", fields.address(), key, i);
        const auto time = fields.quantity_of((*pair)[0], kinds::time, address), value = fields.quantity_of((*pair)[1], kind, address);
        if (!time || !value) return {};
        curve.at.push_back(*time);
        curve.value.push_back(*value);
    }
    return curve;
}

/// Whether it is a unit of power; else it has to be one of temperature, and reading a value tells if it is not.
bool is_power(const std::string& unit) {
    try {
        static_cast<void>(parse_quantity("1 " + unit, kinds::power));
        return true;
    } catch (const QuantityError&) {
        return false;
    }
}

void read_csv(Fields& csv, Profile& profile) {
    csv.require("file", "\"power.csv\"");
    const std::string file = csv.text("file").value_or("");
    const std::string time = csv.text("time").value_or(""), value = csv.text("value").value_or("");
    const auto time_unit = csv.text("time_unit"), unit = csv.text("unit");
    const double scale = csv.quantity("scale", kinds::number).value_or(1.0);
    if (file.empty()) return;
    try {
        profile.points = read_csv_columns(csv.reading().named_file(file), time, value);
        for (double& t : profile.points.at) t *= time_unit ? parse_quantity("1 " + *time_unit, kinds::time) : 1.0;
        const bool watts = unit && is_power(*unit);
        if (unit) profile.gives = watts ? CourseOf::power : CourseOf::temperature;
        if (profile.gives == CourseOf::temperature && csv.has("scale")) csv.report_here("scale multiplies factors and powers; temperatures have a unit");
        for (double& v : profile.points.value) {
            if (unit) v = parse_quantity(fmt::format("{} {}", v, *unit), watts ? kinds::power : kinds::temperature);
            if (profile.gives != CourseOf::temperature) v *= scale;
        }
    } catch (const Error& error) {
        csv.report_here(error.what());
    }
}

}  // namespace

void read_course(Fields& fields, Profile& profile) {
    if (fields.has("on") || fields.has("off")) {
        fields.require("on", "\"60 s\"");
        fields.require("off", "\"180 s\"");
        Duty duty;
        duty.on = fields.quantity("on", kinds::time).value_or(1.0);
        duty.off = fields.quantity("off", kinds::time).value_or(1.0);
        duty.delay = fields.quantity("delay", kinds::time).value_or(0.0);
        duty.ramp = fields.quantity("ramp", kinds::time).value_or(0.0);
        if (const auto cycles = fields.integer("cycles")) duty.cycles = to_int(*cycles);
        bool high_is = false, low_is = false;
        const auto high = factor_or_temperature(fields, "high", high_is), low = factor_or_temperature(fields, "low", low_is);
        if (high_is != low_is) fields.report_here("high and low are both temperatures, or both factors");
        duty.high = high.value_or(1.0);
        duty.low = low.value_or(0.0);
        if (high_is && low_is) profile.gives = CourseOf::temperature;
        profile.duty = duty;
    }
    fields.table("sine", [&](Fields& sine) {
        Sine course;
        bool mean_is = false, amplitude_is = false;
        sine.require("period", "\"24 h\"");
        course.mean = factor_or_temperature(sine, "mean", mean_is).value_or(0.0);
        course.amplitude = factor_or_temperature(sine, "amplitude", amplitude_is, kinds::temperature_difference).value_or(1.0);
        course.period = sine.quantity("period", kinds::time).value_or(1.0);
        course.delay = sine.quantity("delay", kinds::time).value_or(0.0);
        if (mean_is != amplitude_is) sine.report_here("mean is a temperature and amplitude a temperature difference (\"5 K\"), or both are numbers");
        if (mean_is && amplitude_is) profile.gives = CourseOf::temperature;
        profile.sine = course;
    });
    if (fields.has("points")) profile.points = read_points(fields, "points", kinds::number);
    if (fields.has("temperatures")) {
        profile.points = read_points(fields, "temperatures", kinds::temperature);
        profile.gives = CourseOf::temperature;
    }
    if (fields.has("powers")) {
        profile.points = read_points(fields, "powers", kinds::power);
        profile.gives = CourseOf::power;
    }
    fields.table("csv", [&](Fields& csv) { read_csv(csv, profile); });
    const int forms = int{profile.duty.has_value()} + int{profile.sine.has_value()} + int{fields.has("points")} + int{fields.has("temperatures")} +
                      int{fields.has("powers")} + int{fields.has("csv")};
    if (forms != 1) fields.report_here("give exactly one of on and off, points, temperatures, powers, csv and sine");
}

Start read_start(Fields& fields, std::string_view key) {
    Start start;
    const toml::node* node = fields.node(key);
    if (node == nullptr) return start;
    if (!node->is_table()) {
        start.temperature = fields.quantity(key, kinds::temperature);
        return start;
    }
    if (node->as_table()->contains("study")) {
        fields.table(key, [&](Fields& from) {
            start.study = from.text("study").value_or("");
            start.results = from.text("results").value_or("");
        });
        return start;
    }
    for (auto&& [name, value] : *node->as_table()) {
        const std::string part(name.str());
        if (const auto t = fields.quantity_of(value, kinds::temperature, fmt::format("{}.{}.{}", fields.address(), key, part))) start.parts[part] = *t;
    }
    if (const auto rest = start.parts.find("*"); rest != start.parts.end()) {
        start.temperature = rest->second;
        start.parts.erase(rest);
    }
    return start;
}

std::map<std::string, double> read_factors(Fields& fields, std::string_view key) {
    std::map<std::string, double> out;
    const toml::node* node = fields.node(key);
    if (node == nullptr) return out;
    const toml::table* table = node->as_table();
    if (table == nullptr) {
        fields.report(*node, fmt::format("{} takes a table from power to factor, as in {{ burst = 0.25 }}; found {}", key, describe_type(*node)));
        return out;
    }
    for (auto&& [entry, value] : *table) {
        const std::string name(entry.str());
        if (const auto factor = fields.quantity_of(value, kinds::number, fmt::format("{}.{}.{}", fields.address(), key, name))) out[name] = *factor;
    }
    return out;
}

}  // namespace firnfield
