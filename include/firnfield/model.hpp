/// The engineer's description of an assembly, as plain data. SI units and kelvin throughout.
#pragma once

#include <firnfield/convection.hpp>
#include <firnfield/curve.hpp>
#include <firnfield/error.hpp>
#include <firnfield/geometry.hpp>
#include <firnfield/material.hpp>
#include <firnfield/profile.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/units.hpp>

#include <array>
#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

/// Copies of a part in a row or a ring. Several of them, one after the other, make grids.
struct Repeat {
    int count = 1;             ///< number of copies, the first included
    Vec3 step{};               ///< from one copy to the next, m
    double turn = 0.0;         ///< degrees from one copy to the next, for a ring
    Vec3 axis{0.0, 0.0, 1.0};  ///< of the ring
    Vec3 about{};              ///< a point on the ring's axis, m
    bool operator==(const Repeat&) const = default;
};

/// A turn of a part, right-handed about an axis.
struct Rotation {
    Vec3 axis{0.0, 0.0, 1.0};
    double angle = 0.0;           ///< degrees
    std::optional<Vec3> about{};  ///< a point on the axis, m; unset: the shape's own origin (its `at`)
    bool operator==(const Rotation&) const = default;
};

/// A solid of one material. Where parts overlap, the later one in the model displaces the earlier.
struct Part {
    std::string name{};
    Shape shape{};
    std::string material{};          ///< name in the model's materials or the built-in library
    bool stirred = false;            ///< a liquid, or shaken contents: one temperature throughout, with the heat capacity of its material
    std::vector<Shape> also{};       ///< more solids of the same piece; `at` counts from the origin of `shape`
    std::vector<Shape> holes{};      ///< cut out of all of it; `at` counts from the origin of `shape`
    double scale = 1.0;              ///< about the origin of `shape`
    std::optional<int> mirrored{};   ///< mirror image along this axis (0, 1, 2), through the origin of `shape`
    std::vector<Rotation> rotate{};  ///< one after the other, before repeats
    std::vector<Repeat> repeat{};    ///< copies are named "name 1", "name 2", …; "name" means all of them
    bool include = true;             ///< false leaves the part out of the assembly
    std::optional<double> cell{};    ///< target cell size inside this part, m
    std::string colour{};            ///< in pictures of the parts, "#rrggbb"; empty: one that is free
    bool operator==(const Part&) const = default;
};

/// The side of a plane that its normal points to.
struct HalfSpace {
    Vec3 normal{0.0, 0.0, 1.0};
    Vec3 through{};  ///< a point of the plane, m
    bool operator==(const HalfSpace&) const = default;
};

/// Faces of parts by what they are like. What is left empty does not restrict. Everything counts for the face of the part as it is described, whole, before
/// mirrors cut it and other parts cover it.
struct FacePick {
    std::vector<std::string> kind{};    ///< "plane", "cylinder", "bore", …, one of them
    std::vector<double> diameter{};     ///< m, of cylinders, bores and spheres: one value, or the smallest and the largest
    std::vector<double> area{};         ///< m²: likewise
    std::optional<Vec3> smooth_from{};  ///< m: the face at this point, and all that join it without an edge
    std::optional<bool> inside{};       ///< true: bores, cavities, and what sees its own part in more than half of all directions; false: the others
    [[nodiscard]] bool empty() const { return *this == FacePick{}; }
    bool operator==(const FacePick&) const = default;
};

/// A rule that picks exposed surfaces (those that touch nothing). What is left empty does not restrict.
struct Selection {
    std::vector<std::string> parts{};     ///< part names; `*` and `?` are wildcards
    std::vector<std::string> sides{};     ///< faces by name: "-x" … "+z" of a box, "side", "top", "bore", …; wildcards
    FacePick faces{};                     ///< by what they are like
    std::vector<Vec3> facing{};           ///< outward directions, hole walls included
    double within = 45.0;                 ///< degrees that a surface may lean away from the direction it faces
    std::optional<Shape> region{};        ///< only inside this solid
    std::vector<HalfSpace> beyond{};      ///< only on this side of each plane
    std::vector<std::string> touching{};  ///< only of parts that touch one of these; wildcards
    std::vector<std::string> surfaces{};  ///< named surfaces to pick from, instead of everything exposed
    std::vector<std::string> except{};    ///< named surfaces left out
    bool rest = false;                    ///< only what no other cooling or hold claims
    bool operator==(const Selection&) const = default;
};

