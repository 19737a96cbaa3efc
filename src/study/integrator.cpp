// One step in time, by stages, in heat content.

#include "study/integrator.hpp"

#include <firnfield/error.hpp>

#include "base/memory.hpp"
#include "material/heat_content.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

constexpr double gamma = 0.25;
constexpr std::size_t stages = 6;
constexpr double c[stages] = {0.0, 0.5, 83.0 / 250, 31.0 / 50, 17.0 / 20, 1.0};
constexpr double a[stages][stages] = {
    {},
    {gamma},
    {8611.0 / 62500, -1743.0 / 31250},
    {5012029.0 / 34652500, -654441.0 / 2922500, 174375.0 / 388108},
    {15267082809.0 / 155376265600, -71443401.0 / 120774400, 730878875.0 / 902184768, 2285395.0 / 8070912},
    {82889.0 / 524892, 0.0, 15625.0 / 83664, 69875.0 / 102672, -2260.0 / 8211},
};
constexpr double b[stages] = {82889.0 / 524892, 0.0, 15625.0 / 83664, 69875.0 / 102672, -2260.0 / 8211, gamma};
constexpr double b_hat[stages] = {4586570599.0 / 29645900160, 0.0, 178811875.0 / 945068544, 814220225.0 / 1159782912, -3700637.0 / 11593932, 61727.0 / 225920};

/// Stages look at what drives the network just inside the step, so that a jump at its end belongs to the next one.
double inside(double begin, double length, double share) { return begin + length * std::clamp(share, 1e-7, 1.0 - 1e-7); }

double largest(const std::vector<double>& v) {
    double most = 0.0;
    for (const double x : v) most = std::max(most, std::abs(x));
    return most;
}

}  // namespace

LinearSolver& ShiftedSolvers::at(const NetworkMatrix& matrix, double shift, IntegratorCounts& counts) {
    // Factorisations are kept for exactly one shift. Hierarchies serve a range, within which shifting them costs little.
    const bool direct = solves_directly(matrix.nodes, Solves::many);
    const std::size_t most = direct ? 16 : hierarchies_kept(matrix.nodes);
    constexpr double range = 3.0;
    Kept* best = nullptr;
    for (Kept& kept : kept_) {
        if (kept.shift == shift) best = &kept;
    }
    if (best == nullptr && !direct) {
        for (Kept& kept : kept_) {
            const double ratio = std::max(kept.built_for, shift) / std::max(std::min(kept.built_for, shift), 1e-300);
            if (ratio <= range && (best == nullptr || kept.used > best->used)) best = &kept;
        }
    }
    if (best == nullptr) {
        if (kept_.size() < most) {
            kept_.emplace_back();
            best = &kept_.back();
        } else {
            best = &*std::min_element(kept_.begin(), kept_.end(), [](const Kept& x, const Kept& y) { return x.used < y.used; });
        }
        NetworkMatrix shifted = matrix;
        shifted.shift = shift;
        if (direct && best->solver) {
            best->solver->shift(shift);  // keeps the ordering
        } else {
            best->solver = make_solver(shifted, Solves::many);
        }
        best->built_for = best->shift = shift;
        ++counts.factorisations;
    }
    if (best->shift != shift) {
        best->solver->shift(shift);
        best->shift = shift;
    }
    best->used = ++clock_;
    return *best->solver;
}

Integrator::Integrator(const Network& network, double reference, double tolerance, DriveTo drive, std::function<int()> coefficients)
    : network_(network),
      reference_(reference),
      tolerance_(tolerance),
      drive_(std::move(drive)),
      coefficients_(std::move(coefficients)),
      linear_(network.is_linear() && network.heat_content.empty()) {
    // Where Newton's method goes on, the next step takes what a solve leaves; else the solve has to be exact to a thousandth of the tolerance.
    linear_tolerance_ = linear_ ? std::clamp(1e-3 * tolerance, 1e-9, 1e-4) : 3e-3;
}

const HeatContent* Integrator::content_of(std::size_t node) const {
    return network_.heat_content.empty() ? nullptr : network_.heat_content[network_.owner[node]].get();
}

double Integrator::content(std::size_t node, double rise) const {
    const HeatContent* law = content_of(node);
    return law == nullptr ? rise : law->at(reference_ + rise) - law->at(reference_);
}

double Integrator::content_slope(std::size_t node, double rise) const {
    const HeatContent* law = content_of(node);
    return law == nullptr ? 1.0 : law->slope(reference_ + rise);
}

