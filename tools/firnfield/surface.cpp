// `firnfield surface`: what is in an STL file, and parts as STL files.

#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {
namespace {

double unit_size(const std::string& unit) {
    try {
        return parse_quantity("1 " + unit, kinds::length);
    } catch (const QuantityError&) {
        throw Error(fmt::format("\"{}\" is no unit of length; write mm, cm, m or in", unit));
    }
}

}  // namespace

/// Tells what is in an STL file, or writes a part of a model as one.
int surface(const SurfaceOptions& options) {
    const double unit = unit_size(options.unit);
    std::string extension = options.file.extension().string();
    for (char& c : extension) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (extension == ".stl") {
        const StlImport import = read_stl(options.file, unit);
        const Box box = bounds(*import.surface);
        say("{}\n  {}\n  {} x {} x {}, lower corner at ({}, {}, {})\n", options.file.string(), import.text(), show_quantity(box.size.x, kinds::length),
            show_quantity(box.size.y, kinds::length), show_quantity(box.size.z, kinds::length), show_quantity(box.at.x, kinds::length),
            show_quantity(box.at.y, kinds::length), show_quantity(box.at.z, kinds::length));
        if (!options.out.empty()) write_stl(options.out, *import.surface, unit);
    } else {
        if (options.part.empty() || options.out.empty()) throw Error("of a model, name a part with --part and a file with --out");
        const Model model = read_model(options.file);
        const ClosedSurface part = part_surface(model, options.part, parse_quantity(options.chord, kinds::length));
        write_stl(options.out, part, unit);
        say("{} triangles, {} enclosed\n", part.triangles.size(), show_quantity(volume(part), kinds::volume));
    }
    if (!options.out.empty()) say("Surface in {}\n", options.out.string());
    return done;
}

}  // namespace firnfield::command
