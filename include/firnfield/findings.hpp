/// What a solution means: verdicts, hot spots, where every watt goes, and what a senior engineer would remark.
/// Heat flows, areas and masses speak of the whole product, also when mirrors keep a piece of it.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/steady.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

/// A temperature and where it is.
struct Spot {
    double temperature = 0.0;  ///< K
    Vec3 at{};                 ///< m
    std::string body{};        ///< copy of the part, or a lumped node
    bool lumped = false;       ///< of a node: it has no place
};

struct PartFinding {
    std::string name{};  ///< a part, its copies taken together
    std::string material{};
    Index copies = 1;              ///< in the kept piece
    double volume = 0.0;           ///< m³
    std::optional<double> mass{};  ///< kg
    double power = 0.0;            ///< W put into it
    Spot coldest{}, hottest{};
    double mean = 0.0;  ///< K, by volume
};

struct SensorFinding {
    std::string name{};  ///< of a sensor, or of a lumped node: that is read like one
    std::string part{};  ///< empty for a node
    Vec3 at{};
    double temperature = 0.0;  ///< K
    bool lumped = false;       ///< of a node: it has no place
};

/// What a limit or a milestone looks at.
enum class SubjectKind : std::uint8_t { part, sensor, figure };

struct LimitFinding {
    std::string subject{};  ///< part, sensor or figure
    SubjectKind of{};
    const QuantityKind* quantity = &kinds::temperature;  ///< of `limit` and `found`
    bool upper = true;                                   ///< "below" rather than "above"
    double limit = 0.0;                                  ///< SI
    double found = 0.0;                                  ///< SI
    Spot worst{};                                        ///< the place that counts; of a figure none
    double margin = 0.0;                                 ///< SI, K for a temperature; negative when the limit is missed
    [[nodiscard]] bool kept() const { return margin >= 0.0; }
};

/// A milestone in a steady study: on which side the value lies.
struct MilestoneFinding {
    std::string name{};
    std::string subject{};                               ///< part, sensor or figure
    const QuantityKind* quantity = &kinds::temperature;  ///< of `value` and `found`
    bool rising = true;                                  ///< passed on the way up
    double value = 0.0;                                  ///< SI
    double found = 0.0;                                  ///< SI
    [[nodiscard]] bool past() const { return rising ? found > value : found < value; }
};

/// A figure that the model names.
struct NamedFinding {
    std::string name{};
    const QuantityKind* quantity = &kinds::number;
    std::optional<double> value{};  ///< SI; absent where it is not defined for what was found, as after a division by zero
};

/// How two parts touch.
struct JointInspection {
    std::string name{};
    std::string first{}, second{};  ///< parts
    std::string contact{};          ///< how they touch: "0.2 K cm²/W", "perfect, not specified"
    bool specified = true;
    Index pairs = 0;                     ///< pairs of bodies in the whole product, images by symmetry counted; a joint's `total` is that of each
    double area = 0.0;                   ///< m²
    double nominal_area = 0.0;           ///< m²; the whole of the faces that touch, of the part where they are smaller
    double mean_gap = 0.0;               ///< m
    double largest_gap = 0.0;            ///< m
    std::string found{};                 ///< "in common planes", or "facing each other" for surfaces that the grid cuts
    std::optional<double> resistance{};  ///< K m²/W; absent for radiation across a gap, and for a film that varies before it is solved
};

struct JointFinding : JointInspection {
    double flow = 0.0;  ///< W from first to second
    double drop = 0.0;  ///< K, mean over the area between the two surfaces
};

struct ResistorInspection {
    std::string name{};
    std::string first{}, second{};  ///< ends; the ambient is the second one
    bool to_ambient = false;
    double resistance = 0.0;  ///< K/W, at the temperatures found; before anything is solved without its factor
};

struct ResistorFinding : ResistorInspection {
    double flow = 0.0;  ///< W from first to second
    double drop = 0.0;  ///< K, over the resistance
};

struct CoolingFinding {
    std::string name{};
    double area = 0.0;        ///< m²
    double convection = 0.0;  ///< W leaving by convection
    double radiation = 0.0;   ///< W leaving by radiation
    bool radiates = false;
    double mean_surface = 0.0;  ///< K
    double ambient = 0.0;       ///< K

    /// W leaving by both.
    [[nodiscard]] double heat() const { return convection + radiation; }
    /// Convection over area and mean temperature difference, W/(m² K); 0 where there is no difference.
    [[nodiscard]] double mean_coefficient() const { return mean_surface != ambient ? convection / (area * (mean_surface - ambient)) : 0.0; }
};

