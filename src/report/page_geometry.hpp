/// What the views of pages are made of: surfaces of an assembly in groups, and numbers packed so that a page can carry them.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/steady.hpp>

#include "mesh/surface_pieces.hpp"

#include <nlohmann/json_fwd.hpp>

#include <array>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// Bytes of all fields, one after the other; numbers are stored as differences, which compress well.
class PageBlock {
public:
    /// Offset and length.
    using Part = std::array<std::size_t, 2>;
    Part add8(const std::vector<std::uint8_t>& values);
    Part add16(const std::vector<std::uint16_t>& values);
    Part add24(const std::vector<std::uint32_t>& values);
    /// All of it as zlib packs it, in base64. Throws FileError.
    [[nodiscard]] std::string packed() const;

private:
    std::string bytes_;
};

/// Triangles in groups.
struct PageGeometry {
    struct Range {
        Index group = 0;
        std::size_t first = 0, count = 0;  ///< triangles
    };
    Box box{};
    std::vector<Vec3> corners{};
    std::vector<Index> body{};  ///< per corner
    std::vector<std::uint32_t> indices{};
    std::vector<Range> ranges{};
};

/// Surfaces of all bodies, those that other parts cover included, grouped by what `group` says of each piece, ascending.
[[nodiscard]] PageGeometry page_surfaces(const Mesh& mesh, const std::function<Index(const SurfacePiece&, const SurfacePieces&)>& group);
/// The bodies as closed surfaces, grouped by part: what a section of them is filled by.
[[nodiscard]] PageGeometry page_solids(const Mesh& mesh);
/// As web/source/data.js reads it: box, vertices, triangles, ranges (under the name `of`), positions and indices. `box`: what positions count in.
[[nodiscard]] nlohmann::ordered_json packed_geometry(PageBlock& block, const PageGeometry& geometry, const Box& box, std::string_view of,
                                                     const std::function<std::size_t(Index)>& number = {});

/// The model with cells so large that a page can carry its surface.
[[nodiscard]] Model coarse_for_page(Model model);

/// A value as a whole number of `steps` between two others.
[[nodiscard]] std::uint16_t quantised(double value, double low, double high, double steps);

[[nodiscard]] std::string base64(std::string_view bytes);

}  // namespace firnfield
