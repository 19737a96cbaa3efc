/// Named quantities that a model is written in, and changes of its values.
#pragma once

#include <firnfield/quantity.hpp>

#include <optional>
#include <string>

namespace firnfield {

/// How a parameter varies from one product to the next.
struct Spread {
    double width = 0.0;  ///< SI; half the width of a uniform distribution, or the standard deviation of a normal one
    bool normal = false;
};

/// A named quantity of a model file.
struct ParameterInfo {
    std::string name{};
    Measured value{};
    std::optional<Spread> spread{};
};

/// A value put in place of another: `address` is a parameter's name, or leads to a key, as in "joint.amplifier pad.layer.thickness" (see
/// docs/model-file.md). `value` is written as in a model file; a text may go without its quotes.
struct Change {
    std::string address{}, value{};
    bool operator==(const Change&) const = default;
};

/// The change that gives a parameter a value (SI).
[[nodiscard]] Change change_to(const ParameterInfo& parameter, double value);

}  // namespace firnfield