struct HoldFinding {
    std::string name{};
    double area = 0.0;         ///< m²
    double flow = 0.0;         ///< W leaving
    double temperature = 0.0;  ///< K
};

struct LoadFinding {
    std::string name{};
    double heat = 0.0;                                        ///< W
    std::optional<double> area{};                             ///< m², for a load on a surface
    std::optional<double> mean_surface{}, hottest_surface{};  ///< K, of the loaded surface
};

/// Every watt in and out.
struct Ledger {
    double loads = 0.0;       ///< W from powers
    double convection = 0.0;  ///< W leaving
    double radiation = 0.0;   ///< W leaving
    double holds = 0.0;       ///< W leaving
    double resistors = 0.0;   ///< W leaving, to the ambient
    double residual = 0.0;    ///< W unaccounted for
    double throughput = 0.0;  ///< W entering, from powers and warmer surroundings
    [[nodiscard]] double relative_residual() const { return throughput > 0.0 ? residual / throughput : residual; }
};

/// How far a number may be off because cells have a size.
struct DiscretisationError {
    double error = 0.0;             ///< in the unit of the number; K for a temperature
    std::optional<double> order{};  ///< observed order of convergence; absent when it cannot be told
    bool exact = false;             ///< the meshes give the same but for rounding, so there is nothing to observe
    bool trusted = false;           ///< the meshes agree on an order, or on the value; of one mesh: it is fine enough to tell
    /// What was added to the number that the mesh gives, because that is how far it is off as far as can be told. Of an estimate on one mesh.
    std::optional<double> correction{};
};

/// What a figure tells of its subject.
enum class FigureKind : std::uint8_t {
    margin,        ///< of a limit
    first_beyond,  ///< time at which a limit is first passed
    met_from,      ///< time from which on a limit holds: warm-up or cool-down time
    max,           ///< temperatures of a part; of a study in time its extremes and the mean over time
    mean,
    min,
    sensor,  ///< of a study in time its highest temperature
    joint_flow,
    joint_drop,
    resistor_flow,
    resistor_drop,
    cooling,     ///< heat by convection and radiation together
    convection,  ///< of a cooling that does both
    radiation,
    coefficient,   ///< mean one of convection
    surface_mean,  ///< temperatures of a loaded surface
    surface_max,
    hold,       ///< heat
    duty,       ///< of a thermostat
    period,     ///< of a thermostat
    milestone,  ///< time at which it is first passed
    figure,     ///< named by the model; of a study in time its highest value, then its mean and its lowest
    figure_mean,
    figure_min,
};

/// What is said of a kind of figure, in one place.
struct FigureInfo {
    std::string_view word;  ///< stable, for machines and tables
    const QuantityKind* quantity = nullptr;
    int better = 0;  ///< +1: larger is better; -1: smaller is; 0: neither
    /// When a comparison of designs lists it.
    enum class Told : std::uint8_t { always, when_it_differs, never } told{};
    std::string_view meaning;
};
[[nodiscard]] const FigureInfo& info(FigureKind kind);
/// The kind of that word; nothing where there is none.
[[nodiscard]] std::optional<FigureKind> figure_kind_of(std::string_view word);
/// Whether it is told of a limit.
[[nodiscard]] constexpr bool of_limit(FigureKind kind) { return kind <= FigureKind::met_from; }

/// One number of a study: what designs are compared by, and what has an error bar.
struct Figure {
    FigureKind kind{};
    std::string name{};                        ///< of the part, sensor, joint, surface rule or thermostat
    const QuantityKind* of = nullptr;          ///< of what the model names, and of limits on that: what it measures; else the kind says it
    std::optional<double> value{};             ///< of quantity_of(), SI
    std::optional<double> solved{};            ///< likewise: what the mesh gives, where `value` was corrected for it
    std::optional<double> limit{};             ///< SI, where it is of a limit
    bool upper = true;                         ///< of a limit that the temperature has to stay below
    std::optional<DiscretisationError> bar{};  ///< how far the mesh lets `value` be off; in time the steps besides
    /// The error, 0 where none was worked out.
    [[nodiscard]] double error() const { return bar ? bar->error : 0.0; }
};
/// What a figure of that kind measures, being of something that measures `of`.
[[nodiscard]] const QuantityKind& quantity_of(FigureKind kind, const QuantityKind* of = nullptr);
[[nodiscard]] inline const QuantityKind& quantity_of(const Figure& figure) { return quantity_of(figure.kind, figure.of); }
/// Whether two figures tell the same of two solutions or designs.
[[nodiscard]] bool same(const Figure& a, const Figure& b);

