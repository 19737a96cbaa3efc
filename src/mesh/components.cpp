// Cells that a body has in several pieces of one box, and slivers that hang on nothing.

#include "mesh/components.hpp"

#include "geometry/triangle_tree.hpp"
#include "mesh/clip.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>
#include <set>

namespace firnfield {
namespace {

constexpr int lattice = 8;  // samples along each axis of a box
constexpr int samples = lattice * lattice * lattice;
constexpr int no_piece = -1;

int sample_at(const std::array<int, 3>& i) { return (i[2] * lattice + i[1]) * lattice + i[0]; }

/// A piece of surface in a box.
struct Facet {
    Vec3 middle, vector, normal;
    std::uint16_t tag = 0, zone = 0;
};

/// The pieces of the solid in one box.
struct Pieces {
    std::array<int, samples> of{};  // piece of each sample, or no_piece
    std::vector<int> of_facet;      // piece behind each facet
    int count = 0;
};

/// Finds what hangs together in a box: sample points inside, and one point just behind every facet, so that slivers count, too.
/// Two points hang together when no surface lies between them.
class Sampler {
public:
    Sampler(const Grid& grid, const TriangleTree& tree) : grid_(grid), tree_(tree) {}

    Pieces sample(Index box, const std::vector<Facet>& facets) const {
        const auto place = grid_.place(box);
        std::array<double, 3> low{}, step{};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            low[axis] = grid_.lower(static_cast<int>(axis), place[axis]);
            step[axis] = grid_.width(static_cast<int>(axis), place[axis]) / lattice;
        }
        // Slightly off the middle, so that lines rarely run in faces of parts.
        const auto position = [&](std::size_t axis, int i) { return low[axis] + (i + 0.4871 + 0.0113 * static_cast<double>(axis)) * step[axis]; };
        std::vector<int> parent(samples + facets.size());
        std::iota(parent.begin(), parent.end(), 0);
        const auto root = [&](int s) {
            while (parent[static_cast<std::size_t>(s)] != s)
                s = parent[static_cast<std::size_t>(s)] = parent[static_cast<std::size_t>(parent[static_cast<std::size_t>(s)])];
            return s;
        };
        const auto join = [&](int a, int b) { parent[static_cast<std::size_t>(std::max(root(a), root(b)))] = std::min(root(a), root(b)); };

        std::array<int, samples> votes{};
        std::vector<std::pair<int, int>> open;  // neighbours without a surface between
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const std::size_t u = (axis + 1) % 3, v = (axis + 2) % 3;
            for (int a = 0; a < lattice; ++a) {
                for (int b = 0; b < lattice; ++b) {
                    Vec3 from, direction;
                    from[static_cast<int>(axis)] = low[axis];
                    from[static_cast<int>(u)] = position(u, a);
                    from[static_cast<int>(v)] = position(v, b);
                    direction[static_cast<int>(axis)] = 1.0;
                    const std::vector<RayCrossing> crossings = tree_.crossings(from, direction);
                    for (int i = 0; i < lattice; ++i) {
                        std::array<int, 3> at{};
                        at[axis] = i;
                        at[u] = a;
                        at[v] = b;
                        const double here = position(axis, i) - low[axis];
                        int winding = 0;
                        bool wall = false;
                        for (const RayCrossing& c : crossings) {
                            if (c.distance > here) winding += c.sign;
                            wall = wall || (c.distance > here && c.distance <= here + step[axis]);
                        }
                        if (winding > 0) ++votes[static_cast<std::size_t>(sample_at(at))];
                        if (i + 1 == lattice || wall) continue;
                        std::array<int, 3> next = at;
                        ++next[axis];
                        open.emplace_back(sample_at(at), sample_at(next));
                    }
                }
            }
        }
        const auto inside = [&](int s) { return votes[static_cast<std::size_t>(s)] >= 2; };
        for (const auto& [a, b] : open) {
            if (inside(a) && inside(b)) join(a, b);
        }
        join_facets(facets, low, step, position, inside, join);
        join_strays(facets, step, position, inside, root, join);

