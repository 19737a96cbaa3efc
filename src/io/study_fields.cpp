#include "io/study_fields.hpp"

#include "base/words.hpp"

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
    const std::string form = fmt::format("{} takes pairs of time and value, as in [[\"0 s\", {}], [\"5 s\", …]]", key, kind.absolute_temperature ? "\"20 degC\"" : "0.5");
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
        for (double& v : profile.points.value) {
            if (unit) {
                profile.temperature = true;
                v = parse_quantity(fmt::format("{} {}", v, *unit), kinds::temperature);
            } else {
                v *= scale;
            }
        }
    } catch (const Error& error) {
        csv.report_here(error.what());
    }
}

Start read_start(Fields& fields) {
    Start start;
    const toml::node* node = fields.node("start");
    if (node == nullptr) return start;
    if (!node->is_table()) {
        start.temperature = fields.quantity("start", kinds::temperature);
        return start;
    }
    if (node->as_table()->contains("study")) {
        fields.table("start", [&](Fields& from) {
            start.study = from.text("study").value_or("");
            start.results = from.text("results").value_or("");
        });
        return start;
    }
    for (auto&& [key, value] : *node->as_table()) {
        const std::string part(key.str());
        if (const auto t = fields.quantity_of(value, kinds::temperature, fmt::format("{}.start.{}", fields.address(), part))) start.parts[part] = *t;
    }
    if (const auto rest = start.parts.find("*"); rest != start.parts.end()) {
        start.temperature = rest->second;
        start.parts.erase(rest);
    }
    return start;
}

}  // namespace

Profile read_profile(Fields& fields) {
    Profile profile;
    fields.require("name", "\"transmit\"");
    profile.name = fields.text("name").value_or("");
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
        profile.temperature = high_is && low_is;
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
        profile.temperature = mean_is && amplitude_is;
        profile.sine = course;
    });
    if (fields.has("points")) profile.points = read_points(fields, "points", kinds::number);
    if (fields.has("temperatures")) {
        profile.points = read_points(fields, "temperatures", kinds::temperature);
        profile.temperature = true;
    }
    fields.table("csv", [&](Fields& csv) { read_csv(csv, profile); });
    profile.stepped = fields.flag("stepped").value_or(false);
    profile.repeat = fields.flag("repeat").value_or(false);
    const int forms = int{profile.duty.has_value()} + int{profile.sine.has_value()} + int{fields.has("points")} + int{fields.has("temperatures")} + int{fields.has("csv")};
    if (forms != 1) fields.report_here("give exactly one of on and off, points, temperatures, csv and sine");
    return profile;
}

Thermostat read_thermostat(Fields& fields) {
    Thermostat thermostat;
    fields.require("name", "\"oven\"");
    fields.require("sensor", "\"oven wall\"");
    fields.require("switches", "[\"heater\"]");
    fields.require("lower", "\"68 degC\"");
    fields.require("upper", "\"70 degC\"");
    thermostat.name = fields.text("name").value_or("");
    thermostat.sensor = fields.text("sensor").value_or("");
    thermostat.switches = fields.texts("switches");
    thermostat.lower = fields.quantity("lower", kinds::temperature).value_or(zero_celsius);
    thermostat.upper = fields.quantity("upper", kinds::temperature).value_or(zero_celsius + 1.0);
    thermostat.cools = fields.word("acts", {"heating", "cooling"}).value_or(0) == 1;
    if (const auto starts = fields.word("starts", {"off", "on"})) thermostat.starts_on = *starts == 1;
    thermostat.least_on = fields.quantity("least_on", kinds::time).value_or(0.0);
    thermostat.least_off = fields.quantity("least_off", kinds::time).value_or(0.0);
    thermostat.studies = fields.texts("studies");
    return thermostat;
}

Study read_study(Fields& fields) {
    Study study;
    fields.require("name", "\"steady\"");
    study.name = fields.text("name").value_or("");
    study.kind = static_cast<StudyKind>(fields.word("kind", {"steady", "transient", "cyclic"}).value_or(0));
    study.ambient = fields.quantity("ambient", kinds::temperature);
    study.ambient_profile = fields.text("ambient_profile").value_or("");
    if (const toml::node* scale = fields.node("scale")) {
        if (const toml::table* table = scale->as_table()) {
            for (auto&& [key, value] : *table) {
                const std::string name(key.str());
                const auto factor = fields.quantity_of(value, kinds::number, fmt::format("{}.scale.{}", fields.address(), name));
                if (factor) study.scale[name] = *factor;
            }
        } else {
            fields.report(*scale, fmt::format("scale takes a table from power to factor, as in {{ burst = 0.25 }}; found {}", describe_type(*scale)));
        }
    }
    study.coarsening = fields.quantity("coarsening", kinds::number).value_or(1.0);
    if (study.kind == StudyKind::steady) return study;
    study.start = read_start(fields);
    study.tolerance = fields.quantity("tolerance", kinds::temperature_difference).value_or(study.tolerance);
    study.longest_step = fields.quantity("longest_step", kinds::time);
    if (study.kind == StudyKind::cyclic) {
        study.period = fields.quantity("period", kinds::time);
        return study;
    }
    fields.require("lasts", "\"8 h\"");
    study.lasts = fields.quantity("lasts", kinds::time).value_or(1.0);
    study.stop_when = static_cast<StopWhen>(fields.word("stop_when", {"never", "steady", "all limits decided"}).value_or(0));
    study.steady_within = fields.quantity("steady_within", kinds::temperature_difference).value_or(study.steady_within);
    study.fields_at = fields.quantities("fields_at", kinds::time);
    study.fields_every = fields.quantity("fields_every", kinds::time);
    study.history_every = fields.quantity("history_every", kinds::time);
    study.fixed_step = fields.quantity("fixed_step", kinds::time);
    return study;
}

}  // namespace firnfield
