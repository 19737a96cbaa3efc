// Conductances within bodies and over contacts.

#include "network/conduction.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <unordered_map>

namespace firnfield {
namespace {

/// Smallest resistance of a link, as a share of a box of the poorer conductor; thinner ones are carried.
constexpr double thinnest = 0.01;
/// Resistance where carrying would be wrong because the cell has other surfaces, too.
constexpr double clamped = 0.25;
/// Share that a surface has to have in what couples a cell to the outside for the cell to be carried over it.
constexpr double most_of_it = 0.9;
/// A carried cell hangs on a link this much stronger than all its others: its temperature is then the carrier's, while heat
/// still passes through an ordinary link and is booked as such.
constexpr double stiff = 1e4;

class Conductor {
public:
    Conductor(const Mesh& mesh, const std::vector<std::shared_ptr<const Material>>& materials, const std::vector<double>& contact_resistance,
              const std::vector<bool>& films, const std::vector<PatchRole>& roles)
        : mesh_(mesh), materials_(materials), contact_resistance_(contact_resistance), films_(films), roles_(roles) {}

    Conduction run() {
        plain_faces();
        measure_contacts();
        measure_patches();
        if (!mesh_.surfaces.empty()) carry();
        for (std::size_t c = 0; c < mesh_.contacts.size(); ++c) {
            out_.contacts.push_back(std::isinf(contact_[c]) ? 0.0 : mesh_.contacts.area[c] / contact_[c]);
        }
        for (std::size_t p = 0; p < patch_.size(); ++p) out_.to_surface.push_back(patch_[p] / mesh_.patches.area[p]);
        if (!mesh_.surfaces.empty()) tie_carried();
        return std::move(out_);
    }

private:
    /// How a cell is carried.
    struct Carrier {
        Index contact = no_index, patch = no_index;  // one of them, or neither
        Vec3 normal{};                               // outward from the cell, towards what carries it
        double depth = 0.0;                          // m, signed, from the centre to that surface
        double resistance = 0.0;                     // K m²/W between surface and carrier
        double conductivity = 0.0;                   // W/(m K) of the carrier; infinite for a known temperature
        double link = 0.0;                           // K m²/W of the whole link, which patches on the far side have to add
    };

    const Material& material(Index cell) const { return *materials_[mesh_.cells.body[cell]]; }

    double width(Index cell, Vec3 normal) const {
        const auto place = mesh_.grid.place(mesh_.cells.box[cell]);
        return std::abs(normal.x) * mesh_.grid.width(0, place[0]) + std::abs(normal.y) * mesh_.grid.width(1, place[1]) +
               std::abs(normal.z) * mesh_.grid.width(2, place[2]);
    }

    void plain_faces() {
        const Faces& faces = mesh_.faces;
        out_.faces.resize(faces.size());
        for (std::size_t f = 0; f < faces.size(); ++f) {
            out_.faces[f] = material(faces.first[f]).conductivity[faces.axis[f]] * faces.area[f] / faces.distance[f];
        }
    }

    void measure_contacts() {
        const Contacts& contacts = mesh_.contacts;
        contact_.resize(contacts.size());
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            contact_[c] = contacts.depth_first[c] / conductivity_along(material(contacts.first[c]), contacts.normal[c]) + contact_resistance_[c] +
                          contacts.depth_second[c] / conductivity_along(material(contacts.second[c]), contacts.normal[c]);
        }
    }

    void measure_patches() {
        const Patches& patches = mesh_.patches;
        patch_.resize(patches.size());
        for (std::size_t p = 0; p < patches.size(); ++p) patch_[p] = patches.depth[p] / conductivity_along(material(patches.cell[p]), patches.normal[p]);
    }

    /// Decides which cells are carried, and corrects the links around them.
    void carry() {
        carrier_.resize(mesh_.cells.size());
        sum_active_surface();
        carry_by_patches();
        carry_by_contacts();
        correct_faces();
        correct_surfaces();
    }

    /// How strongly a surface couples a cell, W/K, had it an ordinary distance to the centre.
    double strength(Index cell, Vec3 normal, double area, double beyond) const {
        return area / (beyond + clamped * width(cell, normal) / conductivity_along(material(cell), normal));
    }
    double contact_strength(std::size_t c, Index cell) const {
        return strength(cell, mesh_.contacts.normal[c], mesh_.contacts.area[c], contact_resistance_[c]);
    }
    double patch_strength(std::size_t p) const {
        const PatchRole& role = roles_[p];
        const double film = role.held ? 0.0 : role.coefficient > 0.0 ? 1.0 / role.coefficient : std::numeric_limits<double>::infinity();
        return strength(mesh_.patches.cell[p], mesh_.patches.normal[p], mesh_.patches.area[p], film);
    }

    void sum_active_surface() {
        active_.assign(mesh_.cells.size(), 0.0);
        const Contacts& contacts = mesh_.contacts;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            if (std::isinf(contact_[c])) continue;
            active_[contacts.first[c]] += contact_strength(c, contacts.first[c]);
            active_[contacts.second[c]] += contact_strength(c, contacts.second[c]);
        }
        for (std::size_t p = 0; p < mesh_.patches.size(); ++p) {
            if (roles_[p].held || roles_[p].exchanges) active_[mesh_.patches.cell[p]] += patch_strength(p);
        }
    }

