// What straight lines between cells and faces miss.

#include "network/defects.hpp"

#include "network/between.hpp"
#include "network/conduction.hpp"
#include "network/contact_loads.hpp"
#include "network/walls.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

constexpr double steepest = 6.0;  // change of the gain over a cell, as an exponent

/// Where the gain goes as exp(−x u/h) from a face at u = 0 into a cell of width h: how much the mean over the cell is off the straight line to that
/// face, over gain · h² / k. 1/6 where the gain is the same everywhere.
double course(double x) {
    if (std::abs(x) < 1e-2) return 1.0 / 6.0 + x / 24.0;
    const double e = std::exp(-x);
    return (0.5 - 1.0 / x + (1.0 - e) / (x * x)) / (1.0 - e);
}

double bounded(double x) { return std::clamp(x, -steepest, steepest); }

bool along_axis(double n2) { return n2 > 0.99; }

/// How far a drop between two radii of a revolved model is off, of heat that passes the one `at`: with r dT/dr the same all the way it falls by a logarithm.
double too_straight(double drop, double from, double to, double at) {
    return from > 0.0 && to > 0.0 && from != to ? drop * (1.0 - at * std::log(to / from) / (to - from)) : 0.0;
}

}  // namespace

Defects::Frame::Frame(const Model& model, const Mesh& mesh, const Network& network) : contacts(model, mesh), materials(network.materials) {
    for (const auto& material : materials) {
        std::array<double, 3> along{};
        for (int axis = 0; axis < 3; ++axis) {
            Vec3 direction;
            direction[axis] = 1.0;
            along[static_cast<std::size_t>(axis)] = conductivity_along(*material, direction);
        }
        conductivity.push_back(along);
    }
    for (std::vector<float>& along : width) along.resize(mesh.cells.size());
    for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
        const std::array<Index, 3> at = mesh.grid.place(mesh.cells.box[cell]);
        for (int axis = 0; axis < 3; ++axis)
            width[static_cast<std::size_t>(axis)][cell] = static_cast<float>(mesh.grid.width(axis, at[static_cast<std::size_t>(axis)]));
    }
    for (std::vector<Index>& side : neighbours) side.assign(mesh.cells.size(), no_index);
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
        const std::size_t axis = mesh.faces.axis[f];
        neighbours[2 * axis + 1][mesh.faces.first[f]] = mesh.faces.second[f];
        neighbours[2 * axis][mesh.faces.second[f]] = mesh.faces.first[f];
    }
}

Defects::Defects(const Model& model, const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, std::span<const double> patch_temperature,
                 const ContactTemperatures& surfaces, const Defects* alike)
    : mesh_(mesh),
      network_(network),
      nodes_(nodes),
      patch_temperature_(patch_temperature),
      surfaces_(surfaces),
      revolved_(model.space && model.space->revolved),
      frame_(alike != nullptr ? alike->frame_ : std::make_shared<const Frame>(model, mesh, network)),
      change_(network.nodes, 0.0),
      shifts_(network.families.size()),
      wall_shift_(network.walls.size(), 0.0F) {
    wall_slope_.reserve(network.walls.size());
    each_wall_block(network, nodes, [&](const WallBlock& block) {
        for (const WallState& state : block.states) wall_slope_.push_back(static_cast<float>(state.slope));
    });
    find_gains();
    find_shifts();
}

void Defects::correct(std::span<const double> change) {
    change_.assign(change.begin(), change.end());
    corrected_ = true;
}

void Defects::find_anew() {
    find_gains();
    find_shifts();
}

double Defects::conductivity(Index cell, int axis) const {
    const Index body = mesh_.cells.body[cell];
    const Curve& factor = frame_->materials[body]->conductivity_factor;
    return (factor.empty() ? 1.0 : factor(nodes_.at(cell))) * frame_->conductivity[body][static_cast<std::size_t>(axis)];
}

double Defects::conductivity(Index cell, Vec3 direction) const {
    const Material& material = *frame_->materials[mesh_.cells.body[cell]];
    const double factor = material.conductivity_factor.empty() ? 1.0 : material.conductivity_factor(nodes_.at(cell));
    return factor * conductivity_along(material, direction);
}

