/// How a model makes figures of addresses: of one or several by an expression, at moments or of a run as a whole.
#pragma once

#include "base/formula.hpp"
#include "model/figure_terms.hpp"

namespace firnfield {

/// What is told of a run as a whole.
enum class RunWhat : std::uint8_t { highest, lowest, mean, swing, total, first_time, last_time, time, duty, period, switchings, steady_time, time_constant };

/// A form of address of a run, for messages and the reference: "highest of die.max".
struct RunInfo {
    RunWhat what{};
    std::string_view before{}, after{};      ///< the words around the name of what is followed, or of the thermostat; both empty: it has none
    const QuantityKind* quantity = nullptr;  ///< null: that of what is followed
    std::string_view form{};                 ///< as it is written
    std::string_view meaning{};
};
[[nodiscard]] std::span<const RunInfo> run_figures();

/// What an address of a run names.
struct RunTerm {
    const RunInfo* info = nullptr;
    std::optional<std::size_t> figure{};     ///< of FigureForms::figures: what is followed
    std::optional<double> passed{};          ///< SI, of a time: the value that it is above or below
    bool above = true;                       ///< of that value
    std::string thermostat{};                ///< of duty, period and switchings
    const QuantityKind* quantity = nullptr;  ///< what it measures
    bool operator==(const RunTerm&) const = default;
};

/// A figure, ready to be worked out from the terms of FigureForms.
struct FigureForm {
    std::string name{};  ///< empty: only what is told of a run follows it
    const QuantityKind* quantity = nullptr;
    Formula formula;
    struct Operand {
        std::optional<double> number{};
        std::optional<std::size_t> figure{};  ///< an earlier one
        std::optional<std::size_t> term{};
        std::optional<std::size_t> run_term{};
    };
    std::vector<Operand> operands{};
    bool of_run = false;  ///< of a run as a whole, rather than of a moment
};

/// The figures of a model: those that it names, then addresses that limits and milestones use without a name.
struct FigureForms {
    std::vector<FigureTerm> terms{};
    std::vector<RunTerm> run_terms{};
    std::vector<FigureForm> figures{};
    /// Null where there is none of that name.
    [[nodiscard]] const FigureForm* find(std::string_view name) const;
    /// The terms that a figure is made of, directly or through others.
    [[nodiscard]] std::vector<std::size_t> terms_of(const FigureForm& form) const;
};

/// Throws ModelError with everything that is wrong with them.
[[nodiscard]] FigureForms forms_of_figures(const Model& model);

/// What is wrong with figures, and with limits and milestones on them.
[[nodiscard]] std::vector<Problem> check_figures(const Model& model);

}  // namespace firnfield
