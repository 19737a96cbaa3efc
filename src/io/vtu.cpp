// Fields as VTK unstructured grids (XML, appended binary data).

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>

#include "findings/surface_field.hpp"

#include <fmt/format.h>
#include <zlib.h>

#include <cstring>

namespace firnfield {
namespace {

/// Appended data of a VTK XML file: arrays cut into blocks, each compressed on its own.
class Appended {
public:
    /// Adds an array and returns its offset.
    template <typename T>
    std::size_t add(const std::vector<T>& values) {
        const std::size_t offset = bytes_.size();
        const auto* data = reinterpret_cast<const Bytef*>(values.data());
        const std::size_t size = values.size() * sizeof(T);
        constexpr std::size_t block = 1U << 20U;
        const std::size_t blocks = (size + block - 1) / block;
        std::vector<std::uint32_t> header{static_cast<std::uint32_t>(blocks), static_cast<std::uint32_t>(block), static_cast<std::uint32_t>(size % block)};
        std::vector<std::string> packed(blocks);
        bool failed = false;
#pragma omp parallel for schedule(dynamic) reduction(|| : failed)
        for (std::size_t b = 0; b < blocks; ++b) {
            const std::size_t length = std::min(block, size - b * block);
            uLongf most = compressBound(static_cast<uLong>(length));
            packed[b].resize(most);
            failed = failed || compress2(reinterpret_cast<Bytef*>(packed[b].data()), &most, data + b * block, static_cast<uLong>(length), 1) != Z_OK;
            packed[b].resize(most);
        }
        if (failed) throw FileError("compression of the field data failed");
        for (const std::string& p : packed) header.push_back(static_cast<std::uint32_t>(p.size()));
        bytes_.append(reinterpret_cast<const char*>(header.data()), header.size() * sizeof(std::uint32_t));
        for (const std::string& p : packed) bytes_ += p;
        return offset;
    }

