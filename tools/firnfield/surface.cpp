// `firnfield surface`: what is in an STL or STEP file, the faces of a solid or part, and parts as such files.

#include "commands.hpp"

#include <fmt/format.h>

#include <cmath>
#include <numeric>
#include <span>
#include <utility>
#include <vector>

namespace firnfield::command {
namespace {

/// The unit of STL files and of what is told, mm where nothing was said.
std::string unit_of(const SurfaceOptions& options) { return options.unit.empty() ? "mm" : options.unit; }

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

std::string extension_of(const std::filesystem::path& file) {
    std::string extension = file.extension().string();
    for (char& c : extension) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return extension;
}
bool is_step(const std::filesystem::path& file) { return extension_of(file) == ".step" || extension_of(file) == ".stp"; }

constexpr const char* no_triangles = "--chord says how close triangles come to the faces of a part that is written as STL; none are made here";

/// A part, or with STEP the whole model, into the file that is to be written.
void write_part(const SurfaceOptions& options, const Model& model, const std::string& part) {
    if (is_step(options.out)) {
        if (!options.chord.empty()) throw Error("--chord goes with STL: a STEP file has the faces themselves");
        return write_step(options.out, model, part);
    }
    if (part.empty()) throw Error("an STL file holds one surface: name a part with --part, or write a STEP file");
    const ClosedSurface surface = part_surface(model, part, parse_quantity(options.chord.empty() ? "0.05 mm" : options.chord, kinds::length));
    write_stl(options.out, surface, unit_size(unit_of(options)));
    say("{} triangles, {} enclosed\n", surface.triangles.size(), show_quantity(volume(surface), kinds::volume, model.units));
}

/// Draws with numbers where that is wanted.
void draw(const SurfaceOptions& options, const ClosedSurface& surface, std::span<const std::size_t> number, const std::string& title,
          const std::string& counted) {
    if (options.picture.empty()) return;
    Picture view;
    view.azimuth = options.azimuth.value_or(view.azimuth);
    view.elevation = options.elevation.value_or(view.elevation);
    draw_numbered(options.picture, surface, number, title, counted, view);
    say("Picture in {}\n", options.picture.string());
}

/// Tells the faces of a solid; draws it with the numbers that they have in the table.
void tell_faces(const SurfaceOptions& options, const ClosedSurface& surface, std::span<const ExactFace> faces, const std::string& name, const std::string& of) {
    say("{}", faces_text(of, faces, {.length = unit_of(options)}));
    const std::vector<std::size_t> order = in_told_order(faces);
    std::vector<std::size_t> number(order.size());
    for (std::size_t n = 0; n < order.size(); ++n) number[order[n]] = n + 1;
    draw(options, surface, number, name, "faces");
}

/// The facets of a picture stay this close to curved faces, as a share of the whole.
double fine(const ClosedSurface& coarse) {
    constexpr double share = 1e-3;
    return share * length(bounds(coarse).size);
}

/// All usable solids of a file, each as if it were one face.
ClosedSurface solids_as_faces(const StepImport& import) {
    if (import.solids.size() > most_faces) throw Error(fmt::format("a picture has room for {} solids", most_faces));
    ClosedSurface all;
    for (const StepSolid& solid : import.solids) {
        all.faces.push_back({.number = static_cast<std::uint32_t>(all.faces.size()), .name = solid.name});
        if (!solid.geometry) continue;
        const ClosedSurface own = solid.geometry->facets(fine(solid.geometry->facets(1e30)));
        for (const StepCopy& copy : solid.copies) {
            const auto first = static_cast<std::uint32_t>(all.corners.size());
            for (const Vec3& corner : own.corners) all.corners.push_back(copy.place(corner));
            for (const auto& t : own.triangles) all.triangles.push_back({first + t[0], first + t[1], first + t[2]});
            all.face.insert(all.face.end(), own.triangles.size(), static_cast<std::uint16_t>(all.faces.size() - 1));
        }
    }
    if (all.triangles.empty()) throw Error("no solid of the file can be drawn");
    return all;
}

/// Tells what a STEP file holds, or the faces of one solid; writes that with --out.
void step_file(const SurfaceOptions& options) {
    if (options.each || !options.body.empty()) throw Error("--body and --each go with an STL file; of a STEP file --part names a solid");
    if (options.out.empty() && !options.chord.empty()) throw Error(no_triangles);
    const StepImport import = read_step(options.file);
    const Units units{.length = unit_of(options)};
    if (options.part.empty()) {
        if (!options.out.empty()) throw Error("name the solid to write with --part");
        say("{}\n{}", options.file.string(), to_text(import, units));
        std::vector<std::size_t> number(import.solids.size());
        std::iota(number.begin(), number.end(), std::size_t{1});
        return draw(options, options.picture.empty() ? ClosedSurface{} : solids_as_faces(import), number, options.file.filename().string(), "solids");
    }
    const StepSolid& solid = import.solid(options.part);
    tell_faces(options, solid.geometry->facets(fine(solid.geometry->facets(1e30))), solid.geometry->faces(), solid.name,
               fmt::format("\"{}\", in its own coordinates", solid.name));
    if (options.out.empty()) return;
    CadSolid shape = cad_solid(import, options.file.string(), solid.name, {1});
    shape.copies = {CadCopy{}};
    Model model;
    model.add(Part{.name = solid.name, .shape = std::move(shape), .material = solid.material});
    write_part(options, model, solid.name);
}

/// Tells what is in an STL file, or writes its bodies.
void stl_file(const SurfaceOptions& options) {
    if (!options.part.empty()) throw Error("--part names a part of a model or a solid of a STEP file; of an STL file --body takes one of several");
    if (!options.chord.empty()) throw Error(no_triangles);
    if (is_step(options.out)) throw Error("triangles of an STL file are written as STL; a part of a model that is made of them can be written as STEP");
    const double unit = unit_size(unit_of(options));
    const StlImport import = read_stl(options.file, unit);
    const Units units{.length = unit_of(options)};  // of the file
    const UnitOf length{.name = units.length, .shown = units.length, .one = unit};
    say("{}\n  {}\n  {}\n", options.file.string(), import.text(units), extent_text(bounds(*import.surface), length));
    for (std::size_t b = 0; import.bodies.size() > 1 && b < import.bodies.size(); ++b) {
        const StlImport::Body& body = import.bodies[b];
        say("  body {}{}: {}, {}\n", b + 1, body.name.empty() ? "" : fmt::format(" \"{}\"", body.name), show_quantity(body.volume, kinds::volume, units),
            extent_text(bounds(*body.surface), length));
    }
    if (options.each && options.out.empty()) throw Error("name a file to write with --out");
    if (options.each && !options.picture.empty()) throw Error("--each writes files of all bodies; draw one of them with --body");
    if (options.each && !options.body.empty()) throw Error("--each writes all bodies and --body one of them; give one of the two");
    for (std::size_t b = 0; options.each && b < import.bodies.size(); ++b) {
        std::filesystem::path file = options.out;
        file.replace_filename(fmt::format("{} {}{}", options.out.stem().string(), b + 1, options.out.extension().string()));
        write_stl(file, *import.bodies[b].surface, unit);
        say("Surface in {}\n", file.string());
    }
    if (!options.each && import.bodies.size() > 1 && options.body.empty() && !options.picture.empty()) throw Error("name the body to draw with --body");
    if (!options.each && (import.bodies.size() == 1 || !options.body.empty())) {
        const ClosedSurface& of = options.body.empty() ? *import.surface : *body_of(import, options.body).surface;
        tell_faces(options, of, list_faces(of), options.file.filename().string(), "divided at its edges");
    }
    if (options.each || options.out.empty()) return;
    write_stl(options.out, options.body.empty() ? *import.surface : *body_of(import, options.body).surface, unit);
}

/// Tells the faces of a part of a model, or writes it.
void of_model(const SurfaceOptions& options) {
    if (options.each || !options.body.empty()) throw Error("--body and --each go with an STL file; of a model, --part names a copy, as \"cover body 2\"");
    if (is_step(options.out) && !options.unit.empty())
        throw Error("--unit goes with STL, which does not say its unit; a STEP file is written in mm and says so");
    if (options.out.empty() && options.part.empty()) throw Error("of a model, name a part with --part to be told its faces, or a file to write with --out");
    if (options.out.empty() && !options.chord.empty()) throw Error(no_triangles);
    const ModelFile described = read_model_file(options.file);
    const Model model = described.model(described.design(options.variant), changes_of(options.set));
    if (options.out.empty() || !options.picture.empty()) {
        if (options.part.empty()) throw Error("name the part to draw with --part");
        const ClosedSurface surface = part_surface(model, options.part, fine(part_surface(model, options.part, 1e30)));
        tell_faces(options, surface, list_faces(surface), options.part, fmt::format("\"{}\", where it stands", options.part));
    }
    if (!options.out.empty()) write_part(options, model, options.part);
}

}  // namespace

/// Tells what is in an STL or STEP file, or writes parts of a model as one.
int surface(const SurfaceOptions& options) {
    if (!options.picture.empty() && extension_of(options.picture) != ".png") throw Error("pictures are PNG: let the name of --picture end in .png");
    if (!std::isfinite(options.azimuth.value_or(0.0))) throw Error("--azimuth takes degrees, as in 30");
    if (!(std::abs(options.elevation.value_or(0.0)) <= 90.0)) throw Error("--elevation takes -90 to 90 degrees");
    if (options.picture.empty() && (options.azimuth || options.elevation))
        throw Error("--azimuth and --elevation turn a picture; name its file with --picture");
    static_cast<void>(unit_size(unit_of(options)));
    const bool of_file = is_step(options.file) || extension_of(options.file) == ".stl";
    if (of_file && (!options.variant.empty() || !options.set.empty())) throw Error("--variant and --set change a model; this is a file of geometry");
    if (is_step(options.file)) {
        step_file(options);
    } else if (extension_of(options.file) == ".stl") {
        stl_file(options);
    } else {
        of_model(options);
    }
    if (!options.out.empty() && !options.each) say("Surface in {}\n", options.out.string());
    return done;
}

}  // namespace firnfield::command
