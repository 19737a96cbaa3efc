/// A study reduced to a few linear equations, for simulation of whole systems and for thermal impedances.
#pragma once

#include <firnfield/mesh.hpp>
#include <firnfield/model.hpp>
#include <firnfield/progress.hpp>

#include <memory>
#include <string>
#include <vector>

namespace firnfield {

/// Modes x, inputs u and outputs y: x' = −rate · x + in · u, y = out · x + through · u + constant. Powers are in W; temperatures, of inputs and outputs, in K.
struct StateSpace {
    struct Input {
        std::string name{};
        bool temperature = false;  ///< else a power
        double at_start = 0.0;     ///< W or K, at the beginning of the study
    };
    std::string study{};
    std::vector<Input> inputs{};
    std::vector<std::string> outputs{};          ///< sensors and lumped nodes, then the mean of every part as "NAME.mean"
    std::vector<double> rate{};                  ///< 1/s per mode, from slow to fast
    std::vector<std::vector<double>> in{};       ///< per input, per mode
    std::vector<double> in_constant{};           ///< per mode: what there is without any input, such as what tangents leave over
    std::vector<std::vector<double>> out{};      ///< per output, per mode
    std::vector<std::vector<double>> through{};  ///< per output, per input: what follows at once, on surfaces
    std::vector<double> constant{};              ///< K per output
    std::vector<double> start{};                 ///< modes at the beginning of the study
    double within = 0.0;                         ///< K that temperatures of the study may be off by
    bool linearised = false;                     ///< something bends: these are tangents at temperatures in the middle of the study

    /// Outputs (K) of a state under inputs.
    [[nodiscard]] std::vector<double> read(const std::vector<double>& state, const std::vector<double>& input) const;
};

/// A term R (1 − exp(−t/τ)) of a step response; K/W and s.
struct FosterTerm {
    double resistance = 0.0, time_constant = 0.0;
};
/// What an output does after a step of a watt, in terms from fast to slow: those that never show are left out. A time constant of nothing acts at once.
[[nodiscard]] std::vector<FosterTerm> foster_terms(const StateSpace& system, std::size_t input, std::size_t output);
/// Their sum after a time (s), K/W.
[[nodiscard]] double step_response(const std::vector<FosterTerm>& terms, double time);

/// Reduces a study in time. Throws ModelError for a steady study and for what cannot be reduced.
[[nodiscard]] StateSpace reduce_study(const Model& model, const Study& study, std::shared_ptr<const Mesh> mesh = {}, const ProgressCallback& progress = {});

}  // namespace firnfield
