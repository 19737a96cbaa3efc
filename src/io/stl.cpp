// STL surfaces: reading, repair, writing.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>
#include <firnfield/stl.hpp>

#include "base/words.hpp"
#include "geometry/triangle_tree.hpp"

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

[[noreturn]] void refuse(const std::string& name, const std::string& why) {
    throw FileError(fmt::format("{} is no usable STL file: {}", in_quotes(name), why));
}

std::vector<Triangle> read_binary(std::string_view bytes, const std::string& name) {
    if (bytes.size() < header_size) refuse(name, fmt::format("it has {} bytes; a binary file starts with 84", bytes.size()));
    const std::size_t count = stated_count(bytes);
    if (bytes.size() < header_size + record_size * count) {
        refuse(name, fmt::format("it says {} triangles but holds {}; it is cut off", count, (bytes.size() - header_size) / record_size));
    }
    std::vector<Triangle> triangles(count);
    for (std::size_t t = 0; t < count; ++t) {
        std::array<float, 9> numbers{};
        std::memcpy(numbers.data(), bytes.data() + header_size + record_size * t + 12, sizeof numbers);
        for (std::size_t c = 0; c < 3; ++c) triangles[t][c] = {numbers[3 * c], numbers[3 * c + 1], numbers[3 * c + 2]};
    }
    return triangles;
}

std::vector<Triangle> read_text(std::string_view bytes, const std::string& name) {
    std::vector<Triangle> triangles;
    std::vector<Vec3> corners;
    std::size_t at = 0, line = 1;
    bool ended = false;
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
                if (number.empty()) refuse(name, "the text ends in the middle; it is cut off");
                if (number.starts_with('+')) number.remove_prefix(1);
                const auto [end, status] = std::from_chars(number.data(), number.data() + number.size(), p[axis]);
                if (status != std::errc() || end != number.data() + number.size()) {
                    refuse(name, fmt::format("line {}: a vertex takes three numbers, found {}", line, in_quotes(std::string(number.substr(0, 40)))));
                }
            }
            corners.push_back(p);
        } else if (word == "endloop") {
            if (corners.size() != 3) refuse(name, fmt::format("line {}: a facet has {} corners instead of three", line, corners.size()));
            triangles.push_back({corners[0], corners[1], corners[2]});
            corners.clear();
        } else if (word == "endsolid") {
            ended = true;
        }
    }
    if (!corners.empty() || !ended) refuse(name, "the text ends in the middle; it is cut off");
    return triangles;
}

/// Turns a soup of triangles into a closed, outward surface as far as possible.
class Repair {
public:
    Repair(std::vector<Triangle> triangles, double unit, const std::string& name) : unit_(unit), name_(name) {
        report_.triangles_read = triangles.size();
        if (triangles.empty()) refuse(name, "it holds no triangle");
        for (const Triangle& t : triangles) {
            for (const Vec3& p : t) {
                if (!std::isfinite(p.x) || !std::isfinite(p.y) || !std::isfinite(p.z)) refuse(name, "a corner is not a finite number");
            }
        }
        weld(triangles);
    }

    StlImport run() {
        drop_useless();
        orient();
        close_holes();
        turn_outward();
        measure();
        ClosedSurface surface;
        surface.tags = {"surface"};
        surface.area_factor = {1.0};
        surface.corners = std::move(corners_);
        surface.triangles = std::move(triangles_);
        surface.tag.assign(surface.triangles.size(), 0);
        report_.checksum = surface_checksum(surface);
        report_.surface = std::make_shared<const ClosedSurface>(std::move(surface));
        return std::move(report_);
    }

private:
    using Edge = std::pair<std::uint32_t, std::uint32_t>;
    static Edge sorted(std::uint32_t a, std::uint32_t b) { return {std::min(a, b), std::max(a, b)}; }

