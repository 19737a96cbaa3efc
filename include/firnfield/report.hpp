/// One self-contained page about a results folder.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/progress.hpp>
#include <firnfield/units.hpp>

#include <filesystem>
#include <optional>
#include <string>

namespace firnfield {

struct PageOptions {
    std::filesystem::path comparison{};  ///< folder that `compare` wrote; empty: none
    bool view = true;                    ///< with the assembly to turn
    int frames = 8;                      ///< moments of a study in time that the view can show
    std::optional<Units> units{};        ///< none: those of the results
    ProgressCallback progress{};
};

/// The page as HTML with everything in it: no network, no other files. Throws FileError for a folder that is no results folder.
[[nodiscard]] std::string report_page(const std::filesystem::path& results, const PageOptions& options = {});

/// The page of a model before it is solved, as HTML with everything in it: the assembly to turn, every face with its size, direction, area and what claims it,
/// rules that pick faces by a click, joints found and missed, profiles. `inspection`: what `inspect` tells of the model. Told in Model::units.
[[nodiscard]] std::string model_page(const Model& model, const Inspection& inspection);

}  // namespace firnfield
