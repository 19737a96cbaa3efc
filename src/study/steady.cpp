#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/steady.hpp>

#include "linear/solver.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>

namespace firnfield {
namespace {

double norm(const std::vector<double>& v) {
    double sum = 0.0;
    for (const double x : v) sum += x * x;
    return std::sqrt(sum);
}

/// Heat balance of every node at given temperatures, and its linearisation.
struct Balance {
    std::vector<double> residual;  // W entering each node and not leaving
    std::vector<double> slope;     // d(heat to the surroundings)/dT per node, W/K
    std::vector<double> radiative; // conductance of each radiative link at these temperatures, W/K
    double throughput = 0.0;       // W entering from loads and warmer surroundings
    double norm = 0.0;

    [[nodiscard]] double relative() const { return throughput > 0.0 ? norm / throughput : norm; }
};

/// Flux form: what leaves one node enters the other, so heat is neither made nor lost by rounding. Temperatures are
/// rises above a reference, since differences of large conductances would feel the last digit of 300 K.
Balance balance_heat(const Network& network, double reference, const std::vector<double>& rise) {
    Balance balance;
    balance.residual.assign(network.nodes, 0.0);
    balance.slope.assign(network.nodes, 0.0);
    std::vector<double>& r = balance.residual;
    const Links& links = network.links;
    for (std::size_t l = 0; l < links.size(); ++l) {
        const double flow = links.conductance[l] * (rise[links.first[l]] - rise[links.second[l]]);
        r[links.first[l]] -= flow;
        r[links.second[l]] += flow;
    }
    const RadiativeLinks& beams = network.radiative_links;
    balance.radiative.resize(beams.size());
    for (std::size_t l = 0; l < beams.size(); ++l) {
        const double a = reference + rise[beams.first[l]], b = reference + rise[beams.second[l]];
        const double flow = beams.coefficient[l] * (a * a + b * b) * (a + b) * (rise[beams.first[l]] - rise[beams.second[l]]);
        r[beams.first[l]] -= flow;
        r[beams.second[l]] += flow;
        // Mean of the two one-sided derivatives: keeps the matrix symmetric.
        balance.radiative[l] = 2.0 * beams.coefficient[l] * (a * a * a + b * b * b);
    }
    const Sources& sources = network.sources;
    for (std::size_t s = 0; s < sources.size(); ++s) {
        r[sources.node[s]] += sources.heat[s];
        balance.throughput += std::max(0.0, sources.heat[s]);
    }
    const Ties& ties = network.ties;
    for (std::size_t i = 0; i < ties.size(); ++i) {
        const double flow = ties.conductance[i] * (rise[ties.node[i]] - (ties.temperature[i] - reference));
        r[ties.node[i]] -= flow;
        balance.slope[ties.node[i]] += ties.conductance[i];
        balance.throughput += std::max(0.0, -flow);
    }
    const Walls& walls = network.walls;
    for (std::size_t w = 0; w < walls.size(); ++w) {
        const WallState state = wall_state(walls.resistance[w], walls.of(w), reference + rise[walls.node[w]]);
        r[walls.node[w]] -= state.heat;
        balance.slope[walls.node[w]] += state.slope;
        for (const Exchange& exchange : walls.of(w)) balance.throughput += std::max(0.0, -exchange.heat(state.temperature));
    }
    balance.norm = norm(r);
    return balance;
}

bool is_linear(const Network& network) {
    if (network.radiative_links.size() > 0) return false;
    return std::none_of(network.walls.exchanges.begin(), network.walls.exchanges.end(),
                        [](const Exchange& e) { return e.kind == ExchangeKind::radiation || e.kind == ExchangeKind::law; });
}

NetworkMatrix linearise(const Network& network, const Balance& balance) {
    NetworkMatrix matrix{.nodes = network.nodes, .edges = {{network.links.first, network.links.second, network.links.conductance}}, .excess = balance.slope};
    if (network.radiative_links.size() > 0) matrix.edges.push_back({network.radiative_links.first, network.radiative_links.second, balance.radiative});
    return matrix;
}

/// Shifts all temperatures so that the residuals add up to nothing. A Galerkin correction with the constant vector:
/// it removes the one error that the ledger would show and never raises the energy norm of the error.
void close_ledger(const Balance& balance, std::vector<double>& rise) {
    double excess = 0.0, slope = 0.0;
    for (std::size_t i = 0; i < rise.size(); ++i) {
        excess += balance.residual[i];
        slope += balance.slope[i];
    }
    for (double& x : rise) x += excess / slope;
}

std::vector<double> surface_temperatures(const Mesh& mesh, const Network& network, const std::vector<double>& t) {
    std::vector<double> surface(mesh.patches.size());
    for (std::size_t p = 0; p < surface.size(); ++p) surface[p] = t[mesh.patches.cell[p]];
    for (std::size_t i = 0; i < network.ties.size(); ++i) surface[network.ties.patch[i]] = network.ties.temperature[i];
    for (std::size_t w = 0; w < network.walls.size(); ++w) {
        surface[network.walls.patch[w]] = wall_state(network.walls.resistance[w], network.walls.of(w), t[network.walls.node[w]]).temperature;
    }
    return surface;
}

/// Newton's method with backtracking. Linear networks need one step.
class SteadySolver {
public:
    SteadySolver(const Mesh& mesh, const Network& network, double reference, const SteadyOptions& options)
        : mesh_(mesh), network_(network), reference_(reference), options_(options), linear_(is_linear(network)) {}