    /// Corners nearer to each other than the file can tell become one.
    void weld(const std::vector<Triangle>& triangles) {
        Vec3 low = triangles[0][0], high = low;
        for (const Triangle& t : triangles) {
            for (const Vec3& p : t) {
                for (int axis = 0; axis < 3; ++axis) {
                    low[axis] = std::min(low[axis], p[axis]);
                    high[axis] = std::max(high[axis], p[axis]);
                }
            }
        }
        size_ = std::max({high.x - low.x, high.y - low.y, high.z - low.z});
        constexpr double nothing = 1e-30;  // in whatever unit: less cannot be divided any more
        if (!(size_ > nothing)) refuse(name_, "all corners are the same point");
        const double reach = std::max({std::abs(low.x), std::abs(low.y), std::abs(low.z), std::abs(high.x), std::abs(high.y), std::abs(high.z)});
        const double tolerance = std::max(1e-5 * size_, 2e-7 * reach);
        std::map<std::array<long long, 3>, std::vector<std::uint32_t>> grid;
        const auto find = [&](Vec3 p) {
            std::array<long long, 3> key{};
            for (int axis = 0; axis < 3; ++axis)
                key[static_cast<std::size_t>(axis)] = static_cast<long long>(std::floor((p[axis] - low[axis]) / (4.0 * tolerance)));
            for (long long i = -1; i <= 1; ++i) {
                for (long long j = -1; j <= 1; ++j) {
                    for (long long k = -1; k <= 1; ++k) {
                        const auto found = grid.find({key[0] + i, key[1] + j, key[2] + k});
                        if (found == grid.end()) continue;
                        for (const std::uint32_t c : found->second) {
                            if (length(corners_[c] - p) <= tolerance) return c;
                        }
                    }
                }
            }
            corners_.push_back(p);
            grid[key].push_back(static_cast<std::uint32_t>(corners_.size() - 1));
            return static_cast<std::uint32_t>(corners_.size() - 1);
        };
        for (const Triangle& t : triangles) triangles_.push_back({find(t[0]), find(t[1]), find(t[2])});
    }

