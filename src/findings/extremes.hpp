/// The coldest and the hottest place of every body: over cells, exposed surfaces and contacts.
#pragma once

#include <firnfield/findings.hpp>

#include "network/contact_temperatures.hpp"

#include <span>
#include <vector>

namespace firnfield {

struct BodyTemperatures {
    std::vector<Spot> coldest, hottest;  ///< per body
    std::vector<double> mean;            ///< K, by volume
    [[nodiscard]] const Spot& hottest_of_all() const;
};

/// Finds them for any temperatures on one mesh, which has to outlive it.
class Extremes {
public:
    explicit Extremes(const Mesh& mesh);
    [[nodiscard]] BodyTemperatures of(double reference, std::span<const double> rise, std::span<const double> patch_temperature, const ContactTemperatures& contacts) const;

private:
    const Mesh& mesh_;
    std::vector<bool> centre_inside_;
};

}  // namespace firnfield
