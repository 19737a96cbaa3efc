/// Designs side by side: what each of them gave, and what changed.
#pragma once

#include <firnfield/history.hpp>
#include <firnfield/steady.hpp>

#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace firnfield {

/// What a study gave, in figures.
struct StudyOutcome {
    std::string study{};
    Verdict verdict{};
    Spot hottest{};
    std::vector<Figure> figures{};
};
[[nodiscard]] StudyOutcome outcome(const StudyFindings& findings);
/// kg of all parts; absent when a density is unknown.
[[nodiscard]] std::optional<double> mass_of(const StudyFindings& findings);

/// What a design gave.
struct Outcome {
    std::string name{};
    std::string fingerprint{};
    std::optional<double> mass{};  ///< kg of all parts; absent when a density is unknown
    std::vector<StudyOutcome> studies{};
    /// Of a point of a sweep: its name, and what was swept.
    std::string sweep{};
    struct Coordinate {
        std::string address{}, text{};
        double number = 0.0;  ///< in the unit of the text
    };
    std::vector<Coordinate> at{};
};

/// A figure over all designs.
struct ComparedFigure {
    std::string study{};
    Figure what{};                               ///< of the first design that has it
    std::vector<std::optional<double>> value{};  ///< per design
    std::vector<double> error{};                 ///< per design
    /// Per design: DiscretisationError::correction.
    std::vector<std::optional<double>> correction{};
    std::optional<std::size_t> best{};  ///< design; none where all are alike
    /// value − base's; absent where one of them is.
    [[nodiscard]] std::optional<double> difference(std::size_t design, std::size_t base) const;
    /// How far the difference to the base may be off. Where both errors come from one mesh each, most of them is common to both and falls out.
    [[nodiscard]] double error_of_difference(std::size_t design, std::size_t base) const;
    /// Whether the difference is smaller than that.
    [[nodiscard]] bool uncertain(std::size_t design, std::size_t base) const;
};

struct Comparison {
    std::string title{};
    std::vector<Outcome> designs{};
    std::size_t base = 0;
    std::vector<ComparedFigure> figures{};

    /// The designs' studies, in the order of the first design.
    [[nodiscard]] std::vector<std::string> studies() const;
};
[[nodiscard]] Comparison compare(std::string title, std::vector<Outcome> designs, std::size_t base = 0);

/// Where a limit is just met along a sweep of one quantity.
struct Crossing {
    std::string study{}, subject{};
    std::string address{};
    double number = 0.0;          ///< in the unit of the sweep's values, between two of its points
    double from = 0.0, to = 0.0;  ///< those points
    bool upper = true;
    double limit = 0.0;                                  ///< SI
    const QuantityKind* quantity = &kinds::temperature;  ///< of the limit
};
/// All of them, by straight lines between points (of the logarithm where points stand in equal ratios).
[[nodiscard]] std::vector<Crossing> crossings(const Comparison& comparison, const std::string& sweep);

/// A model to be solved together with others.
struct NamedModel {
    std::string name{};
    Model model{};
};

/// Meshes made so far, for whoever needs the same again. May be used from several threads.
class MeshCache {
public:
    /// The mesh of a model: an earlier one where it fits.
    [[nodiscard]] std::shared_ptr<const Mesh> of(const Model& model);

    /// The design that was refined, and the layers it got by the name of the study; "": of its first steady one.
    std::optional<Model> base{};
    std::map<std::string, std::vector<LayerSize>> layers{};

private:
    std::mutex mutex_{};
    std::vector<std::pair<Model, std::shared_ptr<const Mesh>>> made_{};
};

struct DesignOptions {
    std::vector<std::string> studies{};  ///< empty: all
    bool error_bars = false;
    bool errors = true;           ///< of steady studies without error bars: FindingsOptions::errors
    int workers = 0;              ///< designs solved at the same time; 0: as many as cores, fewer for large meshes
    MeshCache* meshes = nullptr;  ///< kept beyond the call
    /// Told by the names of design and study, and of each with the stage "begins" first; called from one thread at a time.
    ProgressCallback progress{};
};

/// Solves the studies of many models. Designs that have the same geometry, resolution and contacts have the same mesh, that of the
/// first of them; refined for the first design of all, and from there on only for those of another geometry. So they differ by themselves and not by
/// their meshes.
[[nodiscard]] std::vector<std::vector<StudyFindings>> solve_designs(std::span<const NamedModel> designs, const DesignOptions& options = {});

/// Whether one mesh fits both models.
[[nodiscard]] bool same_mesh(const Model& a, const Model& b);

}  // namespace firnfield
