/// STEP files (ISO 10303-21, AP203, AP214, AP242): assemblies with their names, and faces as they are.
#pragma once

#include <firnfield/assembly.hpp>

#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// One of the places of a solid in its file, and the assemblies that it belongs to there: "gearbox/output stage".
struct StepCopy {
    Placement place{};
    std::string within{};  ///< empty: at the top
};

/// A solid of a STEP file; products of the same name are told apart by numbers in brackets, in the order of the file.
struct StepSolid {
    std::string name{};
    std::shared_ptr<const ExactSolid> geometry{};  ///< in its own coordinates, m; null: it cannot be used
    std::string why_not{};                         ///< what is wrong with one that cannot be used
    std::vector<std::string> repairs{};            ///< what had to be done to one that can
    Box box{};                                     ///< m, that holds it
    std::vector<StepCopy> copies{};
    std::string material{};  ///< as the file names it, for example "AlMgSi1"; empty for most
    std::string colour{};    ///< "#rrggbb", of the solid, or of the first copy that has one; empty where there is none
};

/// What a STEP file holds.
struct StepImport {
    std::vector<StepSolid> solids{};  ///< in its order
    std::string schema{};             ///< "AP214", or as the file says it
    std::string checksum{};           ///< of its bytes

    /// The solid of that name; throws Error that names the nearest, or says why it cannot be used.
    [[nodiscard]] const StepSolid& solid(const std::string& name) const;
};

/// Reads a STEP file; lengths are in the units of the file. Throws FileError when it cannot be read, is no STEP file, is cut off, or holds no solid.
[[nodiscard]] StepImport read_step(const std::filesystem::path& file);
/// The same from the bytes of a file; `name` is shown in messages.
[[nodiscard]] StepImport read_step_bytes(std::string_view bytes, const std::string& name);

/// A solid of a file as the shape of a part: all its copies, or those of these numbers. `source` is the path that a model writes. Throws Error.
[[nodiscard]] CadSolid cad_solid(const StepImport& import, const std::string& source, const std::string& solid, const std::vector<int>& copies = {});

/// The parts that an assembly stands for, in the order of the file. Names in `pick` and `leave_out` are those of solids, of copies ("screw 2"), of
/// sub-assemblies ("gearbox", which means all in it), or of both ("gearbox/screw"); wildcards. Throws ModelError with everything that is wrong, at
/// addresses such as "materials" or "leave_out[1]".
[[nodiscard]] std::vector<Part> parts_of(const Assembly& assembly, const StepImport& import);

/// Writes the parts of a model, or one of them, as a STEP assembly (AP214, mm): solids of the model with their faces as they are, copies of a part as
/// instances of one product, parts from STL as facets. Throws FileError; Error for a part that cannot be written, and for a plane or revolved model.
void write_step(const std::filesystem::path& file, const Model& model, const std::string& part = "");

}  // namespace firnfield
