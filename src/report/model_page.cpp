// The page of a model before it is solved: every face with what claims it.

#include <firnfield/chart.hpp>
#include <firnfield/report.hpp>
#include <firnfield/results.hpp>
#include <firnfield/version.hpp>

#include "base/words.hpp"
#include "report/model_tables.hpp"
#include "report/page_geometry.hpp"
#include "report/page_template.hpp"
#include "report/phrases.hpp"
#include "report/profile_curve.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <tuple>

namespace firnfield {
namespace {

using Json = nlohmann::ordered_json;
using Rgb = std::array<int, 3>;

/// Far apart, and none of them the one that marks what nothing claims.
constexpr std::array<Rgb, 9> shades{
    {{74, 134, 160}, {214, 158, 90}, {120, 152, 92}, {142, 124, 176}, {170, 112, 92}, {96, 160, 146}, {190, 178, 100}, {110, 122, 160}, {190, 140, 160}}};
constexpr Rgb unclaimed_shade{208, 48, 112};

/// A face of a body: flat or round, exposed with what claims it, or covered.
struct Face {
    Index body = 0;
    std::uint16_t tag = 0;
    std::uint8_t side = 0;
    std::vector<Index> claims{};  // of an exposed one
    std::string covered{};        // why nothing can claim it
    double area = 0.0;            // m², of the computed piece
    Vec3 normals{};               // sum, times area
    double seen_area = 0.0;
    Vec3 low{}, high{};
};

class ModelPage {
public:
    ModelPage(const Model& model, const Inspection& inspection)
        : model_(model), inspection_(inspection), units_(model.units), mesh_(build_mesh(coarse_for_page(model))) {}

    std::string write() {
        find_claims();
        head();
        tables();
        profiles();
        view();
        out_["style"] = page_style();
        out_["script"] = page_script();
        return render_strictly(model_template(), out_);
    }

private:
    struct Claim {
        std::string name, role;
        double area = 0.0;
        Rgb shade{};
    };

    /// What every patch is claimed by; the last claim is that of nothing.
    void find_claims() {
        const Network network = build_network(model_, mesh_, studies_of(model_).front());
        claimed_.resize(mesh_.patches.size());
        const auto claim = [&](std::string name, std::string role, const std::vector<Index>& patches) {
            if (patches.empty()) return;
            const auto number = static_cast<Index>(claims_.size());
            claims_.push_back({.name = std::move(name), .role = std::move(role), .shade = shades[claims_.size() % shades.size()]});
            for (const Index p : patches) {
                claimed_[p].push_back(number);
                claims_.back().area += mesh_.multiplicity * mesh_.patches.area[p];
            }
        };
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) claim(display_name(model_.coolings[c], c), "cooling", network.cooling_coverage[c].patches);
        for (std::size_t h = 0; h < model_.holds.size(); ++h) claim(display_name(model_.holds[h], h), "hold", network.hold_coverage[h].patches);
        for (std::size_t p = 0; p < model_.powers.size(); ++p) claim(display_name(model_.powers[p]), "power", network.load_coverage[p].patches);
        for (std::size_t r = 0; r < model_.resistors.size(); ++r) {
            std::vector<Index> patches;
            for (const Coverage& coverage : network.resistor_coverage[r]) patches.insert(patches.end(), coverage.patches.begin(), coverage.patches.end());
            claim(display_name(model_.resistors[r]), "resistor", patches);
        }
        const auto nothing = static_cast<Index>(claims_.size());
        claims_.push_back({.name = "unclaimed", .role = "insulated", .shade = unclaimed_shade});
        for (std::size_t p = 0; p < claimed_.size(); ++p) {
            // A power alone puts heat in and lets none out.
            const bool held = std::any_of(claimed_[p].begin(), claimed_[p].end(), [&](Index c) { return claims_[c].role != "power"; });
            if (held) continue;
            claimed_[p].insert(claimed_[p].begin(), nothing);
            claims_.back().area += mesh_.multiplicity * mesh_.patches.area[p];
        }
    }

    void head() {
        out_["title"] = model_.title.empty() ? "Assembly" : model_.title;
        out_["version"] = std::string(version);
        out_["fingerprint"] = fingerprint(model_);
        const std::size_t parts = inspection_.parts.size(), studies = inspection_.studies.size();
        out_["origin"] = fmt::format("{} part{} · {} stud{} · {} cells to solve", parts, parts == 1 ? "" : "s", studies, studies == 1 ? "y" : "ies",
                                     grouped(static_cast<unsigned long long>(inspection_.cells)));
        Json remarks = Json::array();
        for (const Warning& w : inspection_.warnings) remarks.push_back({{"text", w.message}});
        for (const Inspection::NearMissInspection& miss : inspection_.near_misses)
            remarks.push_back({{"text", fmt::format("{} and {} do not touch: {} apart over {}", in_quotes(miss.first), in_quotes(miss.second),
                                                    show_quantity(miss.gap, kinds::length, units_), show_quantity(miss.area, kinds::area, units_))}});
        if (mesh_.multiplicity > 1.0)
            remarks.push_back({{"text",
                                "planes of symmetry cut the model: areas of rules are those of the whole product, areas and sizes of faces those of the piece "
                                "that is computed"}});
        out_["has_remarks"] = !remarks.empty();
        out_["remarks"] = std::move(remarks);
    }

