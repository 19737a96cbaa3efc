// STL surfaces: reading and writing.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>
#include <firnfield/stl.hpp>

#include "base/words.hpp"
#include "io/repair_surface.hpp"
#include "io/separate_bodies.hpp"

#include <fmt/format.h>
#include <xxhash.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstring>
#include <fstream>
#include <map>
#include <sstream>
#include <unordered_map>

namespace firnfield {
namespace {

constexpr std::size_t header_size = 84, record_size = 50;

std::uint32_t stated_count(std::string_view bytes) {
    std::uint32_t count = 0;
    std::memcpy(&count, bytes.data() + 80, 4);
    return count;
}

/// A binary file says by its length that it is one; "solid" at its start says nothing.
bool is_binary(std::string_view bytes) {
    if (bytes.size() >= header_size && bytes.size() == header_size + record_size * std::size_t{stated_count(bytes)}) return true;
    const std::size_t begin = bytes.find_first_not_of(" \t\r\n");
    return begin == std::string_view::npos || bytes.substr(begin, 5) != "solid" || bytes.find('\0') != std::string_view::npos;
}

std::vector<Triangle> read_binary(std::string_view bytes, const std::string& name) {
    if (bytes.size() < header_size) refuse_stl(name, fmt::format("it has {} bytes; a binary file starts with 84", bytes.size()));
    const std::size_t count = stated_count(bytes);
    if (bytes.size() < header_size + record_size * count) {
        refuse_stl(name, fmt::format("it says {} triangles but holds {}; it is cut off", count, (bytes.size() - header_size) / record_size));
    }
    std::vector<Triangle> triangles(count);
    for (std::size_t t = 0; t < count; ++t) {
        std::array<float, 9> numbers{};
        std::memcpy(numbers.data(), bytes.data() + header_size + record_size * t + 12, sizeof numbers);
        for (std::size_t c = 0; c < 3; ++c) triangles[t][c] = {numbers[3 * c], numbers[3 * c + 1], numbers[3 * c + 2]};
    }
    return triangles;
}

/// Triangles of a text, and which of its solids each is of.
struct Text {
    std::vector<Triangle> triangles{};
    std::vector<std::uint32_t> solid{};
    std::vector<std::string> names{};
};

Text read_text(std::string_view bytes, const std::string& name) {
    Text text;
    std::vector<Vec3> corners;
    std::size_t at = 0, line = 1;
    bool ended = false;
    /// The rest of the line, as the name of a solid stands.
    const auto rest_of_line = [&] {
        const std::size_t end = std::min(bytes.find('\n', at), bytes.size());
        std::string rest(bytes.substr(at, end - at));
        at = end;
        rest.erase(0, std::min(rest.find_first_not_of(" \t"), rest.size()));
        rest.erase(rest.find_last_not_of(" \t\r") + 1);
        return rest;
    };
    const auto next_word = [&]() -> std::string_view {
        while (at < bytes.size() && std::isspace(static_cast<unsigned char>(bytes[at])) != 0) line += bytes[at++] == '\n' ? 1 : 0;
        const std::size_t begin = at;
        while (at < bytes.size() && std::isspace(static_cast<unsigned char>(bytes[at])) == 0) ++at;
        return bytes.substr(begin, at - begin);
    };
    for (std::string_view word = next_word(); !word.empty(); word = next_word()) {
        if (word == "vertex") {
            Vec3 p;
            for (int axis = 0; axis < 3; ++axis) {
                std::string_view number = next_word();
                if (number.empty()) refuse_stl(name, "the text ends in the middle; it is cut off");
                if (number.starts_with('+')) number.remove_prefix(1);
                const auto [end, status] = std::from_chars(number.data(), number.data() + number.size(), p[axis]);
                if (status != std::errc() || end != number.data() + number.size()) {
                    refuse_stl(name, fmt::format("line {}: a vertex takes three numbers, found {}", line, in_quotes(std::string(number.substr(0, 40)))));
                }
            }
            corners.push_back(p);
        } else if (word == "endloop") {
            if (corners.size() != 3) refuse_stl(name, fmt::format("line {}: a facet has {} corners instead of three", line, corners.size()));
            text.triangles.push_back({corners[0], corners[1], corners[2]});
            text.solid.push_back(static_cast<std::uint32_t>(std::max<std::size_t>(text.names.size(), 1) - 1));
            corners.clear();
        } else if (word == "endsolid") {
            ended = true;
            static_cast<void>(rest_of_line());
        } else if (word == "solid") {
            text.names.push_back(rest_of_line());
        }
    }
    if (!corners.empty() || !ended) refuse_stl(name, "the text ends in the middle; it is cut off");
    return text;
}

/// What was found in one body counts for all of them.
void add_report(StlImport& all, const StlImport& one) {
    all.triangles_read += one.triangles_read;
    all.degenerate += one.degenerate;
    all.duplicated += one.duplicated;
    all.flipped += one.flipped;
    all.holes_closed += one.holes_closed;
    all.closed_area += one.closed_area;
    all.open_edges += one.open_edges;
    all.volume += one.volume;
    all.volume_error += one.volume_error;
}

/// Every body repaired by itself, so that what two of them share stays with both.
StlImport repaired_bodies(const std::vector<Triangle>& triangles, const std::vector<std::uint32_t>& body, const std::vector<std::string>& names, double unit,
                          const std::string& name) {
    const std::uint32_t count = *std::max_element(body.begin(), body.end()) + 1;
    StlImport all;
    ClosedSurface whole;
    std::vector<std::vector<Triangle>> own(count);
    for (std::size_t t = 0; t < triangles.size(); ++t) own[body[t]].push_back(triangles[t]);
    for (std::uint32_t b = 0; b < count; ++b) {
        if (own[b].empty()) continue;
        const StlImport import = repaired(std::move(own[b]), unit, name);
        add_report(all, import);
        const auto first = static_cast<std::uint32_t>(whole.corners.size());
        whole.corners.insert(whole.corners.end(), import.surface->corners.begin(), import.surface->corners.end());
        for (const auto& t : import.surface->triangles) whole.triangles.push_back({t[0] + first, t[1] + first, t[2] + first});
        const std::size_t first_face = whole.faces.size();
        if (first_face + import.surface->faces.size() > most_faces) refuse_stl(name, fmt::format("it has more than {} faces", most_faces));
        for (SurfaceFace face : import.surface->faces) {
            face.number = static_cast<std::uint32_t>(whole.faces.size());  // bodies have faces of the same names
            whole.faces.push_back(std::move(face));
        }
        for (const std::uint16_t f : import.surface->face) whole.face.push_back(static_cast<std::uint16_t>(first_face + f));
        all.bodies.push_back({b < names.size() ? names[b] : std::string(), import.surface, import.volume});
    }
    all.crossings = crossings_of(whole.corners, whole.triangles);  // also of one body through another
    all.checksum = surface_checksum(whole);
    all.surface = std::make_shared<const ClosedSurface>(std::move(whole));
    return all;
}

}  // namespace

const StlImport::Body& body_of(const StlImport& import, const std::string& body) {
    for (const StlImport::Body& b : import.bodies) {
        if (b.name == body) return b;
    }
    std::size_t number = 0;
    const auto [end, status] = std::from_chars(body.data(), body.data() + body.size(), number);
    if (status == std::errc() && end == body.data() + body.size() && number >= 1 && number <= import.bodies.size()) return import.bodies[number - 1];
    std::vector<std::string> known;
    for (const StlImport::Body& b : import.bodies) {
        if (!b.name.empty()) known.push_back(b.name);
    }
    throw FileError(fmt::format("the file has no body {}; it has {} {}{}", in_quotes(body), import.bodies.size(), import.bodies.size() == 1 ? "body" : "bodies",
                                known.empty() ? std::string() : ": " + quoted_list(known, 12)));
}

std::string StlImport::text(const Units& units) const {
    std::string out = fmt::format("{} triangles ({}), {} enclosed", triangles_read, binary ? "binary" : "text", show_quantity(volume, kinds::volume, units));
    if (bodies.size() > 1) out += fmt::format(" by {} bodies", bodies.size());
    const auto add = [&](std::size_t count, std::string_view one, std::string_view many) {
        if (count > 0) out += fmt::format("; {} {}", count, count == 1 ? one : many);
    };
    add(degenerate, "triangle without area left out", "triangles without area left out");
    add(duplicated, "triangle given twice", "triangles given twice");
    add(flipped, "triangle turned right side out", "triangles turned right side out");
    if (holes_closed > 0) {
        add(holes_closed, "hole closed", "holes closed");
        out += fmt::format(" with {} (at most {} of volume in doubt)", show_quantity(closed_area, kinds::area, units),
                           show_quantity(volume_error, kinds::volume, units));
    }
    add(open_edges, "edge is still open", "edges are still open");
    add(crossings, "pair of triangles runs through each other", "pairs of triangles run through each other");
    return clean() ? out + "; watertight" : out;
}

StlImport read_stl_bytes(std::string_view bytes, double unit, const std::string& name) {
    if (bytes.empty()) refuse_stl(name, "it is empty");
    const bool binary = is_binary(bytes);
    Text text;
    if (binary) {
        text.triangles = read_binary(bytes, name);
    } else {
        text = read_text(bytes, name);
    }
    for (const Triangle& t : text.triangles) {
        for (const Vec3& p : t) {
            if (!std::isfinite(p.x) || !std::isfinite(p.y) || !std::isfinite(p.z)) refuse_stl(name, "a corner is not a finite number");
        }
    }
    const bool has_names = text.names.size() > 1;
    const std::vector<std::uint32_t> body =
        separate_bodies(text.triangles, has_names ? std::span<const std::uint32_t>(text.solid) : std::span<const std::uint32_t>());
    StlImport import;
    if (std::any_of(body.begin(), body.end(), [](std::uint32_t b) { return b > 0; })) {
        import = repaired_bodies(text.triangles, body, has_names && body == text.solid ? text.names : std::vector<std::string>(), unit, name);
    } else {
        import = repaired(std::move(text.triangles), unit, name);
        import.bodies = {{ text.names.size() == 1 ? text.names.front() : std::string(), import.surface, import.volume }};
    }
    import.binary = binary;
    return import;
}

StlImport read_stl(const std::filesystem::path& file, double unit) {
    constexpr std::uintmax_t largest = std::uintmax_t{2} << 30U;
    return read_stl_bytes(read_file(file, largest), unit, file.string());
}

void write_stl(const std::filesystem::path& file, const ClosedSurface& surface, double unit) {
    std::string bytes(header_size, '\0');
    const std::string_view title = "binary STL, lengths as stated by its model";
    std::copy(title.begin(), title.end(), bytes.begin());
    const auto count = static_cast<std::uint32_t>(surface.triangles.size());
    std::memcpy(bytes.data() + 80, &count, 4);
    for (const auto& t : surface.triangles) {
        const Vec3 a = surface.corners[t[0]], b = surface.corners[t[1]], c = surface.corners[t[2]];
        const Vec3 doubled = cross(b - a, c - a);
        const Vec3 n = length(doubled) > 0.0 ? normalized(doubled) : Vec3{};
        std::array<char, record_size> record{};
        std::size_t at = 0;
        for (const Vec3& v : {n, (1.0 / unit) * a, (1.0 / unit) * b, (1.0 / unit) * c}) {
            for (int axis = 0; axis < 3; ++axis, at += 4) {
                const auto number = static_cast<float>(v[axis]);
                std::memcpy(record.data() + at, &number, 4);
            }
        }
        bytes.append(record.data(), record.size());
    }
    write_file(file, bytes);
}

std::string surface_checksum(const ClosedSurface& surface) {
    // Single precision, as files hold it: the same surface read again has the same number.
    std::vector<float> numbers;
    for (const auto& t : surface.triangles) {
        for (const std::uint32_t c : t) {
            for (int axis = 0; axis < 3; ++axis) numbers.push_back(static_cast<float>(surface.corners[c][axis]));
        }
    }
    return fmt::format("{:016x}", XXH3_64bits(numbers.data(), numbers.size() * sizeof(float)));
}

}  // namespace firnfield