        Pieces pieces;
        std::map<int, int> number;
        const auto piece = [&](int s) {
            const auto [at, is_new] = number.try_emplace(root(s), pieces.count);
            if (is_new) ++pieces.count;
            return at->second;
        };
        for (int s = 0; s < samples; ++s) pieces.of[static_cast<std::size_t>(s)] = inside(s) ? piece(s) : no_piece;
        for (std::size_t f = 0; f < facets.size(); ++f) pieces.of_facet.push_back(piece(samples + static_cast<int>(f)));
        return pieces;
    }

private:
    /// Points behind facets hang on the samples and on each other, where nothing lies between.
    void join_facets(const std::vector<Facet>& facets, const std::array<double, 3>& low, const std::array<double, 3>& step, const auto& position,
                     const auto& inside, const auto& join) const {
        const double off = 1e-6 * lattice * std::min({step[0], step[1], step[2]});
        std::vector<Vec3> behind;
        for (const Facet& f : facets) behind.push_back(f.middle - off * f.normal);
        for (std::size_t f = 0; f < facets.size(); ++f) {
            // The samples around it, the nearest few that are inside.
            std::array<int, 3> near{};
            for (std::size_t axis = 0; axis < 3; ++axis) {
                near[axis] = std::clamp(static_cast<int>((behind[f][static_cast<int>(axis)] - low[axis]) / step[axis]), 0, lattice - 1);
            }
            bool found = false;
            for (int reach = 0; reach <= 2 && !found; ++reach) {
                for (int di = -reach; di <= reach; ++di) {
                    for (int dj = -reach; dj <= reach; ++dj) {
                        for (int dk = -reach; dk <= reach; ++dk) {
                            const std::array<int, 3> at{near[0] + di, near[1] + dj, near[2] + dk};
                            if (std::max({std::abs(di), std::abs(dj), std::abs(dk)}) != reach) continue;
                            if (std::any_of(at.begin(), at.end(), [](int i) { return i < 0 || i >= lattice; }) || !inside(sample_at(at))) continue;
                            if (!sees(behind[f], {position(0, at[0]), position(1, at[1]), position(2, at[2])})) continue;
                            join(samples + static_cast<int>(f), sample_at(at));
                            found = true;
                        }
                    }
                }
            }
            for (std::size_t g = 0; g < f; ++g) {
                if (sees(behind[f], behind[g])) join(samples + static_cast<int>(f), samples + static_cast<int>(g));
            }
        }
    }

    /// Samples in a sharp corner may see none of their neighbours, and be nobody's nearest. A piece of the solid has some surface: they hang
    /// on what surface they see.
    void join_strays(const std::vector<Facet>& facets, const std::array<double, 3>& step, const auto& position, const auto& inside, const auto& root,
                     const auto& join) const {
        const double off = 1e-6 * lattice * std::min({step[0], step[1], step[2]});
        std::set<int> with_surface;
        for (std::size_t f = 0; f < facets.size(); ++f) with_surface.insert(root(samples + static_cast<int>(f)));
        for (int s = 0; s < samples; ++s) {
            if (!inside(s) || with_surface.contains(root(s))) continue;
            const Vec3 here{position(0, s % lattice), position(1, s / lattice % lattice), position(2, s / (lattice * lattice))};
            for (std::size_t f = 0; f < facets.size(); ++f) {
                if (!sees(here, facets[f].middle - off * facets[f].normal)) continue;
                join(s, samples + static_cast<int>(f));
                with_surface.insert(root(s));
                break;
            }
        }
    }

    bool sees(Vec3 from, Vec3 to) const {
        const double away = length(to - from);
        if (away == 0.0) return true;
        return tree_.first_hit(from, (1.0 / away) * (to - from), 0.0) >= away;
    }

