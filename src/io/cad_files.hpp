/// CAD files that were read, so that each is read once for a model and its designs.
#pragma once

#include <firnfield/step.hpp>

#include <filesystem>
#include <map>
#include <memory>
#include <mutex>
#include <tuple>

namespace firnfield {

class CadFiles {
public:
    /// What the file holds now. Throws as read_step().
    [[nodiscard]] std::shared_ptr<const StepImport> read(const std::filesystem::path& file);

private:
    using State = std::tuple<std::string, std::uintmax_t, std::filesystem::file_time_type>;  // path, size, time of the last change
    std::mutex busy_;
    std::map<State, std::shared_ptr<const StepImport>> known_;
};

}  // namespace firnfield
