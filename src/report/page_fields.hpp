/// The assembly's surface and its temperatures, small enough to be carried by a page.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/progress.hpp>
#include <firnfield/units.hpp>

#include <filesystem>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// A study whose temperatures are kept in a file.
struct KeptStudy {
    Study study{};
    std::filesystem::path file{};
    Model meshed{};  ///< the model with the mesh that they belong to
};

struct PageFields {
    std::string description = "{\"parts\": [], \"geometries\": [], \"studies\": []}";  ///< JSON for web/source/data.js
    std::string packed{};                                                              ///< base64 of one zlib block
    [[nodiscard]] bool empty() const { return packed.empty(); }
};

/// Surfaces of a coarse mesh of the model, with the temperatures of the fine ones at their corners; of studies in time at up to `frames` moments.
[[nodiscard]] PageFields page_fields(const Model& model, const std::vector<KeptStudy>& studies, int frames, const Units& units,
                                     const ProgressCallback& progress);

}  // namespace firnfield
