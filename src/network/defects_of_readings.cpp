// What the mesh makes wrong of the temperature that is read at a point.

#include "network/defects.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

double Defects::of_reading(const Readout& readout, Index cell, Vec3 point) const {
    double sum = cell < mesh_.cells.size() ? bend_in_reading(cell, point) : 0.0;
    for (const Readout::Term& term : readout.terms) sum += term.weight * of_term(term);
    return sum;
}

/// What a straight line from the mean over a cell towards its neighbour or surface misses at a point.
double Defects::bend_in_reading(Index cell, Vec3 point) const {
    const Vec3 offset = point - mesh_.centre(cell);
    double sum = 0.0;
    for (int axis = 0; axis < 3; ++axis) {
        const double h = width(cell, axis), bent = bend(cell, axis), x = std::abs(offset[axis]);
        const double own = bent * (0.5 * x * x - h * h / 24.0);
        const bool upward = offset[axis] > 0.0;
        if (x == 0.0) {
            sum += own;
            continue;
        }
        if (const Index next = neighbour(cell, axis, upward); next != no_index) {
            const double other = width(next, axis), apart = 0.5 * (h + other), bent_there = bend(next, axis);
            sum += own - x / apart * (0.25 * (bent + bent_there) * apart * apart + (bent_there * other * other - bent * h * h) / 24.0);
            continue;
        }
        // A surface or a contact, or an insulated side towards which the reading stays what it is at the centre.
        double depth = 0.5 * h;
        bool exchanges = true;
        const auto [begin, end] = std::equal_range(mesh_.patches.cell.begin(), mesh_.patches.cell.end(), cell);
        for (auto it = begin; it != end; ++it) {
            const auto patch = static_cast<std::size_t>(it - mesh_.patches.cell.begin());
            if (!(mesh_.patches.normal[patch][axis] * (upward ? 1.0 : -1.0) > 0.99) || !(mesh_.patches.depth[patch] > 0.0)) continue;
            depth = mesh_.patches.depth[patch];
            exchanges = network_.surface[patch].at != End::At::node;
            break;
        }
        sum += exchanges ? own - x / depth * bent * (0.5 * depth * depth - h * h / 24.0) : bent * (0.5 * x * x - x * depth - h * h / 24.0);
    }
    return sum;
}

}  // namespace firnfield
