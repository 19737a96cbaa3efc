// A model file to begin with, from a CAD file.

#include <firnfield/error.hpp>
#include <firnfield/findings.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/step.hpp>
#include <firnfield/text.hpp>

#include "base/words.hpp"
#include "io/toml_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>

namespace firnfield {
namespace {

std::string lower(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

/// Whether a name has a word in it that begins so: "M3 screw" and "screws", not "corkscrew".
bool has_word(const std::string& name, std::string_view word) {
    const std::string text = lower(name);
    for (std::size_t at = text.find(word); at != std::string::npos; at = text.find(word, at + 1)) {
        if (at == 0 || std::isalpha(static_cast<unsigned char>(text[at - 1])) == 0) return true;
    }
    return false;
}

/// Words that people name things by, and what those are mostly made of.
struct Habit {
    std::string_view word, material;
};
constexpr std::array habits{
    Habit{"screw", "steel low carbon"},
    Habit{"bolt", "steel low carbon"},
    Habit{"nut", "steel low carbon"},
    Habit{"washer", "steel low carbon"},
    Habit{"rivet", "steel low carbon"},
    Habit{"stud", "steel low carbon"},
    Habit{"pin", "stainless steel 1.4301"},
    Habit{"spring", "spring steel"},
    Habit{"shaft", "steel C45"},
    Habit{"gear", "steel 16MnCr5"},
    Habit{"bearing", "steel 100Cr6"},
    Habit{"board", "FR-4 board 4 layers"},
    Habit{"pcb", "FR-4 board 4 layers"},
    Habit{"chip", "epoxy moulding compound"},
    Habit{"package", "epoxy moulding compound"},
    Habit{"ic", "epoxy moulding compound"},
    Habit{"die", "silicon"},
    Habit{"busbar", "copper"},
    Habit{"winding", "copper winding impregnated"},
    Habit{"coil", "copper winding impregnated"},
    Habit{"stator", "electrical steel stack"},
    Habit{"core", "ferrite"},
    Habit{"magnet", "magnet NdFeB sintered"},
    Habit{"gasket", "EPDM rubber"},
    Habit{"seal", "EPDM rubber"},
    Habit{"o-ring", "EPDM rubber"},
    Habit{"pad", "gap pad 3 W"},
    Habit{"window", "borosilicate glass"},
    Habit{"lens", "PMMA"},
    Habit{"connector", "polybutylene terephthalate glass 30 %"},
    Habit{"plug", "polybutylene terephthalate glass 30 %"},
    Habit{"spreader", "copper"},
    Habit{"sink", "aluminium 6063-T5"},
    Habit{"casting", "aluminium AlSi9Cu3 casting"},
    Habit{"housing", "aluminium die-casting alloy"},
    Habit{"case", "aluminium die-casting alloy"},
    Habit{"cover", "aluminium die-casting alloy"},
    Habit{"lid", "aluminium die-casting alloy"},
    Habit{"bracket", "aluminium 6061-T6"},
    Habit{"plate", "aluminium 6061-T6"},
    Habit{"foil", "polyimide film"},
    Habit{"cell", "lithium-ion cell prismatic"},
};
constexpr std::string_view fallback = "aluminium 6061-T6";

struct Proposal {
    std::string material, why;
};

/// By what the file says, by a material's own name in that of the solid, by habit, or a guess.
Proposal propose(const StepSolid& solid) {
    if (!solid.material.empty()) {
        if (find_material({}, solid.material) != nullptr) return {solid.material, "as the file says"};
        const std::vector<std::string> meant = materials_meant_by(solid.material);
        if (!meant.empty()) return {meant.front(), fmt::format("the file says {}", in_quotes(solid.material))};
    }
    for (const Habit& habit : habits) {
        if (has_word(solid.name, habit.word)) return {std::string(habit.material), fmt::format("by \"{}\" in its name", habit.word)};
    }
    return {std::string(fallback), "? a guess"};
}

/// Why a solid could be left out; empty for most.
std::string why_leave_out(const StepSolid& solid, double largest) {
    if (!solid.geometry) return fmt::format("cannot be used: {}", solid.why_not);
    constexpr double tiny = 1e-5;
    for (const std::string_view word : {"thread", "engrav", "label", "logo", "text"}) {
        if (has_word(solid.name, word)) return fmt::format("\"{}\" in its name", word);
    }
    if (solid.geometry->volume() < tiny * largest) return fmt::format("tiny, {}", show_quantity(solid.geometry->volume(), kinds::volume));
    for (const std::string_view word : {"screw", "bolt", "nut", "washer", "rivet"}) {
        if (has_word(solid.name, word)) return "a fastener";
    }
    return {};
}

/// Faces that carry no heat worth a cell, as engraved text has many of.
std::size_t small_faces(const StepSolid& solid) {
    double all = 0.0;
    for (const ExactFace& face : solid.geometry->faces()) all += face.area;
    constexpr double small = 1e-5;
    return static_cast<std::size_t>(
        std::count_if(solid.geometry->faces().begin(), solid.geometry->faces().end(), [&](const ExactFace& face) { return face.area < small * all; }));
}

std::string joint(const std::string& first, const std::string& second, const std::string& what) {
    return fmt::format("# [[joint]]\n# between = [{}, {}]\n# {}\n", toml_text(first), toml_text(second), what);
}

/// What touches and what nearly does, as the mesh finds it; in words where it cannot be made.
std::string contacts(const Assembly& assembly, const StepImport& import) {
    Model model;
    try {
        model.parts = parts_of(assembly, import);
        model.studies = {Study{.name = "steady", .ambient = 298.15}};
        model.coolings = {Cooling{.on = exposed(), .convection = 8.0}};
        const Mesh mesh = build_mesh(model);
        const Inspection found = inspect(model, mesh);
        std::string out;
        if (!found.joints.empty()) out += "\n# What touches conducts perfectly until a joint says otherwise.\n";
        for (const JointInspection& j : found.joints)
            out += fmt::format("# {} and {} touch over {}\n", in_quotes(j.first), in_quotes(j.second), show_quantity(j.area, kinds::area));
        for (const JointInspection& j : found.joints) {
            if (&j == &found.joints.front()) out += "# For example:\n" + joint(j.first, j.second, "resistance = \"1 K cm^2/W\"");
        }
        if (!found.near_misses.empty()) out += "\n# ? These nearly touch, and exchange no heat as they are; a reach closes the gap.\n";
        for (const Inspection::NearMissInspection& miss : found.near_misses) {
            constexpr double wider = 1.2;
            out += fmt::format("# {} and {} are {} apart over {}\n", in_quotes(miss.first), in_quotes(miss.second), show_quantity(miss.gap, kinds::length),
                               show_quantity(miss.area, kinds::area));
            out += joint(miss.first, miss.second, fmt::format("reach = {}", toml_quantity(wider * miss.gap, kinds::length)));
        }
        if (!found.overlaps.empty()) out += "\n# ? These run into each other; the later one takes the place of the earlier.\n";
        for (const Inspection::Displacement& overlap : found.overlaps)
            out += fmt::format("# {} takes {} of {}\n", in_quotes(overlap.by), show_quantity(overlap.volume, kinds::volume), in_quotes(overlap.displaced));
        return out;
    } catch (const Error& error) {
        std::string text = error.what();
        std::replace(text.begin(), text.end(), '\n', ' ');
        return fmt::format("\n# ? What touches could not be found out: {}\n", text);
    }
}

}  // namespace

std::string first_model(const StepImport& import, const std::string& source) {
    double largest = 0.0;
    for (const StepSolid& solid : import.solids) largest = std::max(largest, solid.geometry ? solid.geometry->volume() : 0.0);
    Assembly assembly{.file = source};
    std::string rows, hints, small;
    for (const StepSolid& solid : import.solids) {
        const std::string reason = why_leave_out(solid, largest);
        if (!solid.geometry) {
            assembly.leave_out.push_back(solid.name);
            hints += fmt::format("#   {}: {}\n", toml_text(solid.name), reason);
            continue;
        }
        if (!reason.empty()) hints += fmt::format("#   {}: {}\n", toml_text(solid.name), reason);
        const Proposal proposal = propose(solid);
        assembly.materials.emplace_back(solid.name, proposal.material);
        const std::optional<double> density = find_material({}, proposal.material)->density;
        rows += fmt::format("{} = {}  # {}{}, {}{}\n", toml_text(solid.name), toml_text(proposal.material),
                            solid.copies.size() > 1 ? fmt::format("{} copies, each ", solid.copies.size()) : "",
                            show_quantity(solid.geometry->volume(), kinds::volume),
                            density ? show_quantity(*density * solid.geometry->volume(), kinds::mass) + ", " : "", proposal.why);
        if (const std::size_t count = small_faces(solid); count > 20) small += fmt::format("#   {}: {}\n", toml_text(solid.name), count);
    }
    std::string out =
        fmt::format("# Made from {}. What begins with \"# ?\" is open.\nfirnfield = 1\ntitle = {}\n\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n",
                    in_quotes(source), toml_text(std::filesystem::path(source).stem().string()));
    out += fmt::format("\n[[assembly]]\nfile = {}\n", toml_text(source));
    if (!assembly.leave_out.empty()) {
        out += "leave_out = [";
        for (const std::string& name : assembly.leave_out) out += (&name == &assembly.leave_out.front() ? "" : ", ") + toml_text(name);
        out += "]\n";
    }
    if (!hints.empty()) out += "# ? Without these it may be as good, and is solved faster; leave_out = [\"NAME\", …] does so:\n" + hints;
    if (!small.empty()) out += "# ? Solids with many small faces, as of threads or engraved text; simpler ones mesh faster:\n" + small;
    out += "[assembly.materials]\n" + rows;
    out += contacts(assembly, import);
    out +=
        "\n# ? Where does heat enter?\n# [[power]]\n# into = [\"PART\"]\n# total = \"5 W\"\n"
        "\n# ? Where does it leave? Faces have names: firnfield surface FILE --part NAME lists them, firnfield check MODEL --page shows them.\n"
        "# [[cooling]]\n# on = \"exposed\"\n# convection = \"8 W/(m^2 K)\"\n# emissivity = \"material\"\n"
        "\n[[study]]\nname = \"steady\"\nambient = 25\n";
    return out;
}

}  // namespace firnfield