    SolveSummary run(std::vector<double>& rise) {
        Balance balance = balance_heat(network_, reference_, rise);
        summary_.history.push_back(balance.relative());
        while (!done(balance) && !at_rounding_limit()) {
            announce(balance);
            if (summary_.newton_iterations == options_.max_iterations) give_up(balance);
            balance = step(balance, rise);
            ++summary_.newton_iterations;
            summary_.history.push_back(balance.relative());
        }
        summary_.converged = true;
        summary_.rounding_limited = !done(balance);
        summary_.throughput = balance.throughput;
        summary_.residual = balance.relative();
        return std::move(summary_);
    }

private:
    bool done(const Balance& balance) const { return balance.norm <= options_.tolerance * balance.throughput || balance.norm == 0.0; }

    /// Two steps without progress, far below any physical meaning: the last digits are rounding.
    bool at_rounding_limit() const {
        const std::vector<double>& history = summary_.history;
        return history.size() > 3 && history.back() < 1e-8 && history.back() > 0.5 * history[history.size() - 3];
    }

    void announce(const Balance& balance) const {
        if (options_.progress && !options_.progress({"solving", summary_.newton_iterations, balance.relative(), options_.tolerance})) throw Cancelled();
    }

    [[noreturn]] void give_up(const Balance& balance) const {
        const auto worst = std::max_element(balance.residual.begin(), balance.residual.end(), [](double a, double b) { return std::abs(a) < std::abs(b); });
        const Index body = network_.owner[static_cast<std::size_t>(worst - balance.residual.begin())];
        throw ComputationError(fmt::format("the steady temperatures did not settle; after Newton step {} the heat residual is {:.2g} of {:.3g} W, most of it in \"{}\"",
                                           summary_.newton_iterations, balance.relative(), balance.throughput, mesh_.bodies[body].name));
    }

    /// How exactly the linear system has to be solved: fully for a linear network, else as far as Newton profits.
    double linear_tolerance(const Balance& balance) const {
        const double full = 0.2 * options_.tolerance * balance.throughput / balance.norm;
        if (linear_) return std::clamp(full, 1e-14, 0.1);
        const std::vector<double>& history = summary_.history;
        const double gain = history.size() > 1 ? history.back() / history[history.size() - 2] : 1.0;
        return std::clamp(std::max(full, 0.1 * gain * gain), 1e-14, 0.01);
    }