    [[nodiscard]] const std::string& bytes() const { return bytes_; }

private:
    std::string bytes_;
};

/// Corners of all cells, each once, and eight of them per cell in VTK's order.
struct Corners {
    std::vector<float> points;
    std::vector<std::int32_t> connectivity;
};

Corners collect_corners(const Mesh& mesh) {
    const Grid& grid = mesh.grid;
    const std::size_t nx = grid.count(0) + 1, ny = grid.count(1) + 1, nz = grid.count(2) + 1;
    std::vector<std::int32_t> number(nx * ny * nz, -1);
    Corners out;
    out.connectivity.reserve(8 * std::size_t{mesh.cells.size()});
    constexpr std::array<std::array<std::size_t, 3>, 8> hexahedron{{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {0, 0, 1}, {1, 0, 1}, {1, 1, 1}, {0, 1, 1}}};
    for (const Index box : mesh.cells.box) {
        const auto at = grid.place(box);
        for (const auto& corner : hexahedron) {
            const std::size_t i = at[0] + corner[0], j = at[1] + corner[1], k = at[2] + corner[2];
            std::int32_t& id = number[(k * ny + j) * nx + i];
            if (id < 0) {
                id = static_cast<std::int32_t>(out.points.size() / 3);
                for (const double x : {grid.lines[0][i], grid.lines[1][j], grid.lines[2][k]}) out.points.push_back(static_cast<float>(x));
            }
            out.connectivity.push_back(id);
        }
    }
    return out;
}

std::string array_tag(std::string_view type, std::string_view name, int components, std::size_t offset) {
    return fmt::format("        <DataArray type=\"{}\" Name=\"{}\" NumberOfComponents=\"{}\" format=\"appended\" offset=\"{}\"/>\n", type, name, components,
                       offset);
}

std::string opening(std::size_t points, std::size_t cells) {
    return fmt::format(
        "<?xml version=\"1.0\"?>\n"
        "<VTKFile type=\"UnstructuredGrid\" version=\"1.0\" byte_order=\"LittleEndian\" header_type=\"UInt32\" compressor=\"vtkZLibDataCompressor\">\n"
        "  <UnstructuredGrid>\n    <Piece NumberOfPoints=\"{}\" NumberOfCells=\"{}\">\n",
        points, cells);
}

/// The cells, and after them all data.
std::string closing(Appended& data, const std::vector<std::int32_t>& connectivity, const std::vector<std::int32_t>& offsets,
                    const std::vector<std::uint8_t>& types) {
    std::string xml = "      </Points>\n      <Cells>\n";
    xml += array_tag("Int32", "connectivity", 1, data.add(connectivity));
    xml += array_tag("Int32", "offsets", 1, data.add(offsets));
    xml += array_tag("UInt8", "types", 1, data.add(types));
    xml += "      </Cells>\n    </Piece>\n  </UnstructuredGrid>\n  <AppendedData encoding=\"raw\">\n_";
    xml += data.bytes();
    return xml + "\n  </AppendedData>\n</VTKFile>\n";
}

}  // namespace

void write_vtu(const std::filesystem::path& file, const SteadySolution& solution) {
    const Mesh& mesh = *solution.mesh;
    const std::size_t cells = mesh.cells.size();
    const Corners corners = collect_corners(mesh);
    std::vector<std::int32_t> offsets(cells), part(cells);
    std::vector<std::uint8_t> types(cells, 12);  // hexahedron
    std::vector<float> temperature(cells), flux(3 * cells), filled(cells);
    const std::vector<Vec3> flow = heat_flux(solution);
    for (std::size_t c = 0; c < cells; ++c) {
        offsets[c] = static_cast<std::int32_t>(8 * (c + 1));
        part[c] = static_cast<std::int32_t>(mesh.bodies[mesh.cells.body[c]].part);
        const auto place = mesh.grid.place(mesh.cells.box[c]);
        const double box = mesh.grid.width(0, place[0]) * mesh.grid.width(1, place[1]) * mesh.grid.width(2, place[2]);
        filled[c] = static_cast<float>(mesh.cells.volume[c] / box);
        temperature[c] = static_cast<float>(solution.temperature[c] - zero_celsius);
        for (int axis = 0; axis < 3; ++axis) flux[3 * c + static_cast<std::size_t>(axis)] = static_cast<float>(flow[c][axis]);
    }
    Appended data;
    std::string xml = opening(corners.points.size() / 3, cells);
    xml += "      <CellData Scalars=\"temperature\">\n";
    xml += array_tag("Float32", "temperature", 1, data.add(temperature));
    xml += array_tag("Int32", "part", 1, data.add(part));
    xml += array_tag("Float32", "filled", 1, data.add(filled));
    xml += array_tag("Float32", "heat flux", 3, data.add(flux));
    xml += "      </CellData>\n      <Points>\n";
    xml += array_tag("Float32", "Points", 3, data.add(corners.points));
    xml += closing(data, corners.connectivity, offsets, types);
    write_file(file, xml);
}

void write_surface_vtu(const std::filesystem::path& file, const SteadySolution& solution) {
    SurfaceView everything;
    everything.hidden.assign(solution.mesh->bodies.size(), false);
    const SurfaceField field = surface_field(solution, everything);
    std::vector<float> points, temperature;
    for (std::size_t c = 0; c < field.corners.size(); ++c) {
        for (int axis = 0; axis < 3; ++axis) points.push_back(static_cast<float>(field.corners[c][axis]));
        temperature.push_back(static_cast<float>(field.temperature[c] - zero_celsius));
    }
    std::vector<std::int32_t> connectivity, offsets, part;
    for (const SurfacePiece& face : field.pieces) {
        for (const Index c : field.of(face)) connectivity.push_back(static_cast<std::int32_t>(c));
        offsets.push_back(static_cast<std::int32_t>(connectivity.size()));
        part.push_back(static_cast<std::int32_t>(solution.mesh->bodies[face.body].part));
    }
    const std::vector<std::uint8_t> types(offsets.size(), 7);  // polygon
    Appended data;
    std::string xml = opening(points.size() / 3, offsets.size());
    xml += "      <PointData Scalars=\"temperature\">\n";
    xml += array_tag("Float32", "temperature", 1, data.add(temperature));
    xml += "      </PointData>\n      <CellData>\n";
    xml += array_tag("Int32", "part", 1, data.add(part));
    xml += "      </CellData>\n      <Points>\n";
    xml += array_tag("Float32", "Points", 3, data.add(points));
    xml += closing(data, connectivity, offsets, types);
    write_file(file, xml);
}

}  // namespace firnfield
