/// Pictures of the assembly coloured by temperature. No display is needed.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/model.hpp>
#include <firnfield/steady.hpp>

#include <array>
#include <filesystem>
#include <span>

namespace firnfield {

/// The temperature colour scale: `t` from 0 (coldest, pale ice) to 1 (hottest, dark ember), as red, green, blue in 0 … 1.
/// Lightness falls evenly and neighbouring steps look equally far apart, so it also reads without colour.
[[nodiscard]] std::array<double, 3> temperature_colour(double t);

/// A view and the file it goes to.
struct PictureFile {
    std::filesystem::path file{};
    Picture view{};
};

/// Draws several views of one solution, which share what they have in common, on as many threads as there are. Throws FileError.
void draw_pictures(const Model& model, const SteadySolution& solution, const Findings& findings, std::span<const PictureFile> pictures, int width = 1280,
                   int height = 800);

/// Draws one view as a PNG of `width` × `height` pixels. Throws FileError.
void draw_picture(const std::filesystem::path& file, const Model& model, const SteadySolution& solution, const Findings& findings, const Picture& view,
                  int width = 1280, int height = 800);

/// Draws where a rise is made: every part in the colour of its share, joints and the parts that matter most with their kelvin. Throws FileError.
void draw_explanation(const std::filesystem::path& file, const Model& model, const SteadySolution& solution, const Explanation& explanation,
                      const Picture& view, int width = 1280, int height = 800);

/// Draws which exposed surfaces a named rule picks: they stand out in colour, everything else is grey. `rule` is the name of a surface,
/// cooling or hold, or "unclaimed". Throws Error for an unknown name, FileError.
void draw_rule(const std::filesystem::path& file, const Model& model, const Mesh& mesh, const std::string& rule, const Picture& view, int width = 1280,
               int height = 800);

}  // namespace firnfield