    /// Strength of the patches of a cell that hold it at the same temperature as this one; of a film only its own.
    double joint_strength(std::size_t p) const {
        if (!roles_[p].held) return patch_strength(p);
        const auto [first, last] = std::equal_range(mesh_.patches.cell.begin(), mesh_.patches.cell.end(), mesh_.patches.cell[p]);
        double sum = 0.0;
        for (auto q = static_cast<std::size_t>(first - mesh_.patches.cell.begin()); q < static_cast<std::size_t>(last - mesh_.patches.cell.begin()); ++q) {
            if (roles_[q].held && roles_[q].temperature == roles_[p].temperature) sum += patch_strength(q);
        }
        return sum;
    }

    void carry_by_patches() {
        const Patches& patches = mesh_.patches;
        for (std::size_t p = 0; p < patches.size(); ++p) {
            const PatchRole& role = roles_[p];
            if (!role.held && !role.exchanges) continue;
            const Index cell = patches.cell[p];
            if (mesh_.bodies[mesh_.cells.body[cell]].surface == no_index) continue;
            const double k = conductivity_along(material(cell), patches.normal[p]);
            const double film = role.held ? 0.0 : role.coefficient > 0.0 ? 1.0 / role.coefficient : std::numeric_limits<double>::infinity();
            const double least = thinnest * width(cell, patches.normal[p]) / k;
            if (film + patch_[p] >= least) continue;
            const bool alone = joint_strength(p) >= most_of_it * active_[cell];
            if (alone && role.linear && carrier_[cell].patch == no_index) {
                carrier_[cell] = {no_index,        static_cast<Index>(p), patches.normal[p], patches.depth[p], film, std::numeric_limits<double>::infinity(),
                                  film + patch_[p]};
            } else {
                patch_[p] = clamped * width(cell, patches.normal[p]) / k - film;
                if (!role.linear) patch_[p] = std::max(patch_[p], -0.5 * film);
            }
        }
    }

