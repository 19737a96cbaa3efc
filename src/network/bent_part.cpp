// Elements that bend, their tangents, and networks of a few elements.

#include "network/bent_part.hpp"

#include "network/laws/laws.hpp"
#include "network/walls.hpp"

#include <algorithm>
#include <array>

namespace firnfield {
namespace {

bool has_factor(const Network& network, Index node) {
    return !network.conductivity_factor.empty() && network.conductivity_factor[network.owner[node]] != nullptr;
}

bool bends(const Family& family, const VariesInTime& varies) {
    return !is_linear(family) || (family.origin == OriginKind::cooling && family.size() > 0 && varies(family.origin_of(0).index, family.channel));
}

/// Whether an element of a family that bends does: of one that conducts within bodies only those in bodies whose conductivity depends on temperature.
bool bends(const Network& network, const Family& family, std::size_t element) {
    return &family != &network.within_bodies() || has_factor(network, family.first[element]);
}

bool bends(const Network& network, const WallGroup& group, Index wall, const VariesInTime& varies) {
    return has_factor(network, network.walls.node[wall]) ||
           std::any_of(group.films.begin(), group.films.end(), [&](const Family& film) { return bends(film, varies); });
}

/// Replaces an element by one that is linear: it carries `slope` (W/K) times the difference, or the heat (W) that it puts in.
class Straightening {
public:
    explicit Straightening(Family& family) : family_(family), load_(family.channel == Channel::load) {}
    void set(std::size_t element, double heat, double slope) {
        // Loads keep the factor that they are driven by; where there is none now, what they come to is not known.
        if (!load_)
            family_.coefficient[element] = std::max(0.0, slope);
        else if (family_.scale != 0.0)
            family_.coefficient[element] = -heat / family_.scale;
    }
    void finish() {
        if (load_) {
            family_.law = load_law({});
        } else {
            family_.law = nullptr;
            family_.scale = 1.0;
        }
    }

private:
    Family& family_;
    bool load_;
};

}  // namespace

std::vector<BentElement> bent_elements(const Network& network, const VariesInTime& varies) {
    std::vector<BentElement> out;
    for (std::size_t f = 0; f < network.families.size(); ++f) {
        const Family& family = network.families[f];
        if (!bends(family, varies)) continue;
        for (std::size_t e = 0; e < family.size(); ++e) {
            if (bends(network, family, e))
                out.push_back({static_cast<Index>(f), static_cast<Index>(e), family.first[e], family.between_nodes() ? family.second[e] : no_index});
        }
    }
    for (const WallGroup& group : network.walls.groups) {
        for (Index wall = group.begin; wall < group.end; ++wall) {
            if (bends(network, group, wall, varies)) out.push_back({no_index, wall, network.walls.node[wall], no_index});
        }
    }
    return out;
}

Network tangent_network(const Network& network, const NodeTemperatures& at, const VariesInTime& varies) {
    Network out = network;
    std::array<double, block_size> heat, by_first, by_second;
    for (std::size_t f = 0; f < network.families.size(); ++f) {
        const Family& family = network.families[f];
        if (!bends(family, varies)) continue;
        Straightening straight(out.families[f]);
        in_blocks(network, family, at, [&](const Elements& e) {
            const std::size_t n = e.size();
            const bool two = family.between_nodes();
            heat_of(family, e, std::span(heat).first(n));
            slopes_of(family, e, std::span(by_first).first(n), std::span(by_second).first(two ? n : 0));
            for (std::size_t i = 0; i < n; ++i) straight.set(e.begin + i, heat[i], two ? 0.5 * (by_first[i] + by_second[i]) : by_first[i]);
        });
        straight.finish();
    }
    std::vector<double> resistance = network.walls.resistance;
    std::size_t number = 0;
    each_wall_block(network, at, [&](const WallBlock& block) {
        while (block.begin >= network.walls.groups[number].end) ++number;
        WallGroup& group = out.walls.groups[number];
        for (std::size_t i = 0; i < block.states.size(); ++i) {
            const auto wall = static_cast<Index>(block.begin + i);
            resistance[wall] = wall_resistance(network, wall, at.at(network.walls.node[wall]));
            for (std::size_t f = 0; f < block.group.films.size(); ++f) {
                const Family& film = block.group.films[f];
                if (!bends(film, varies)) continue;
                const double known = film.known == no_index ? 0.0 : network.knowns[film.known].temperature, here = block.states[i].temperature;
                const std::size_t element = wall - group.begin;
                Straightening(group.films[f]).set(element, block.heat_of(f)[i], Element{film, element, here, known, here - known}.slopes().by_first);
            }
        }
    });
    for (std::size_t g = 0; g < network.walls.groups.size(); ++g) {
        for (std::size_t f = 0; f < network.walls.groups[g].films.size(); ++f) {
            if (bends(network.walls.groups[g].films[f], varies)) Straightening(out.walls.groups[g].films[f]).finish();
        }
    }
    out.walls.resistance = std::move(resistance);
    out.conductivity_factor.clear();
    out.joint_factor.clear();
    out.joint_film.clear();
    out.contact_law.reset();
    return out;
}

PartOfNetwork part_of(const Network& network, std::span<const BentElement> elements, std::span<const double> weight) {
    PartOfNetwork out;
    for (const BentElement& e : elements) {
        out.node.push_back(e.first);
        if (e.second != no_index) out.node.push_back(e.second);
    }
    std::sort(out.node.begin(), out.node.end());
    out.node.erase(std::unique(out.node.begin(), out.node.end()), out.node.end());
    const auto number_of = [&](Index node) { return static_cast<Index>(std::lower_bound(out.node.begin(), out.node.end(), node) - out.node.begin()); };
    Network& part = out.network;
    part.cells = part.nodes = static_cast<Index>(out.node.size());
    part.knowns = network.knowns;
    part.conductivity_factor = network.conductivity_factor;
    part.lowest_known = network.lowest_known;
    part.highest_known = network.highest_known;
    part.load_coverage.resize(network.load_coverage.size());
    part.cooling_coverage.resize(network.cooling_coverage.size());
    part.hold_coverage.resize(network.hold_coverage.size());
    part.resistor_coverage.resize(network.resistor_coverage.size());
    for (const Index node : out.node) part.owner.push_back(network.owner[node]);

    const auto begin_family = [](const Family& like) {
        Family family;
        family.channel = like.channel;
        family.origin = like.origin;
        family.known = like.known;
        family.scale = like.scale;
        return family;
    };
    const auto add = [](const Family& from, std::size_t element, double times, Family& to) {
        to.coefficient.push_back(times * from.coefficient[element]);
        if (from.index.size() > 1 || to.index.empty()) to.index.push_back(from.origin_of(element).index);
    };
    const auto finish_family = [](const Family& from, const std::vector<Index>& which, Family& to) {
        if (to.index.empty() && !from.index.empty()) to.index = {from.index.front()};
        if (!from.law) return;
        to.law = from.law->of_some(which);
        if (!to.law) to.law = from.law;
    };
    out.element.assign(elements.begin(), elements.end());
    for (BentElement& e : out.element) {
        e.first = number_of(e.first);
        if (e.second != no_index) e.second = number_of(e.second);
    }
    std::vector<std::vector<std::size_t>> of_family(network.families.size()), of_group(network.walls.groups.size());
    for (std::size_t e = 0; e < elements.size(); ++e) {
        const BentElement& element = elements[e];
        if (element.family != no_index)
            of_family[element.family].push_back(e);
        else
            of_group[static_cast<std::size_t>(&network.walls.group_of(element.index) - network.walls.groups.data())].push_back(e);
    }
    for (std::size_t f = 0; f < network.families.size(); ++f) {
        const Family& from = network.families[f];
        Family family = begin_family(from);
        std::vector<Index> which;
        for (const std::size_t e : of_family[f]) {
            which.push_back(elements[e].index);
            add(from, which.back(), weight[e], family);
            family.first.push_back(out.element[e].first);
            if (from.between_nodes()) family.second.push_back(out.element[e].second);
            out.element[e].index = static_cast<Index>(which.size() - 1);
        }
        finish_family(from, which, family);
        part.families.push_back(std::move(family));
    }
    for (std::size_t g = 0; g < of_group.size(); ++g) {
        if (of_group[g].empty()) continue;
        const WallGroup& from = network.walls.groups[g];
        WallGroup group{.begin = static_cast<Index>(part.walls.size()), .end = 0};
        std::vector<Index> which;
        for (const Family& film : from.films) group.films.push_back(begin_family(film));
        for (const std::size_t e : of_group[g]) {
            const Index wall = elements[e].index;
            which.push_back(wall - from.begin);
            for (std::size_t f = 0; f < from.films.size(); ++f) add(from.films[f], which.back(), weight[e], group.films[f]);
            out.element[e].index = static_cast<Index>(part.walls.size());
            part.walls.node.push_back(out.element[e].first);
            part.walls.patch.push_back(network.walls.patch[wall]);
            part.walls.resistance.push_back(network.walls.resistance[wall] / weight[e]);
        }
        for (std::size_t f = 0; f < from.films.size(); ++f) finish_family(from.films[f], which, group.films[f]);
        group.end = static_cast<Index>(part.walls.size());
        part.walls.groups.push_back(std::move(group));
    }
    return out;
}

std::vector<double> heat_of_elements(const Network& network, const NodeTemperatures& nodes, std::span<const BentElement> elements) {
    std::vector<double> out(elements.size()), of_walls(network.walls.size());
    std::vector<std::vector<double>> of_family(network.families.size());
    each_wall_block(network, nodes, [&](const WallBlock& block) {
        for (std::size_t i = 0; i < block.states.size(); ++i) of_walls[block.begin + i] = block.states[i].heat;
    });
    for (std::size_t e = 0; e < elements.size(); ++e) {
        const BentElement& element = elements[e];
        if (element.family == no_index) {
            out[e] = of_walls[element.index];
            continue;
        }
        std::vector<double>& heat = of_family[element.family];
        if (heat.empty()) {
            const Family& family = network.families[element.family];
            heat.resize(family.size());
            in_blocks(network, family, nodes, [&](const Elements& all) { heat_of(family, all, std::span(heat).subspan(all.begin, all.size())); });
        }
        out[e] = heat[element.index];
    }
    return out;
}

std::vector<Origin> origins_of(const Network& network, std::span<const BentElement> elements) {
    std::vector<Origin> out;
    for (const BentElement& e : elements) {
        if (e.family != no_index) {
            out.push_back(network.families[e.family].origin_of(e.index));
            continue;
        }
        const WallGroup& group = network.walls.group_of(e.index);
        out.push_back(group.films.front().origin_of(e.index - group.begin));
    }
    return out;
}

}  // namespace firnfield
