/// CAD files that were read, so that each is read once for a model and its designs, and for a results folder and the model that it came from.
#pragma once

#include <firnfield/model_file.hpp>
#include <firnfield/results.hpp>
#include <firnfield/step.hpp>

#include <filesystem>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <string_view>
#include <tuple>

namespace firnfield {

class CadFiles {
public:
    /// What the file holds now. Files with the same content are one, wherever they are. Throws as read_step().
    [[nodiscard]] std::shared_ptr<const StepImport> read(const std::filesystem::path& file);

private:
    using State = std::tuple<std::string, std::uintmax_t, std::filesystem::file_time_type>;  // path, size, time of the last change
    std::mutex busy_;
    std::map<State, std::shared_ptr<const StepImport>> known_;
    std::map<std::string, std::shared_ptr<const StepImport>> by_content_;  // by StepImport::checksum
};

/// Larger STEP files are not read, bytes.
inline constexpr std::uintmax_t largest_step_file = 2ULL << 30U;

/// Of the bytes of a file.
[[nodiscard]] std::string file_checksum(std::string_view bytes);

/// As those without `cad`, with CAD files that have been read.
[[nodiscard]] ModelFile read_model_file(const std::filesystem::path& file, const std::shared_ptr<CadFiles>& cad);
[[nodiscard]] std::string stale(const std::filesystem::path& folder, const Origins& from, std::string_view fingerprint, const std::shared_ptr<CadFiles>& cad);

}  // namespace firnfield
