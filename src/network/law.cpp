// Families with and without a law, evaluated alike.

#include "network/law.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

void heat_of(const Family& family, const Elements& elements, std::span<double> out) {
    if (family.law) {
        family.law->heat(elements, out);
        return;
    }
    for (std::size_t i = 0; i < elements.size(); ++i) out[i] = elements.coefficient[i] * elements.scale * elements.difference[i];
}

void slopes_of(const Family& family, const Elements& elements, std::span<double> by_first, std::span<double> by_second) {
    if (family.law) {
        family.law->slopes(elements, by_first, by_second);
        return;
    }
    for (std::size_t i = 0; i < elements.size(); ++i) by_first[i] = elements.coefficient[i] * elements.scale;
    std::copy_n(by_first.begin(), by_second.size(), by_second.begin());
}

Elements Element::alone() const {
    return {.begin = index,
            .coefficient = {&family.coefficient[index], 1},
            .scale = family.scale,
            .first = {&first, 1},
            .second = {&second, 1},
            .difference = {&difference, 1}};
}

double Element::heat() const {
    double out = 0.0;
    heat_of(family, alone(), {&out, 1});
    return out;
}

Element::BothSlopes Element::slopes() const {
    BothSlopes out;
    slopes_of(family, alone(), {&out.by_first, 1}, {&out.by_second, 1});
    return out;
}

double linearised(const Family& family, Slopes slopes, double heat, double difference, double slope) {
    if (slopes == Slopes::tangent) return slope;
    if (family.channel == Channel::load) return 0.0;
    constexpr double least = 1e-9;  // K
    return std::abs(difference) > least ? heat / difference : slope;
}

}  // namespace firnfield
