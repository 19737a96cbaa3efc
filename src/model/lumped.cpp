// Lumped nodes and resistors: their names, their ends, and what may be wrong with them.

#include "model/lumped.hpp"

#include "base/words.hpp"
#include "model/bodies.hpp"
#include "model/checks.hpp"
#include "model/name_checks.hpp"

#include <algorithm>
#include <set>

namespace firnfield {
namespace {

constexpr std::string_view ambient_word = "ambient";

class LumpedChecks : Checks {
public:
    explicit LumpedChecks(const Model& model) : model_(model) {}

    std::vector<Problem> run() {
        constexpr std::size_t most = 2000;
        for (const auto& [what, count] : {std::pair{"node", model_.nodes.size()}, std::pair{"resistor", model_.resistors.size()}}) {
            if (count > most) report(what, fmt::format("a model may have {} {}s, found {}", grouped(most), what, grouped(count)));
        }
        if (!problems.empty()) return std::move(problems);
        for (std::size_t n = 0; n < model_.nodes.size(); ++n) check_node(n);
        std::set<std::string> seen;
        for (std::size_t r = 0; r < model_.resistors.size(); ++r) {
            const std::string& name = model_.resistors[r].name;
            if (!name.empty() && !seen.insert(name).second)
                report(fmt::format("resistor[{}].name", r), fmt::format("the name {} is used twice; give each resistor its own", in_quotes(name)));
            check_resistor(r);
        }
        return std::move(problems);
    }

private:
    template <typename List>
    static bool has(const List& list, const std::string& name) {
        return std::any_of(list.begin(), list.end(), [&](const auto& item) { return item.name == name; });
    }

    void check_node(std::size_t index) {
        const Node& node = model_.nodes[index];
        const std::string at = fmt::format("node[{}]", index);
        const auto used = [&](const char* by) {
            report(at + ".name", fmt::format("{} is the name of a {} already; choose another one", in_quotes(node.name), by));
        };
        if (node.name.empty()) report(at + ".name", "a node needs a name");
        if (node.name == ambient_word) report(at + ".name", "\"ambient\" is what resistors lead to; choose another name");
        if (*find_node(model_, node.name) != index) used("node");
        if (has(model_.parts, node.name)) used("part");
        if (has(model_.surfaces, node.name)) used("surface");
        if (has(model_.sensors, node.name)) used("sensor");
        if (node.capacity && (node.mass || !node.material.empty())) report(at, "give a capacity, or a material and a mass, not both");
        if (node.mass.has_value() != !node.material.empty()) report(at, "a material goes with a mass, and a mass with a material");
        if (const Material* material = find_material(model_.materials, node.material); !node.material.empty()) {
            std::vector<std::string> names;
            for (const Material& m : builtin_materials()) names.push_back(m.name);
            for (const Material& m : model_.materials) names.push_back(m.name);
            if (material == nullptr)
                report(at + ".material", unknown_material(node.material, names));
            else if (!material->specific_heat)
                report(at + ".material", fmt::format("material {} has no specific heat", in_quotes(node.material)));
        }
        if (std::none_of(model_.resistors.begin(), model_.resistors.end(),
                         [&](const Resistor& r) { return r.between[0] == node.name || r.between[1] == node.name; }))
            report(at, fmt::format("no resistor leads to node {}: add a [[resistor]] between it and something", in_quotes(node.name)));
    }

