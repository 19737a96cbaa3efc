/// Pictures of the assembly coloured by temperature or heat flux, told in Model::units. No display is needed.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/model.hpp>
#include <firnfield/parameter.hpp>
#include <firnfield/steady.hpp>

#include <array>
#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace firnfield {

/// The colour scale: `t` from 0 (coldest, light) to 1 (hottest, dark), as red, green, blue in 0 … 1.
/// Lightness falls evenly and neighbouring steps look equally far apart, so it also reads without colour.
[[nodiscard]] std::array<double, 3> temperature_colour(double t, Palette palette = Palette::ember);

/// A view and the file it goes to.
struct PictureFile {
    std::filesystem::path file{};
    Picture view{};
    std::string remark{};  ///< stands on it: that its results are stale
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

/// Draws a surface from two opposite sides, its faces in soft colours and with numbers: `number` has one for each. `counted` says what they are, as "faces".
/// Throws FileError.
void draw_numbered(const std::filesystem::path& file, const ClosedSurface& surface, std::span<const std::size_t> number, const std::string& title,
                   const std::string& counted, const Picture& view, int width = 1280, int height = 800);

/// Writes what a picture would show as a scene to turn in any viewer: binary glTF 2.0, lengths in m, a node for every copy of a part, colours and values
/// (attribute _VALUE, in the unit that `extras` names) at the corners. Of the view it takes what is shown, hidden, cut open, and its colours. `remark` goes
/// along as one of `extras`. Throws FileError.
void write_scene(const std::filesystem::path& file, const Model& model, const SteadySolution& solution, const Findings& findings, const Picture& view,
                 const std::string& remark = {});

/// A picture of results that were written before; a scene where its file ends in ".glb".
struct DrawQuestion {
    std::string study{};            ///< empty: the first over time, else the first
    std::optional<double> at{};     ///< s; empty: the end
    std::string picture{};          ///< of the model, to begin with; empty: the first
    std::vector<Change> changes{};  ///< of its keys: {"azimuth", "60"}, {"show", "heat flux"}
    std::optional<Units> units{};   ///< none: those of the results
    int width = 1280, height = 800;
};
/// Draws it from a results folder, without solving anything but what runs on to a time that was not kept. Returns what is worth saying of it: that the results
/// are stale, where the moment comes from. Throws Error for a question that makes no sense, as for keys that a scene has no use for, ModelError for a key of no
/// picture, FileError.
[[nodiscard]] std::vector<std::string> draw_kept(const std::filesystem::path& folder, const std::filesystem::path& file, const DrawQuestion& question);

}  // namespace firnfield
