/// Temperatures asked of a results folder: over time, at a time, or along a line.
#pragma once

#include <firnfield/chart.hpp>
#include <firnfield/compare.hpp>
#include <firnfield/history.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

struct ProbeQuestion {
    std::string study{};  ///< empty: the first in time, else the first
    std::vector<std::string> parts{}, sensors{}, surfaces{};
    std::vector<std::string> points{};   ///< "base: 90, 60, 3"; bare lengths in the unit of the answers
    std::vector<std::string> figures{};  ///< figures of the model, addresses, or "= " and an expression of them
    std::string line{};                  ///< "base: 0, 60, 3 to 180, 60, 3"; instead of all others
    std::optional<double> at{};          ///< s, one time only; of a line where it is not the end
    bool mean = false;                   ///< the mean of all that is asked for
    bool heat_flux = false;              ///< of points, sensors and the line the heat flux in their cells instead: its size and components
    int samples = 41;                    ///< along a line
    std::optional<Units> units{};        ///< of the answer and of bare lengths; none: those of the results
};

struct ProbeAnswer {
    Curves curves{};                   ///< over time or along the line, in Curves::units
    std::vector<std::string> notes{};  ///< what is worth saying beside them
};

/// Adds figures (of the model, addresses or expressions) to what a comparison has of a study of a results folder: read of the kept temperatures of a steady
/// study, with their errors; of a study in time only what its summary has. Throws like probe(), and Error for what the study does not tell.
void add_figures(const std::filesystem::path& folder, StudyOutcome& study, const std::vector<std::string>& figures);

/// When something lies on one side of a value, in the studies in time of a results folder.
struct WhenAnswer {
    std::string condition{};  ///< in words: "hottest place of lid below 40.0 °C"
    struct Study {
        std::string study{};
        double from = 0.0, to = 0.0;  ///< s, what the study covers
        bool followed = false;        ///< false: the study has no such thing
        std::vector<Interval> times{};
    };
    std::vector<Study> studies{};
    std::vector<std::string> notes{};
};
/// `condition`: "lid < 40 degC", "sensor.nose > 80 degC", "spread < 5 K": a part by its hottest place, an address or a figure of the model, and a value. Read
/// off the history, between its rows by straight lines. `study`: only that one. Throws like probe(), and Error for what the history does not follow.
[[nodiscard]] WhenAnswer probe_when(const std::filesystem::path& folder, const std::string& condition, const std::string& study = {},
                                    const std::optional<Units>& units = {});
[[nodiscard]] std::string to_text(const WhenAnswer& answer);
[[nodiscard]] std::string to_csv(const WhenAnswer& answer);

/// Throws Error for what the model does not have or the study did not reach, FileError for a folder that is none of results.
[[nodiscard]] ProbeAnswer probe(const std::filesystem::path& folder, const ProbeQuestion& question);

/// A column a curve, as text to read and as CSV.
[[nodiscard]] std::string to_text(const Curves& curves);
[[nodiscard]] std::string to_csv(const Curves& curves);

}  // namespace firnfield