/// Everything exposed that no other cooling or hold claims.
[[nodiscard]] inline Selection exposed() {
    Selection selection{};
    selection.rest = true;
    return selection;
}
/// The named surface.
[[nodiscard]] inline Selection surface(std::string name) {
    Selection selection{};
    selection.surfaces.push_back(std::move(name));
    return selection;
}

/// A named, reusable rule.
struct Surface {
    std::string name{};
    Selection pick{};
    bool operator==(const Surface&) const = default;
};

/// A layer between touching parts: its area resistance is thickness over through-conductivity (along z).
struct Layer {
    std::string material{};
    std::optional<double> thickness{};  ///< m; unset: it fills the gap that Joint::reach bridges, as wide as that is in each place
    bool operator==(const Layer&) const = default;
};

/// How two parts that touch exchange heat. Pairs that no joint names conduct perfectly.
/// At most one of `resistance`, a coefficient, `resistance_over_pressure`, `total`, `layer`, `insulated`, `exchange_factor` is given; none of them means
/// perfect contact.
struct Joint {
    std::string name{};                    ///< may be empty: then it is called "first - second"
    std::array<std::string, 2> between{};  ///< part names or wildcards
    std::optional<double> resistance{};    ///< K m²/W
    std::optional<double> coefficient{};   ///< W/(m² K): its inverse, as of a stirred liquid on its wall; or
    Curve coefficient_curve{};             ///< W/(m² K) over the difference of the two faces, K, whatever its sign; or
    std::optional<ConvectionLaw> law{};    ///< a correlation, where one of the two is stirred or held as a whole: it is the fluid, the other the surface
    std::optional<double> total{};  ///< K/W over the whole contact area of each touching pair of bodies: copies and images by symmetry are bodies of their own,
                                    ///< and what a plane of symmetry cuts is one
    std::optional<Layer> layer{};
    bool insulated = false;
    /// Radiation across the gap instead of contact: grey exchange factor, 1/(1/ε₁ + 1/ε₂ − 1) for wide faces
    /// that see only each other. The faces stay exposed, so a cooling can act on them too.
    std::optional<double> exchange_factor{};
    Curve resistance_factor{};         ///< times the resistance, over the mean temperature of the two faces (K); empty: constant
    Curve resistance_over_pressure{};  ///< K m²/W over the pressure between the faces, Pa; with
    std::optional<double> pressure{};  ///< Pa, within the curve
    double reach = 0.0;                ///< m; faces that look at each other over at most this gap touch
    bool may_be_open = false;          ///< where it finds no faces that touch it is an open contact, and no mistake
    bool include = true;               ///< false: as if it were not there
    [[nodiscard]] bool has_varying_film() const { return law || !coefficient_curve.empty(); }
    bool operator==(const Joint&) const = default;
};

/// Heat put into parts (per volume), onto a surface, or onto faces in contact. Exactly one of the amounts is given.
struct Power {
    std::string name{};                                   ///< may be empty: then it is called after the parts or the surface
    std::vector<std::string> into{};                      ///< part names or wildcards, for heat inside parts; or names of nodes
    std::optional<Selection> on{};                        ///< for heat entering through a surface
    std::optional<std::array<std::string, 2>> between{};  ///< part names or wildcards: for heat set free where they touch, as by friction
    std::optional<double> share{};                        ///< with `between`: of it on the faces of the first, 0 … 1; unset: a half
    bool by_effusivities = false;                         ///< with `between`: shared in proportion to the roots of k ρ c of the two instead
    std::optional<double> total{};                        ///< W for the whole product, shared by volume or area, evenly among nodes
    std::optional<double> each{};                         ///< W in each part
    std::optional<double> density{};                      ///< W/m³
    std::optional<double> flux{};                         ///< W/m², on a surface or of contact
    Curve temperature_factor{};                           ///< times the heat in each place, over the temperature there (K); empty: constant
    std::vector<std::string> profile{};                   ///< factors over time; several are multiplied. One may give watts, instead of an amount
    bool include = true;                                  ///< false: as if it were not there
    bool operator==(const Power&) const = default;
};

