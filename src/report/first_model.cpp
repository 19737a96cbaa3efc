// A model file to begin with, from a CAD file.

#include <firnfield/error.hpp>
#include <firnfield/findings.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/step.hpp>
#include <firnfield/text.hpp>

#include "base/words.hpp"
#include "io/toml_text.hpp"
#include "report/same_place.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <map>
#include <set>

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
    double area = 0.0;
    for (const ExactFace& face : solid.geometry->faces()) area += face.area;
    constexpr double thin = 2e-4;  // of the size of what is largest
    if (const double thickness = 2.0 * solid.geometry->volume() / area; thickness < thin * std::cbrt(largest))
        return fmt::format("thin, {} in the mean", show_quantity(thickness, kinds::length));
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

/// A name that stands for one solid or for several, as "chip *".
struct Family {
    std::string name{};
    std::vector<const StepSolid*> members{};
    Proposal proposal{};
};

/// The model in the making.
class FirstModel {
public:
    FirstModel(const StepImport& import, const std::string& source) : import_(import), same_(in_same_place(import)), assembly_{.file = source} {
        for (const StepSolid& solid : import.solids) largest_ = std::max(largest_, solid.geometry ? solid.geometry->volume() : 0.0);
        for (const StepSolid& solid : import.solids) {
            if (!solid.geometry || same_.contains(solid.name)) assembly_.leave_out.push_back(solid.name);
        }
        find_families();
        for (const Family& family : families_) assembly_.materials.emplace_back(family.name, family.proposal.material);
    }

    std::string text() {
        const std::string touching = contacts();
        std::string out =
            fmt::format("# Made from {}. What begins with \"# ?\" is open.\nfirnfield = 1\ntitle = {}\n\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n",
                        in_quotes(assembly_.file), toml_text(std::filesystem::path(assembly_.file).stem().string()));
        if (through_)
            out += fmt::format(
                "\n[mesh]\n# ? With the usual 2 cells through every part there would be more than {} million; refining puts more where they matter.\nthrough = "
                "{}\n",
                most_cells / 1'000'000, *through_);
        out += fmt::format("\n[[assembly]]\nfile = {}\n", toml_text(assembly_.file));
        if (!assembly_.leave_out.empty()) {
            out += "leave_out = [";
            for (const std::string& name : assembly_.leave_out) out += (&name == &assembly_.leave_out.front() ? "" : ", ") + toml_text(name);
            out += "]\n";
            if (left_out_) out += "# ? With its fasteners and tiny parts a first mesh would be too large; take out of that list what carries heat.\n";
        }
        out += hints() + "[assembly.materials]\n" + rows() + touching;
        out +=
            "\n# ? Where does heat enter?\n# [[power]]\n# into = [\"PART\"]\n# total = \"5 W\"\n"
            "\n# ? Where does it leave? Faces have names: firnfield surface FILE --part NAME lists them, firnfield check MODEL --page shows them.\n"
            "# [[cooling]]\n# on = \"exposed\"\n# convection = \"8 W/(m^2 K)\"\n# emissivity = \"material\"\n"
            "\n[[study]]\nname = \"steady\"\nambient = 25\n";
        return out;
    }

private:
    /// Names that solids could be taken together by: their first word, or all but the number at the end.
    static std::vector<std::string> wider_names(const std::string& name) {
        std::vector<std::string> out;
        if (name.find_first_of("*?") != std::string::npos) return out;
        if (const std::size_t space = name.find(' '); space != std::string::npos) out.push_back(name.substr(0, space) + " *");
        const std::size_t end = name.find_last_not_of("0123456789");
        if (end != std::string::npos && end + 1 < name.size()) out.push_back(name.substr(0, end + 1) + "*");
        return out;
    }

    /// Solids of one kind of name and one material get one line.
    void find_families() {
        std::map<std::string, Proposal> proposals;
        for (const StepSolid& solid : import_.solids) {
            if (solid.geometry && !same_.contains(solid.name)) proposals[solid.name] = propose(solid);
        }
        std::set<std::string> placed;
        for (const StepSolid& solid : import_.solids) {
            if (!proposals.contains(solid.name) || placed.contains(solid.name)) continue;
            const Proposal& own = proposals[solid.name];
            Family family{.name = solid.name, .members = {&solid}, .proposal = own};
            for (const std::string& wider : wider_names(solid.name)) {
                Family all{.name = wider, .members = {}, .proposal = own};
                bool alike = true;
                for (const StepSolid& other : import_.solids) {
                    if (!matches_wildcard(wider, other.name)) continue;
                    const auto proposal = proposals.find(other.name);
                    alike = alike && proposal != proposals.end() && proposal->second.material == own.material && proposal->second.why == own.why &&
                            !placed.contains(other.name);
                    all.members.push_back(&other);
                }
                constexpr std::size_t few = 3;
                if (!alike || all.members.size() < few) continue;
                family = std::move(all);
                break;
            }
            for (const StepSolid* member : family.members) {
                placed.insert(member->name);
                family_of_[member->name] = families_.size();
            }
            families_.push_back(std::move(family));
        }
    }