void Integrator::move_to(double time, std::vector<double> rise) {
    time_ = time;
    rise_ = std::move(rise);
    rate_.assign(rise_.size(), 0.0);
}

void Integrator::start(double time, std::vector<double> rise) {
    move_to(time, std::move(rise));
    forget();
}

void Integrator::resume(double time, std::vector<double> rise, std::vector<double> rate, HeatFlows flows) {
    start(time, std::move(rise));
    rate_ = std::move(rate);
    flows_ = std::move(flows);
}

void Integrator::forget() {
    linearised_ = false;
    contraction_ = 0.3;
    solvers_.clear();
}

double Integrator::restart() {
    drive_(time_);
    const Balance balance = assemble(network_, {reference_, rise_});
    double jump = 0.0;
    for (std::size_t i = 0; i < rise_.size(); ++i) {
        const double rate = balance.residual[i] / network_.capacity[i];
        jump = std::max(jump, std::abs(rate - rate_[i]) / content_slope(i, rise_[i]));
        rate_[i] = rate;
    }
    flows_ = heat_flows(network_, {reference_, rise_});
    return jump;
}

void Integrator::linearise(const Balance& balance, const std::vector<double>& rise) {
    slope_ = balance.slope;
    for (double& s : slope_) s = std::max(s, 0.0);  // heat that grows with temperature is left to the iteration
    conductance_ = balance.conductance;
    capacity_ = network_.capacity;
    if (!network_.heat_content.empty()) {
        for (std::size_t i = 0; i < rise.size(); ++i) capacity_[i] *= content_slope(i, rise[i]);
    }
    linearised_ = true;
    linearised_coefficients_ = coefficients_();
    solvers_.clear();
}

/// Improves next_ by one step of Newton's method with the linearisation as it is; correction_ holds what was added.
void Integrator::correct(const Balance& balance, double shift, const std::vector<double>& base) {
    const std::size_t n = next_.size();
    residual_.resize(n);
    correction_.assign(n, 0.0);
    for (std::size_t i = 0; i < n; ++i) residual_[i] = balance.residual[i] - shift * network_.capacity[i] * (content_[i] - base[i]);
    const LinearSummary summary = solvers_.at(matrix(), shift, counts_).solve(residual_, correction_, linear_tolerance_);
    ++counts_.solves;
    counts_.linear_iterations += summary.iterations;
    if (!summary.converged) throw ComputationError("the linear solver stopped within a time step: " + summary.text());
    // A shift of all temperatures that leaves no heat unaccounted for: the rows of the matrix add up to `diagonal`.
    double left = 0.0, diagonal = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
        const double row = shift * capacity_[i] + slope_[i];
        left += residual_[i] - row * correction_[i];
        diagonal += row;
    }
    for (double& x : correction_) x += left / diagonal;
    for (std::size_t i = 0; i < n; ++i) {
        correction_[i] *= content_slope(i, next_[i]);  // of the content from here on
        content_[i] += correction_[i];
        next_[i] = network_.heat_content.empty() ? content_[i] : rise_of_content(network_, reference_, i, content_[i]);
    }
}

/// The corrections that were left out still hold some heat. A shift of all temperatures closes the balance, unless it would show.
bool Integrator::close_balance(const Balance& balance, double shift, const std::vector<double>& base) {
    double left = 0.0, diagonal = 0.0;
    for (std::size_t i = 0; i < next_.size(); ++i) {
        left += balance.residual[i] - shift * network_.capacity[i] * (content_[i] - base[i]);
        diagonal += shift * network_.capacity[i] * content_slope(i, next_[i]) + std::max(0.0, balance.slope[i]);
    }
    const double rise = left / diagonal;
    // Small enough for thousands of them in the same direction to stay unseen.
    if (!(std::abs(rise) <= 1e-6 * tolerance_)) return false;
    for (std::size_t i = 0; i < next_.size(); ++i) {
        content_[i] += content_slope(i, next_[i]) * rise;
        next_[i] = network_.heat_content.empty() ? content_[i] : rise_of_content(network_, reference_, i, content_[i]);
    }
    return true;
}