    void drop_useless() {
        std::map<std::array<std::uint32_t, 3>, int> seen;
        std::vector<std::array<std::uint32_t, 3>> kept;
        for (const auto& t : triangles_) {
            if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) {
                ++report_.degenerate;
                continue;
            }
            auto key = t;
            std::sort(key.begin(), key.end());
            if (++seen[key] > 1) {
                ++report_.duplicated;
                continue;
            }
            kept.push_back(t);
        }
        triangles_ = std::move(kept);
        if (triangles_.size() < 2) refuse(name_, "its triangles enclose nothing");
    }

    std::map<Edge, std::vector<std::uint32_t>> edges() const {
        std::map<Edge, std::vector<std::uint32_t>> out;
        for (std::uint32_t t = 0; t < triangles_.size(); ++t) {
            for (std::size_t e = 0; e < 3; ++e) out[sorted(triangles_[t][e], triangles_[t][(e + 1) % 3])].push_back(t);
        }
        return out;
    }

    bool runs_along(std::uint32_t t, Edge edge) const {
        for (std::size_t e = 0; e < 3; ++e) {
            if (triangles_[t][e] == edge.first && triangles_[t][(e + 1) % 3] == edge.second) return true;
        }
        return false;
    }

    /// Makes neighbours agree on which side is outside, piece by piece of connected surface; the majority stays as it is.
    void orient() {
        const auto by_edge = edges();
        std::vector<std::vector<std::pair<std::uint32_t, bool>>> next(triangles_.size());  // neighbour, agrees
        for (const auto& [edge, list] : by_edge) {
            if (list.size() != 2) continue;
            const bool agree = runs_along(list[0], edge) != runs_along(list[1], edge);
            next[list[0]].push_back({list[1], agree});
            next[list[1]].push_back({list[0], agree});
        }
        component_.assign(triangles_.size(), no_component);
        for (std::uint32_t start = 0; start < triangles_.size(); ++start) {
            if (component_[start] != no_component) continue;
            std::vector<std::uint32_t> members{start};
            component_[start] = components_;
            std::size_t turned = 0;
            std::unordered_map<std::uint32_t, bool> state{{start, false}};
            for (std::size_t i = 0; i < members.size(); ++i) {
                for (const auto& [other, agree] : next[members[i]]) {
                    if (component_[other] != no_component) continue;
                    component_[other] = components_;
                    const bool turn = state[members[i]] != !agree;
                    state[other] = turn;
                    turned += turn ? 1 : 0;
                    members.push_back(other);
                }
            }
            const bool minority = 2 * turned <= members.size();
            for (const std::uint32_t t : members) {
                if (state[t] == minority) flip_triangle(t);
            }
            ++components_;
        }
    }

    void flip_triangle(std::uint32_t t) {
        std::swap(triangles_[t][1], triangles_[t][2]);
        ++report_.flipped;
    }

    /// Rings of edges with one triangle are closed by a fan around their middle.
    void close_holes() {
        std::map<std::uint32_t, std::vector<std::uint32_t>> follow;  // along the open rim, with the hole on its left
        for (const auto& [edge, list] : edges()) {
            if (list.size() != 1) continue;
            const bool along = runs_along(list[0], edge);
            follow[along ? edge.second : edge.first].push_back(along ? edge.first : edge.second);
        }
        while (!follow.empty()) {
            // Walk along the rim; whenever the walk comes back to a corner it has passed, the loop between is a hole.
            std::vector<std::uint32_t> walk{follow.begin()->first};
            while (!walk.empty()) {
                const auto at = follow.find(walk.back());
                if (at == follow.end()) {
                    walk.pop_back();  // a rim that ends nowhere stays open
                    continue;
                }
                const std::uint32_t to = at->second.back();
                at->second.pop_back();
                if (at->second.empty()) follow.erase(at);
                const auto passed = std::find(walk.begin(), walk.end(), to);
                if (passed == walk.end()) {
                    walk.push_back(to);
                    continue;
                }
                const std::vector<std::uint32_t> ring(passed, walk.end());
                walk.erase(passed + 1, walk.end());
                if (ring.size() >= 3) fill(ring);
            }
        }
    }

    void fill(const std::vector<std::uint32_t>& ring) {
        ++report_.holes_closed;
        const auto add = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
            triangles_.push_back({a, b, c});
            component_.push_back(no_component);
            report_.closed_area += 0.5 * length(cross(corners_[b] - corners_[a], corners_[c] - corners_[a])) * unit_ * unit_;
        };
        Vec3 middle, vector;
        for (const std::uint32_t c : ring) middle = middle + (1.0 / static_cast<double>(ring.size())) * corners_[c];
        double widest = 0.0;
        for (std::size_t i = 0; i < ring.size(); ++i) {
            vector = vector + 0.5 * cross(corners_[ring[i]] - middle, corners_[ring[(i + 1) % ring.size()]] - middle);
            widest = std::max(widest, length(corners_[ring[i]] - middle));
        }
        if (ring.size() == 3) {
            add(ring[0], ring[1], ring[2]);
        } else {
            corners_.push_back(middle);
            const auto centre = static_cast<std::uint32_t>(corners_.size() - 1);
            for (std::size_t i = 0; i < ring.size(); ++i) add(centre, ring[i], ring[(i + 1) % ring.size()]);
        }
        // What was there may have bulged: by no more than a half-sphere over the hole.
        report_.volume_error += std::max(length(vector), 1e-3 * widest * widest) * widest * 2.0 / 3.0 * unit_ * unit_ * unit_;
    }

    /// A surface that encloses less than nothing is inside out as a whole.
    void turn_outward() {
        double enclosed = 0.0;
        for (const auto& t : triangles_) enclosed += signed_volume(t);
        if (enclosed >= 0.0) return;
        for (auto& t : triangles_) std::swap(t[1], t[2]);
        report_.flipped = triangles_.size() - std::min(report_.flipped, triangles_.size());
    }

    double signed_volume(const std::array<std::uint32_t, 3>& t) const {
        const Vec3 o = corners_[0];
        return dot(corners_[t[0]] - o, cross(corners_[t[1]] - o, corners_[t[2]] - o)) / 6.0;
    }

    void measure() {
        for (Vec3& p : corners_) p = unit_ * p;
        for (const auto& t : triangles_) report_.volume += signed_volume(t);
        for (const auto& [edge, list] : edges()) report_.open_edges += list.size() == 1 ? 1 : 0;
        const double size = size_ * unit_;
        if (!(report_.volume > 1e-9 * size * size * size)) refuse(name_, "its triangles enclose no volume");
        count_crossings();
    }

    /// Pairs of triangles without a common corner of which one's edge runs through the other.
    void count_crossings() {
        std::vector<Triangle> all;
        for (const auto& t : triangles_) all.push_back({corners_[t[0]], corners_[t[1]], corners_[t[2]]});
        const TriangleTree tree(all);
        constexpr std::size_t enough = 1000;
        for (std::uint32_t t = 0; t < all.size() && report_.crossings < enough; ++t) {
            Vec3 low = all[t][0], high = low;
            for (const Vec3& p : all[t]) {
                for (int axis = 0; axis < 3; ++axis) {
                    low[axis] = std::min(low[axis], p[axis]);
                    high[axis] = std::max(high[axis], p[axis]);
                }
            }
            tree.for_each_near(low, high, [&](std::uint32_t o) {
                if (o <= t) return;
                for (const std::uint32_t a : triangles_[t]) {
                    for (const std::uint32_t b : triangles_[o]) {
                        if (a == b) return;
                    }
                }
                if (pierces(all[t], all[o]) || pierces(all[o], all[t])) ++report_.crossings;
            });
        }
    }

    static bool pierces(const Triangle& edges, const Triangle& t) {
        const Vec3 n = doubled_area(t);
        for (std::size_t e = 0; e < 3; ++e) {
            const Vec3 a = edges[e], b = edges[(e + 1) % 3];
            const double ha = dot(n, a - t[0]), hb = dot(n, b - t[0]), least = 1e-9 * dot(n, n) / length(n);
            if (!((ha > least && hb < -least) || (ha < -least && hb > least))) continue;
            const Vec3 p = a + (ha / (ha - hb)) * (b - a);
            bool inside = true;
            for (std::size_t k = 0; k < 3; ++k) inside = inside && dot(n, cross(t[(k + 1) % 3] - t[k], p - t[k])) > 1e-9 * dot(n, n);
            if (inside) return true;
        }
        return false;
    }

    static constexpr std::uint32_t no_component = 0xFFFFFFFFU;
    double unit_;
    const std::string& name_;
    double size_ = 0.0;
    std::vector<Vec3> corners_;  // in the unit of the file until measure()
    std::vector<std::array<std::uint32_t, 3>> triangles_;
    std::vector<std::uint32_t> component_;
    std::uint32_t components_ = 0;
    StlImport report_;
};

}  // namespace