/// Heat exchange of a surface with its surroundings.
struct Cooling {
    std::string name{};  ///< may be empty: then it is called "cooling 1", …
    Selection on{};
    std::optional<double> convection{};            ///< W/(m² K)
    std::optional<ConvectionLaw> law{};            ///< a correlation instead of a constant coefficient
    Curve convection_curve{};                      ///< or W/(m² K) over the difference of surface and ambient, K, whatever its sign
    std::optional<double> emissivity{};            ///< adds grey radiation with view factor 1
    bool material_emissivity = false;              ///< adds radiation with the emissivity of each part's material
    Curve emissivity_curve{};                      ///< or with one over the temperature of the surface, K
    std::optional<double> ambient{};               ///< K; may be left to the study
    std::optional<double> radiant{};               ///< K; temperature radiated to, when it is not the ambient
    std::vector<std::string> profile{};            ///< factors on the convection over time; several are multiplied
    std::vector<std::string> radiation_profile{};  ///< likewise on the radiation, as a shade that is drawn
    std::string ambient_profile{};                 ///< temperature over time instead of `ambient`, in transient and cyclic studies
    bool beside = false;                           ///< acts in parallel to coolings that claim the same surface
    bool include = true;                           ///< false: as if it were not there
    [[nodiscard]] bool convects() const { return convection || law || !convection_curve.empty(); }
    [[nodiscard]] bool radiates() const { return emissivity || material_emissivity || !emissivity_curve.empty(); }
    bool operator==(const Cooling&) const = default;
};

/// Imposed temperature on a surface, or throughout parts.
struct Hold {
    std::string name{};             ///< may be empty: then it is called "hold 1", …
    Selection on{};                 ///< a surface; or
    std::vector<std::string> in{};  ///< part names or wildcards: all of them, as a tank of water or a melt
    double temperature = 0.0;       ///< K
    std::string profile{};          ///< temperature over time instead, in transient and cyclic studies
    bool include = true;            ///< false: as if it were not there
    bool operator==(const Hold&) const = default;
};

/// A lumped node: one temperature without a place. Where planes of symmetry cut the model it stands for itself and all its images together.
struct Node {
    std::string name{};
    std::optional<double> capacity{};  ///< J/K; or
    std::string material{};            ///< whose specific heat, and melting, it has, together with
    std::optional<double> mass{};      ///< kg
    bool operator==(const Node&) const = default;
};

/// A thermal resistance between two of: a node, a part (spread over its volume), a named surface (spread over its area), "ambient".
struct Resistor {
    std::string name{};  ///< may be empty: then it is called after its ends
    std::array<std::string, 2> between{};
    std::optional<double> total{};    ///< K/W of the whole product
    Curve resistance_factor{};        ///< times `total`, over the mean temperature of its ends (K); empty: constant
    std::optional<double> ambient{};  ///< K; where it leads to the ambient; may be left to the study
    std::string ambient_profile{};    ///< temperature over time instead, in transient and cyclic studies
    bool operator==(const Resistor&) const = default;
};

/// A point whose temperature is wanted.
struct Sensor {
    std::string name{};
    std::string in{};  ///< part
    Vec3 at{};         ///< m
    bool operator==(const Sensor&) const = default;
};

/// A number that results tell under a name of its own: one thing that a solution tells, or several combined. In time it is followed like a sensor.
struct NamedFigure {
    std::string name{};
    /// An address, "die.max", "joint.pad.flow", "mass"; or "= " and an expression of addresses in quotes, of earlier figures and of quantities with
    /// units: "= 'die.max' - 'die.min'". docs/model-file.md lists the addresses.
    std::string value{};
    bool operator==(const NamedFigure&) const = default;
};

/// What something is held against: a temperature, or a quantity of another kind.
struct Threshold {
    Threshold() = default;
    Threshold(double si, const QuantityKind& of = kinds::temperature) : value(si), kind(&of) {}
    double value = 0.0;  ///< SI
    const QuantityKind* kind = &kinds::temperature;
    operator double() const { return value; }
    bool operator==(const Threshold& other) const { return value == other.value && kind->name == other.kind->name; }
};

