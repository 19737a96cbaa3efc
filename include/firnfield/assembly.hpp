/// Assemblies from CAD files, as a model file names them.
#pragma once

#include <firnfield/model.hpp>

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace firnfield {

/// What differs for some parts of an assembly.
struct AssemblyPart {
    std::string name{};             ///< of parts, prefix included; wildcards
    std::optional<bool> include{};  ///< false leaves them out
    std::optional<bool> stirred{};  ///< as of Part
    std::string material{};         ///< empty: as the assembly says
    std::optional<double> cell{};   ///< m, as of Part
    std::string colour{};           ///< empty: that of the file
};

/// A STEP file as parts of a model: every solid becomes one, with the copies that the file has.
struct Assembly {
    std::string file{};
    std::string prefix{};                  ///< put before the names of all its parts
    Vec3 at{};                             ///< where the origin of the file goes, m
    double scale = 1.0;                    ///< about that origin
    std::optional<int> mirrored{};         ///< along this axis, through that origin
    std::vector<Rotation> rotate{};        ///< one after the other; about that origin where nothing is said
    std::vector<std::string> pick{};       ///< only these; empty: everything
    std::vector<std::string> leave_out{};  ///< not these, which may be solids that cannot be used
    /// Name or wildcard, and material; the first that matches a part's name counts. What matches none has the material that the file names, if the
    /// library has it.
    std::vector<std::pair<std::string, std::string>> materials{};
    std::optional<double> cell{};  ///< m, in all its parts
    std::vector<AssemblyPart> parts{};
};

}  // namespace firnfield