    [[nodiscard]] std::string rows() const {
        std::string out;
        for (const Family& family : families_) {
            const std::optional<double> density = find_material({}, family.proposal.material)->density;
            double volume = 0.0;
            std::size_t copies = 0;
            for (const StepSolid* member : family.members) {
                volume += static_cast<double>(member->copies.size()) * member->geometry->volume();
                copies += member->copies.size();
            }
            out += fmt::format("{} = {}  # ", toml_text(family.name), toml_text(family.proposal.material));
            if (family.members.size() > 1) out += fmt::format("{} solids, together ", copies);
            const double each = family.members.size() > 1 ? volume : volume / static_cast<double>(copies);
            if (family.members.size() == 1 && copies > 1) out += fmt::format("{} copies, each ", copies);
            out += fmt::format("{}, {}{}\n", show_quantity(each, kinds::volume), density ? show_quantity(*density * each, kinds::mass) + ", " : "",
                               family.proposal.why);
        }
        return out;
    }

    /// What might be left out, and what has many small faces.
    [[nodiscard]] std::string hints() const {
        std::map<std::string, std::vector<std::string>> by_reason;
        std::vector<std::string> order;
        std::string small;
        for (const StepSolid& solid : import_.solids) {
            const auto same = same_.find(solid.name);
            const std::string reason = same != same_.end() ? fmt::format("stands where {} stands", in_quotes(same->second)) : why_leave_out(solid, largest_);
            if (!reason.empty()) {
                if (!by_reason.contains(reason)) order.push_back(reason);
                by_reason[reason].push_back(solid.name);
            }
            if (!solid.geometry) continue;
            if (const std::size_t count = small_faces(solid); count > 20) small += fmt::format("#   {}: {}\n", toml_text(solid.name), count);
        }
        std::string out;
        if (!order.empty() && !left_out_) out += "# ? Without these it may be as good, and is solved faster; leave_out = [\"NAME\", …] does so:\n";
        for (const std::string& reason : order) {
            std::string names;
            for (const std::string& name : by_reason[reason]) names += (names.empty() ? "" : ", ") + toml_text(name);
            out += fmt::format("#   {}: {}\n", names, reason);
        }
        if (!small.empty()) out += "# ? Solids with many small faces, as of threads or engraved text; simpler ones mesh faster:\n" + small;
        return out;
    }

    /// The mesh of what is a good beginning: of everything, else with one cell through every part, else without what might be left out, else both.
    Mesh mesh_of(Model& model) {
        std::vector<std::string> spare;
        for (const StepSolid& solid : import_.solids) {
            if (solid.geometry && !same_.contains(solid.name) && !why_leave_out(solid, largest_).empty()) spare.push_back(solid.name);
        }
        const int usual = model.mesh.through;
        const std::vector<std::string> unusable = assembly_.leave_out;
        for (const bool without : {false, true}) {
            for (const int through : {usual, 1}) {
                const bool last = through == 1 && (without || spare.empty());
                assembly_.leave_out = unusable;
                if (without) assembly_.leave_out.insert(assembly_.leave_out.end(), spare.begin(), spare.end());
                model.parts = parts_of(assembly_, import_);
                model.mesh.through = through;
                try {
                    Mesh mesh = build_mesh(model);
                    if (through != usual) through_ = through;
                    left_out_ = without;
                    return mesh;
                } catch (const ModelError& error) {
                    const bool too_many = std::any_of(error.problems().begin(), error.problems().end(), [](const Problem& p) { return p.address == "mesh"; });
                    if (last || !too_many) throw;
                }
            }
        }
        throw Error("no mesh was tried");
    }

    /// The name by which a part is spoken of with others of its kind.
    [[nodiscard]] std::string kind_of(const std::string& part) const {
        const auto at = family_of_.find(part);
        return at == family_of_.end() ? part : families_[at->second].name;
    }