/// A limit on parts, a sensor or a figure. At least one of `below` and `above` is given.
struct Limit {
    std::string part{};                  ///< part name or wildcard; or
    std::string sensor{};                ///< the name of a sensor or a node; or
    std::string figure{};                ///< that of a figure, or an address as in NamedFigure::value
    std::optional<Threshold> below{};    ///< the highest temperature, or the figure, has to stay below
    std::optional<Threshold> above{};    ///< the lowest temperature, or the figure, has to stay above
    double after = 0.0;                  ///< s; counts only from this time of a transient on
    std::vector<std::string> studies{};  ///< counts only in these; empty: in all
    bool operator==(const Limit&) const = default;
};

/// A temperature or a figure that passes a value: told with its times, without a verdict. Exactly one of `rises_above` and `falls_below` is given.
struct Milestone {
    std::string name{};    ///< may be empty: then it is called "lid above 60 °C"
    std::string part{};    ///< part name or wildcard; or
    std::string sensor{};  ///< the name of a sensor or a node; or
    std::string figure{};  ///< that of a figure, or an address as in NamedFigure::value
    std::optional<Threshold> rises_above{};
    std::optional<Threshold> falls_below{};
    std::optional<bool> coldest{};       ///< of a part: by its coldest place; unset or false: by its hottest
    std::vector<std::string> studies{};  ///< told only in these; empty: in all
    bool operator==(const Milestone&) const = default;
};

/// Switches powers and coolings by the temperature of a sensor, with hysteresis.
struct Thermostat {
    std::string name{};
    std::string sensor{};                    ///< or a node
    std::vector<std::string> switches{};     ///< powers (their heat) and coolings (their convection), by name
    double lower = 0.0, upper = 0.0;         ///< K
    bool cools = false;                      ///< on at `upper` and off at `lower`, as a fan, instead of the other way round
    std::optional<bool> starts_on{};         ///< unset: as the sensor says; off when it is between the two
    double least_on = 0.0, least_off = 0.0;  ///< s; does not switch sooner than that
    std::vector<std::string> studies{};      ///< acts only in these; empty: in all transient ones. Elsewhere what it switches is on
    bool include = true;                     ///< false: as if it were not there; what it switches is on
    bool operator==(const Thermostat&) const = default;
};

/// A plane of mirror symmetry. The geometry is cut there and one side kept; totals still speak of the whole product.
struct Mirror {
    int axis = 0;                     ///< 0, 1, 2 for a plane across x, y, z
    double at = 0.0;                  ///< m
    bool keep_plus = true;            ///< keeps the side of larger coordinates
    std::optional<HalfSpace> keep{};  ///< a plane at any angle instead, and the side that is kept
    bool operator==(const Mirror&) const = default;
};

/// One of several equal sectors around an axis. The planes between them are planes of symmetry; totals still speak
/// of the whole product.
struct Sector {
    int pieces = 4;     ///< sectors in a full turn, at least 2
    int along = 2;      ///< the axis
    Vec3 about{};       ///< a point on the axis, m
    double from = 0.0;  ///< degrees at which the sector begins, counted from the next axis in the order x, y, z, x
    bool operator==(const Sector&) const = default;
};

/// Two-dimensional models. What does not vary across the plane is solved in one layer of cells; reports speak of the whole body.
struct Space {
    bool revolved = false;  ///< everything turns about the z axis: solids of revolution on it, x is the radius; else plane: z does not matter
    double depth = 0.0;     ///< m, extent along z of a plane model
    bool operator==(const Space&) const = default;
};

/// Target cell size in a part of space.
struct RegionSize {
    Box box{};
    double cell = 0.0;  ///< m
    bool operator==(const RegionSize&) const = default;
};

/// Largest cell size across a layer of the whole grid: along one axis only, between two planes.
struct LayerSize {
    int axis = 0;                 ///< 0, 1, 2 for x, y, z
    double from = 0.0, to = 0.0;  ///< m
    double cell = 0.0;            ///< m
    bool coarser = false;         ///< takes the place of the default size there, which is smaller; needs MeshOptions::cell unset
    bool operator==(const LayerSize&) const = default;
};

