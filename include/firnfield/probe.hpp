/// Temperatures asked of a results folder: over time, at a time, or along a line.
#pragma once

#include <firnfield/chart.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

struct ProbeQuestion {
    std::string study{};  ///< empty: the first in time, else the first
    std::vector<std::string> parts{}, sensors{}, surfaces{};
    std::vector<std::string> points{};  ///< "base: 90, 60, 3"; bare lengths in the unit of the model file
    std::string line{};                 ///< "base: 0, 60, 3 to 180, 60, 3"; instead of all others
    std::optional<double> at{};         ///< s, one time only; of a line where it is not the end
    bool mean = false;                  ///< the mean of all that is asked for
    int samples = 41;                   ///< along a line
};

struct ProbeAnswer {
    Curves curves{};                   ///< °C over time, or along the line
    std::vector<std::string> notes{};  ///< what is worth saying beside them
};

/// Throws Error for what the model does not have or the study did not reach, FileError for a folder that is none of results.
[[nodiscard]] ProbeAnswer probe(const std::filesystem::path& folder, const ProbeQuestion& question);

/// A column a curve, as text to read and as CSV.
[[nodiscard]] std::string to_text(const Curves& curves);
[[nodiscard]] std::string to_csv(const Curves& curves);

}  // namespace firnfield
