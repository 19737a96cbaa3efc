// Turns data/materials.toml into a C++ table at build time, so that the library needs no file at run time
// and a mistake in the data stops the build.

#include "io/read_keys.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <fstream>
#include <iostream>
#include <sstream>

namespace {

std::string optional_literal(const std::optional<double>& value) { return value ? fmt::format("{}", *value) : std::string("std::nullopt"); }

std::string curve_literal(const firnfield::Curve& curve) { return fmt::format("{{{{{}}}, {{{}}}}}", fmt::join(curve.at, ", "), fmt::join(curve.value, ", ")); }

std::string string_literal(const std::string& text) { return "R\"~(" + text + ")~\""; }

std::string melting_literal(const std::optional<firnfield::Melting>& melting) {
    return melting ? fmt::format("Melting{{{}, {}, {}}}", melting->from, melting->to, melting->latent_heat) : std::string("std::nullopt");
}

std::string table_source(const std::vector<firnfield::Material>& materials) {
    std::string out =
        "// Made from data/materials.toml by tools/material_table.\n"
        "#include <firnfield/material.hpp>\n\nnamespace firnfield {\n\nstd::span<const Material> builtin_materials() {\n"
        "    static const std::vector<Material> materials{\n";
    for (const firnfield::Material& m : materials) {
        out += fmt::format(
            "        Material{{.name = {}, .conductivity = {{{}, {}, {}}}, .conductivity_factor = {}, .density = {}, .specific_heat = {}, "
            ".specific_heat_factor = {}, .melting = {}, .emissivity = {}, "
            ".resistivity = {}, .service_limit = {}, .valid_from = {}, .valid_to = {}, .group = {}, .note = {}}},\n",
            string_literal(m.name), m.conductivity[0], m.conductivity[1], m.conductivity[2], curve_literal(m.conductivity_factor), optional_literal(m.density),
            optional_literal(m.specific_heat), curve_literal(m.specific_heat_factor), melting_literal(m.melting), optional_literal(m.emissivity),
            optional_literal(m.resistivity), optional_literal(m.service_limit), optional_literal(m.valid_from), optional_literal(m.valid_to),
            string_literal(m.group), string_literal(m.note));
    }
    return out + "    };\n    return materials;\n}\n\n}  // namespace firnfield\n";
}

}  // namespace

int main(int argc, char** argv) try {
    if (argc != 3) {
        std::cerr << "usage: material_table INPUT.toml OUTPUT.cpp\n";
        return 2;
    }
    std::ifstream stream(argv[1], std::ios::binary);
    std::ostringstream text;
    text << stream.rdbuf();
    const toml::table table = firnfield::parse_toml(text.str(), argv[1]);
    firnfield::Reading reading(argv[1]);
    std::vector<firnfield::Material> materials;
    firnfield::Fields file(table, "", "", reading);
    file.tables("material", false, [&](firnfield::Fields& fields, std::size_t) { materials.push_back(firnfield::read_keys<firnfield::Material>(fields)); });
    file.finish();
    reading.throw_if_any();
    std::stable_sort(materials.begin(), materials.end(), [](const auto& a, const auto& b) { return a.group < b.group; });
    std::ofstream(argv[2], std::ios::binary) << table_source(materials);
    return 0;
} catch (const std::exception& error) {
    std::cerr << error.what() << '\n';
    return 1;
}