    const Grid& grid_;
    const TriangleTree& tree_;
};

/// Surfaces of a box that look at each other across a gap: then there may be something on either side of it.
bool looks_at_itself(const CutBody& body, const CutBox& box) {
    for (Index i = box.first_patch; i != no_index; i = body.patches[i].next) {
        for (Index j = body.patches[i].next; j != no_index; j = body.patches[j].next) {
            const CutPatch &a = body.patches[i], &b = body.patches[j];
            if (dot(a.vector, b.vector) < -0.3 * length(a.vector) * length(b.vector) && a.nearest + b.nearest < 0.0) return true;
        }
    }
    return false;
}

class Splitter {
public:
    Splitter(const Grid& grid, const CutSurface& input, CutBody& body) : grid_(grid), input_(input), body_(body) {}

    void run() {
        std::vector<std::int32_t> doubtful;
        for (std::size_t c = 0; c < body_.cut.size(); ++c) {
            if (looks_at_itself(body_, body_.cut[c])) doubtful.push_back(static_cast<std::int32_t>(c));
        }
        if (doubtful.empty()) return;
        for (const std::int32_t c : doubtful) facets_[c];
        collect_facets();
        const TriangleTree tree(triangles_of(input_.surface));
        const Sampler sampler(grid_, tree);
        for (const std::int32_t c : doubtful) {
            Pieces pieces = sampler.sample(body_.cut[static_cast<std::size_t>(c)].box, facets_[c]);
            if (pieces.count > 1) split_.emplace(c, std::move(pieces));
        }
        for (const auto& [c, pieces] : split_) {
            add_boxes(c, pieces);
            share_out(c, pieces);
        }
        join_neighbours();
    }

private:
    void collect_facets() {
        for_each_piece(grid_, whole(grid_), snap_to_grid(grid_, input_.surface.corners), input_.surface,
                       [&](const BoxPolygon& polygon, const std::array<Index, 3>& place, std::size_t t, Vec3 normal) {
                           const std::int32_t c =
                               body_.state[body_.local(place[0] - body_.range[0].first, place[1] - body_.range[1].first, place[2] - body_.range[2].first)];
                           const auto found = facets_.find(c);
                           if (found == facets_.end()) return;
                           const Vec3 vector = area_vector(polygon);
                           if (!(dot(vector, normal) > 0.0)) return;
                           found->second.push_back(
                               {centroid(polygon, vector), vector, normal, input_.surface.face[t], input_.zone.empty() ? std::uint16_t{0} : input_.zone[t]});
                       });
    }

    CutBox& piece(std::int32_t c, int index) {
        while (index-- > 0) c = body_.cut[static_cast<std::size_t>(c)].next_piece;
        return body_.cut[static_cast<std::size_t>(c)];
    }

    void add_boxes(std::int32_t c, const Pieces& pieces) {
        whole_[c] = body_.cut[static_cast<std::size_t>(c)];
        body_.cut[static_cast<std::size_t>(c)].first_patch = no_index;
        std::int32_t last = c;
        for (int p = 1; p < pieces.count; ++p) {
            CutBox box;
            box.box = body_.cut[static_cast<std::size_t>(c)].box;
            body_.cut.push_back(box);
            body_.cut[static_cast<std::size_t>(last)].next_piece = static_cast<std::int32_t>(body_.cut.size() - 1);
            last = static_cast<std::int32_t>(body_.cut.size() - 1);
        }
    }