/// Where a surface stands at an angle to the grid, the heat along an axis that passes it is not told by what passes it altogether: of n (q·n) the normal
/// tells, of the rest, along the surface, the heat through the faces of the cell. With q the flux within the cell, Σ ± A over its faces closed by its
/// surfaces, that rest adds -q Σ ± A - Σ n² A (q·n): nothing for a box, and a straight course of temperature has no gain in any cell.
void Defects::add_heat_along_surfaces(std::array<std::vector<double>, 3>& heat) const {
    struct Flux {
        std::array<double, 3> heat{}, area{}, open{};  // W and m² through faces, and areas above less areas below
        [[nodiscard]] double along(std::size_t axis) const { return area[axis] > 0.0 ? heat[axis] / area[axis] : 0.0; }
    };
    std::vector<Flux> flux(mesh_.cells.size());
    reduce_family(network_, network_.within_bodies(), nodes_, [&](const Leg& leg) {
        const std::size_t axis = mesh_.faces.axis[leg.element];
        const double watt = leg.heat + (corrected_ ? of_heat(leg) : 0.0), area = mesh_.faces.area[leg.element];
        for (const Index cell : {leg.from.index, leg.to.index}) {
            flux[cell].heat[axis] += watt;
            flux[cell].area[axis] += area;
            flux[cell].open[axis] += cell == leg.from.index ? area : -area;
        }
    });
    const auto passes = [&](Index cell, Vec3 normal, double area) {
        double through = 0.0;
        for (std::size_t axis = 0; axis < 3; ++axis) through += normal[static_cast<int>(axis)] * flux[cell].along(axis);
        for (std::size_t axis = 0; axis < 3; ++axis) heat[axis][cell] -= normal[static_cast<int>(axis)] * normal[static_cast<int>(axis)] * area * through;
    };
    for (std::size_t p = 0; p < mesh_.patches.size(); ++p) passes(mesh_.patches.cell[p], mesh_.patches.normal[p], mesh_.patches.area[p]);
    for (std::size_t c = 0; c < mesh_.contacts.size(); ++c) {
        passes(mesh_.contacts.first[c], mesh_.contacts.normal[c], mesh_.contacts.area[c]);
        passes(mesh_.contacts.second[c], -1.0 * mesh_.contacts.normal[c], mesh_.contacts.area[c]);
    }
    for (Index cell = 0; cell < mesh_.cells.size(); ++cell) {
        for (std::size_t axis = 0; axis < 3; ++axis) heat[axis][cell] -= flux[cell].along(axis) * flux[cell].open[axis];
    }
}

/// Heat leaving every cell along each axis, as corrected so far, over its volume.
void Defects::find_gains() {
    std::array<std::vector<double>, 3> heat;
    for (std::vector<double>& along : heat) along.assign(mesh_.cells.size(), 0.0);
    const auto leaves = [&](Index cell, Vec3 normal, double watt) {
        for (int axis = 0; axis < 3; ++axis) heat[static_cast<std::size_t>(axis)][cell] += normal[axis] * normal[axis] * watt;
    };
    const auto crosses = [&](const Contacts& between, std::size_t at, double watt) {
        leaves(between.first[at], between.normal[at], watt);
        leaves(between.second[at], between.normal[at], -watt);
    };
    const auto add = [&](const Leg& leg) {
        const double watt = leg.heat + (corrected_ ? of_heat(leg) : 0.0);
        if (leg.family == &network_.within_bodies()) {
            std::vector<double>& along = heat[mesh_.faces.axis[leg.element]];
            along[leg.from.index] += watt;
            along[leg.to.index] -= watt;
        } else if (leg.family == &network_.between_bodies()) {
            crosses(mesh_.contacts, frame_->contacts.contact(leg.element), watt);
        } else if (leg.channel == Channel::radiation && leg.to.at == End::At::node) {
            crosses(mesh_.gaps, leg.element, watt);
        } else if (const Index patch = patch_of(network_, leg); patch != no_index) {
            const Index cell = mesh_.patches.cell[patch];
            const bool enters = leg.to.at == End::At::node && leg.to.index == cell;
            leaves(cell, mesh_.patches.normal[patch], enters ? -watt : watt);
        }
    };
    reduce_inside(network_, nodes_, add);
    reduce_outside(network_, nodes_, add);
    // What is set free on faces in contact comes from there, not from within the cells.
    for (const ContactLoad& load : network_.contact_loads) {
        const ContactHeat watt = heat_of(network_, load, nodes_);
        leaves(mesh_.contacts.first[load.contact], mesh_.contacts.normal[load.contact], -watt.first);
        leaves(mesh_.contacts.second[load.contact], mesh_.contacts.normal[load.contact], -watt.second);
    }
    if (!mesh_.surfaces.empty() && !revolved_) add_heat_along_surfaces(heat);  // a wedge has its own law: spread()
    for (std::size_t axis = 0; axis < 3; ++axis) {
        gain_[axis].resize(mesh_.cells.size());
        for (Index cell = 0; cell < mesh_.cells.size(); ++cell) {
            // A sliver at a curved surface has next to no volume; its profile is that of the box it lies in.
            const double box = width(cell, 0) * width(cell, 1) * width(cell, 2);
            gain_[axis][cell] = static_cast<float>(heat[axis][cell] / std::max(mesh_.cells.volume[cell], 0.1 * box));
        }
    }
}

