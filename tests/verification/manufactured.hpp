// Errors of cut cells against temperature fields that solve the heat equation exactly.
//
// A network is built for the model as usual; then the surroundings of every surface patch, and the heat in every cell, are set to what
// the exact field asks for. What remains is the error of the discretisation.
#pragma once

#include <firnfield/firnfield.hpp>

#include "linear/solver.hpp"
#include "network/assemble.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <random>
#include <stdexcept>
#include <string>

namespace firnfield::test {

/// Errors over the range of the temperature; heat flow over the heat that leaves where the exact field says it leaves.
struct Errors {
    double max = 0.0, l2 = 0.0, flow = 0.0, wall = 0.0;

    void take_worst(const Errors& other) {
        max = std::max(max, other.max);
        l2 = std::max(l2, other.l2);
        flow = std::max(flow, other.flow);
        wall = std::max(wall, other.wall);
    }
};

/// The exact field: temperature and heat per volume by point and body.
struct Exact {
    std::function<double(Vec3, const std::string&)> temperature{};
    std::function<double(const std::string&)> heat = [](const std::string&) { return 0.0; };
};

inline Vec3 gradient(const Exact& exact, Vec3 x, const std::string& body, double step) {
    Vec3 g;
    for (int axis = 0; axis < 3; ++axis) {
        Vec3 a = x, b = x;
        a[axis] += step;
        b[axis] -= step;
        g[axis] = (exact.temperature(a, body) - exact.temperature(b, body)) / (2.0 * step);
    }
    return g;
}

/// Every cooling of the model must be a constant film, every hold a surface on which the field is constant.
inline Errors errors_of(const Model& model, const Exact& exact, double size) {
    const Mesh mesh = build_mesh(model);
    const Network net = build_network(model, mesh, studies_of(model).front());
    const auto name = [&](Index cell) -> const std::string& { return mesh.bodies[mesh.cells.body[cell]].name; };
    const auto at = [&](Vec3 x, Index cell) { return exact.temperature(x, name(cell)) - 300.0; };
    const auto flux = [&](std::size_t patch) {
        const Index cell = mesh.patches.cell[patch];
        const Material& material = *find_material(model.materials, model.parts[mesh.bodies[mesh.cells.body[cell]].part].material);
        return -material.conductivity[0] * dot(gradient(exact, mesh.foot(patch), name(cell), 1e-6 * size), mesh.patches.normal[patch]);
    };
    std::vector<double> heat(net.nodes, 0.0), slope(net.nodes, 0.0);
    for (Index c = 0; c < net.nodes; ++c) heat[c] = exact.heat(name(c)) * mesh.cells.volume[c];
    struct Outlet {
        Index node;
        std::size_t patch;
        double conductance, surroundings, film;
    };
    std::vector<Outlet> outlets;
    for (std::size_t w = 0; w < net.walls.size(); ++w) {
        const std::size_t p = net.walls.patch[w];
        const WallGroup& group = net.walls.group_of(static_cast<Index>(w));
        const double film = group.films[0].coefficient[w - group.begin];  // W/K
        outlets.push_back({net.walls.node[w], p, 1.0 / (net.walls.resistance[w] + 1.0 / film),
                           at(mesh.foot(p), mesh.patches.cell[p]) - flux(p) * mesh.patches.area[p] / film, film});
    }
    for (const Family& family : net.families) {
        if (family.channel != Channel::hold) continue;
        for (std::size_t i = 0; i < family.size(); ++i)
            outlets.push_back({family.first[i], family.patch[i], family.coefficient[i], at(mesh.foot(family.patch[i]), family.first[i]), 0.0});
    }
    for (const Outlet& o : outlets) {
        slope[o.node] += o.conductance;
        heat[o.node] += o.conductance * o.surroundings;
    }
    std::vector<double> t(net.nodes, 0.0);
    const LinearSummary summary = make_solver({.nodes = net.nodes, .edges = edges_of(net, {}), .excess = slope})->solve(heat, t, 1e-10);
    if (!summary.converged) throw std::runtime_error("the linear solver did not converge");

    Errors e;
    double low = 1e30, high = -1e30, volume = 0.0;
    for (Index c = 0; c < net.nodes; ++c) {
        // A carried cell has the temperature of what carries it, not of its own centre.
        if (!net.carried_by.empty() && net.carried_by[c] != no_index) continue;
        const double want = at(mesh.centre(c), c);
        low = std::min(low, want);
        high = std::max(high, want);
        e.max = std::max(e.max, std::abs(t[c] - want));
        e.l2 += (t[c] - want) * (t[c] - want) * mesh.cells.volume[c];
        volume += mesh.cells.volume[c];
    }
    double leaving = 0.0, expected = 0.0;
    for (const Outlet& o : outlets) {
        const double q = o.conductance * (t[o.node] - o.surroundings), want = flux(o.patch) * mesh.patches.area[o.patch];
        if (want > 0.0) {
            leaving += q;
            expected += want;
        }
        if (o.film > 0.0) e.wall = std::max(e.wall, std::abs(o.surroundings + q / o.film - at(mesh.foot(o.patch), mesh.patches.cell[o.patch])));
    }
    e.max /= high - low;
    e.wall /= high - low;
    e.l2 = std::sqrt(e.l2 / volume) / (high - low);
    e.flow = std::abs(leaving - expected) / expected;
    return e;
}

/// Lays the grid anywhere: planes at even distances from a random start, in the first `axes` directions.
inline void place_grid(Model& model, double reach, double cell, int axes, std::mt19937& random) {
    std::uniform_real_distribution<double> anywhere(0.0, 1.0);
    for (int axis = 0; axis < axes; ++axis) {
        auto& planes = model.mesh.planes[static_cast<std::size_t>(axis)];
        planes.clear();
        for (double x = -reach - cell * anywhere(random); x < reach + 1.5 * cell; x += cell) planes.push_back(x);
    }
}

/// The shapes of the accuracy table.
enum class Subject { rod, pipe, ball, held_pipe, tilted_block, pin_in_ring, ball_in_shell };

inline std::string_view name_of(Subject subject) {
    constexpr std::array<std::string_view, 7> names{"cylinder", "pipe", "sphere", "pipe, held bore", "tilted block", "pin in ring", "ball in shell"};
    return names[static_cast<std::size_t>(subject)];
}

/// Worst errors over four random grids with `across` cells over the diameter. Conductivity ratio and contact resistance (as a share of the
/// radius over the poorer conductivity) are for the subjects with a joint, the Biot number is of the outer film.
inline Errors worst_errors(Subject subject, int across, double biot, double ratio = 1.0, double contact = 0.0) {
    constexpr double r0 = 0.01, k = 2.0;
    const double cell = 2.0 * r0 / across, inner = 0.5 * r0;
    const bool flat = subject == Subject::rod || subject == Subject::pipe || subject == Subject::held_pipe || subject == Subject::pin_in_ring;
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.materials = {Material{.name = "outer", .conductivity = isotropic(k)}, Material{.name = "inner", .conductivity = isotropic(k * ratio)}};
    Part part{.name = "body", .shape = {}, .material = "outer"};
    Part core{.name = "core", .shape = {}, .material = "inner"};
    Cooling film;
    film.convection = biot * k / r0;
    film.ambient = 300.0;
    film.on.sides = {"side"};
    const double length = 2.0 * cell;
    switch (subject) {
        case Subject::rod:
            part.shape = Cylinder{.radius = r0, .length = length};
            break;
        case Subject::pipe:
            part.shape = Tube{.outer_radius = r0, .inner_radius = inner, .length = length};
            film.on.sides = {"side", "bore"};
            break;
        case Subject::held_pipe: {
            part.shape = Tube{.outer_radius = r0, .inner_radius = inner, .length = length};
            Hold hold{.on = {}, .temperature = 300.0};
            hold.on.sides = {"bore"};
            m.add(hold);
            break;
        }
        case Subject::ball:
            part.shape = Sphere{.radius = r0};
            break;
        case Subject::tilted_block:
            part.shape = Box{.size = {2.0 * r0, 1.4 * r0, 1.1 * r0}, .at = {-r0, -0.7 * r0, -0.5 * r0}};
            part.rotate = {Rotation{.axis = {1.0, 2.0, 3.0}, .angle = 33.0, .about = Vec3{}}};
            film.on.sides = {};
            break;
        case Subject::pin_in_ring:
            part.shape = Tube{.outer_radius = r0, .inner_radius = inner, .length = length};
            core.shape = Cylinder{.radius = inner, .length = length};
            break;
        case Subject::ball_in_shell:
            part.shape = Sphere{.radius = r0};
            part.holes = {Sphere{.radius = inner}};
            core.shape = Sphere{.radius = inner};
            break;
    }
    const bool joined = subject == Subject::pin_in_ring || subject == Subject::ball_in_shell;
    if (joined) film.on.parts = {"body"};
    m.add(part);
    if (joined) m.add(core);
    m.add(film);
    const double k1 = k * ratio, r_contact = contact * inner / std::min(k, k1);
    if (joined) m.add(Joint{.between = {"core", "body"}, .resistance = r_contact});

    Exact exact;
    if (joined) {
        // Heat made in the core leaves evenly, on top of a field that varies around the joint.
        const double m1 = subject == Subject::pin_in_ring ? 1.0 : 2.0;  // outer field B r + C r^−m1
        const double slope = 1.0 / r0, source = 4.0 * k / (r0 * r0);
        const double f = k1 * slope / k, jump = slope * inner + r_contact * k1 * slope;
        const double c = (jump / inner - f) / (1.0 + m1) * std::pow(inner, 1.0 + m1), b = f + m1 * c / std::pow(inner, 1.0 + m1);
        exact.heat = [=](const std::string& body) { return body == "core" ? source : 0.0; };
        exact.temperature = [=](Vec3 x, const std::string& body) {
            const double r = std::max(1e-6, m1 == 1.0 ? std::hypot(x.x, x.y) : firnfield::length(x));
            const double w = m1 == 1.0 ? (0.8 * x.x + 0.6 * x.y) / r : (0.6 * x.x + 0.8 * x.z) / r;
            if (body == "core")
                return 300.0 + slope * r * w + source / (2.0 * (1.0 + m1) * k1) * (inner * inner - r * r) + source * inner / (1.0 + m1) * r_contact;
            const double even =
                m1 == 1.0 ? -source * inner * inner / (2.0 * k) * std::log(r / inner) : source * inner * inner * inner / (3.0 * k) * (1.0 / r - 1.0 / inner);
            return 300.0 + (b * r + c * std::pow(r, -m1)) * w + even;
        };
    } else if (subject == Subject::held_pipe) {
        exact.temperature = [=](Vec3 x, const std::string&) {
            const double r = std::max(1e-3, std::hypot(x.x, x.y) / inner), a = std::atan2(x.y, x.x);
            return 300.0 + 8.0 * std::log(r) + 3.0 * (r * r - 1.0 / (r * r)) * std::cos(2.0 * a + 0.5) + 4.0 * (r - 1.0 / r) * std::cos(a + 1.0);
        };
    } else {
        exact.heat = [=](const std::string&) { return 32.0 * k / (r0 * r0); };
        exact.temperature = [=](Vec3 x, const std::string&) {
            const double u = (0.96 * x.x + 0.28 * x.y) / r0, v = (-0.28 * x.x + 0.96 * x.y) / r0, w = x.z / r0;
            const double round = flat ? 0.0 : 4.0 * w + 3.0 * (2.0 * w * w - u * u - v * v);
            return 300.0 + 10.0 * (u * u - v * v) + 6.0 * u + 5.0 * (u * u * u - 3.0 * u * v * v) - 8.0 * (u * u + v * v) + round;
        };
    }
    std::mt19937 random(5);
    Errors worst;
    for (int offset = 0; offset < 4; ++offset) {
        place_grid(m, 1.3 * r0, cell, flat ? 2 : 3, random);
        worst.take_worst(errors_of(m, exact, r0));
    }
    return worst;
}

}  // namespace firnfield::test
