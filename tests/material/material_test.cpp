// The material library: broad, complete, plausible, the data file key for key.

#include <firnfield/material.hpp>
#include <firnfield/model.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/results.hpp>

#include <catch2/catch.hpp>

#include <set>

using namespace firnfield;

TEST_CASE("the built-in library is broad, complete and plausible", "[material]") {
    const auto library = builtin_materials();
    CHECK(library.size() >= 200);
    std::set<std::string> names, groups;
    for (const Material& m : library) {
        INFO(m.name);
        CHECK(names.insert(m.name).second);
        groups.insert(m.group);
        for (const double k : m.conductivity) {
            CHECK(k >= 0.005);
            CHECK(k <= 2500.0);
        }
        REQUIRE(m.density);
        REQUIRE(m.specific_heat);
        // Heat capacity by volume of condensed matter lies within two decades; gases and foams fall below.
        CHECK(*m.density * *m.specific_heat < 5e6);
        if (m.group == "metals") CHECK(*m.density * *m.specific_heat > 1.2e6);
        if (m.emissivity) {
            CHECK(*m.emissivity > 0.0);
            CHECK(*m.emissivity <= 1.0);
        }
        CHECK(m.valid_from.has_value());
        CHECK(m.note.size() > 10);
    }
    for (const char* group :
         {"metals", "semiconductors", "ceramics", "glass", "boards", "plastics", "rubbers", "interface materials", "solders", "gases", "liquids"}) {
        CHECK(groups.contains(group));
    }
}

TEST_CASE("metals obey the Wiedemann-Franz law about as metals do", "[material]") {
    // k·ρ/T is near 2.44e-8 W Ω/K² for good conductors; alloys scatter around it. Catches slips by powers of ten.
    for (const Material& m : builtin_materials()) {
        if (m.group != "metals" || !m.resistivity || m.name == "aluminium-silicon carbide") continue;
        const double lorenz = m.conductivity[0] * *m.resistivity / 293.0;
        INFO(m.name << " " << lorenz);
        CHECK(lorenz > 1.5e-8);
        CHECK(lorenz < 6.5e-8);
    }
}

TEST_CASE("a model's own material replaces the library's", "[material]") {
    const std::vector<Material> own{Material{.name = "copper", .conductivity = isotropic(380.0)}};
    CHECK(find_material(own, "copper")->conductivity[0] == 380.0);
    CHECK(find_material({}, "copper")->conductivity[0] == 390.0);
    CHECK(find_material(own, "unobtainium") == nullptr);
}

TEST_CASE("the built-in library is the data file, key for key", "[material]") {
    std::string text = "firnfield = 1\n" + read_file(std::string(FIRNFIELD_SOURCE_DIR) + "/data/materials.toml");
    text += "\n[[part]]\nname = \"a\"\nsize = [\"1 m\", \"1 m\", \"1 m\"]\nmaterial = \"copper\"\n";
    const Model model = read_model_text(text);
    const auto library = builtin_materials();
    REQUIRE(model.materials.size() == library.size());
    for (const Material& m : model.materials) {
        INFO(m.name);
        REQUIRE(find_material({}, m.name) != nullptr);
        CHECK(*find_material({}, m.name) == m);
    }
}

TEST_CASE("materials are found by the words people use", "[material]") {
    const auto first = [](std::string_view words) {
        const std::vector<std::string> meant = materials_meant_by(words);
        REQUIRE_FALSE(meant.empty());
        for (const std::string& name : meant) CHECK(find_material({}, name) != nullptr);
        return meant.front();
    };
    for (const char* words : {"structural steel",
                              "Mild Steel",
                              "S235JR",
                              "stainless",
                              "tool steel",
                              "bearing steel",
                              "cast iron",
                              "A380",
                              "A356",
                              "die-cast aluminium",
                              "zinc alloy",
                              "magnesium",
                              "grade 5",
                              "Ti-6Al-4V",
                              "brass",
                              "bronze",
                              "nickel alloy",
                              "heating wire",
                              "cemented carbide",
                              "PCB",
                              "fr4",
                              "PA66 GF30",
                              "PA 6",
                              "nylon",
                              "POM",
                              "PC/ABS",
                              "HDPE",
                              "PP-GF30",
                              "PETG",
                              "PEI",
                              "acrylic",
                              "silicone",
                              "rubber",
                              "borosilicate",
                              "glass",
                              "quartz",
                              "alumina",
                              "Al2O3",
                              "AlN",
                              "neodymium",
                              "magnet",
                              "battery",
                              "insulation",
                              "wood",
                              "316L",
                              "430",
                              "duplex",
                              "C45",
                              "4140",
                              "high speed steel",
                              "graphite",
                              "mica",
                              "concrete"}) {
        INFO(words);
        static_cast<void>(first(words));
    }
    CHECK(first("structural steel") == "steel low carbon");
    CHECK(first("FR4") == "FR-4 laminate");
    CHECK(first("PA66") == "polyamide 66");
    CHECK(first("fused  SILICA") == "fused silica");
    CHECK(materials_meant_by("").empty());
    CHECK(materials_meant_by("--").empty());
    CHECK(materials_meant_by("unobtainium").empty());

    Model model{.parts = {{.name = "a", .shape = Box{.size = {1.0, 1.0, 1.0}}, .material = "mild steel"}}};
    const auto message = [&] { return validate(model).front().message; };
    CHECK(message().find("\"mild steel\"; the library has \"steel low carbon\", \"steel S355\" and \"steel C45\"") != std::string::npos);
    model.parts[0].material = "coper";
    CHECK(message().find("did you mean \"copper\"") != std::string::npos);
    model.nodes = {{.name = "n", .material = "FR4", .mass = 1.0}};
    model.parts[0].material = "copper";
    CHECK(message().find("the library has \"FR-4 laminate\"") != std::string::npos);
}