/// How finely space is divided.
struct MeshOptions {
    std::optional<double> cell{};                 ///< target size, m; unset: 1/40 of the longest edge of the assembly
    int through = 2;                              ///< at least this many cells through every part
    double coarsening = 1.0;                      ///< all cell sizes times this: one number for the whole resolution
    bool refine = true;                           ///< solving makes cells smaller where errors come from, see refine.hpp
    std::optional<double> error_target{};         ///< K; until temperatures are known to this, instead of a hundredth of their rise
    double growth = 1.4;                          ///< largest ratio of neighbouring cell sizes, 1.05 … 1.5
    long long max_cells = 20'000'000;             ///< refuse to mesh beyond this many cells
    std::array<std::vector<double>, 3> planes{};  ///< further grid planes across x, y, z, m
    std::vector<RegionSize> regions{};            ///< finer cells in places
    std::vector<LayerSize> layers{};              ///< finer cells across layers of the grid
    bool operator==(const MeshOptions&) const = default;
};

enum class StudyKind : std::uint8_t {
    steady,     ///< temperatures that last; profiles do not act, powers are as given
    transient,  ///< from a start on
    cyclic,     ///< what a periodic load settles to
};

enum class StopWhen : std::uint8_t { never, steady, limits_decided, milestones_passed };

/// Where a transient begins: one temperature, one per part, or where another study ended. Nothing given: at the study's ambient.
struct Start {
    std::optional<double> temperature{};    ///< K
    std::map<std::string, double> parts{};  ///< K by part name or wildcard, or by node, instead of `temperature` there
    std::string study{};                    ///< an earlier study
    std::string results{};                  ///< with `study`: from this results folder, computed before on the same geometry and mesh
    [[nodiscard]] bool empty() const { return !temperature && parts.empty() && study.empty(); }
    bool operator==(const Start&) const = default;
};

/// How a study in time is marched.
enum class TimeMethod : std::uint8_t {
    full,     ///< the whole network, step by step
    reduced,  ///< a few dozen modes of it, exactly; for models in which nothing depends on temperature
};

/// One computation. A model without any study has one, called "steady".
struct Study {
    std::string name{};
    std::optional<double> ambient{};        ///< K; ambient of every cooling that names none itself
    std::map<std::string, double> scale{};  ///< factor on a power, by its name; 0 switches it off
    std::vector<std::string> without{};     ///< powers, coolings, holds and thermostats, by name or wildcard, that are left out
    StudyKind kind = StudyKind::steady;
    std::string ambient_profile{};  ///< temperature over time instead of `ambient`, of every cooling that names none itself
    double lasts = 0.0;             ///< s, of a transient
    Start start{};
    double tolerance = 0.1;  ///< K; error of each time step
    TimeMethod method = TimeMethod::full;
    StopWhen stop_when = StopWhen::never;
    double steady_within = 0.1;             ///< K; steady when no temperature has further to go than this
    std::vector<double> fields_at{};        ///< s; whole fields are kept at these times
    std::optional<double> fields_every{};   ///< s; and this often
    std::optional<double> history_every{};  ///< s; rows of the history this often, besides those of the steps
    std::optional<double> longest_step{};   ///< s
    std::optional<double> fixed_step{};     ///< s; no error control
    double coarsening = 1.0;                ///< all cell sizes times this, besides MeshOptions::coarsening
    int through = 0;                        ///< at least this many cells through every part; 0: as MeshOptions::through
    std::optional<double> period{};         ///< s, of a cyclic study; unset: that of its profiles
    bool operator==(const Study&) const = default;
};

/// What the colours of a picture tell.
enum class Shown : std::uint8_t { temperature, heat_flux, parts };
/// From light to dark: `ember` for screens, `umber` for readers who do not tell red from green, `grey` for print.
enum class Palette : std::uint8_t { ember, umber, grey };