/// Heat spreads on its way outwards in a revolved model: from a cell to its surface at a distance along the radius.
double Defects::spread(Index cell, double distance, double drop) const {
    if (!revolved_) return 0.0;
    const double here = mesh_.centre(cell).x, surface = here + distance;
    return too_straight(drop, here, surface, surface);
}

/// Likewise between two cells.
double Defects::spread_across(std::size_t face) const {
    if (!revolved_) return 0.0;
    const Index below = mesh_.faces.first[face], above = mesh_.faces.second[face];
    const double drop = nodes_.rise[below] - nodes_.rise[above] + change_[below] - change_[above];
    return too_straight(drop, mesh_.centre(below).x, mesh_.centre(above).x, mesh_.centre(below).x + 0.5 * width(below, 0));
}

/// From the mean over a cell to a surface in front of it, K: by how much the straight line falls too far.
double Defects::shift_to_surface(Index cell, Vec3 normal, double depth, double drop) const {
    if (cell >= mesh_.cells.size() || carried(cell)) return 0.0;
    double sum = along_axis(normal.x * normal.x) ? spread(cell, normal.x * depth, drop) : 0.0;
    for (int axis = 0; axis < 3; ++axis) {
        const double n2 = normal[axis] * normal[axis];
        if (n2 < 1e-6) continue;
        const double h = width(cell, axis), here = gain(cell, axis);
        double share = 0.5 * depth * std::abs(depth) / (h * h) + 1.0 / 24.0;
        if (along_axis(n2) && depth > 0.0) {
            // How the gain goes on inwards; where it changes its sign there, a straight line, which is not trusted far.
            const Index inner = neighbour(cell, axis, normal[axis] < 0.0);
            if (inner != no_index) {
                const double apart = 0.5 * (h + width(inner, axis)), there = gain(inner, axis);
                const bool full = std::abs(depth - 0.5 * h) < 1e-6 * h;
                if (full && here * there > 0.0) {
                    share = course(bounded(std::log(here / there) * h / apart));
                } else if (here != 0.0) {
                    const double d = depth / h;
                    share += std::clamp((1.0 - there / here) * h / apart, -2.0, 2.0) * d * d * d / 3.0;
                }
            }
        }
        sum += n2 * here * h * h * share / conductivity(cell, axis);
    }
    return sum;
}

double Defects::shift_to_patch(Index patch) const {
    const Index cell = mesh_.patches.cell[patch];
    return shift_to_surface(cell, mesh_.patches.normal[patch], mesh_.patches.depth[patch], nodes_.at(cell) - patch_temperature_[patch]);
}

/// From a face into a cell, as seen from the face alone: where the gain jumps across it.
double Defects::shift_from_face(Index cell, int axis, bool upward) const {
    const double h = width(cell, axis), here = gain(cell, axis);
    const Index inner = neighbour(cell, axis, upward);
    double x = 0.0;
    if (inner != no_index && here * gain(inner, axis) > 0.0)
        x = std::clamp(std::log(here / gain(inner, axis)) * h / (0.5 * (h + width(inner, axis))), 0.0, steepest);
    return here * h * h * course(x) / conductivity(cell, axis);
}

double Defects::shift_across_face(std::size_t face) const {
    const Index below = mesh_.faces.first[face], above = mesh_.faces.second[face];
    if (carried(below) || carried(above)) return 0.0;
    const int axis = mesh_.faces.axis[face];
    const double down = width(below, axis), up = width(above, axis), gain_below = gain(below, axis), gain_above = gain(above, axis);
    const double geometry = axis == 0 ? spread_across(face) : 0.0;
    if (gain_below * gain_above > 0.0) {
        const double fall = std::log(gain_below / gain_above) / (0.5 * (down + up));
        return geometry + (gain_below * down * down * course(bounded(-fall * down)) / conductivity(below, axis) -
                           gain_above * up * up * course(bounded(fall * up)) / conductivity(above, axis));
    }
    return geometry + shift_from_face(below, axis, false) - shift_from_face(above, axis, true);
}