    Balance step(const Balance& balance, std::vector<double>& rise) {
        const std::unique_ptr<LinearSolver> solver = make_solver(linearise(network_, balance));
        std::vector<double> change(rise.size(), 0.0);
        const LinearSummary linear = solver->solve(balance.residual, change, linear_tolerance(balance));
        if (!linear.converged && !linear_) give_up(balance);  // the laws leave no slope to follow
        if (!linear.converged) {
            throw ComputationError("the linear solver stopped: " + linear.text());
        }
        summary_.linear_iterations += linear.iterations;
        summary_.linear_method = linear.levels > 0 ? fmt::format("{}, {} levels, complexity {:.2f}", linear.method, linear.levels, linear.complexity) : linear.method;

        // Where heat leaves by natural convection alone, the first slope is next to nothing and its step far beyond the target.
        constexpr double longest_step = 1000.0;  // K
        double largest = 0.0;
        for (const double c : change) largest = std::max(largest, std::abs(c));
        double damping = linear_ ? 1.0 : std::min(1.0, longest_step / largest);
        std::vector<double> trial(rise.size());
        while (true) {
            // No temperature falls to absolute zero on the way.
            for (std::size_t i = 0; i < rise.size(); ++i) trial[i] = std::max(rise[i] + damping * change[i], 0.1 * (reference_ + rise[i]) - reference_);
            Balance next = balance_heat(network_, reference_, trial);
            close_ledger(next, trial);
            next = balance_heat(network_, reference_, trial);
            if (next.norm < balance.norm || linear_) {
                rise = std::move(trial);
                return next;
            }
            damping *= 0.5;
            if (damping * largest < 1e-9) {
                if (balance.relative() > 1e-8) give_up(balance);
                return balance;  // at the limit of rounding
            }
        }
    }

    const Mesh& mesh_;
    const Network& network_;
    double reference_;
    const SteadyOptions& options_;
    bool linear_;
    SolveSummary summary_;
};

double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

}  // namespace

std::string SolveSummary::text() const {
    return fmt::format("{} in {} Newton step{} ({} linear iteration{}, {}); heat residual {:.1e} of {} throughput{}", converged ? "converged" : "not converged",
                       newton_iterations, newton_iterations == 1 ? "" : "s", linear_iterations, linear_iterations == 1 ? "" : "s",
                       linear_method.empty() ? "nothing to solve" : linear_method, residual, show_quantity(throughput, kinds::power), rounding_limited ? ", the limit of rounding" : "");
}

SteadySolution solve_steady(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const SteadyOptions& options) {
    SteadySolution solution;
    solution.study = study;
    auto start = std::chrono::steady_clock::now();
    auto network = std::make_shared<const Network>(build_network(model, *mesh, study));
    const double network_seconds = seconds_since(start);

    start = std::chrono::steady_clock::now();
    solution.reference = 0.5 * (network->lowest_known + network->highest_known);
    // Natural convection has no slope to start from where nothing is warmer than its surroundings.
    constexpr double first_guess = 10.0;  // K
    solution.rise.assign(network->nodes, network->laws.empty() ? 0.0 : first_guess);
    solution.summary = SteadySolver(*mesh, *network, solution.reference, options).run(solution.rise);
    solution.temperature.resize(network->nodes);
    for (std::size_t i = 0; i < solution.rise.size(); ++i) solution.temperature[i] = solution.reference + solution.rise[i];
    solution.patch_temperature = surface_temperatures(*mesh, *network, solution.temperature);
    solution.summary.network_seconds = network_seconds;
    solution.summary.solve_seconds = seconds_since(start);
    solution.mesh = std::move(mesh);
    solution.network = std::move(network);
    return solution;
}

SteadySolution solve_steady(const Model& model, const SteadyOptions& options) {
    const auto start = std::chrono::steady_clock::now();
    auto mesh = std::make_shared<const Mesh>(build_mesh(model));
    const double mesh_seconds = seconds_since(start);
    SteadySolution solution = solve_steady(model, std::move(mesh), studies_of(model).front(), options);
    solution.summary.mesh_seconds = mesh_seconds;
    return solution;
}

}  // namespace firnfield