/// A view of the assembly to draw after a study.
struct Picture {
    std::string name{};
    Shown show = Shown::temperature;
    std::optional<Vec3> along{};      ///< of the heat flux only the component in this direction, with its sign; unset: its size
    bool arrows = true;               ///< of the heat flux
    std::vector<std::string> hide{};  ///< parts left out of the view; wildcards
    double azimuth = -35.0;           ///< degrees; 0 looks along +y, positive turns the eye towards +x
    double elevation = 28.0;          ///< degrees above the horizon
    bool bands = false;               ///< stepped colours with a limited number of bands
    int band_count = 0;               ///< about so many; 0: twelve
    Palette palette = Palette::ember;
    bool light_is_high = false;                         ///< the palette the other way round
    bool low_on_top = false;                            ///< the legend, too
    bool isotherms = false;                             ///< lines of equal temperature
    std::optional<double> above{};                      ///< K; shows only what is hotter, the rest as a faint outline
    std::optional<std::array<double, 2>> range{};       ///< K; ends of the colour scale; unset: what is there. Of temperatures
    std::optional<std::array<double, 2>> flux_range{};  ///< W/m²; likewise of the heat flux
    std::optional<HalfSpace> section{};                 ///< cut open: shows only what lies on this side, with the temperature inside
    bool operator==(const Picture&) const = default;
};

/// The whole description.
struct Model {
    std::string title{};
    Units units{};  ///< that answers are told in
    MeshOptions mesh{};
    std::vector<Mirror> mirrors{};
    std::optional<Sector> sector{};
    std::optional<Space> space{};
    std::vector<Material> materials{};
    std::vector<Fluid> fluids{};
    std::vector<Part> parts{};
    std::vector<Surface> surfaces{};
    std::vector<Joint> joints{};
    std::vector<Node> nodes{};
    std::vector<Resistor> resistors{};
    std::vector<Power> powers{};
    std::vector<Cooling> coolings{};
    std::vector<Hold> holds{};
    std::vector<Sensor> sensors{};
    std::vector<NamedFigure> figures{};
    std::vector<Limit> limits{};
    std::vector<Milestone> milestones{};
    std::vector<Profile> profiles{};
    std::vector<Thermostat> thermostats{};
    std::vector<Study> studies{};
    std::vector<Picture> pictures{};

    Model& add(Mirror item) { return append(mirrors, std::move(item)); }
    Model& add(Sector item) {
        sector = item;
        return *this;
    }
    Model& add(Material item) { return append(materials, std::move(item)); }
    Model& add(Fluid item) { return append(fluids, std::move(item)); }
    Model& add(Part item) { return append(parts, std::move(item)); }
    Model& add(Surface item) { return append(surfaces, std::move(item)); }
    Model& add(Joint item) { return append(joints, std::move(item)); }
    Model& add(Node item) { return append(nodes, std::move(item)); }
    Model& add(Resistor item) { return append(resistors, std::move(item)); }
    Model& add(Power item) { return append(powers, std::move(item)); }
    Model& add(Cooling item) { return append(coolings, std::move(item)); }
    Model& add(Hold item) { return append(holds, std::move(item)); }
    Model& add(Sensor item) { return append(sensors, std::move(item)); }
    Model& add(NamedFigure item) { return append(figures, std::move(item)); }
    Model& add(Limit item) { return append(limits, std::move(item)); }
    Model& add(Milestone item) { return append(milestones, std::move(item)); }
    Model& add(Profile item) { return append(profiles, std::move(item)); }
    Model& add(Thermostat item) { return append(thermostats, std::move(item)); }
    Model& add(Study item) { return append(studies, std::move(item)); }
    Model& add(Picture item) { return append(pictures, std::move(item)); }

    bool operator==(const Model&) const = default;

private:
    template <typename T>
    Model& append(std::vector<T>& list, T&& item) {
        list.push_back(std::move(item));
        return *this;
    }
};

/// Every mistake that can be seen without meshing; empty when there is none.
[[nodiscard]] std::vector<Problem> validate(const Model& model);

/// Adds a figure to a model, named like its value: an address or an expression, as NamedFigure::value has it; nothing where the model has a figure of that
/// name. Throws Error where it names nothing of the model, or makes no sense.
void ask_for(Model& model, const std::string& figure);
/// What a figure of the model, or an address, measures. Throws Error likewise.
[[nodiscard]] const QuantityKind& quantity_of(const Model& model, const std::string& figure);

