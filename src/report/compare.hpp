/// How figures are told where designs are compared, in text and on the page.
#pragma once

#include <firnfield/compare.hpp>
#include <firnfield/units.hpp>

#include <string>
#include <string_view>

namespace firnfield {

/// "margin of lid < 60 °C", "sensor nose".
[[nodiscard]] std::string figure_label(const Figure& figure, const Units& units);
/// The value of a design, behind it in brackets the change from the base: "±" where that is smaller than what both are known to. `best` stands before
/// the best of all, `none` for one that is missing.
[[nodiscard]] std::string compared_text(const Comparison& comparison, const ComparedFigure& figure, std::size_t design, std::string_view best,
                                        std::string_view none, const Units& units);

}  // namespace firnfield