/// Finds the rate k of a stage: C k = heat entering at base + k / shift, where base is the content without it.
bool Integrator::solve_stage(double shift, const std::vector<double>& base, const std::vector<double>& guess, std::vector<double>& rate) {
    const std::size_t n = base.size();
    content_.resize(n);
    next_.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
        content_[i] = base[i] + guess[i] / shift;
        next_[i] = network_.heat_content.empty() ? content_[i] : rise_of_content(network_, reference_, i, content_[i]);
    }
    constexpr int most = 30;
    double last = 0.0;
    bool settled = false;
    for (int iteration = 0; iteration <= most; ++iteration) {
        const Balance balance = assemble(network_, {reference_, next_});
        if (settled && close_balance(balance, shift, base)) {
            // Once more, since the first shift may have been rounded or bent.
            static_cast<void>(close_balance(assemble(network_, {reference_, next_}), shift, base));
            break;
        }
        if (iteration == most) return false;
        const bool slow = iteration > 1 && contraction_ > 0.3;
        if (!linearised_ || linearised_coefficients_ != coefficients_() || slow || (!network_.heat_content.empty() && iteration > 0)) linearise(balance, next_);
        correct(balance, shift, base);
        if (linear_) break;
        const double change = largest(correction_);
        if (!std::isfinite(change)) return false;
        if (iteration > 0 && last > 0.0) contraction_ = std::clamp(change / last, 1e-3, 1.0);
        last = change;
        // What is left after this correction is about its contraction times as large.
        settled = ((iteration > 0 || contraction_ < 0.05) && change * contraction_ <= 5e-3 * tolerance_) || change <= 1e-5 * tolerance_;
    }
    rate.resize(n);
    for (std::size_t i = 0; i < n; ++i) rate[i] = shift * (content_[i] - base[i]);
    return true;
}

double Integrator::attempt(double length) {
    const std::size_t n = rise_.size();
    const double shift = 1.0 / (gamma * length);
    shift_ = shift;
    begin_content_.resize(n);
    for (std::size_t i = 0; i < n; ++i) begin_content_[i] = network_.heat_content.empty() ? rise_[i] : content(i, rise_[i]);
    stage_[0] = rate_;
    moved_ = {};
    // The flows that the rates belong to: what drives the network may have moved on by a rounding of the time, and heat would be booked twice.
    moved_.add(length * b[0], flows_);
    std::vector<double> base(n);
    for (std::size_t s = 1; s < stages; ++s) {
        base = begin_content_;
        for (std::size_t j = 0; j < s; ++j) {
            if (a[s][j] == 0.0) continue;
            const double weight = length * a[s][j];
            const std::vector<double>& k = stage_[j];
            for (std::size_t i = 0; i < n; ++i) base[i] += weight * k[i];
        }
        drive_(inside(time_, length, c[s]));
        if (!solve_stage(shift, base, stage_[s - 1], stage_[s])) {
            ++counts_.newton_failures;
            linearised_ = false;
            return std::numeric_limits<double>::infinity();
        }
        if (b[s] == 0.0) continue;
        next_flows_ = heat_flows(network_, {reference_, next_});
        moved_.add(length * b[s], next_flows_);
    }
    stored_ = released_ = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
        const double heat = network_.capacity[i] * (content_[i] - begin_content_[i]);
        stored_ += heat;
        released_ += std::max(0.0, -heat);
    }
    return error_of(length);
}

double Integrator::error_of(double length) const {
    // What is estimated is the third-order companion's error of one step. A fifth of the tolerance for it leaves room for what steps add
    // up to, and keeps the cubic through both ends of a step within the tolerance, too.
    constexpr double share = 0.2;
    double most = 0.0;
    for (std::size_t i = 0; i < rise_.size(); ++i) {
        double e = 0.0;
        for (std::size_t s = 0; s < stages; ++s) e += (b[s] - b_hat[s]) * stage_[s][i];
        // Of the heat content, as kelvin of the specific heat as given: where something melts, its temperature would tell nothing.
        most = std::max(most, std::abs(length * e));
    }
    return std::max(most / (share * tolerance_), phase_change_error());
}

/// A step in which a cell begins or ends to melt has a bend that the estimate does not see: there the heat content may change by
/// fifty times the tolerance at most. To the fourth power, as errors are expected to grow with the length of a step.
double Integrator::phase_change_error() const {
    if (network_.heat_content.empty()) return 0.0;
    constexpr double most_change = 50.0;
    double largest_change = 0.0;
    for (std::size_t i = 0; i < rise_.size(); ++i) {
        const HeatContent* law = content_of(i);
        if (law == nullptr) continue;
        const double before = law->melted(reference_ + rise_[i]), after = law->melted(reference_ + next_[i]);
        const bool bends = before != after && (before == 0.0 || before == 1.0 || after == 0.0 || after == 1.0);
        if (bends) largest_change = std::max(largest_change, std::abs(content_[i] - begin_content_[i]));
    }
    return std::pow(largest_change / (most_change * tolerance_), 4);
}