/// How a mesh was refined: what each solve gave for the temperature that needed it most.
struct MeshRefinement {
    struct Round {
        Index cells = 0;
        std::string worst{};                ///< part, sensor or node
        double error = 0.0, allowed = 0.0;  ///< K
    };
    std::vector<Round> rounds{};
    bool met = false;
    std::string outlook{};  ///< where it is not met: what was reached, and what stood in the way
};

/// How the error bars of Findings::figures were found.
struct ErrorBars {
    std::vector<Index> cells{};              ///< of the meshes, finest first
    double ratio = 0.0;                      ///< of the cell sizes from one mesh to the next
    double scale = 1.0;                      ///< of the finest mesh's cells to the model's own
    double largest_temperature_error = 0.0;  ///< K
};

/// A share of a rise.
struct Contribution {
    enum class Kind : std::uint8_t { part, joint, resistor, convection, radiation, load, surroundings, storage, mesh, rest } kind{};
    std::string name{};
    double rise = 0.0;         ///< K; negative for what makes the place colder
    std::optional<Vec3> at{};  ///< of a part or joint, m: where the copy lies that matters most
};

/// What a change of one quantity alone does to the temperature.
struct Sensitivity {
    enum class Kind : std::uint8_t { conductivity, joint_resistance, resistance, convection, radiation, power, ambient, hold } kind{};
    std::string name{};
    double change = 0.0;  ///< K for 10 % more of it; of an ambient and a hold K for 1 K more
    [[nodiscard]] bool per_kelvin() const { return kind == Kind::ambient || kind == Kind::hold; }
};

/// How the temperature of a place comes about.
struct Explanation {
    std::string study{};
    std::string subject{};  ///< part or sensor
    bool coldest = false;   ///< its coldest place rather than its hottest
    Spot spot{};
    double base = 0.0;                         ///< K; the lowest known temperature of the surroundings
    double rise = 0.0;                         ///< K of the spot above that
    std::optional<double> time{};              ///< s, of a moment of a run in time
    bool linear = true;                        ///< nothing depends on temperature: the splits hold for any powers
    std::vector<Contribution> along{};         ///< by what the heat passes on its way; adds up to `rise`. Largest first
    std::vector<Contribution> by_load{};       ///< by who heats; adds up to `rise`. Largest first
    std::vector<Sensitivity> sensitivities{};  ///< largest first; none for a moment of a run in time
    std::optional<double> limit{};             ///< K
    std::string held_by{};                     ///< the hold that imposes this temperature on the place: nothing else explains it
};

/// A remark that deserves attention.
struct Warning {
    std::string kind{};  ///< stable word for machines: "service_limit", "unclaimed_surface", …
    std::string message{};
};

/// What became of the limits of a study.
enum class Verdict : std::uint8_t { no_limits, kept, missed };

/// Where the heat flux of a part is largest, as its cells have it. At the corner of a small source it goes on rising with ever finer cells.
struct FluxFinding {
    std::string part{};
    double flux = 0.0;   ///< W/m²
    std::string body{};  ///< the part, or its copy
    Vec3 at{};           ///< m, centre of the cell
};

struct Findings {
    std::string title{};
    Study study{};
    std::vector<Figure> figures{};
    std::vector<LimitFinding> limits{};
    std::vector<MilestoneFinding> milestones{};
    std::vector<NamedFinding> named{};
    Spot hottest{};  ///< of the whole assembly
    std::vector<PartFinding> parts{};
    std::vector<SensorFinding> sensors{};
    std::vector<JointFinding> joints{};
    std::vector<ResistorFinding> resistors{};  ///< as in the model
    std::vector<CoolingFinding> coolings{};
    std::vector<HoldFinding> holds{};
    std::vector<LoadFinding> loads{};
    std::vector<FluxFinding> fluxes{};  ///< the largest first; of steady studies
    Ledger ledger{};
    double unclaimed_area = 0.0;  ///< m²
    std::vector<Warning> warnings{};
    std::optional<ErrorBars> error_bars{};       ///< see error_bars.hpp
    std::optional<MeshRefinement> refinement{};  ///< see refine.hpp
    std::vector<LayerSize> layers{};             ///< MeshOptions::layers of the mesh, with what refinement added
    std::optional<Explanation> why{};            ///< see explain.hpp
    SolveSummary summary{};
    Index cells = 0;
    double multiplicity = 1.0;

    [[nodiscard]] bool all_limits_kept() const;
    [[nodiscard]] Verdict verdict() const;
};

struct FindingsOptions {
    /// Of a steady study: work out by defect correction what every figure is off because cells have a size, add it, and tell in Figure::bar what that
    /// leaves open and in Findings::warnings what is not sure. The ledger stays that of the solution, which is the solved one as it was. It takes about
    /// as long as half of the solve. Moments of runs in time have none.
    bool errors = true;
    ProgressCallback progress{};
};