    /// Patches go to the piece behind them. Open areas follow by samples, and by closure where only one piece reaches a face or
    /// a piece is too thin for samples; volumes by the divergence theorem.
    void share_out(std::int32_t c, const Pieces& pieces) {
        const CutBox& whole = whole_[c];
        const Vec3 centre = grid_.centre(whole.box);
        const std::vector<Facet>& facets = facets_[c];
        for (std::size_t f = 0; f < facets.size(); ++f) {
            body_.add_to_patch(piece(c, pieces.of_facet[f]), facets[f].tag, facets[f].zone, facets[f].normal, facets[f].vector, facets[f].middle - centre);
        }
        const auto n = static_cast<std::size_t>(pieces.count);
        std::vector<double> count(n, 0.0), sixfold(n, 0.0);
        std::vector<Vec3> net(n);
        for (const int p : pieces.of) {
            if (p != no_piece) count[static_cast<std::size_t>(p)] += 1.0;
        }
        for (std::size_t p = 0; p < n; ++p) {
            for (Index patch = piece(c, static_cast<int>(p)).first_patch; patch != no_index; patch = body_.patches[patch].next) {
                net[p] = net[p] + body_.patches[patch].vector;
                sixfold[p] += 2.0 * body_.patches[patch].depth;
            }
        }
        const auto place = grid_.place(whole.box);
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const int a = static_cast<int>(axis);
            std::vector<double> low(n, 0.0), high(n, 0.0);
            double low_left = whole.low_area[axis], high_left = whole.high_area[axis];
            for (std::size_t p = 0; p < n; ++p) {
                if (count[p] > 0.0) continue;
                low[p] = std::clamp(net[p][a], 0.0, low_left);
                high[p] = std::clamp(-net[p][a], 0.0, high_left);
                low_left -= low[p];
                high_left -= high[p];
            }
            share_by_samples(pieces, axis, false, low_left, count, low);
            share_by_samples(pieces, axis, true, high_left, count, high);
            const auto owners = [&](const std::vector<double>& share) {
                int owning = 0;
                for (std::size_t p = 0; p < n; ++p) owning += count[p] > 0.0 && share[p] > 0.0 ? 1 : 0;
                return owning;
            };
            const auto from_other_side = [&](std::vector<double>& side, const std::vector<double>& known, double sign, double total) {
                double sum = 0.0;
                for (std::size_t p = 0; p < n; ++p) {
                    if (count[p] > 0.0) sum += side[p] = std::max(0.0, known[p] + sign * net[p][a]);
                }
                for (std::size_t p = 0; p < n; ++p) {
                    if (count[p] > 0.0) side[p] = sum > 0.0 ? side[p] * total / sum : 0.0;
                }
            };
            if (owners(low) <= 1 && owners(high) > 1) from_other_side(high, low, -1.0, high_left);
            if (owners(high) <= 1 && owners(low) > 1) from_other_side(low, high, 1.0, low_left);
            for (std::size_t p = 0; p < n; ++p) {
                piece(c, static_cast<int>(p)).low_area[axis] = low[p];
                piece(c, static_cast<int>(p)).high_area[axis] = high[p];
                sixfold[p] += grid_.width(a, place[axis]) * (low[p] + high[p]);
            }
        }
        double all = 0.0;
        for (double& v : sixfold) all += v = std::max(v, 0.0);
        for (std::size_t p = 0; p < n; ++p) piece(c, static_cast<int>(p)).volume = all > 0.0 ? whole.volume * sixfold[p] / all : 0.0;
    }

    static void share_by_samples(const Pieces& pieces, std::size_t axis, bool upper, double area, const std::vector<double>& count,
                                 std::vector<double>& share) {
        std::vector<double> seen(share.size(), 0.0);
        double sum = 0.0;
        for (int s = 0; s < samples; ++s) {
            const std::array<int, 3> i{s % lattice, s / lattice % lattice, s / (lattice * lattice)};
            const int p = pieces.of[static_cast<std::size_t>(s)];
            if (p == no_piece || i[axis] != (upper ? lattice - 1 : 0)) continue;
            seen[static_cast<std::size_t>(p)] += 1.0;
            sum += 1.0;
        }
        const double all = std::accumulate(count.begin(), count.end(), 0.0);
        for (std::size_t p = 0; p < share.size(); ++p) {
            if (count[p] > 0.0) share[p] = sum > 0.0 ? area * seen[p] / sum : area * count[p] / all;
        }
    }

    /// Between two split boxes samples on both sides of the common face tell which pieces meet.
    void join_neighbours() {
        const std::array<std::size_t, 3> stride{1, body_.count(0), std::size_t{body_.count(0)} * body_.count(1)};
        for (const auto& [c, pieces] : split_) {
            const auto place = grid_.place(body_.cut[static_cast<std::size_t>(c)].box);
            const std::size_t at = body_.local(place[0] - body_.range[0].first, place[1] - body_.range[1].first, place[2] - body_.range[2].first);
            for (std::size_t axis = 0; axis < 3; ++axis) {
                if (place[axis] + 1 >= body_.range[axis].last) continue;
                const std::int32_t other = body_.state[at + stride[axis]];
                const auto next = split_.find(other);
                if (next == split_.end()) continue;
                std::map<std::pair<int, int>, double> meet;
                double all = 0.0;
                for (int a = 0; a < lattice; ++a) {
                    for (int b = 0; b < lattice; ++b) {
                        std::array<int, 3> i{}, j{};
                        i[axis] = lattice - 1;
                        i[(axis + 1) % 3] = j[(axis + 1) % 3] = a;
                        i[(axis + 2) % 3] = j[(axis + 2) % 3] = b;
                        const int p = pieces.of[static_cast<std::size_t>(sample_at(i))], q = next->second.of[static_cast<std::size_t>(sample_at(j))];
                        if (p == no_piece || q == no_piece) continue;
                        meet[{p, q}] += 1.0;
                        all += 1.0;
                    }
                }
                for (const auto& [pair, weight] : meet) {
                    body_.between.push_back(
                        {index_of(c, pair.first), index_of(other, pair.second), static_cast<std::uint8_t>(axis), whole_[c].high_area[axis] * weight / all});
                }
                join_thin(c, pieces, other, next->second, axis);
            }
        }
    }

    /// Pieces too thin for samples meet the piece across the face whose open area there is most like theirs.
    void join_thin(std::int32_t c, const Pieces& pieces, std::int32_t other, const Pieces& others, std::size_t axis) {
        const auto sampled = [](const Pieces& of, int p) { return std::find(of.of.begin(), of.of.end(), p) != of.of.end(); };
        const auto joined = [&](std::int32_t a, std::int32_t b) {
            return std::any_of(body_.between.begin(), body_.between.end(), [&](const CutFace& f) { return f.axis == axis && (f.first == a || f.second == b); });
        };
        for (int p = 0; p < pieces.count; ++p) {
            const double area = piece(c, p).high_area[axis];
            if (area <= 0.0) continue;
            int best = -1;
            double least = std::numeric_limits<double>::max();
            for (int q = 0; q < others.count; ++q) {
                const double theirs = piece(other, q).low_area[axis];
                if (theirs <= 0.0 || (sampled(pieces, p) && sampled(others, q)) || joined(index_of(c, p), index_of(other, q))) continue;
                if (std::abs(theirs - area) < least) {
                    least = std::abs(theirs - area);
                    best = q;
                }
            }
            if (best >= 0)
                body_.between.push_back(
                    {index_of(c, p), index_of(other, best), static_cast<std::uint8_t>(axis), std::min(area, piece(other, best).low_area[axis])});
        }
    }

    std::int32_t index_of(std::int32_t c, int index) const {
        while (index-- > 0) c = body_.cut[static_cast<std::size_t>(c)].next_piece;
        return c;
    }

    const Grid& grid_;
    const CutSurface& input_;
    CutBody& body_;
    std::map<std::int32_t, std::vector<Facet>> facets_;  // of boxes that may have to be split
    std::map<std::int32_t, Pieces> split_;
    std::map<std::int32_t, CutBox> whole_;  // as it was before the split
};

}  // namespace

void split_components(const Grid& grid, const CutSurface& surface, CutBody& body) { Splitter(grid, surface, body).run(); }

}  // namespace firnfield
