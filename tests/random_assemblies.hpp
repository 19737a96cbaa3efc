// Random assemblies of all kinds of shapes and materials, for properties that must hold for any model. Everything follows from the seed.
#pragma once

#include <cstdlib>
#include <firnfield/firnfield.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>
#include <string>

namespace firnfield::test {

class RandomAssembly {
public:
    explicit RandomAssembly(unsigned seed) : random_(seed) {}

    /// A base with up to four stacks on it: blocks, rods, cones, sleeves, balls, prisms, turned blocks; good and poor conductors, curves and
    /// orthotropic ones; joints of all kinds; air by coefficient, curve or law, radiation, often a held face.
    Model make() {
        model_.mesh.cell = uniform(2.2e-3, 5e-3);
        model_.mesh.through = whole(1, 2);
        add_materials();
        const double wide = uniform(0.03, 0.05), deep = uniform(0.03, 0.05), high = uniform(3e-3, 8e-3);
        origin_ = {uniform(-0.05, 0.05), uniform(-0.05, 0.05), uniform(-0.02, 0.02)};
        model_.add(Part{.name = "base", .shape = Box{.size = {wide, deep, high}, .at = origin_}, .material = material()});
        for (int i = 0; i < 2; ++i) {
            for (int j = 0; j < 2; ++j) {
                if (chance(0.2)) continue;
                stack({origin_.x + (0.25 + 0.5 * i) * wide, origin_.y + (0.25 + 0.5 * j) * deep, origin_.z + high}, 0.2 * std::min(wide, deep),
                      "p" + std::to_string(2 * i + j));
            }
        }
        add_surroundings();
        if (chance(0.4)) add_lumped();
        return model_;
    }

    double uniform(double from, double to) { return std::uniform_real_distribution<double>(from, to)(random_); }
    int whole(int from, int to) { return std::uniform_int_distribution<int>(from, to)(random_); }
    bool chance(double share) { return uniform(0.0, 1.0) < share; }

private:
    void add_materials() {
        const auto add = [&](std::string name, std::array<double, 3> k, Curve factor, double density, double heat) {
            model_.materials.push_back({.name = std::move(name),
                                        .conductivity = k,
                                        .conductivity_factor = std::move(factor),
                                        .density = density,
                                        .specific_heat = heat,
                                        .emissivity = 0.8});
        };
        add("good", isotropic(390.0), {}, 8900.0, 385.0);
        add("light", isotropic(160.0), {{273.15, 373.15}, {1.0, 0.7}}, 2700.0, 900.0);
        add("board", {18.0, 18.0, 0.35}, {}, 1850.0, 1100.0);
        add("poor", isotropic(0.2), {}, 1200.0, 1500.0);
        add("hard", isotropic(15.0), {}, 7900.0, 500.0);
    }
    std::string material() { return model_.materials[static_cast<std::size_t>(whole(0, 4))].name; }

    void stack(Vec3 at, double half, const std::string& name) {
        const int count = whole(1, 3);
        std::string below = "base";
        for (int n = 0; n < count; ++n) {
            const std::string part = name + " " + std::string(1, static_cast<char>('a' + n));
            const double high = uniform(2e-3, 9e-3), radius = half * uniform(0.5, 1.0);
            add_part(part, at, radius, high);
            // What stands on a sleeve may touch its core only, and a sleeve may stand around what it stands on.
            const bool sleeves = std::holds_alternative<Tube>(find(below).shape) || std::holds_alternative<Tube>(find(part).shape);
            if (chance(0.6) && !sleeves) add_joint(below, part);
            if (chance(0.5)) model_.add(Power{.into = {part}, .total = uniform(0.0, 4.0)});
            at.z += high;
            below = part;
        }
    }

    const Part& find(const std::string& name) const {
        return *std::find_if(model_.parts.begin(), model_.parts.end(), [&](const Part& p) { return p.name == name; });
    }

    void add_part(const std::string& name, Vec3 at, double radius, double high) {
        Part part{.name = name, .material = material()};
        const Vec3 corner{at.x - radius, at.y - 0.8 * radius, at.z};
        switch (whole(0, 7)) {
            case 0:
                part.shape = Box{.size = {2.0 * radius, 1.6 * radius, high}, .at = corner};
                break;
            case 1:
                part.shape = Box{.size = {2.0 * radius, 1.6 * radius, high}, .at = corner};
                part.holes = {Box{.size = {0.6 * radius, 1.6 * radius, 0.35 * high}, .at = {0.7 * radius, 0.0, 0.35 * high}}};
                break;
            case 2:
                part.shape = Cylinder{.radius = radius, .length = high, .at = at};
                break;
            case 3:
                part.shape = Cone{.lower_radius = radius, .upper_radius = uniform(0.2, 0.9) * radius, .length = high, .at = at};
                break;
            case 4: {
                // A rod in a sleeve.
                const double inner = uniform(0.3, 0.7) * radius;
                part.shape = Tube{.outer_radius = radius, .inner_radius = inner, .length = high, .at = at};
                model_.add(Part{.name = name + " core", .shape = Cylinder{.radius = inner, .length = high, .at = at}, .material = material()});
                if (chance(0.5)) model_.add(Power{.into = {name + " core"}, .total = uniform(0.1, 3.0)});
                if (chance(0.5)) add_joint(name + " core", name);
                break;
            }
            case 5:
                part.shape = Prism{.outline = {{.x = -radius, .y = -0.7 * radius, .through = std::nullopt},
                                               {.x = radius, .y = -0.5 * radius, .through = std::nullopt},
                                               {.x = 0.2 * radius, .y = 0.9 * radius, .through = std::nullopt}},
                                   .holes = {},
                                   .length = high,
                                   .at = at};
                break;
            case 6:
                part.shape = Box{.size = {1.5 * radius, 1.1 * radius, high}, .at = {at.x - 0.75 * radius, at.y - 0.55 * radius, at.z}};
                part.rotate = {{.axis = {0.0, 0.0, 1.0}, .angle = uniform(5.0, 85.0), .about = at}};
                break;
            default:
                part.shape = Cylinder{.radius = radius, .length = high, .at = at};
                part.holes = {Sphere{.radius = 0.35 * std::min(radius, high), .at = {0.0, 0.0, 0.5 * high}}};
        }
        model_.add(part);
    }

