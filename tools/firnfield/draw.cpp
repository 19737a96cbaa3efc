// `firnfield draw`: further pictures of a results folder.

#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {

int draw(const DrawOptions& options) {
    DrawQuestion question{
        .study = options.study, .picture = options.picture, .changes = changes_of(options.set), .width = options.width, .height = options.height};
    if (options.at) question.at = parse_quantity(*options.at, kinds::time);
    if (!options.units.empty()) question.units = parse_units(options.units, read_summary(options.folder).units);
    std::filesystem::path file = options.out;
    if (file.empty()) {
        std::filesystem::path folder = options.folder;
        if (folder.filename().empty()) folder = folder.parent_path();
        std::string name = folder.stem().string();
        for (const std::string& piece : {options.study, options.picture, options.at.value_or("")}) name += piece.empty() ? "" : " - " + piece;
        for (const std::string& set : options.set) name += " - " + set;
        file = file_stem(name) + ".png";
    }
    for (const std::string& note : draw_kept(options.folder, file, question)) tell("{}\n", note);
    say("{} in {}\n", file.extension() == ".glb" ? "Scene" : "Picture", file.string());
    return done;
}

}  // namespace firnfield::command