std::string StlImport::text() const {
    std::string out = fmt::format("{} triangles ({}), {} enclosed", triangles_read, binary ? "binary" : "text", show_quantity(volume, kinds::volume));
    const auto add = [&](std::size_t count, std::string_view one, std::string_view many) {
        if (count > 0) out += fmt::format("; {} {}", count, count == 1 ? one : many);
    };
    add(degenerate, "triangle without area left out", "triangles without area left out");
    add(duplicated, "triangle given twice", "triangles given twice");
    add(flipped, "triangle turned right side out", "triangles turned right side out");
    if (holes_closed > 0) {
        add(holes_closed, "hole closed", "holes closed");
        out += fmt::format(" with {} (at most {} of volume in doubt)", show_quantity(closed_area, kinds::area), show_quantity(volume_error, kinds::volume));
    }
    add(open_edges, "edge is still open", "edges are still open");
    add(crossings, "pair of triangles runs through each other", "pairs of triangles run through each other");
    return clean() ? out + "; watertight" : out;
}

StlImport read_stl_bytes(std::string_view bytes, double unit, const std::string& name) {
    if (bytes.empty()) refuse(name, "it is empty");
    const bool binary = is_binary(bytes);
    StlImport import = Repair(binary ? read_binary(bytes, name) : read_text(bytes, name), unit, name).run();
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