    void carry_by_contacts() {
        const Contacts& contacts = mesh_.contacts;
        std::vector<std::size_t> thin;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            if (contact_[c] < least(c)) thin.push_back(c);
        }
        // The largest contacts first: a cell is carried over the one that matters.
        std::stable_sort(thin.begin(), thin.end(), [&](std::size_t a, std::size_t b) { return contacts.area[a] > contacts.area[b]; });
        // Of two cells that touch in several directions all count, as the poorer conductor of them sees it.
        const auto poorer_first = [&](std::size_t c) {
            const Index a = contacts.first[c], b = contacts.second[c];
            const double ka = conductivity_along(material(a), contacts.normal[c]), kb = conductivity_along(material(b), contacts.normal[c]);
            return ka != kb ? ka < kb : mesh_.cells.volume[a] <= mesh_.cells.volume[b];
        };
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            const Index poor = poorer_first(c) ? contacts.first[c] : contacts.second[c];
            if (!std::isinf(contact_[c])) shared_[pair_key(contacts.first[c], contacts.second[c])] += contact_strength(c, poor);
        }
        std::vector<bool> carries_others(mesh_.cells.size(), false);
        for (const std::size_t c : thin) {
            const Index a = contacts.first[c], b = contacts.second[c];
            const double ka = conductivity_along(material(a), contacts.normal[c]), kb = conductivity_along(material(b), contacts.normal[c]);
            const bool first = poorer_first(c);
            const Index poor = first ? a : b, good = first ? b : a;
            const bool free = carrier_[poor].contact == no_index && carrier_[poor].patch == no_index;
            const bool steady = carrier_[good].contact == no_index && carrier_[good].patch == no_index;
            if (free && steady && !is_varying_film(c) && !carries_others[poor] && shared_[pair_key(a, b)] >= most_of_it * active_[poor]) {
                carrier_[poor] = {static_cast<Index>(c),
                                  no_index,
                                  first ? contacts.normal[c] : -1.0 * contacts.normal[c],
                                  first ? contacts.depth_first[c] : contacts.depth_second[c],
                                  contact_resistance_[c],
                                  first ? kb : ka,
                                  contact_[c]};
                carries_others[good] = true;
            } else {
                contact_[c] = clamped * std::min(width(a, contacts.normal[c]), width(b, contacts.normal[c])) / std::min(ka, kb);
            }
        }
    }

    /// What carries a cell does so with a resistance that is the same at all temperatures.
    bool is_varying_film(std::size_t c) const { return !films_.empty() && films_[mesh_.contacts.pair[c]]; }

    static std::uint64_t pair_key(Index a, Index b) { return (std::uint64_t{std::min(a, b)} << 32U) | std::max(a, b); }

    double least(std::size_t c) const {
        const Contacts& contacts = mesh_.contacts;
        const double k =
            std::min(conductivity_along(material(contacts.first[c]), contacts.normal[c]), conductivity_along(material(contacts.second[c]), contacts.normal[c]));
        return thinnest * std::min(width(contacts.first[c], contacts.normal[c]), width(contacts.second[c], contacts.normal[c])) / k;
    }

    /// Faces of a carried cell are measured from its carrier: first through that, then through the cell's own material.
    void correct_faces() {
        const Faces& faces = mesh_.faces;
        for (std::size_t f = 0; f < faces.size(); ++f) {
            const double k = material(faces.first[f]).conductivity[faces.axis[f]], d = faces.distance[f];
            double run = 0.0, resistance = 0.0;  // m through carriers, K m²/W of them
            bool both = true;
            for (const bool upward : {true, false}) {
                const Carrier& carrier = carrier_[upward ? faces.first[f] : faces.second[f]];
                if (carrier.contact == no_index && carrier.patch == no_index) {
                    both = false;
                    continue;
                }
                const double along = (upward ? -1.0 : 1.0) * carrier.normal[faces.axis[f]];
                if (along <= 0.05) continue;
                const bool known = carrier.patch != no_index;
                const double t = std::clamp(-carrier.depth / along, known ? -0.5 * d : 0.0, 0.95 * d);
                run += t;
                resistance += carrier.resistance / along + (known ? 0.0 : t / carrier.conductivity);
            }
            if (run == 0.0 && resistance == 0.0) continue;
            if (both && (run < 0.0 || run > d)) continue;
            const double total = std::max((d - run) / k + resistance, 0.02 * d / k);
            out_.faces[f] = faces.area[f] / total;
        }
    }

    /// Other surfaces of a carried cell lie behind the link that carries it, as far as they look the other way.
    void correct_surfaces() {
        const auto behind = [&](Index cell, Vec3 normal) {
            const Carrier& carrier = carrier_[cell];
            if (carrier.contact == no_index && carrier.patch == no_index) return 0.0;
            return carrier.link * std::max(0.0, -dot(normal, carrier.normal));
        };
        const Contacts& contacts = mesh_.contacts;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            if (carrier_[contacts.first[c]].contact != c) contact_[c] += behind(contacts.first[c], contacts.normal[c]);
            if (carrier_[contacts.second[c]].contact != c) contact_[c] += behind(contacts.second[c], -1.0 * contacts.normal[c]);
        }
        for (std::size_t p = 0; p < mesh_.patches.size(); ++p) {
            if (carrier_[mesh_.patches.cell[p]].patch != p) patch_[p] += behind(mesh_.patches.cell[p], mesh_.patches.normal[p]);
        }
    }

    /// The links that carry are made strong compared with all others of the cell.
    void tie_carried() {
        std::vector<double> around(mesh_.cells.size(), 0.0);
        for (std::size_t f = 0; f < mesh_.faces.size(); ++f) {
            around[mesh_.faces.first[f]] += out_.faces[f];
            around[mesh_.faces.second[f]] += out_.faces[f];
        }
        const Contacts& contacts = mesh_.contacts;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            if (carrier_[contacts.first[c]].contact != c) around[contacts.first[c]] += out_.contacts[c];
            if (carrier_[contacts.second[c]].contact != c) around[contacts.second[c]] += out_.contacts[c];
        }
        out_.carried_by.assign(mesh_.cells.size(), no_index);
        for (Index cell = 0; cell < mesh_.cells.size(); ++cell) {
            const Carrier& carrier = carrier_[cell];
            if (carrier.contact != no_index) {
                const double own = contacts.area[carrier.contact] * conductivity_along(material(cell), carrier.normal) / width(cell, carrier.normal);
                out_.contacts[carrier.contact] = stiff * std::max(around[cell], own);
                out_.carried_by[cell] = carrier.contact;
            } else if (carrier.patch != no_index) {
                const double area = mesh_.patches.area[carrier.patch];
                const double own = area * conductivity_along(material(cell), carrier.normal) / width(cell, carrier.normal);
                out_.carried_by[cell] = carried_by_surface;
                out_.to_surface[carrier.patch] = 1.0 / (stiff * std::max(around[cell], own)) - carrier.resistance / area;
            }
        }
    }

    const Mesh& mesh_;
    const std::vector<std::shared_ptr<const Material>>& materials_;
    const std::vector<double>& contact_resistance_;
    const std::vector<bool>& films_;
    const std::vector<PatchRole>& roles_;
    Conduction out_;
    std::vector<double> contact_;                       // K m²/W per contact
    std::vector<double> patch_;                         // K m²/W per patch, signed
    std::vector<double> active_;                        // W/K per cell through all its surfaces
    std::vector<Carrier> carrier_;                      // per cell
    std::unordered_map<std::uint64_t, double> shared_;  // W/K by pair of cells
};

}  // namespace

Conduction conduct(const Mesh& mesh, const std::vector<std::shared_ptr<const Material>>& materials, const std::vector<double>& contact_resistance,
                   const std::vector<bool>& films, const std::vector<PatchRole>& roles) {
    return Conductor(mesh, materials, contact_resistance, films, roles).run();
}

}  // namespace firnfield