    void add_joint(const std::string& a, const std::string& b) {
        Joint joint{.between = {a, b}};
        switch (whole(0, 5)) {
            case 0:
                joint.resistance = std::pow(10.0, uniform(-6.0, -3.0));
                break;
            case 1:
                joint.total = uniform(0.05, 5.0);
                break;
            case 2:
                joint.layer = Layer{.material = "poor", .thickness = uniform(2e-5, 3e-4)};
                break;
            case 3:
                joint.resistance = 2e-5;
                joint.resistance_factor = {{273.15, 393.15}, {1.5, 0.4}};
                break;
            case 4:
                joint.coefficient_curve = {{0.0, 2.0, 40.0}, {300.0, 900.0, 4000.0}};
                break;
            default:
                break;
        }
        model_.add(joint);
    }

    void add_surroundings() {
        Cooling air{.name = "air", .on = exposed(), .ambient = uniform(233.15, 333.15)};
        switch (whole(0, 2)) {
            case 0:
                air.convection = std::pow(10.0, uniform(0.3, 2.5));
                break;
            case 1:
                air.convection_curve = {{0.0, 5.0, 60.0}, {0.0, 4.0, 9.0}};
                break;
            default:
                air.law = ConvectionLaw{.law = "vertical plate", .length = 0.02};
                break;
        }
        if (chance(0.5)) air.emissivity = uniform(0.05, 1.0);
        if (air.emissivity && *air.emissivity > 0.7) {  // that of a surface which turns blank as it warms, or dull
            const double high = *air.emissivity;
            air.emissivity_curve = {{250.0, 350.0, 600.0}, high < 0.85 ? std::vector{high, 0.5, 0.2} : std::vector{0.3, 0.6, high}};
            air.emissivity.reset();
        }
        model_.add(air);
        if (chance(0.5)) {
            model_.add(Hold{.name = "sink", .on = {.parts = {"base"}, .facing = {{0.0, 0.0, -1.0}}}, .temperature = uniform(233.15, 333.15)});
        }
    }

    /// A component given by its resistances on one side of the base, and a strap to another part.
    void add_lumped() {
        const auto resistor = [&](const char* a, const std::string& b) {
            Resistor r{.between = {a, b}, .total = std::pow(10.0, uniform(-1.0, 1.5))};
            if (chance(0.3)) r.resistance_factor = {{273.15, 373.15}, {1.4, 0.6}};
            return r;
        };
        model_.add(Surface{.name = "footprint", .pick = {.parts = {"base"}, .facing = {{-1.0, 0.0, 0.0}}}});
        model_.add(Node{.name = "junction", .capacity = chance(0.5) ? std::optional(uniform(0.1, 20.0)) : std::nullopt});
        model_.add(resistor("junction", "footprint"));
        if (model_.parts.size() > 1 && chance(0.5)) model_.add(resistor("base", model_.parts.back().name));
        if (chance(0.5)) model_.add(resistor("junction", model_.parts.back().name));
        if (chance(0.5)) {
            model_.add(resistor("ambient", "junction"));
            model_.resistors.back().ambient = uniform(233.15, 333.15);
        }
        if (chance(0.7)) model_.add(Power{.into = {"junction"}, .total = uniform(0.1, 3.0)});
    }

    std::mt19937 random_;
    Model model_;
    Vec3 origin_{};
};

/// Takes out of a random assembly what depends on temperature; puts in a power where there is none.
inline void make_linear(Model& model) {
    for (Material& m : model.materials) m.conductivity_factor = {};
    for (Joint& j : model.joints) {
        j.resistance_factor = {};
        j.coefficient_curve = {};
        if (j.layer) j.layer->material = "poor";
    }
    for (Resistor& r : model.resistors) r.resistance_factor = {};
    for (Cooling& c : model.coolings) {
        c.law.reset();
        c.convection_curve = {};
        c.convection = 20.0;
        c.emissivity.reset();
        c.emissivity_curve = {};
        c.ambient = 300.0;
    }
    if (model.powers.empty()) model.add(Power{.into = {"base"}, .total = 2.0});
}

inline Model random_assembly_of_shapes(unsigned seed) { return RandomAssembly(seed).make(); }

/// How many to try: FIRNFIELD_RANDOM times as many where that is set, fewer under sanitizers, where every access is checked.
inline unsigned many(unsigned usual) {
    if (const char* times = std::getenv("FIRNFIELD_RANDOM")) usual *= static_cast<unsigned>(std::atoi(times));
#ifdef FIRNFIELD_SANITIZED
    return (usual + 9) / 10;
#else
    return usual;
#endif
}

}  // namespace firnfield::test
