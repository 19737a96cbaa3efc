// What the mesh makes wrong of hottest and coldest places.

#include "findings/error_reader.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

double ErrorReader::of_extreme(const Place& place, bool hottest) const {
    const Reading reading = reading_at(place);
    return is_cut(reading) ? 0.0 : extreme_in(reading.cell, reading.normal, hottest) + reading.change;
}

double ErrorReader::doubt_in_extreme(const Place& place, bool hottest) const {
    const Reading reading = reading_at(place);
    if (is_cut(reading)) return 2.0 * std::abs(reading.change) + std::abs(extreme_in(reading.cell, reading.normal, hottest));
    return on_rim(place) ? std::abs(of_extreme(place, hottest)) : 0.0;
}

/// Whether a place lies where one of two bodies in contact ends: the flux grows beyond all bounds towards such rims, and the estimate sees about half
/// of what the mesh misses there.
bool ErrorReader::on_rim(const Place& place) const {
    if (place.kind != Place::Kind::first_of_contact && place.kind != Place::Kind::second_of_contact) return false;
    const Contacts& contacts = mesh_.contacts;
    const auto ends = [&](Index cell, int axis, bool upward) {
        if (defects_.neighbour(cell, axis, upward) != no_index) return false;
        const Index at = mesh_.grid.place(mesh_.cells.box[cell])[static_cast<std::size_t>(axis)];
        const bool outermost = upward ? at + 1 == mesh_.grid.count(axis) : at == 0;
        return !outermost || mesh_.bodies[mesh_.cells.body[cell]].on_planes == 0;  // else the image by symmetry goes on there
    };
    for (int axis = 0; axis < 3; ++axis) {
        if (contacts.normal[place.index][axis] * contacts.normal[place.index][axis] > 0.5 || mesh_.grid.count(axis) == 1) continue;
        for (const Index cell : {contacts.first[place.index], contacts.second[place.index]}) {
            if (ends(cell, axis, false) || ends(cell, axis, true)) return true;
        }
    }
    return false;
}

ErrorReader::Reading ErrorReader::reading_at(const Place& place) const {
    const Contacts& contacts = mesh_.contacts;
    switch (place.kind) {
        case Place::Kind::cell:
            break;
        case Place::Kind::patch: {
            const bool insulated = network_.surface[place.index].at == End::At::node;
            return {mesh_.patches.cell[place.index], insulated ? Vec3{} : mesh_.patches.normal[place.index], defects_.of_patch(place.index)};
        }
        case Place::Kind::first_of_contact:
            return {contacts.first[place.index], contacts.normal[place.index], defects_.of_contact(place.index)[0]};
        case Place::Kind::second_of_contact:
            return {contacts.second[place.index], contacts.normal[place.index], defects_.of_contact(place.index)[1]};
    }
    return {place.index, {}, defects_.of_node(place.index)};
}

/// In a box that the part does not fill, or on a surface at an angle to the grid.
bool ErrorReader::is_cut(const Reading& reading) const {
    const double box = defects_.width(reading.cell, 0) * defects_.width(reading.cell, 1) * defects_.width(reading.cell, 2);
    if (mesh_.cells.volume[reading.cell] < 0.99 * box) return true;
    const Vec3 n = reading.normal;
    return length(n) > 0.0 && std::max({n.x * n.x, n.y * n.y, n.z * n.z}) < 1.0 - 1e-9;
}

/// From the mean over a cell, or over its surface of this normal, to the highest or lowest point of the parabolas in it.
double ErrorReader::extreme_in(Index cell, Vec3 normal, bool hottest) const {
    const double sign = hottest ? 1.0 : -1.0;
    double sum = 0.0;
    for (int axis = 0; axis < 3; ++axis) {
        if (normal[axis] * normal[axis] > 0.5) continue;
        const double h = defects_.width(cell, axis), bent = defects_.bend(cell, axis), end = 0.5 * h;
        const Index below = defects_.neighbour(cell, axis, false), above = defects_.neighbour(cell, axis, true);
        const auto towards = [&](Index next) { return (rise_[next] - rise_[cell]) / (0.5 * (h + defects_.width(next, axis))); };
        double slope = 0.0;  // at the centre; nothing passes through a side without a neighbour
        if (below != no_index && above != no_index) {
            const double down = 0.5 * (h + defects_.width(below, axis)), up = 0.5 * (h + defects_.width(above, axis));
            slope = (towards(above) * down - towards(below) * up) / (down + up);
        } else if (above != no_index) {
            slope = towards(above) - 0.5 * bent * h;
        } else if (below != no_index) {
            slope = -towards(below) + 0.5 * bent * h;
        }
        const auto at = [&](double x) { return sign * (slope * x + 0.5 * bent * x * x - bent * h * h / 24.0); };
        double best = std::max(at(end), at(-end));
        if (bent != 0.0 && std::abs(slope / bent) < end) best = std::max(best, at(-slope / bent));
        sum += sign * best;
    }
    return sum;
}

}  // namespace firnfield
