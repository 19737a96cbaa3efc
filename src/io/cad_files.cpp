// CAD files that were read.

#include "io/cad_files.hpp"

#include <firnfield/results.hpp>

namespace firnfield {

std::shared_ptr<const StepImport> CadFiles::read(const std::filesystem::path& file) {
    std::error_code status;
    const State state{file.string(), std::filesystem::file_size(file, status), std::filesystem::last_write_time(file, status)};
    const std::lock_guard lock(busy_);
    std::shared_ptr<const StepImport>& import = known_[state];
    if (import) return import;
    const std::string bytes = read_file(file, largest_step_file);
    std::shared_ptr<const StepImport>& same = by_content_[file_checksum(bytes)];
    if (!same) same = std::make_shared<const StepImport>(read_step_bytes(bytes, file.string()));
    return import = same;
}

}  // namespace firnfield