/// Works out everything above. Throws ModelError for sensors that lie outside their part, and Cancelled.
[[nodiscard]] Findings findings(const Model& model, const SteadySolution& solution, const FindingsOptions& options = {});

/// Temperature at a point inside or on a body, K: linear from the cell centre towards the neighbour or surface on the
/// point's side. Throws ModelError (at `address`) when the point is not in a body that `part` names.
[[nodiscard]] double temperature_at(const Model& model, const SteadySolution& solution, const std::string& part, Vec3 point, const std::string& address);

/// Heat flux in every cell, W/m²: mean over the two faces across each axis.
[[nodiscard]] std::vector<Vec3> heat_flux(const SteadySolution& solution);

/// What `firnfield check` tells: the model as understood, before anything is solved.
struct PartInspection {
    std::string name{}, material{};
    Index copies = 1;
    Vec3 size{};                   ///< m, of one copy
    double volume = 0.0;           ///< m³
    std::optional<double> mass{};  ///< kg
    Index cells = 0;
    Index thinnest = 0;    ///< smallest number of cells through one of its copies, along any axis
    double exposed = 0.0;  ///< m²
};

struct RuleInspection {
    std::string name{};
    std::string role{};  ///< "cooling", "hold", "resistor", "power", "surface"
    double area = 0.0;   ///< m²
    std::size_t patches = 0;
};

struct NodeInspection {
    std::string name{};
    std::string material{};            ///< empty where its capacity is given
    std::optional<double> capacity{};  ///< J/K; unset: next to none
};

struct FigureInspection {
    std::string name{};
    std::string value{};  ///< as it stands in the model
    const QuantityKind* quantity = &kinds::number;
};

struct Inspection {
    std::string title{};
    std::vector<PartInspection> parts{};
    std::vector<JointInspection> joints{};
    std::vector<NodeInspection> nodes{};
    std::vector<ResistorInspection> resistors{};
    std::vector<RuleInspection> rules{};
    std::vector<FigureInspection> figures{};
    double exposed_area = 0.0, unclaimed_area = 0.0;  ///< m²
    struct Displacement {
        std::string displaced{}, by{};
        double volume = 0.0;  ///< m³
    };
    std::vector<Displacement> overlaps{};
    /// Parts that nearly touch: just beyond what counts as contact.
    struct NearMissInspection {
        std::string first{}, second{};
        double gap = 0.0;   ///< m
        double area = 0.0;  ///< m²
    };
    std::vector<NearMissInspection> near_misses{};
    struct StudyInspection {
        Study study{};
        double power = 0.0;  ///< W, all loads; of a profile of powers its mean
        bool nonlinear = false;
        double seconds = 0.0;                ///< about what a steady solve takes on two cores of a usual workstation, or a step in time
        std::vector<std::string> in_time{};  ///< what changes with time, in words
    };
    std::vector<StudyInspection> studies{};
    std::array<Index, 3> grid{};
    Index cells = 0;
    /// Where the mesh is poorest: the part with the fewest cells through it, of several the one that conducts worst.
    struct PoorestResolution {
        std::string part{};
        Index through = 0;              ///< cells
        double thickness = 0.0;         ///< m
        double cell = 0.0;              ///< m, of this part: would put twice as many cells through it
        std::optional<double> cells{};  ///< about how many the whole mesh would have then; absent: more than allowed
    };
    std::optional<PoorestResolution> poorest{};
    /// Where the mesh has thin cells because heat spreads there from a footprint or has little time, the thinnest first, twelve at most.
    struct ThinCells {
        std::string part{};             ///< or copy, whose cells
        std::string along{};            ///< "x", "y", "z"
        double at = 0.0;                ///< m, the plane that they begin at
        double cell = 0.0;              ///< m, the first one
        std::string footprint{};        ///< what touches or acts there: a part or copy, or a power, hold or cooling
        std::optional<double> width{};  ///< m, of the footprint, where that decides
        std::optional<double> time{};   ///< s, how long heat stays the same there, where that decides
    };
    std::vector<ThinCells> thin_cells{};
    double memory = 0.0;  ///< bytes that the study which takes most of them needs at most, about
    /// Cells that refining ends at; absent where nothing is refined.
    std::optional<double> refined_up_to{};
    std::optional<double> error_target{};  ///< K; refining ends when temperatures are known to this
    std::vector<std::string> mirrors{};
    double multiplicity = 1.0;
    std::vector<Warning> warnings{};
};

/// Works out the above. Builds the network of every study, so all mistakes that a solve would meet are met here.
[[nodiscard]] Inspection inspect(const Model& model, const Mesh& mesh);

}  // namespace firnfield
