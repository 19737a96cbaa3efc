/// Time integration of a heat-conductance network: an L-stable singly diagonally implicit Runge-Kutta method of order 4.
///
/// C. A. Kennedy and M. H. Carpenter, "Diagonally implicit Runge-Kutta methods for ordinary differential equations. A review",
/// NASA/TM-2016-219173: ESDIRK4(3)6L[2]SA. Its last stage is the solution, its first stage the last of the step before.
#pragma once

#include <firnfield/network.hpp>

#include "linear/solver.hpp"
#include "network/assemble.hpp"

#include <array>
#include <functional>
#include <memory>
#include <vector>

namespace firnfield {

/// What an integrator did so far.
struct IntegratorCounts {
    long long solves = 0, linear_iterations = 0, factorisations = 0, newton_failures = 0;
};

/// Solvers of K + σC for the few values of σ that a run uses again and again.
class ShiftedSolvers {
public:
    /// For the matrix that `matrix` (its shift aside) describes; what that refers to has to stay as it is until clear().
    LinearSolver& at(const NetworkMatrix& matrix, double shift, IntegratorCounts& counts);
    void clear() { kept_.clear(); }

private:
    struct Kept {
        double shift = 0.0, built_for = 0.0;
        long long used = 0;
        std::unique_ptr<LinearSolver> solver;
    };
    std::vector<Kept> kept_;
    long long clock_ = 0;
};

class Integrator {
public:
    /// Sets the network to a time; at a jump, what comes after it.
    using DriveTo = std::function<void(double time)>;

    /// `network` is changed by `drive` and has to outlive this, as does `coefficients`, which counts changes of its coefficients.
    Integrator(const Network& network, double reference, double tolerance, DriveTo drive, std::function<int()> coefficients);

    /// Begins at a state.
    void start(double time, std::vector<double> rise);
    /// Goes on elsewhere with the linearisation as it is.
    void move_to(double time, std::vector<double> rise);
    /// After a jump of what drives the network. Returns the largest jump of a rate of temperature, K/s.
    double restart();

    /// Tries a step of this length, s. Returns the estimated error over the tolerance; infinite when the equations did not settle.
    double attempt(double length);
    /// Makes the last attempt the state. `end` is its end without rounding.
    void accept(double end);

    [[nodiscard]] double time() const { return time_; }
    [[nodiscard]] double reference() const { return reference_; }
    [[nodiscard]] const std::vector<double>& rise() const { return rise_; }
    /// Of the last attempt.
    [[nodiscard]] const std::vector<double>& next_rise() const { return next_; }
    [[nodiscard]] const std::vector<double>& next_rate() const { return stage_[5]; }
    [[nodiscard]] const std::vector<double>& content_begin() const { return begin_content_; }
    [[nodiscard]] const std::vector<double>& content_end() const { return content_; }
    /// Heat that the last attempt moved, J, by the model's entries; and what it stored.
    [[nodiscard]] const HeatFlows& moved() const { return moved_; }
    [[nodiscard]] double stored() const { return stored_; }
    /// J that cells gave out.
    [[nodiscard]] double released() const { return released_; }

    /// Remaining change of every node if nothing changed any more: K⁻¹ C dT/dt, exact where the network is linear. K.
    [[nodiscard]] std::vector<double> remaining_change();
    /// The slowest time constant of the network as it is, s, by inverse iteration.
    [[nodiscard]] double slowest_time_constant();
    /// Linearises anew, where temperatures are now, before the next solve.
    void relinearise();
    /// (K + shift·C)⁻¹ of heat, W per node, linearised at the state. K.
    [[nodiscard]] std::vector<double> relax(double shift, const std::vector<double>& heat, double tolerance);
    /// W per node that a rate of heat content (K/s) takes; and likewise J of a change of it (K).
    [[nodiscard]] std::vector<double> heat_of(const std::vector<double>& content_rate) const;

    /// Takes C de/dt + K e = heat over the last step, with the matrix that it was solved with: of errors of the heat content at its beginning to those at its
    /// end (K), with the heat (W per node) at either. Returns the errors of temperatures at the end.
    [[nodiscard]] std::vector<double> march_errors(const std::vector<double>& heat_begin, const std::vector<double>& heat_end, std::vector<double>& content);
    /// Errors of temperatures at the state that such of the heat content are, K.
    [[nodiscard]] std::vector<double> temperature_errors(const std::vector<double>& content) const;

    [[nodiscard]] const IntegratorCounts& counts() const { return counts_; }
    /// Forgets what was kept for speed, so that a run that goes on from here is the same as one begun here.
    void forget();

    /// The state in full, for a run to be taken up again: rates, and the heat flows (W) that they belong to.
    [[nodiscard]] const std::vector<double>& rate() const { return rate_; }
    [[nodiscard]] const HeatFlows& flows() const { return flows_; }
    void resume(double time, std::vector<double> rise, std::vector<double> rate, HeatFlows flows);

private:
    [[nodiscard]] const HeatContent* content_of(std::size_t node) const;
    [[nodiscard]] double content(std::size_t node, double rise) const;
    [[nodiscard]] double content_slope(std::size_t node, double rise) const;

    [[nodiscard]] NetworkMatrix matrix() const;
    void linearise(const Balance& balance, const std::vector<double>& rise);
    [[nodiscard]] bool solve_stage(double shift, const std::vector<double>& base, const std::vector<double>& guess, std::vector<double>& rate);
    void correct(const Balance& balance, double shift, const std::vector<double>& base);
    [[nodiscard]] bool close_balance(const Balance& balance, double shift, const std::vector<double>& base);
    [[nodiscard]] double error_of(double length) const;
    [[nodiscard]] double phase_change_error() const;

    const Network& network_;
    double reference_, tolerance_;
    double linear_tolerance_ = 0.0;
    DriveTo drive_;
    std::function<int()> coefficients_;
    bool linear_;

    double time_ = 0.0;
    double shift_ = 0.0;                           // of the last attempt, 1/s
    std::vector<double> rise_, rate_;              // state; rate of heat content, K/s
    std::vector<double> begin_content_, content_;  // relative to the reference
    std::array<std::vector<double>, 6> stage_;     // rates of heat content
    std::vector<double> next_, correction_, residual_;
    HeatFlows moved_;
    HeatFlows flows_, next_flows_;  // W at the state, and at the end of the last attempt: what their rates belong to
    double stored_ = 0.0, released_ = 0.0;

    // The linearisation that solvers are made for.
    bool linearised_ = false;
    int linearised_coefficients_ = 0;
    std::vector<double> slope_, capacity_;
    std::vector<std::vector<double>> conductance_;  // as Balance::conductance
    ShiftedSolvers solvers_;
    double contraction_ = 0.3;
    IntegratorCounts counts_;
};

}  // namespace firnfield
