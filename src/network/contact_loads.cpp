// Heat on faces in contact.

#include "network/contact_loads.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "model/bodies.hpp"
#include "network/conduction.hpp"
#include "network/law.hpp"
#include "network/laws/laws.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace firnfield {
namespace {

/// The load of one power, contact by contact.
class Loader {
public:
    Loader(const Model& model, const Mesh& mesh, Index power, const Power& amount, Network& network)
        : model_(model), mesh_(mesh), index_(power), power_(amount), two_(*amount.between), network_(network) {}

    void add() {
        for (const std::string& end : two_) {
            if (picks_only_left_out(model_, {&end, 1})) return;
        }
        Coverage& coverage = network_.load_coverage[index_];
        std::vector<std::pair<Index, bool>> found;  // contacts, and whether they stand the other way round
        for (Index c = 0; c < mesh_.contacts.size(); ++c) {
            const Index a = mesh_.contacts.first[c], b = mesh_.contacts.second[c];
            const bool forward = is(0, a) && is(1, b);
            if (!forward && !(is(0, b) && is(1, a))) continue;
            require_constant(mesh_.contacts.pair[c]);
            found.emplace_back(c, !forward);
            coverage.area += mesh_.contacts.area[c];
        }
        if (found.empty()) return require_open();
        const double flux = power_.flux ? *power_.flux : *power_.total / (mesh_.multiplicity * coverage.area);
        Family load{.channel = Channel::load, .origin = OriginKind::load, .index = {index_}, .law = load_law(power_.temperature_factor)};
        for (const auto& [c, turned] : found) {
            const double share = on_first_face(c, turned), heat = flux * mesh_.contacts.area[c], to_first = into_first_cell(c, share);
            network_.contact_loads.push_back({c, index_, static_cast<Index>(network_.families.size()), static_cast<Index>(load.size()), share});
            load.first.insert(load.first.end(), {mesh_.contacts.first[c], mesh_.contacts.second[c]});
            load.coefficient.insert(load.coefficient.end(), {heat * to_first, heat * (1.0 - to_first)});
        }
        network_.families.push_back(std::move(load));
    }

private:
    [[nodiscard]] bool is(std::size_t end, Index cell) const {
        const Body& body = mesh_.bodies[mesh_.cells.body[cell]];
        return picks(two_[end], body.name, model_.parts[body.part].name);
    }

    /// How heat on a film divides would depend on its temperatures.
    void require_constant(Index pair) const {
        if (network_.joint_film.empty() || !network_.joint_film[pair].film) return;
        throw ModelError(fmt::format("power[{}].between", index_),
                         fmt::format("the coefficient between {} and {} varies, so there is no telling where heat set free in it goes; put it into one of them",
                                     in_quotes(two_[0]), in_quotes(two_[1])));
    }

    /// Nothing rubs where the contact may be open and is.
    void require_open() const {
        const bool open = std::any_of(mesh_.open_joints.begin(), mesh_.open_joints.end(), [&](const OpenJoint& o) {
            const std::array<std::string, 2>& between = model_.joints[o.joint].between;
            return between == two_ || (between[0] == two_[1] && between[1] == two_[0]);
        });
        if (!open)
            throw ModelError(fmt::format("power[{}].between", index_),
                             fmt::format("{} and {} touch nowhere, so no heat is set free between them", in_quotes(two_[0]), in_quotes(two_[1])));
    }

    /// Of the heat: what is set free on the face of the contact's first cell.
    [[nodiscard]] double on_first_face(Index c, bool turned) const {
        if (power_.by_effusivities) {
            const double first = effusivity(mesh_.contacts.first[c], c), second = effusivity(mesh_.contacts.second[c], c);
            return first / (first + second);
        }
        const double share = power_.share.value_or(0.5);
        return turned ? 1.0 - share : share;
    }
    [[nodiscard]] double effusivity(Index cell, Index c) const {
        const Material& material = material_named(model_, model_.parts[mesh_.bodies[mesh_.cells.body[cell]].part].material);
        return std::sqrt(conductivity_along(material, mesh_.contacts.normal[c]) * material.density.value_or(0.0) * material.specific_heat.value_or(0.0));
    }

    /// Of the heat: what arrives in the first cell.
    [[nodiscard]] double into_first_cell(Index c, double share) const {
        const auto way = [&](Index cell, double depth) {
            return std::max(0.0, depth) / conductivity_along(*network_.materials[mesh_.cells.body[cell]], mesh_.contacts.normal[c]);
        };
        const double first = way(mesh_.contacts.first[c], mesh_.contacts.depth_first[c]), joint = network_.contact_resistance[c];
        const double second = way(mesh_.contacts.second[c], mesh_.contacts.depth_second[c]), all = first + joint + second;
        return std::isinf(joint) || !(all > 0.0) ? share : (share * (joint + second) + (1.0 - share) * second) / all;
    }

    const Model& model_;
    const Mesh& mesh_;
    Index index_;
    const Power& power_;
    const std::array<std::string, 2>& two_;
    Network& network_;
};

}  // namespace

void add_contact_loads(const Model& model, const Mesh& mesh, const Acting& acting, const std::function<Power(std::size_t)>& amount, Network& network) {
    for (std::size_t p = 0; p < model.powers.size(); ++p) {
        if (!acting.powers[p] || !model.powers[p].between) continue;
        const Power power = amount(p);
        Loader(model, mesh, static_cast<Index>(p), power, network).add();
    }
    std::stable_sort(network.contact_loads.begin(), network.contact_loads.end(),
                     [](const ContactLoad& a, const ContactLoad& b) { return a.contact < b.contact; });
}

ContactHeat heat_of(const Network& network, const ContactLoad& load, const NodeReading& nodes) {
    const Family& family = network.families[load.family];
    const auto into = [&](Index element) {
        const double rise = nodes.rise(family.first[element]);
        return -Element{family, element, nodes.reference + rise, 0.0, rise}.heat();
    };
    ContactHeat out{.first = into(load.element), .second = into(load.element + 1)};
    out.crossing = load.share * (out.first + out.second) - out.first;
    return out;
}

ContactHeat heat_at_contact(const Network& network, Index contact, const NodeReading& nodes) {
    ContactHeat sum;
    const auto [from, to] = std::equal_range(network.contact_loads.begin(), network.contact_loads.end(), ContactLoad{.contact = contact},
                                             [](const ContactLoad& a, const ContactLoad& b) { return a.contact < b.contact; });
    for (auto load = from; load != to; ++load) {
        const ContactHeat heat = heat_of(network, *load, nodes);
        sum.first += heat.first;
        sum.second += heat.second;
        sum.crossing += heat.crossing;
    }
    return sum;
}

}  // namespace firnfield