    void tables() {
        out_["tables"] = Json::array();
        for (const FindingTable& table : inspection_tables(inspection_, units_)) out_["tables"].push_back(table_json(table));
        if (const FindingTable rules = rules_table(inspection_, units_); !rules.empty()) out_["tables"].push_back(table_json(rules));
        out_["model"] = Json::array();
        for (const FindingTable& table : model_tables(model_, {}, units_)) {
            if (table.title != "Parts") out_["model"].push_back(table_json(table));
        }
    }

    void profiles() {
        out_["profiles"] = Json::array();
        for (std::size_t n = 0; n < model_.profiles.size(); ++n) {
            const Profile& profile = model_.profiles[n];
            const UnitOf scale = unit_of(profile.gives == CourseOf::temperature ? kinds::temperature
                                         : profile.gives == CourseOf::power     ? kinds::power
                                                                                : kinds::number,
                                         units_);
            Json times = Json::array(), values = Json::array();
            for (const auto& [time, value] : profile_curve(profile, span_to_show(model_, profile))) {
                times.push_back(time);
                values.push_back(scale.out(value));
            }
            const std::string id = std::to_string(n);
            out_["profiles"].push_back({{"name", profile.name}, {"id", id}});
            const std::string unit = profile.gives == CourseOf::factor ? "" : scale.shown;
            histories_[id] = {{"time", std::move(times)},
                              {"unit", unit},
                              {"columns", Json::array({{{"name", profile.name}, {"values", std::move(values)}}})},
                              {"limits", Json::array()}};
        }
        out_["has_profiles"] = !model_.profiles.empty();
    }

    /// The face that a piece of surface belongs to, made where it is new.
    Index face_of(const SurfacePiece& piece, const SurfacePieces& surface) {
        Face key{.body = piece.body, .tag = piece.tag, .side = piece.side};
        if (piece.on == SurfacePiece::On::patch) {
            key.claims = claimed_[piece.place];
        } else if (piece.on == SurfacePiece::On::cell) {
            key.covered = mesh_.planes.empty() ? "inside" : "plane of symmetry";
        } else {
            const Index other = piece.on == SurfacePiece::On::first_of_contact ? mesh_.contacts.second[piece.place] : mesh_.contacts.first[piece.place];
            key.covered = "touches " + mesh_.bodies[mesh_.cells.body[other]].name;
        }
        const auto [found, fresh] =
            known_.try_emplace({mesh_.bodies[key.body].part, key.body, key.tag, key.side, key.claims, key.covered}, static_cast<Index>(faces_.size()));
        if (fresh) {
            constexpr double far = std::numeric_limits<double>::max();
            key.low = {far, far, far};
            key.high = {-far, -far, -far};
            faces_.push_back(key);
        }
        Face& face = faces_[found->second];
        const auto corners = surface.of(piece);
        Vec3 sum;
        for (std::size_t i = 1; i + 1 < corners.size(); ++i)
            sum = sum + 0.5 * cross(surface.corners[corners[i]] - surface.corners[corners[0]], surface.corners[corners[i + 1]] - surface.corners[corners[0]]);
        face.normals = face.normals + sum;
        face.seen_area += length(sum);
        for (const Index c : corners) {
            for (int axis = 0; axis < 3; ++axis) {
                face.low[axis] = std::min(face.low[axis], surface.corners[c][axis]);
                face.high[axis] = std::max(face.high[axis], surface.corners[c][axis]);
            }
        }
        // A patch's own area is the true one, also where triangles cut corners.
        if (piece.on == SurfacePiece::On::patch && counted_.size() > piece.place && !counted_[piece.place]) {
            counted_[piece.place] = true;
            face.area += mesh_.patches.area[piece.place];
        }
        return found->second;
    }

