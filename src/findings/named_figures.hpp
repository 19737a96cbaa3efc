/// The figures that a model names, worked out for one moment.
#pragma once

#include <firnfield/history.hpp>

#include "findings/error_reader.hpp"
#include "findings/extremes.hpp"
#include "model/figure_forms.hpp"

#include <functional>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace firnfield {

/// What a moment is known by. What it refers to has to outlive it.
struct MomentView {
    const Network& network;
    NodeTemperatures nodes;
    const BodyTemperatures& bodies;             ///< with what the mesh is off
    std::span<const double> sensors;            ///< K, likewise
    const HeatFlows& flows;                     ///< W, of the whole product
    std::span<const double> patch_temperature;  ///< K
    const ContactTemperatures& contacts;
    const ErrorReader* error = nullptr;       ///< of surfaces and joints
    bool doubted = false;                     ///< with what is in doubt of hottest and coldest places of surfaces besides
    std::function<double(double)> bounded{};  ///< a temperature moved to where it can lie
};

/// Binds the figures of a model to a mesh and a study.
class NamedFigures {
public:
    /// `sensors`: the names of MomentView::sensors. `model`, `mesh` and `study` have to outlive it.
    NamedFigures(const Model& model, const Mesh& mesh, const Study& study, const std::vector<std::string>& sensors);

    /// What a term of figures is read from.
    struct Bound {
        const TermInfo* info = nullptr;
        std::string missing{};                                ///< why the study has no such thing; empty: it has
        std::vector<Index> bodies{};                          ///< of a part
        std::vector<std::size_t> entries{};                   ///< of the model's list, or of the sensors
        std::vector<Index> patches{};                         ///< of a surface
        std::vector<std::pair<std::size_t, double>> pairs{};  ///< of a joint, with the sign of its direction
        double area = 0.0;                                    ///< m², of patches or pairs
        double constant = 0.0;                                ///< of a mass
        double above = 0.0;                                   ///< K, of a share
        int axis = 0;                                         ///< of a section
        double at = 0.0;                                      ///< m, likewise
    };
    [[nodiscard]] const std::vector<Bound>& terms() const { return terms_; }
    [[nodiscard]] const std::vector<FigureForm>& figures() const { return forms_.figures; }
    [[nodiscard]] const std::vector<RunTerm>& run_terms() const { return forms_.run_terms; }
    /// Whether a figure is told of moments: of the study, asked for, and not of a run as a whole.
    [[nodiscard]] bool of_moments(std::size_t figure) const;
    /// Index of the figure of that name, which validate() has found.
    [[nodiscard]] std::size_t index_of(const std::string& name) const;
    /// Why a figure is not told in this study; empty where it is.
    [[nodiscard]] std::string missing(std::size_t figure) const;
    /// The same where it deserves a remark: figures of a run are not expected of a steady study beside studies in time.
    [[nodiscard]] std::string remark(std::size_t figure) const;

    /// Of every term, SI; not a number where it is missing.
    [[nodiscard]] std::vector<double> read(const MomentView& moment) const;
    /// Of every figure, from values of the terms; not finite where it is missing, or not defined for them. `run`: of every term of a run, once it is known.
    [[nodiscard]] std::vector<double> combine(std::span<const double> terms, std::span<const double> run = {}) const;
    /// Of the temperatures of a part: the body whose place counts.
    [[nodiscard]] Index body_of(const Bound& term, const BodyTemperatures& bodies) const;

private:
    [[nodiscard]] Bound bind(const FigureTerm& term, const Study& study, const std::vector<std::string>& sensors) const;
    [[nodiscard]] std::string missing(const RunTerm& term) const;
    void bind_section(Bound& out) const;
    void bind_joint(const std::string& name, Bound& out) const;
    [[nodiscard]] double surface(const Bound& term, const MomentView& moment) const;

    const Model& model_;
    const Mesh& mesh_;
    const Study& study_;
    FigureForms forms_;
    std::vector<Bound> terms_;
};

}  // namespace firnfield
