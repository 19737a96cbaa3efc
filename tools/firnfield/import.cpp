// `firnfield import`: a model file to begin with, from a STEP file.

#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {

int import_step(const ImportOptions& options) {
    std::filesystem::path target = options.out;
    if (target.empty()) target = options.file.parent_path() / (options.file.stem().string() + ".toml");
    if (std::filesystem::exists(target) && !options.overwrite)
        throw Error(fmt::format("{} is there already; name another file with --out, or say --overwrite", target.string()));
    const StepImport found = read_step(options.file);
    // The model names the file as seen from beside it.
    const std::filesystem::path folder = std::filesystem::absolute(target).parent_path();
    write_file(target, first_model(found, std::filesystem::proximate(std::filesystem::absolute(options.file), folder).generic_string()));
    say("{}Model in {}: add powers and cooling, then run firnfield check {}\n", to_text(found), target.string(), target.string());
    return done;
}

}  // namespace firnfield::command