    void view() {
        counted_.assign(mesh_.patches.size(), false);
        // Faces are numbered part by part, so that the parts' triangles lie together.
        const PageGeometry geometry = page_surfaces(mesh_, [&](const SurfacePiece& piece, const SurfacePieces& surface) { return face_of(piece, surface); });
        std::vector<Index> order(faces_.size()), number(faces_.size());
        for (Index f = 0; f < order.size(); ++f) order[f] = f;
        std::stable_sort(order.begin(), order.end(), [&](Index a, Index b) { return mesh_.bodies[faces_[a].body].part < mesh_.bodies[faces_[b].body].part; });
        for (Index n = 0; n < order.size(); ++n) number[order[n]] = n;

        std::map<Index, std::size_t> place_of;
        Json parts = Json::array(), faces = Json::array();
        for (const Index f : order) {
            const Index part = mesh_.bodies[faces_[f].body].part;
            const auto [found, fresh] = place_of.emplace(part, parts.size());
            if (fresh) parts.push_back(model_.parts[part].name);
            faces.push_back(face_json(faces_[f], found->second));
        }
        PageBlock block;
        Json packed = packed_geometry(block, geometry, geometry.box, "face", [&](Index group) -> std::size_t { return number[group]; });
        Json claims = Json::array(), legend = Json::array();
        for (const Claim& c : claims_) {
            claims.push_back({{"name", c.role == "insulated" ? "nothing: insulated" : fmt::format("{} {}", c.role, c.name)}, {"colour", c.shade}});
            if (c.area <= 0.0) continue;
            legend.push_back({{"name", c.role == "insulated" ? "unclaimed, insulated" : fmt::format("{} {}", c.role, c.name)},
                              {"colour", fmt::format("rgb({}, {}, {})", c.shade[0], c.shade[1], c.shade[2])},
                              {"area", show_quantity(c.area, kinds::area, units_)}});
        }
        out_["claims"] = std::move(legend);
        out_["face_count"] = grouped(faces_.size());
        const Json data{{"degree", degree_unit(units_)},
                        {"histories", histories_},
                        {"model", {{"geometry", std::move(packed)}, {"parts", std::move(parts)}, {"faces", std::move(faces)}, {"claims", std::move(claims)}}}};
        out_["data"] = for_script(data.dump(-1, ' ', false, Json::error_handler_t::replace));
        out_["fields"] = block.packed();
    }

    Json face_json(const Face& face, std::size_t part) const {
        constexpr double flat = 0.999;
        const double straight = face.seen_area > 0.0 ? length(face.normals) / face.seen_area : 0.0;
        const Vec3 normal = straight > 0.0 ? normalized(face.normals) : Vec3{};
        std::string direction = "round", facing;
        if (straight > flat) {
            direction = fmt::format("faces [{:.3g}, {:.3g}, {:.3g}]", normal.x + 0.0, normal.y + 0.0, normal.z + 0.0);
            for (const Side side : all_sides) {
                if (dot(normal, outward(side)) > flat) direction = "faces " + std::string(name_of(side)), facing = name_of(side);
            }
        }
        // The direction is only needed where the name stands for faces that look several ways.
        const bool ambiguous = std::any_of(faces_.begin(), faces_.end(), [&](const Face& other) {
            return other.body == face.body && other.tag == face.tag && other.side != face.side && other.side != 6;
        });
        std::vector<std::string> extents;
        for (int axis = 0; axis < 3; ++axis) {
            const double extent = face.high[axis] - face.low[axis];
            if (extent > 1e-6 * length(face.high - face.low)) extents.push_back(fmt::format("{:.4g}", unit_of_length_.out(extent)));
        }
        return {{"part", part},
                {"body", mesh_.bodies[face.body].name},
                {"name", face.claims.empty() && face.tag == 0 ? (face.covered.starts_with("touches") ? "covered" : face.covered) : mesh_.tags[face.tag]},
                {"facing", ambiguous && !facing.empty() ? Json(facing) : Json(nullptr)},
                {"direction", direction},
                {"size", fmt::format("{} {}", fmt::join(extents, " × "), unit_of_lengths(units_))},
                {"area", face.claims.empty() ? show_quantity(face.seen_area, kinds::area, units_) : show_quantity(face.area, kinds::area, units_)},
                {"exposed", !face.claims.empty()},
                {"claims", face.claims},
                {"covered", face.covered}};
    }

    const Model& model_;
    const Inspection& inspection_;
    const Units& units_;
    UnitOf unit_of_length_{.name = units_.length, .shown = units_.length, .one = parse_quantity("1 " + units_.length, kinds::length)};
    Mesh mesh_;
    std::vector<Claim> claims_;
    std::vector<std::vector<Index>> claimed_;  // per patch
    std::vector<Face> faces_;
    std::map<std::tuple<Index, Index, std::uint16_t, std::uint8_t, std::vector<Index>, std::string>, Index> known_;
    std::vector<bool> counted_;  // per patch
    Json out_ = Json::object(), histories_ = Json::object();
};

}  // namespace

std::string model_page(const Model& model, const Inspection& inspection) {
    if (model.parts.empty()) throw Error("a model of lumped nodes alone has no faces to show; without --page check tells what it means");
    return ModelPage(model, inspection).write();
}

}  // namespace firnfield