    void check_resistor(std::size_t index) {
        const Resistor& resistor = model_.resistors[index];
        const std::string at = fmt::format("resistor[{}]", index);
        const std::array<ResistorEnd, 2> ends = ends_of(model_, resistor);
        if (!resistor.total) report(at + ".total", "a resistor needs its resistance, as total = \"0.5 K/W\", or a curve of it over its mean temperature");
        if (resistor.between[0] == resistor.between[1]) report(at + ".between", "the two ends of a resistor are the same");
        for (const ResistorEnd& end : ends) {
            const std::string where = fmt::format("{}.between[{}]", at, end.given);
            if (end.kind == ResistorEnd::Kind::surface && has(model_.parts, end.name))
                report(where, fmt::format("{} is both a part and a surface; rename one of them", in_quotes(end.name)));
            if (end.kind != ResistorEnd::Kind::unknown) continue;
            std::vector<std::string> known{std::string(ambient_word)};
            for (const Node& n : model_.nodes) known.push_back(n.name);
            for (const Part& p : model_.parts) known.push_back(p.name);
            for (const Surface& s : model_.surfaces) known.push_back(s.name);
            report(where, fmt::format("no node, part or surface is called {}{}", in_quotes(end.name), did_you_mean(end.name, known)));
        }
        if (ends[1].kind != ResistorEnd::Kind::ambient) {
            if (resistor.ambient) report(at + ".ambient", "this resistor does not lead to the \"ambient\"");
            if (!resistor.ambient_profile.empty()) report(at + ".ambient_profile", "this resistor does not lead to the \"ambient\"");
        } else if (!resistor.ambient) {
            for (const Study& study : studies_of(model_)) {
                if (study.ambient || (study.kind != StudyKind::steady && !(resistor.ambient_profile.empty() && study.ambient_profile.empty()))) continue;
                report(at, fmt::format("no ambient: give one here, or in study {}", in_quotes(study.name)));
                break;
            }
        }
    }

    const Model& model_;
};

}  // namespace

std::optional<std::size_t> find_node(const Model& model, std::string_view name) {
    const auto found = std::find_if(model.nodes.begin(), model.nodes.end(), [&](const Node& n) { return n.name == name; });
    if (found == model.nodes.end()) return std::nullopt;
    return static_cast<std::size_t>(found - model.nodes.begin());
}

std::vector<Sensor> sensors_of(const Model& model) {
    std::vector<Sensor> all = model.sensors;
    for (const Node& node : model.nodes) all.push_back({.name = node.name, .in = node.name});
    return all;
}

std::array<ResistorEnd, 2> ends_of(const Model& model, const Resistor& resistor) {
    using Kind = ResistorEnd::Kind;
    std::array<ResistorEnd, 2> ends;
    for (std::size_t side = 0; side < 2; ++side) {
        ResistorEnd& end = ends[side];
        end.given = side;
        end.name = resistor.between[side];
        const auto surface = std::find_if(model.surfaces.begin(), model.surfaces.end(), [&](const Surface& s) { return s.name == end.name; });
        if (end.name == ambient_word) {
            end.kind = Kind::ambient;
        } else if (const auto node = find_node(model, end.name)) {
            end.kind = Kind::node;
            end.index = *node;
        } else if (surface != model.surfaces.end()) {
            end.kind = Kind::surface;
            end.index = static_cast<std::size_t>(surface - model.surfaces.begin());
        } else if (const auto part = std::find_if(model.parts.begin(), model.parts.end(), [&](const Part& p) { return p.name == end.name; });
                   part != model.parts.end()) {
            end.kind = Kind::part;
            end.index = static_cast<std::size_t>(part - model.parts.begin());
        }
    }
    if (ends[0].kind == Kind::ambient) std::swap(ends[0], ends[1]);
    return ends;
}

std::vector<std::size_t> resistors_with_middle(const Model& model) {
    std::vector<std::size_t> out;
    for (std::size_t r = 0; r < model.resistors.size(); ++r) {
        const std::array<ResistorEnd, 2> ends = ends_of(model, model.resistors[r]);
        const auto rests = [&](const ResistorEnd& end) {
            return end.kind == ResistorEnd::Kind::surface ? picks_only_left_out(model, model.surfaces[end.index].pick.parts)
                                                          : picks_only_left_out(model, {&end.name, 1});
        };
        if (ends[0].is_spread() && ends[1].is_spread() && !rests(ends[0]) && !rests(ends[1])) out.push_back(r);
    }
    return out;
}

std::vector<Problem> check_lumped(const Model& model) { return LumpedChecks(model).run(); }

}  // namespace firnfield
