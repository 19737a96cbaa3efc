// The steady state by Newton's method.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/steady.hpp>

#include "base/words.hpp"
#include "network/lumped.hpp"
#include "network/traits.hpp"
#include "study/linearised.hpp"
#include "study/read_surfaces.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <numeric>

namespace firnfield {
namespace {

/// Shifts all temperatures so that the residuals add up to nothing. A Galerkin correction with the constant vector:
/// it removes the one error that the ledger would show and never raises the energy norm of the error.
void close_ledger(const Balance& balance, std::vector<double>& rise) {
    double excess = 0.0, slope = 0.0;
    for (std::size_t i = 0; i < rise.size(); ++i) {
        excess += balance.residual[i];
        slope += balance.slope[i];
    }
    if (!(slope > 0.0)) return;
    for (double& x : rise) x += excess / slope;
}

/// Newton's method with backtracking. Linear networks need one step.
class SteadySolver {
public:
    SteadySolver(const Model& model, const Mesh& mesh, const Network& network, double reference, const SteadyOptions& options)
        : model_(model),
          mesh_(mesh),
          network_(network),
          reference_(reference),
          options_(options),
          linear_(network.is_linear()),
          nothing_(next_to_nothing(network)) {}

    SolveSummary run(std::vector<double>& rise) {
        Balance balance = assemble(network_, {reference_, rise});
        summary_.history.push_back(balance.relative());
        while (!done(balance) && !at_rounding_limit() && !stuck_) {
            if (!linear_ && (best_.empty() || balance.relative() < best_residual_)) {
                best_ = rise;
                best_residual_ = balance.relative();
            }
            tell(balance.relative());
            if (summary_.newton_iterations == options_.max_iterations) give_up(balance, rise);
            balance = step(std::move(balance), rise);
            ++summary_.newton_iterations;
            summary_.history.push_back(balance.relative());
        }
        close_ledger_at_last(balance, rise);
        summary_.converged = true;
        summary_.rounding_limited = !done(balance);
        summary_.throughput = balance.throughput;
        summary_.residual = balance.relative();
        return std::move(summary_);
    }

    /// That of the last step.
    [[nodiscard]] std::shared_ptr<LinearisedSolver> solver() { return std::move(solver_); }

private:
    bool done(const Balance& balance) const {
        // Of an unsymmetric system what is left at many nodes may have one sign, and the ledger shows their sum.
        constexpr double open = 5e-10;
        const bool adds_up = balance.symmetric() || left_in(balance) <= open * balance.throughput;
        return (balance.norm <= options_.tolerance * balance.throughput && adds_up) || is_at_rest(balance, 1.0);
    }
    static double left_in(const Balance& balance) { return std::abs(std::accumulate(balance.residual.begin(), balance.residual.end(), 0.0)); }
    /// Nothing enters, and what the nodes are off by is nothing, too.
    bool is_at_rest(const Balance& balance, double times) const { return balance.throughput <= nothing_ && balance.norm <= times * nothing_; }

    /// What is left of all residuals together, which is what the ledger shows.
    void close_ledger_at_last(Balance& balance, std::vector<double>& rise) const {
        constexpr double closed = 1e-12;
        if (left_in(balance) <= closed * balance.throughput) return;
        std::vector<double> trial = rise;
        close_ledger(balance, trial);
        Balance next = assemble(network_, {reference_, trial});
        if (left_in(next) >= left_in(balance) || !(next.norm <= std::max(2.0 * balance.norm, options_.tolerance * next.throughput))) return;
        rise = std::move(trial);
        balance = std::move(next);
    }

    /// Heat that is none: a hundredth of a billionth of what a kelvin between the surfaces and their surroundings moves. Where nothing heats and all
    /// surroundings are the same there is no throughput to measure a residual by.
    static double next_to_nothing(const Network& network) { return 1e-11 * outward_conductance(network); }

    /// Two steps without progress, far below any physical meaning: the last digits are rounding.
    bool at_rounding_limit() const {
        const std::vector<double>& history = summary_.history;
        // A linear network can only be held up by rounding; others have to come closer to be believed.
        return history.size() > 3 && history.back() < (linear_ ? 1e-6 : 1e-8) && history.back() > 0.5 * history[history.size() - 3];
    }

    /// Tells the residual that linear iterations leave, and lets a solve be stopped between them.
    std::function<void(int, double)> watch(const Balance& balance) const {
        if (!options_.progress) return {};
        return [this, norm = balance.relative()](int, double left) { tell(norm * left); };
    }

    void tell(double residual) const {
        announce(options_.progress, {.stage = "solving", .iteration = summary_.newton_iterations, .residual = residual, .target = options_.tolerance});
    }

