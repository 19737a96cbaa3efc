// Lumped nodes, and resistors between nodes, parts, surfaces and the ambient.

#include "network/lumped.hpp"

#include "material/heat_content.hpp"
#include "model/bodies.hpp"
#include "model/lumped.hpp"
#include "network/laws/laws.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <optional>

namespace firnfield {
namespace {

/// One node that an end of a resistor leads to.
struct Attachment {
    Index node = 0;
    double share = 1.0;      // of the end
    double own = 0.0;        // K/W before it, from the node to its surface
    Index patch = no_index;  // of the mesh
};

class ResistorBuilder {
public:
    ResistorBuilder(const Model& model, const Mesh& mesh, const Study& study, const std::vector<double>& to_surface, Network& network)
        : model_(model), mesh_(mesh), study_(study), to_surface_(to_surface), network_(network), conductance_(network.nodes, 0.0) {}

    void run() {
        if (model_.resistors.empty()) return;
        cells_of_.resize(model_.parts.size());
        for (Index cell = 0; cell < mesh_.cells.size(); ++cell) cells_of_[mesh_.bodies[mesh_.cells.body[cell]].part].push_back(cell);
        const std::vector<std::size_t> middles = resistors_with_middle(model_);
        Index middle = mesh_.cells.size() + static_cast<Index>(model_.nodes.size());
        for (std::size_t r = 0; r < model_.resistors.size(); ++r) {
            const std::array<ResistorEnd, 2> ends = ends_of(model_, model_.resistors[r]);
            const bool has_middle = std::find(middles.begin(), middles.end(), r) != middles.end();
            add(r, ends, has_middle ? std::optional<Index>(middle++) : std::nullopt);
        }
        if (study_.kind != StudyKind::steady) give_capacities();
    }

private:
    void add(std::size_t r, const std::array<ResistorEnd, 2>& ends, std::optional<Index> middle) {
        const std::vector<Attachment> first = attach(r, ends[0]);
        if (ends[1].kind == ResistorEnd::Kind::ambient) {
            const Origin origin{OriginKind::resistor, static_cast<Index>(r)};
            const double temperature = ambient_of(model_, model_.resistors[r], study_);
            network_.lowest_known = std::min(network_.lowest_known, temperature);
            network_.highest_known = std::max(network_.highest_known, temperature);
            network_.knowns.push_back({temperature, origin, Channel::resistor});
            connect(r, first, 1.0, {End::At::known, static_cast<Index>(network_.knowns.size() - 1)});
            return;
        }
        const std::vector<Attachment> second = attach(r, ends[1]);
        if (first.empty() || second.empty()) return;  // rests with a left-out part
        if (middle) {
            connect(r, first, 0.5, {End::At::node, *middle});
            connect(r, second, 0.5, {End::At::node, *middle}, true);
        } else if (ends[1].is_spread()) {
            connect(r, second, 1.0, {End::At::node, first.front().node}, true);
        } else {
            connect(r, first, 1.0, {End::At::node, second.front().node});
        }
    }

    /// What an end leads to; nothing where it rests with parts that are left out.
    std::vector<Attachment> attach(std::size_t r, const ResistorEnd& end) const {
        std::vector<Attachment> out;
        double all = 0.0;
        if (end.kind == ResistorEnd::Kind::node) return {{.node = mesh_.cells.size() + static_cast<Index>(end.index)}};
        if (end.kind == ResistorEnd::Kind::surface) {
            const Coverage& coverage = network_.resistor_coverage[r][end.given];
            for (const Index patch : coverage.patches) {
                out.push_back(
                    {.node = mesh_.patches.cell[patch], .share = mesh_.patches.area[patch] / coverage.area, .own = to_surface_[patch], .patch = patch});
            }
            return out;
        }
        for (const Index cell : cells_of_[end.index]) {
            out.push_back({.node = cell, .share = mesh_.cells.volume[cell]});
            all += mesh_.cells.volume[cell];
        }
        if (out.empty() && !picks_only_left_out(model_, {&end.name, 1}))
            throw ModelError(fmt::format("resistor[{}].between[{}]", r, end.given), "no such part is in the assembly: it lies beyond a mirror plane");
        for (Attachment& a : out) a.share /= all;
        return out;
    }