void Defects::find_shifts() {
    for (std::size_t f = 0; f < network_.families.size(); ++f) {
        const Family& family = network_.families[f];
        Shifts& shifts = shifts_[f];
        const bool within = &family == &network_.within_bodies(), between = &family == &network_.between_bodies();
        const bool across_gaps = !within && !between && family.channel == Channel::radiation && family.between_nodes();
        if (!within && !between && !across_gaps && family.patch.empty()) continue;
        shifts.first.assign(family.size(), 0.0F);
        if (!within && family.between_nodes()) shifts.second.assign(family.size(), 0.0F);
        if (across_gaps) {
            // The law knows the temperatures of nodes only: all of the way to the surface is missing.
            reduce_family(network_, family, nodes_, [&](const Leg& leg) {
                const Contacts& gaps = mesh_.gaps;
                const std::size_t i = leg.element;
                const double flux = (leg.heat + (corrected_ ? of_heat(leg) : 0.0)) / gaps.area[i];
                const Index a = gaps.first[i], b = gaps.second[i];
                shifts.first[i] = static_cast<float>(shift_to_surface(a, gaps.normal[i], gaps.depth_first[i], 0.0) -
                                                     flux * std::max(0.0, gaps.depth_first[i]) / conductivity(a, gaps.normal[i]));
                shifts.second[i] = static_cast<float>(shift_to_surface(b, -1.0 * gaps.normal[i], gaps.depth_second[i], 0.0) +
                                                      flux * std::max(0.0, gaps.depth_second[i]) / conductivity(b, gaps.normal[i]));
            });
            continue;
        }
        // Every element for itself.
#pragma omp parallel for schedule(static)
        for (std::size_t i = 0; i < family.size(); ++i) {
            if (within) {
                shifts.first[i] = static_cast<float>(shift_across_face(i));
            } else if (between) {
                const Contacts& contacts = mesh_.contacts;
                const Index c = frame_->contacts.contact(static_cast<Index>(i));
                const Index a = contacts.first[c], b = contacts.second[c];
                const double from = nodes_.at(a) - surfaces_.first[c], to = nodes_.at(b) - surfaces_.second[c];
                shifts.first[i] = static_cast<float>(shift_to_surface(a, contacts.normal[c], contacts.depth_first[c], from));
                shifts.second[i] = static_cast<float>(shift_to_surface(b, -1.0 * contacts.normal[c], contacts.depth_second[c], to));
            } else {
                const Index patch = family.patch[i];
                (family.first[i] == mesh_.patches.cell[patch] ? shifts.first : shifts.second)[i] = static_cast<float>(shift_to_patch(patch));
            }
        }
    }
#pragma omp parallel for schedule(static)
    for (std::size_t w = 0; w < wall_shift_.size(); ++w) wall_shift_[w] = static_cast<float>(shift_to_patch(network_.walls.patch[w]));
}

template <typename Sink>
void Defects::each_driven(const Sink& drives) const {
    for (std::size_t f = 0; f < network_.families.size(); ++f) {
        const Family& family = network_.families[f];
        const Shifts& shifts = shifts_[f];
        if (shifts.first.empty()) continue;
        std::array<double, block_size> by_first, by_second;
        in_blocks(network_, family, nodes_, [&](const Elements& e) {
            slopes_of(family, e, std::span(by_first).first(e.size()), family.between_nodes() ? std::span(by_second).first(e.size()) : std::span<double>{});
            for (std::size_t i = 0; i < e.size(); ++i) {
                const std::size_t at = e.begin + i;
                drives(family, static_cast<Index>(at), by_first[i] * shifts.first[at], shifts.second.empty() ? 0.0 : by_second[i] * shifts.second[at]);
            }
        });
    }
}

/// What the shifts drive into every node, W.
std::vector<double> Defects::driven_heat() const {
    std::vector<double> heat(network_.nodes, 0.0);
    each_driven([&](const Family& family, Index at, double first, double second) {
        heat[family.first[at]] -= first - second;
        if (family.between_nodes()) heat[family.second[at]] += first - second;
    });
    for (std::size_t w = 0; w < wall_shift_.size(); ++w) heat[network_.walls.node[w]] -= wall_slope_[w] * wall_shift_[w];
    return heat;
}

void Defects::add_source(Index cell, Vec3 normal, double drop, std::array<std::vector<double>, 3>& layers) const {
    const std::array<Index, 3> at = mesh_.grid.place(mesh_.cells.box[cell]);
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const double n = normal[static_cast<int>(axis)];
        if (n != 0.0) layers[axis][at[axis]] += n * n * std::abs(drop);
    }
}