    /// What is not connected with the rest, and so exchanges heat with the air alone.
    [[nodiscard]] std::string islands(const Model& model, const Inspection& found) const {
        std::map<std::string, std::string> root;
        for (const Part& part : model.parts) root[part.name] = part.name;
        const auto find = [&](std::string name) {
            while (root[name] != name) name = root[name];
            return name;
        };
        for (const JointInspection& j : found.joints) root[find(j.first)] = find(j.second);
        std::map<std::string, std::vector<std::string>> members;
        for (const Part& part : model.parts) members[find(part.name)].push_back(part.name);
        const auto largest = std::max_element(members.begin(), members.end(), [](const auto& a, const auto& b) { return a.second.size() < b.second.size(); });
        std::string out;
        for (auto island = members.begin(); island != members.end(); ++island) {
            if (island == largest) continue;
            std::vector<std::string> names;
            for (const std::string& name : island->second) {
                if (std::find(names.begin(), names.end(), kind_of(name)) == names.end()) names.push_back(kind_of(name));
            }
            constexpr std::size_t most = 8;
            out += fmt::format("#   {}\n", quoted_list(names, most));
        }
        return out.empty() ? out : "\n# ? Each of these touches nothing of the rest: is there a part between that is missing, or a gap?\n" + out;
    }

    /// What touches and what nearly does, as the mesh finds it; in words where it cannot be made.
    std::string contacts() {
        Model model;
        try {
            model.studies = {Study{.name = "steady", .ambient = 298.15}};
            model.coolings = {Cooling{.on = exposed(), .convection = 8.0}};
            model.mesh.max_cells = most_cells;
            const Mesh mesh = mesh_of(model);
            const Inspection found = inspect(model, mesh);
            struct Pairs {
                std::string first, second;
                std::size_t count = 0;
                double area = 0.0, gap = 0.0;
            };
            const auto put = [&](std::vector<Pairs>& list, const std::string& first, const std::string& second) -> Pairs& {
                const std::string a = kind_of(first), b = kind_of(second);
                const auto known = std::find_if(list.begin(), list.end(), [&](const Pairs& p) { return p.first == a && p.second == b; });
                return known != list.end() ? *known : list.emplace_back(Pairs{.first = a, .second = b});
            };
            std::vector<Pairs> joints, misses;
            for (const JointInspection& j : found.joints) {
                Pairs& pairs = put(joints, j.first, j.second);
                ++pairs.count;
                pairs.area += j.area;
            }
            for (const Inspection::NearMissInspection& miss : found.near_misses) {
                Pairs& pairs = put(misses, miss.first, miss.second);
                ++pairs.count;
                pairs.area += miss.area;
                pairs.gap = std::max(pairs.gap, miss.gap);
            }
            const auto places = [](const Pairs& p) { return p.count > 1 ? fmt::format(", {} pairs", p.count) : std::string(); };
            std::string out;
            if (!joints.empty()) out += "\n# What touches conducts perfectly until a joint says otherwise.\n";
            for (const Pairs& j : joints)
                out += fmt::format("# {} and {} touch over {}{}\n", in_quotes(j.first), in_quotes(j.second), show_quantity(j.area, kinds::area), places(j));
            if (!joints.empty()) out += "# For example:\n" + joint(joints.front().first, joints.front().second, "resistance = \"1 K cm^2/W\"");
            out += islands(model, found);
            constexpr double wider = 1.25;  // of a gap, so that rounding does not leave it open
            if (!misses.empty()) out += "\n# ? These nearly touch, and exchange no heat as they are; a reach closes the gap.\n";
            for (const Pairs& miss : misses) {
                out += fmt::format("# {} and {} are {}{} apart over {}{}\n", in_quotes(miss.first), in_quotes(miss.second), miss.count > 1 ? "up to " : "",
                                   show_quantity(miss.gap, kinds::length), show_quantity(miss.area, kinds::area), places(miss));
                out += joint(miss.first, miss.second, fmt::format("reach = \"{:.2g} mm\"", wider * miss.gap / 1e-3));
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

    static constexpr long long most_cells = 3'000'000;  // that a first look should take

    const StepImport& import_;
    std::map<std::string, std::string> same_;  // solids that stand where others do
    Assembly assembly_;
    double largest_ = 0.0;  // m³
    std::vector<Family> families_;
    std::map<std::string, std::size_t> family_of_;
    std::optional<int> through_;
    bool left_out_ = false;  // what might be
};

}  // namespace

std::string first_model(const StepImport& import, const std::string& source) { return FirstModel(import, source).text(); }

}  // namespace firnfield