void Integrator::accept(double end) {
    time_ = end;
    rise_ = next_;
    rate_ = stage_[5];
    flows_ = next_flows_;
}

NetworkMatrix Integrator::matrix() const {
    return {.nodes = rise_.size(),
            .edges = edges_of(network_, conductance_),
            .excess = slope_,
            .capacity = capacity_,
            .order = network_.order,
            .lumped_from = network_.cells};
}

void Integrator::relinearise() {
    if (!linear_) linearised_ = false;
}

std::vector<double> Integrator::relax(double shift, const std::vector<double>& heat, double tolerance) {
    if (!linearised_ || linearised_coefficients_ != coefficients_()) linearise(assemble(network_, {reference_, rise_}), rise_);
    std::vector<double> x(heat.size(), 0.0);
    const LinearSummary summary = solvers_.at(matrix(), shift, counts_).solve(heat, x, tolerance);
    ++counts_.solves;
    counts_.linear_iterations += summary.iterations;
    if (!summary.converged) throw ComputationError("what the temperatures tend to could not be worked out: " + summary.text());
    return x;
}

/// Singly diagonally implicit in two stages, the first after a quarter of the step, both with the matrix of the step itself. Of first order, with an error
/// constant of a sixteenth; what is fast fades as 8/(λh), nothing by less than two thirds once it is faster than the step.
std::vector<double> Integrator::march_errors(const std::vector<double>& heat_begin, const std::vector<double>& heat_end, std::vector<double>& content) {
    constexpr double tolerance = 1e-3;  // the estimate is not as good
    if (!linearised_ || linearised_coefficients_ != coefficients_()) linearise(assemble(network_, {reference_, rise_}), rise_);
    LinearSolver& solver = solvers_.at(matrix(), shift_, counts_);
    std::vector<double> base = content, x = temperature_errors(content), heat(content.size());
    const auto solve_stage_at = [&](double share) {
        for (std::size_t i = 0; i < heat.size(); ++i) heat[i] = (1.0 - share) * heat_begin[i] + share * heat_end[i] + shift_ * network_.capacity[i] * base[i];
        const LinearSummary summary = solver.solve(heat, x, tolerance);
        if (!summary.converged && !(summary.relative_residual <= 0.1)) throw ComputationError("the solve stopped: " + summary.text());
    };
    solve_stage_at(gamma);
    for (std::size_t i = 0; i < base.size(); ++i) base[i] += (1.0 - gamma) / gamma * (capacity_[i] / network_.capacity[i] * x[i] - base[i]);
    solve_stage_at(1.0);
    for (std::size_t i = 0; i < x.size(); ++i) {
        content[i] = capacity_[i] / network_.capacity[i] * x[i];
        if (!std::isfinite(x[i])) throw ComputationError("the solve gave no numbers");
    }
    return x;
}

std::vector<double> Integrator::temperature_errors(const std::vector<double>& content) const {
    std::vector<double> out = content;
    if (network_.heat_content.empty()) return out;
    for (std::size_t i = 0; i < out.size(); ++i) out[i] /= content_slope(i, rise_[i]);
    return out;
}

std::vector<double> Integrator::heat_of(const std::vector<double>& content_rate) const {
    std::vector<double> heat = content_rate;
    for (std::size_t i = 0; i < heat.size(); ++i) heat[i] *= network_.capacity[i];
    return heat;
}

std::vector<double> Integrator::remaining_change() {
    relinearise();
    return relax(0.0, heat_of(rate_), 1e-6);
}

double Integrator::slowest_time_constant() {
    // Inverse iteration from equal temperatures: the quotient of stored and conducted heat grows towards the slowest constant.
    relinearise();
    std::vector<double> v(rise_.size(), 1.0);
    double constant = 0.0;
    constexpr int most = 12;
    for (int iteration = 0; iteration < most; ++iteration) {
        const std::vector<double> next = relax(0.0, heat_of(v), 1e-5);
        double stored = 0.0, conducted = 0.0;  // nextᵀ C next and nextᵀ K next = nextᵀ C v
        for (std::size_t i = 0; i < v.size(); ++i) {
            stored += next[i] * network_.capacity[i] * next[i];
            conducted += next[i] * network_.capacity[i] * v[i];
        }
        const double last = constant;
        constant = stored / conducted;
        if (std::abs(constant - last) < 1e-3 * constant) break;
        const double scale = 1.0 / largest(next);
        for (std::size_t i = 0; i < v.size(); ++i) v[i] = scale * next[i];
    }
    return constant;
}

}  // namespace firnfield
