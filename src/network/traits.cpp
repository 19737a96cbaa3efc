// Questions about all families of a network.

#include "network/traits.hpp"

#include "network/law.hpp"

#include <algorithm>
#include <numeric>

namespace firnfield {

bool Network::is_linear() const {
    bool all = true;
    each_family(*this, [&](const Family& family) { all = all && firnfield::is_linear(family); });
    return all;
}

bool starts_flat(const Network& network) {
    bool any = false;
    each_family(network, [&](const Family& family) { any = any || (family.law && family.law->starts_flat()); });
    return any;
}

double given_heat(const Network& network) {
    double heat = 0.0;
    each_family(network, [&](const Family& family) {
        if (family.channel == Channel::load) heat = std::accumulate(family.coefficient.begin(), family.coefficient.end(), heat);
    });
    return heat;
}

double outward_conductance(const Network& network) {
    constexpr double kelvin = 10.0;  // where laws of natural convection have left their beginning
    double moved = 0.0;
    each_family(network, [&](const Family& family) {
        if (family.known == no_index) return;
        const double known = network.knowns[family.known].temperature;
        for (std::size_t i = 0; i < family.size(); ++i) moved += Element{family, i, known + kelvin, known, kelvin}.heat() / kelvin;
    });
    return moved;
}

std::optional<Bend> any_bend(const Network& network) {
    const auto body =
        std::find_if(network.conductivity_factor.begin(), network.conductivity_factor.end(), [](const auto& factor) { return factor != nullptr; });
    if (body != network.conductivity_factor.end())
        return Bend{Channel::conduction, {OriginKind::part, static_cast<Index>(body - network.conductivity_factor.begin())}};
    std::optional<Bend> out;
    each_family(network, [&](const Family& family) {
        if (!out && family.size() > 0 && !is_linear(family)) out = Bend{family.channel, family.origin_of(0)};
    });
    return out;
}

std::vector<Bend> bends_at(const Network& network, Index node) {
    std::vector<Bend> out;
    const auto look = [&](const Family& family, auto first, auto last) {
        for (auto at = std::find(first, last, node); at != last; at = std::find(at + 1, last, node))
            out.push_back({family.channel, family.origin_of(static_cast<std::size_t>(at - first))});
    };
    for (const Family& family : network.families) {
        if (is_linear(family)) continue;
        look(family, family.first.begin(), family.first.end());
        look(family, family.second.begin(), family.second.end());
    }
    for (const WallGroup& group : network.walls.groups) {
        for (const Family& film : group.films) {
            if (!is_linear(film)) look(film, network.walls.node.begin() + group.begin, network.walls.node.begin() + group.end);
        }
    }
    return out;
}

}  // namespace firnfield