    /// Elements from attachments to one other end, over a share of the resistance; `reversed` where that end is the first one.
    void connect(std::size_t r, const std::vector<Attachment>& list, double part, End other, bool reversed = false) {
        const Resistor& resistor = model_.resistors[r];
        Family family{.channel = Channel::resistor, .origin = OriginKind::resistor, .index = {static_cast<Index>(r)}};
        std::vector<InSeries> laws;
        const Factor factor = resistor.resistance_factor.empty() ? Factor{} : std::make_shared<const Curve>(resistor.resistance_factor);
        for (const Attachment& a : list) {
            const double behind = part * *resistor.total * mesh_.multiplicity / a.share;
            // A centre far outside of its part may not turn the sign.
            const double resistance = std::max(behind + a.own, 1e-3 * behind), own = std::clamp(a.own / resistance, 0.0, 1.0);
            family.first.push_back(a.node);
            if (other.at == End::At::node) family.second.push_back(other.index);
            family.coefficient.push_back(1.0 / resistance);
            const Index owner = network_.owner[a.node];
            const bool in_body = owner < mesh_.bodies.size() && own > 0.0 && !network_.conductivity_factor.empty();
            laws.push_back({.first_share = own, .first = in_body ? network_.conductivity_factor[owner] : Factor{}, .joint = factor});
            conductance_[a.node] += family.coefficient.back();
            if (other.at == End::At::node) conductance_[other.index] += family.coefficient.back();
            if (a.patch == no_index) continue;
            family.patch.push_back(a.patch);
            network_.surface[a.patch] = {End::At::between, static_cast<Index>(network_.between.size())};
            network_.between.push_back({.node = a.node,
                                        .other = other,
                                        .family = static_cast<Index>(network_.families.size()),
                                        .element = static_cast<Index>(family.size() - 1),
                                        .before = own * resistance});
        }
        if (other.at == End::At::known) family.known = other.index;
        if (reversed) {
            // Heat is told from the first end to the second.
            std::swap(family.first, family.second);
            for (InSeries& law : laws) {
                std::swap(law.first_share, law.second_share);
                std::swap(law.first, law.second);
            }
        }
        if (std::any_of(laws.begin(), laws.end(), [](const InSeries& l) { return l.first || l.second || l.joint; })) family.law = contact_law(std::move(laws));
        network_.families.push_back(std::move(family));
    }

    /// A node without a capacity follows at once: within a millionth of the time that the study is about.
    void give_capacities() {
        const double about = study_.kind == StudyKind::cyclic ? study_.period ? *study_.period : period_of(model_, study_).value_or(1.0) : study_.lasts;
        for (Index node = mesh_.cells.size(); node < network_.nodes; ++node) {
            if (network_.capacity[node] == 0.0) network_.capacity[node] = 1e-6 * about * std::max(conductance_[node], std::numeric_limits<double>::min());
        }
    }

    const Model& model_;
    const Mesh& mesh_;
    const Study& study_;
    const std::vector<double>& to_surface_;
    Network& network_;
    std::vector<double> conductance_;           // W/K per node
    std::vector<std::vector<Index>> cells_of_;  // per part of the model
};

}  // namespace

Index node_count(const Model& model, const Mesh& mesh) {
    return mesh.cells.size() + static_cast<Index>(model.nodes.size() + resistors_with_middle(model).size());
}

std::string name_of_owner(const Model& model, const Mesh& mesh, Index owner) {
    if (owner < mesh.bodies.size()) return mesh.bodies[owner].name;
    const std::size_t node = owner - mesh.bodies.size();
    return node < model.nodes.size() ? model.nodes[node].name : display_name(model.resistors[resistors_with_middle(model)[node - model.nodes.size()]]);
}

void add_lumped_nodes(const Model& model, const Mesh& mesh, const Study& study, Network& network) {
    network.nodes = node_count(model, mesh);
    network.capacity.resize(network.nodes, 0.0);
    for (Index node = mesh.cells.size(); node < network.nodes; ++node) {
        network.owner.push_back(static_cast<Index>(mesh.bodies.size()) + node - mesh.cells.size());
        network.order.push_back(node);
    }
    std::vector<std::shared_ptr<const HeatContent>> contents(network.nodes - mesh.cells.size());
    for (std::size_t n = 0; n < model.nodes.size(); ++n) {
        const Node& node = model.nodes[n];
        double& capacity = network.capacity[mesh.cells.size() + n];
        capacity = node.capacity.value_or(0.0) / mesh.multiplicity;
        if (!node.mass) continue;
        const Material& material = material_named(model, node.material);
        capacity = *node.mass * material.specific_heat.value_or(0.0) / mesh.multiplicity;
        if (HeatContent::varies(material)) contents[n] = std::make_shared<const HeatContent>(material, study.tolerance);
    }
    const bool varies = std::any_of(contents.begin(), contents.end(), [](const auto& c) { return c != nullptr; });
    if (!varies && network.heat_content.empty()) return;
    network.heat_content.resize(mesh.bodies.size());
    network.heat_content.insert(network.heat_content.end(), contents.begin(), contents.end());
}

void add_resistors(const Model& model, const Mesh& mesh, const Study& study, const std::vector<double>& to_surface, Network& network) {
    ResistorBuilder(model, mesh, study, to_surface, network).run();
}

double film_of_resistor(const Model& model, const Mesh& mesh, std::size_t resistor, const Coverage& coverage) {
    const std::vector<std::size_t> middles = resistors_with_middle(model);
    const double part = std::find(middles.begin(), middles.end(), resistor) == middles.end() ? 1.0 : 0.5;
    return 1.0 / (part * *model.resistors[resistor].total * mesh.multiplicity * coverage.area);
}

bool add_node_load(const Model& model, const Mesh& mesh, std::size_t power, const Power& amount, double factor, Network& network) {
    Family load{.channel = Channel::load, .origin = OriginKind::load, .index = {static_cast<Index>(power)}, .law = load_law(amount.temperature_factor)};
    for (const std::string& name : amount.into) {
        if (const auto node = find_node(model, name)) load.first.push_back(mesh.cells.size() + static_cast<Index>(*node));
    }
    if (load.first.empty()) return false;
    const double each = amount.each ? *amount.each : *amount.total / static_cast<double>(load.first.size());
    load.coefficient.assign(load.first.size(), factor * each / mesh.multiplicity);
    network.families.push_back(std::move(load));
    return true;
}

}  // namespace firnfield