/// The surface of a part where its first copy stands: everything added, holes cut out, nothing displaced. Curved faces
/// stay within `chord` (m). Throws ModelError when there is no such part.
[[nodiscard]] ClosedSurface part_surface(const Model& model, const std::string& part, double chord);

/// Whether two studies have the same mesh.
[[nodiscard]] inline bool same_cells(const Study& a, const Study& b) { return a.coarsening == b.coarsening && a.through == b.through; }
/// The model with the cell sizes of a study: what its mesh is built from.
[[nodiscard]] Model meshed_for(Model model, const Study& study);

/// The studies of a model: its own, or the single "steady" one of a model that names none.
[[nodiscard]] std::vector<Study> studies_of(const Model& model);

/// The law with the model's own fluid of that name, if it has one.
[[nodiscard]] ConvectionLaw with_own_fluid(const Model& model, ConvectionLaw law);

/// The views of a model: its own, or two sensible ones when it names none.
[[nodiscard]] std::vector<Picture> pictures_of(const Model& model);

/// Whether a limit or a thermostat that names these studies counts in one of them.
[[nodiscard]] bool counts_in(const std::vector<std::string>& studies, const Study& study);
/// The material of that name, the model's own ones first, which validate() has found. Throws ModelError where there is none.
[[nodiscard]] const Material& material_named(const Model& model, std::string_view name);
/// The profile of that name; nullptr when there is none.
[[nodiscard]] const Profile* find_profile(const Model& model, const std::string& name);

/// What is read as a temperature by name: the model's sensors, and one for every node, which is `in` the node.
[[nodiscard]] std::vector<Sensor> sensors_of(const Model& model);
/// Index of the node of that name.
[[nodiscard]] std::optional<std::size_t> find_node(const Model& model, std::string_view name);

/// K; what a resistor that leads to the ambient exchanges heat with, likewise.
[[nodiscard]] double ambient_of(const Model& model, const Resistor& resistor, const Study& study);
/// K; what a cooling exchanges heat with: its own ambient or the study's, at time 0 where a profile gives it.
[[nodiscard]] double ambient_of(const Model& model, const Cooling& cooling, const Study& study);

/// The profiles that act in a study.
[[nodiscard]] std::vector<const Profile*> profiles_in(const Model& model, const Study& study);
/// After this time, s, everything that acts in a study repeats itself; nothing when it does not.
[[nodiscard]] std::optional<double> period_of(const Model& model, const Study& study);

/// What of a model acts in a study: what is left out neither by its `include` nor by Study::without. A flag for each entry.
struct Acting {
    std::vector<bool> powers{}, coolings{}, holds{}, thermostats{};
};
[[nodiscard]] Acting acting_in(const Model& model, const Study& study);

/// W that a profile gives to a power which has no amount of its own.
struct HeatCourse {
    double mean = 0.0;  ///< over all of it: what acts in steady studies
    double most = 0.0;  ///< by magnitude
};
/// Nothing for a power with an amount of its own.
[[nodiscard]] std::optional<HeatCourse> heat_course(const Model& model, const Power& power);

/// Names by which reports call the n-th joint, power, cooling and hold: their own, or a descriptive one.
[[nodiscard]] std::string display_name(const Joint& joint);
/// How a joint's resistance depends on temperature: its own factor, or what its layer's conductivity says; empty when it is constant.
[[nodiscard]] Curve resistance_factor(const Model& model, const Joint& joint);
/// K m²/W that a joint gives, by itself or at its pressure; nothing where another value, or the gap, decides.
[[nodiscard]] std::optional<double> given_resistance(const Joint& joint);
[[nodiscard]] std::string display_name(const Resistor& resistor);
[[nodiscard]] std::string display_name(const Power& power);
[[nodiscard]] std::string display_name(const Milestone& milestone);
[[nodiscard]] std::string display_name(const Cooling& cooling, std::size_t index);
[[nodiscard]] std::string display_name(const Hold& hold, std::size_t index);

}  // namespace firnfield
