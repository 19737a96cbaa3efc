// `firnfield surface`: what is in an STL file, and parts as STL files.

#include "commands.hpp"

#include <fmt/format.h>

#include <cmath>

namespace firnfield::command {
namespace {

double unit_size(const std::string& unit) {
    try {
        return parse_quantity("1 " + unit, kinds::length);
    } catch (const QuantityError&) {
        throw Error(fmt::format("\"{}\" is no unit of length; write mm, cm, m or in", unit));
    }
}

/// "64.1 × 64.1 × 22.4 mm, lower corner at (-32.1, -32.1, 0)".
std::string extent_text(const Box& box, const UnitOf& length) {
    const auto number = [&](double metres) { return fmt::format("{:.5g}", std::abs(metres) < 1e-12 ? 0.0 : length.out(metres)); };
    return fmt::format("{} × {} × {} {}, lower corner at ({}, {}, {})", number(box.size.x), number(box.size.y), number(box.size.z), length.shown,
                       number(box.at.x), number(box.at.y), number(box.at.z));
}

}  // namespace

/// Tells what is in an STL file, or writes a part of a model as one.
int surface(const SurfaceOptions& options) {
    const double unit = unit_size(options.unit);
    std::string extension = options.file.extension().string();
    for (char& c : extension) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (extension == ".stl") {
        const StlImport import = read_stl(options.file, unit);
        const Units units{.length = options.unit};  // of the file
        const UnitOf length{.name = options.unit, .shown = options.unit, .one = unit};
        say("{}\n  {}\n  {}\n", options.file.string(), import.text(units), extent_text(bounds(*import.surface), length));
        for (std::size_t b = 0; import.bodies.size() > 1 && b < import.bodies.size(); ++b) {
            const StlImport::Body& body = import.bodies[b];
            say("  body {}{}: {}, {}\n", b + 1, body.name.empty() ? "" : fmt::format(" \"{}\"", body.name), show_quantity(body.volume, kinds::volume, units),
                extent_text(bounds(*body.surface), length));
        }
        if ((options.each || !options.body.empty()) && options.out.empty()) throw Error("name a file to write with --out");
        if (options.each && !options.body.empty()) throw Error("--each writes all bodies and --body one of them; give one of the two");
        if (options.each) {
            for (std::size_t b = 0; b < import.bodies.size(); ++b) {
                std::filesystem::path file = options.out;
                file.replace_filename(fmt::format("{} {}{}", options.out.stem().string(), b + 1, options.out.extension().string()));
                write_stl(file, *import.bodies[b].surface, unit);
                say("Surface in {}\n", file.string());
            }
            return done;
        }
        if (!options.out.empty()) write_stl(options.out, options.body.empty() ? *import.surface : *body_of(import, options.body).surface, unit);
    } else {
        if (options.each || !options.body.empty()) throw Error("--body and --each go with an STL file; of a model, --part names a copy, as \"cover body 2\"");
        if (options.part.empty() || options.out.empty()) throw Error("of a model, name a part with --part and a file with --out");
        const Model model = read_model(options.file);
        const ClosedSurface part = part_surface(model, options.part, parse_quantity(options.chord, kinds::length));
        write_stl(options.out, part, unit);
        say("{} triangles, {} enclosed\n", part.triangles.size(), show_quantity(volume(part), kinds::volume, model.units));
    }
    if (!options.out.empty()) say("Surface in {}\n", options.out.string());
    return done;
}

}  // namespace firnfield::command
