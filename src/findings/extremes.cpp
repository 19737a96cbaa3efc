// Lowest, mean and highest temperature of every body, surfaces included.

#include "findings/extremes.hpp"

#include <algorithm>
#include <limits>

namespace firnfield {
namespace {

/// What is coldest and hottest of one body so far, without the places: those are looked up once at the end.
struct Range {
    struct End {
        double temperature;
        Place place{};
    };
    End cold{std::numeric_limits<double>::infinity()}, hot{-std::numeric_limits<double>::infinity()};

    void widen(double temperature, Place::Kind kind, std::size_t index) {
        if (temperature < cold.temperature) cold = {temperature, {kind, static_cast<Index>(index)}};
        if (temperature > hot.temperature) hot = {temperature, {kind, static_cast<Index>(index)}};
    }
};

Index cell_of(const Mesh& mesh, const Place& place) {
    return place.kind == Place::Kind::cell    ? place.index
           : place.kind == Place::Kind::patch ? mesh.patches.cell[place.index]
                                              : (place.kind == Place::Kind::first_of_contact ? mesh.contacts.first : mesh.contacts.second)[place.index];
}

Vec3 point_of(const Mesh& mesh, const Place& place) {
    switch (place.kind) {
        case Place::Kind::cell:
            return mesh.centre(place.index);
        case Place::Kind::patch:
            return mesh.foot(place.index);
        case Place::Kind::first_of_contact:
        case Place::Kind::second_of_contact:
            return mesh.centre(mesh.contacts.first[place.index]) + mesh.contacts.depth_first[place.index] * mesh.contacts.normal[place.index];
    }
    return {};
}

}  // namespace

Spot BodyTemperatures::hottest_of_all() const {
    return hottest.empty() ? Spot{}
                           : *std::max_element(hottest.begin(), hottest.end(), [](const Spot& a, const Spot& b) { return a.temperature < b.temperature; });
}

Spot Extremes::spot(const Place& place, double temperature) const {
    return {temperature, point_of(mesh_, place), mesh_.bodies[mesh_.cells.body[cell_of(mesh_, place)]].name};
}

Extremes::Extremes(const Mesh& mesh) : mesh_(mesh), centre_inside_(mesh.cells.size(), true) {
    // A cell's temperature belongs to its box's centre; where that lies outside the part nothing has this temperature.
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) {
        if (mesh.patches.depth[p] < 0.0) centre_inside_[mesh.patches.cell[p]] = false;
    }
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        if (mesh.contacts.depth_first[c] < 0.0) centre_inside_[mesh.contacts.first[c]] = false;
        if (mesh.contacts.depth_second[c] < 0.0) centre_inside_[mesh.contacts.second[c]] = false;
    }
}

BodyTemperatures Extremes::of(const NodeTemperatures& nodes, std::span<const double> patch_temperature, const ContactTemperatures& contacts) const {
    std::vector<Range> ranges(mesh_.bodies.size());
    BodyTemperatures out;
    out.mean.assign(mesh_.bodies.size(), 0.0);
    for (Index cell = 0; cell < mesh_.cells.size(); ++cell) {
        const Index body = mesh_.cells.body[cell];
        if (centre_inside_[cell]) ranges[body].widen(nodes.at(cell), Place::Kind::cell, cell);
        out.mean[body] += mesh_.cells.volume[cell] * nodes.rise[cell];
    }
    for (std::size_t p = 0; p < mesh_.patches.size(); ++p) ranges[mesh_.cells.body[mesh_.patches.cell[p]]].widen(patch_temperature[p], Place::Kind::patch, p);
    for (std::size_t c = 0; c < mesh_.contacts.size(); ++c) {
        ranges[mesh_.cells.body[mesh_.contacts.first[c]]].widen(contacts.first[c], Place::Kind::first_of_contact, c);
        ranges[mesh_.cells.body[mesh_.contacts.second[c]]].widen(contacts.second[c], Place::Kind::second_of_contact, c);
    }
    for (std::size_t b = 0; b < ranges.size(); ++b) {
        out.mean[b] = nodes.reference + out.mean[b] / mesh_.bodies[b].volume;
        out.coldest.push_back(spot(ranges[b].cold.place, ranges[b].cold.temperature));
        out.hottest.push_back(spot(ranges[b].hot.place, ranges[b].hot.temperature));
        out.coldest_place.push_back(ranges[b].cold.place);
        out.hottest_place.push_back(ranges[b].hot.place);
    }
    return out;
}

}  // namespace firnfield