void Defects::add_sources(std::span<const double> adjoint, double weight, std::array<std::vector<double>, 3>& layers) const {
    each_driven([&](const Family& family, Index at, double first, double second) {
        const double drop = weight * (adjoint[family.first[at]] - (family.between_nodes() ? adjoint[family.second[at]] : 0.0));
        if (&family == &network_.within_bodies()) {
            // The shift is the difference of two, of which the larger decides which cell is too large: half for each.
            Vec3 along{};
            along[mesh_.faces.axis[at]] = 1.0;
            add_source(mesh_.faces.first[at], along, 0.5 * first * drop, layers);
            add_source(mesh_.faces.second[at], along, 0.5 * first * drop, layers);
        } else if (&family == &network_.between_bodies() || family.patch.empty()) {
            const bool contact = &family == &network_.between_bodies();
            const Contacts& all = contact ? mesh_.contacts : mesh_.gaps;
            const Index c = contact ? frame_->contacts.contact(at) : at;
            add_source(all.first[c], all.normal[c], first * drop, layers);
            add_source(all.second[c], all.normal[c], second * drop, layers);
        } else {
            const Index patch = family.patch[at];
            add_source(mesh_.patches.cell[patch], mesh_.patches.normal[patch], (first - second) * drop, layers);
        }
    });
    for (std::size_t w = 0; w < wall_shift_.size(); ++w) {
        const Index patch = network_.walls.patch[w];
        add_source(mesh_.patches.cell[patch], mesh_.patches.normal[patch], weight * wall_slope_[w] * wall_shift_[w] * adjoint[network_.walls.node[w]], layers);
    }
}

double Defects::of_heat(const Leg& leg) const {
    if (leg.family == nullptr) return wall_slope_[leg.element] * (change_[leg.from.index] + wall_shift_[leg.element]);
    double first = 0.0, second = 0.0;
    if (leg.from.at == End::At::wall) {
        first = of_patch(network_.walls.patch[leg.from.index]);
    } else {
        const Shifts& shifts = shifts_[static_cast<std::size_t>(leg.family - network_.families.data())];
        first = change_[leg.from.index] + (shifts.first.empty() ? 0.0 : shifts.first[leg.element]);
        if (leg.to.at == End::At::node) second = change_[leg.to.index] + (shifts.second.empty() ? 0.0 : shifts.second[leg.element]);
    }
    if (!leg.family->law) return leg.family->coefficient[leg.element] * leg.family->scale * (first - second);
    const auto slopes = Element{*leg.family, leg.element, leg.first, leg.second, leg.difference}.slopes();
    return slopes.by_first * first - slopes.by_second * second;
}

double Defects::of_patch(Index patch) const { return of_term(readout_of_patch(network_, patch).terms.front()); }

std::array<double, 2> Defects::of_contact(Index contact) const {
    const Contacts& contacts = mesh_.contacts;
    const Index a = contacts.first[contact], b = contacts.second[contact], element = frame_->contacts.element(contact);
    if (element == no_index) return {change_[a], change_[b]};
    const Shifts& shifts = shifts_[1];
    const double first = change_[a] + shifts.first[element], second = change_[b] + shifts.second[element];
    const std::array<double, 2> share = frame_->contacts.shares(network_, contact, nodes_);
    return {first + share[0] * (second - first), first + share[1] * (second - first)};
}

double Defects::of_term(const Readout::Term& term) const {
    switch (term.source) {
        case Readout::Source::node:
            return change_[term.index];
        case Readout::Source::wall: {
            // T_wall = T + shift − R Q, Q changing by its slope.
            const Index node = network_.walls.node[term.index];
            const double resistance = wall_resistance(network_, term.index, nodes_.at(node));
            return (change_[node] + wall_shift_[term.index]) * (1.0 - resistance * wall_slope_[term.index]);
        }
        case Readout::Source::known:
            return 0.0;
        case Readout::Source::between: {
            const Between& between = network_.between[term.index];
            const auto [by_node, by_other] = slopes_of_between(network_, between, nodes_);
            const Family& family = network_.families[between.family];
            const Shifts& shifts = shifts_[between.family];
            const double shift = (family.first[between.element] == between.node ? shifts.first : shifts.second)[between.element];
            return by_node * (change_[between.node] + shift) + (between.other.at == End::At::node ? by_other * change_[between.other.index] : 0.0);
        }
        case Readout::Source::first_of_contact:
            return of_contact(term.index)[0];
        case Readout::Source::second_of_contact:
            return of_contact(term.index)[1];
    }
    return 0.0;
}

}  // namespace firnfield
