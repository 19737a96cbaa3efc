/// STL files, binary and text: surfaces in, with repair and a report on it, and out.
#pragma once

#include <firnfield/geometry.hpp>
#include <firnfield/units.hpp>

#include <cstddef>
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// A surface from a file, and what had to be done to it.
struct StlImport {
    std::shared_ptr<const ClosedSurface> surface{};  ///< m; divided into faces at its edges
    bool binary = false;
    std::size_t triangles_read = 0;
    std::size_t degenerate = 0;    ///< triangles without area, left out
    std::size_t duplicated = 0;    ///< triangles given twice, left out once
    std::size_t flipped = 0;       ///< triangles turned so that the outside is outside
    std::size_t holes_closed = 0;  ///< rings of edges that had only one triangle
    double closed_area = 0.0;      ///< m², put into holes
    std::size_t open_edges = 0;    ///< edges that still have one triangle
    std::size_t crossings = 0;     ///< pairs of triangles that run through each other
    double volume = 0.0;           ///< m³
    double volume_error = 0.0;     ///< m³, bound on what closing holes and cracks may have added or taken
    std::string checksum{};        ///< of the repaired surface
    struct Body {
        std::string name{};  ///< of its `solid`, where the file names several
        std::shared_ptr<const ClosedSurface> surface{};
        double volume = 0.0;  ///< m³
    };
    std::vector<Body> bodies{};  ///< of the file: closed surfaces of their own, in its order; `surface` is all of them

    [[nodiscard]] bool clean() const { return degenerate + duplicated + flipped + holes_closed + open_edges + crossings == 0; }
    /// What was found and done, in words.
    [[nodiscard]] std::string text(const Units& units = {}) const;
};

/// Reads and repairs a surface; `unit` is the size of the file's length unit in m. Throws FileError when the file cannot be read,
/// is no STL, is cut off, holds numbers that are not finite, or encloses nothing even after repair.
[[nodiscard]] StlImport read_stl(const std::filesystem::path& file, double unit);
/// The same from the bytes of a file; `name` is shown in messages.
[[nodiscard]] StlImport read_stl_bytes(std::string_view bytes, double unit, const std::string& name);

/// The body of that number, counted from 1, or of that name. Throws FileError that tells what there is.
[[nodiscard]] const StlImport::Body& body_of(const StlImport& import, const std::string& body);

/// Writes a binary STL with lengths in units of `unit` m. Throws FileError.
void write_stl(const std::filesystem::path& file, const ClosedSurface& surface, double unit = 1e-3);

/// A number that changes with any corner or triangle.
[[nodiscard]] std::string surface_checksum(const ClosedSurface& surface);

}  // namespace firnfield