    /// Says which of the terms that depend on temperature acts where the balance is worst, and keeps the temperatures reached.
    [[noreturn]] void give_up(const Balance& balance, const std::vector<double>& rise) const {
        const auto worst = std::max_element(balance.residual.begin(), balance.residual.end(), [](double a, double b) { return std::abs(a) < std::abs(b); });
        const auto node = static_cast<Index>(worst - balance.residual.begin());
        std::vector<double> best = best_;
        for (double& t : best) t += reference_;
        const std::string message =
            fmt::format("the steady temperatures did not settle; after Newton step {} the heat residual is {:.2g} of {:.3g} W, most of it in \"{}\" at {}{}",
                        summary_.newton_iterations, balance.relative(), balance.throughput, name_of_owner(model_, mesh_, network_.owner[node]),
                        show_celsius(reference_ + rise[node]), suspects(node));
        throw NotConverged(message, std::move(best));
    }

    std::string suspects(Index node) const {
        std::vector<std::string> names;
        for (const auto& [channel, origin] : bends_at(network_, node)) {
            if (channel == Channel::load) names.push_back("the heat of " + display_name(model_.powers[origin.index]));
            if (channel == Channel::resistor) names.push_back("the resistance of " + display_name(model_.resistors[origin.index]));
            if (channel == Channel::conduction && network_.conductivity_factor[network_.owner[node]]) names.emplace_back("its conductivity");
            if (origin.kind != OriginKind::cooling) continue;
            names.push_back((channel == Channel::radiation ? "the radiation of " : "the coefficient of ") +
                            display_name(model_.coolings[origin.index], origin.index));
        }
        std::sort(names.begin(), names.end());
        names.erase(std::unique(names.begin(), names.end()), names.end());
        return names.empty() ? std::string() : "; what depends on temperature there: " + quoted_list(names);
    }

    /// How exactly the linear system has to be solved: fully for a linear network, else as far as Newton profits.
    double linear_tolerance(const Balance& balance) const {
        const double full = 0.2 * options_.tolerance * balance.throughput / balance.norm;
        if (linear_) return std::clamp(full, 1e-14, 0.1);
        const std::vector<double>& history = summary_.history;
        const double gain = history.size() > 1 ? history.back() / history[history.size() - 2] : 1.0;
        return std::clamp(std::max(full, 0.1 * gain * gain), 1e-14, 0.01);
    }

    Balance step(Balance given, std::vector<double>& rise) {
        std::vector<double> change(rise.size(), 0.0);
        solver_.reset();  // before there is another one
        const auto solver = std::make_shared<LinearisedSolver>(network_, std::move(given));
        const Balance& balance = solver->balance();
        LinearSummary linear;
        try {
            linear = solver->solve(balance.residual, change, linear_tolerance(balance), watch(balance));
        } catch (const ComputationError&) {
            if (linear_) throw;
        }
        if (!linear.converged && linear_) throw ComputationError("the linear solver stopped: " + linear.text());
        if (!linear.converged) {
            // The laws leave no slope to follow: at rest, where natural convection begins from nothing, or far from it.
            stuck_ = is_at_rest(balance, 1e4);
            if (stuck_) return balance;
            give_up(balance, rise);
        }
        summary_.linear_iterations += linear.iterations;
        summary_.linear_method =
            linear.levels > 0 ? fmt::format("{}, {} levels, complexity {:.2f}", linear.method, linear.levels, linear.complexity) : linear.method;

        // Where heat leaves by natural convection alone, the first slope is next to nothing and its step far beyond the target.
        constexpr double longest_step = 1000.0;  // K
        double largest = 0.0;
        for (const double c : change) largest = std::max(largest, std::abs(c));
        double damping = linear_ ? 1.0 : std::min(1.0, longest_step / largest);
        std::vector<double> trial(rise.size());
        while (true) {
            // No temperature falls to absolute zero on the way.
            for (std::size_t i = 0; i < rise.size(); ++i) trial[i] = std::max(rise[i] + damping * change[i], 0.1 * (reference_ + rise[i]) - reference_);
            Balance next = closed(assemble(network_, {reference_, trial}), trial);
            if (next.norm < balance.norm || linear_) {
                rise = std::move(trial);
                // Where the last step was small, its slopes are those of the solution.
                constexpr double small = 0.1;  // K
                if (linear_ || largest < small) solver_ = solver;
                return next;
            }
            damping *= 0.5;
            if (damping * largest < 1e-9) return balance.relative() > 1e-8 ? step_without_feedback(balance, rise) : balance;  // at the limit of rounding
        }
    }

