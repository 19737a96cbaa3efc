/// The coldest and the hottest place of every body: over cells, exposed surfaces and contacts.
#pragma once

#include <firnfield/findings.hpp>

#include "network/contact_temperatures.hpp"

#include <span>
#include <vector>

namespace firnfield {

/// What has the coldest or hottest temperature of a body.
struct Place {
    enum class Kind : std::uint8_t { cell, patch, first_of_contact, second_of_contact };
    Kind kind = Kind::cell;
    Index index = 0;
    bool operator==(const Place&) const = default;
};

struct BodyTemperatures {
    std::vector<Spot> coldest, hottest;  ///< per body
    std::vector<Place> coldest_place, hottest_place;
    std::vector<double> mean;  ///< K, by volume
    [[nodiscard]] Spot hottest_of_all() const;
};

/// Finds them for any temperatures on one mesh, which has to outlive it.
class Extremes {
public:
    explicit Extremes(const Mesh& mesh);
    [[nodiscard]] BodyTemperatures of(const NodeTemperatures& nodes, std::span<const double> patch_temperature, const ContactTemperatures& contacts) const;

    /// A place of a body with the temperature that is read there.
    [[nodiscard]] Spot spot(const Place& place, double temperature) const;

private:
    const Mesh& mesh_;
    std::vector<bool> centre_inside_;
};

}  // namespace firnfield
