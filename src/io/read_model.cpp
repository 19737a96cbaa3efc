// A model from the text of its file.

#include <firnfield/model_file.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "io/assembly_fields.hpp"
#include "io/cad_files.hpp"
#include "io/model_tables.hpp"
#include "io/read_keys.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>

namespace firnfield {
namespace {

Units read_units(Fields& fields, Reading& reading) {
    const auto check = [&](std::string_view key, const QuantityKind& kind) -> std::string {
        const auto unit = fields.text(key);
        if (!unit) return {};
        try {
            static_cast<void>(parse_quantity("1 " + *unit, kind));
            return *unit;
        } catch (const QuantityError&) {
            fields.report(*fields.node(key), fmt::format("{} is not a unit of {}; the {} unit of bare numbers is \"{}\" or alike", in_quotes(*unit), kind.name,
                                                         key, kind.absolute_temperature ? "degC" : "mm"));
            return {};
        }
    };
    reading.length_unit = check("length", kinds::length);
    reading.temperature_unit = check("temperature", kinds::temperature);
    Units answers;
    if (!reading.length_unit.empty()) answers = parse_units(reading.length_unit, answers);
    if (!reading.temperature_unit.empty()) answers = parse_units(reading.temperature_unit, answers);
    if (const auto others = fields.text("answers")) {
        try {
            answers = parse_units(*others, answers);
        } catch (const QuantityError& error) {
            fields.report(*fields.node("answers"), error.what());
        }
    }
    return answers;
}

void check_version(Fields& file) {
    file.require("firnfield", "1");
    const toml::node* node = file.node("firnfield");
    if (node != nullptr && node->value_exact<std::int64_t>() != 1) file.report(*node, "this program reads format version 1; write firnfield = 1");
}

Model read_tables(const toml::table& table, Reading& reading) {
    Fields file(table, "", "", reading);
    Model model;
    check_version(file);
    file.table("units", [&](Fields& units) { model.units = read_units(units, reading); });
    static_cast<void>(read_parameters(table, reading));
    // Read where designs are made.
    for (const std::string_view key : {"parameters", "variant", "sweep"}) file.node(key);
    KeyReader<Model> reader(file, model);
    describe(reader, model);
    read_assemblies(file, model);
    file.finish();
    return model;
}

}  // namespace

Model read_checked(const toml::table& table, Reading& reading) {
    Model model = read_tables(table, reading);
    if (reading.is_left_unchecked()) return model;
    // A value that could not be read stands in the model as a placeholder, so what validation says of it is moot.
    for (const Problem& problem : validate(model)) {
        if (!reading.is_misread(problem.address)) reading.report_at_address(problem);
    }
    return model;
}

std::vector<ParameterInfo> read_parameters(const toml::table& table, Reading& reading) {
    std::vector<ParameterInfo> found;
    const toml::node* place = table.get("parameters");
    if (place == nullptr) return found;
    const toml::table* list = place->as_table();
    if (list == nullptr) {
        reading.report(place->source(), fmt::format("parameters are a table, [parameters]; found {}", describe_type(*place)));
        return found;
    }
    const auto take = [&](const std::string& name, const toml::node& node) {
        try {
            const auto text = node.value_exact<std::string>();
            if (text && is_expression(*text)) {
                reading.parameters.define(name, *text);
            } else if (text) {
                reading.parameters.set(name, parse_measured(*text));
            } else if (node.is_number()) {
                reading.parameters.set(name, {node.value<double>().value(), {}});
            } else {
                reading.report(node.source(),
                               fmt::format("parameter {} takes a quantity such as \"0.5 mm\", a number or an expression; found {}", name, describe_type(node)));
                return false;
            }
            return true;
        } catch (const QuantityError& error) {
            reading.report(node.source(), error.what());
            return false;
        }
    };
    std::vector<std::pair<const toml::node*, std::string>> rows;
    for (auto&& [key, node] : *list) {
        const std::string name(key.str());
        const toml::table* inner = node.as_table();
        const toml::node* value = inner == nullptr ? &node : inner->get("value");
        if (value == nullptr) {
            reading.report(node.source(), fmt::format("parameter {} has no value; write {} = {{ value = \"0.5 mm\", uniform = \"0.1 mm\" }}", name, name));
        } else if (take(name, *value)) {
            rows.emplace_back(&node, name);
        }
    }
    std::sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) { return a.first->source().begin.line < b.first->source().begin.line; });
    for (const auto& [node, name] : rows) {
        ParameterInfo info{.name = name};
        try {
            info.value = reading.parameters.value(name);
        } catch (const QuantityError& error) {
            reading.report(node->source(), error.what());
            reading.parameters.set(name, {});
            continue;
        }
        if (const toml::table* inner = node->as_table()) {
            Fields fields(*inner, "parameters." + name, "parameter " + name, reading);
            fields.node("value");
            const std::string kind_name = name_of(info.value.dimension);
            const QuantityKind kind{kind_name, info.value.dimension, "of the same kind as the value", ""};
            for (const bool normal : {false, true}) {
                const auto spread = fields.quantity(normal ? "normal" : "uniform", kind);
                if (!spread) continue;
                if (info.spread) fields.report_here("a spread is either uniform or normal");
                if (!(*spread > 0.0)) fields.report_here("a spread is larger than nothing");
                info.spread = Spread{*spread, normal};
            }
            fields.finish();
        }
        found.push_back(std::move(info));
    }
    return found;
}

Model read_model_text(std::string_view text, const std::string& file) {
    const toml::table table = parse_toml(text, file);
    Reading reading(file, std::make_shared<CadFiles>());
    Model model = read_checked(table, reading);
    reading.throw_if_any();
    return model;
}

ModelFile read_model_file(const std::filesystem::path& file) { return read_model_file(file, nullptr); }

ModelFile read_model_file(const std::filesystem::path& file, const std::shared_ptr<CadFiles>& cad) {
    constexpr std::uintmax_t largest = 64U << 20U;
    return {read_file(file, largest), file.string(), cad};
}

Model read_model(const std::filesystem::path& file) { return read_model_file(file).base(); }

std::vector<Problem> locate_problems(std::string_view text, const std::string& file, const std::vector<Problem>& problems) {
    Reading reading(file, std::make_shared<CadFiles>());
    const toml::table table = parse_toml(text, file);
    static_cast<void>(read_tables(table, reading));
    for (const Problem& problem : problems) reading.report_at_address(problem);
    try {
        reading.throw_if_any();
    } catch (const ModelError& error) {
        return error.problems();
    }
    return problems;
}

}  // namespace firnfield