    /// The balance with its ledger closed. Without symmetry the constant is no Galerkin direction: then only where it helps.
    Balance closed(Balance open, std::vector<double>& rise) const {
        std::vector<double> shifted = rise;
        close_ledger(open, shifted);
        Balance out = assemble(network_, {reference_, shifted});
        if (!open.symmetric() && !(left_in(out) < left_in(open) && out.norm <= 1.1 * open.norm)) return open;
        rise = std::move(shifted);
        return out;
    }

    /// Where heat grows with temperature the slopes may point the wrong way, and no step along them lowers the residual. Then all of it
    /// is worked out anew with the heat as it is, which follows a stable state and runs away where there is none.
    Balance step_without_feedback(const Balance& balance, std::vector<double>& rise) {
        constexpr int most = 40;
        constexpr double hottest = 1e5;  // K
        if (++steps_without_feedback_ > most) give_up(balance, rise);
        Balance damped = balance;
        for (double& s : damped.slope) s = std::max(s, 0.0);
        damped.skew.clear();
        std::vector<double> change(rise.size(), 0.0);
        summary_.linear_iterations += solve_linearised(network_, damped, damped.residual, change, 1e-3, watch(balance)).iterations;
        for (std::size_t i = 0; i < rise.size(); ++i) {
            change[i] = std::max(rise[i] + change[i], 0.1 * (reference_ + rise[i]) - reference_);
            if (change[i] > hottest) give_up(balance, rise);
        }
        rise = std::move(change);
        return assemble(network_, {reference_, rise});
    }

    const Model& model_;
    const Mesh& mesh_;
    const Network& network_;
    double reference_;
    const SteadyOptions& options_;
    bool linear_;
    double nothing_;  // W
    bool stuck_ = false;
    int steps_without_feedback_ = 0;
    std::vector<double> best_;  // rises with the smallest residual so far
    double best_residual_ = 0.0;
    std::shared_ptr<LinearisedSolver> solver_;
    SolveSummary summary_;
};

double seconds_since(std::chrono::steady_clock::time_point start) { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); }

}  // namespace

void read_surfaces(SteadySolution& solution, const ContactReader& contacts) {
    solution.patch_temperature = patch_temperatures(*solution.mesh, *solution.network, solution.nodes());
    solution.contacts = contact_temperatures(contacts, *solution.mesh, *solution.network, solution.nodes());
}

std::string SolveSummary::text() const {
    return fmt::format("{} in {} Newton step{} ({} linear iteration{}, {}); heat residual {:.1e} of {} throughput{}", converged ? "converged" : "not converged",
                       newton_iterations, newton_iterations == 1 ? "" : "s", linear_iterations, linear_iterations == 1 ? "" : "s",
                       linear_method.empty() ? "nothing to solve" : linear_method, residual, show_quantity(throughput, kinds::power),
                       rounding_limited ? ", the limit of rounding" : "");
}

SteadySolution solve_steady(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const SteadyOptions& options) {
    SteadySolution solution;
    solution.study = study;
    auto start = std::chrono::steady_clock::now();
    auto network = std::make_shared<const Network>(build_network(model, *mesh, study));
    const double network_seconds = seconds_since(start);

    start = std::chrono::steady_clock::now();
    solution.reference = 0.5 * (network->lowest_known + network->highest_known);
    // Natural convection has no slope to start from where a surface is as warm as its surroundings: the guess is warmer than all of them.
    const double first_guess = network->highest_known - solution.reference + 10.0;  // K
    solution.rise.assign(network->nodes, 0.0);
    // Where nothing heats and all surroundings are the same, that is the answer already.
    if (starts_flat(*network) && assemble(*network, solution.nodes()).norm > 0.0) solution.rise.assign(network->nodes, first_guess);
    SteadySolver solver(model, *mesh, *network, solution.reference, options);
    solution.summary = solver.run(solution.rise);
    solution.solver = solver.solver();
    solution.temperature.resize(network->nodes);
    for (std::size_t i = 0; i < solution.rise.size(); ++i) solution.temperature[i] = solution.reference + solution.rise[i];
    solution.summary.network_seconds = network_seconds;
    solution.summary.solve_seconds = seconds_since(start);
    solution.mesh = std::move(mesh);
    solution.network = std::move(network);
    read_surfaces(solution, ContactReader(model, *solution.mesh));
    return solution;
}

SteadySolution solve_steady(const Model& model, const SteadyOptions& options) { return solve_steady(model, studies_of(model).front(), options); }

SteadySolution solve_steady(const Model& model, const Study& study, const SteadyOptions& options) {
    const auto start = std::chrono::steady_clock::now();
    auto mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    const double mesh_seconds = seconds_since(start);
    SteadySolution solution = solve_steady(model, std::move(mesh), study, options);
    solution.summary.mesh_seconds = mesh_seconds;
    return solution;
}

}  // namespace firnfield
