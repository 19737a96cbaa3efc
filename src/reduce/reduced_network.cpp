// From a linear network to its modes: patterns of inputs, responses to them, the matrix among those.

#include "reduce/reduced_network.hpp"

#include "linear/network_matrix.hpp"
#include "network/assemble.hpp"
#include "network/paths.hpp"
#include "reduce/basis.hpp"
#include "study/integrator.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <numeric>

namespace firnfield {
namespace {

/// Heat per node that makes inputs, and what they have in common.
struct Input {
    Drive::Course course{};
    std::vector<double> heat{};  // W per node
};

class Reducer {
public:
    explicit Reducer(const ReductionProblem& problem)
        : p_(problem),
          clock_(std::chrono::steady_clock::now()),
          integrator_(
              problem.network, problem.reference, problem.tolerance, [](double) {}, [] { return 0; }) {}

    std::shared_ptr<const ReducedNetwork> run() {
        find_patterns();
        split_start();
        gather_inputs();
        find_shortest();
        find_basis();
        project();
        out_->seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - clock_).count();
        return out_;
    }

private:
    /// W per node of each load with a factor of one, and of each known temperature a kelvin above the reference.
    void find_patterns() {
        const std::vector<bool> on(p_.thermostats, true);
        Drive::Values nothing = p_.drive.values(p_.begin, on);
        std::fill(nothing.load.begin(), nothing.load.end(), 0.0);
        std::fill(nothing.known.begin(), nothing.known.end(), p_.reference);
        const std::vector<double> cold(p_.network.nodes, 0.0);
        const auto pattern_of = [&](const Drive::Values& values) {
            p_.drive.set(values);
            return assemble(p_.network, {p_.reference, cold}).residual;
        };
        for (std::size_t l = 0; l < nothing.load.size(); ++l) {
            Drive::Values one = nothing;
            one.load[l] = 1.0;
            loads_.push_back(pattern_of(one));
        }
        for (std::size_t k = 0; k < nothing.known.size(); ++k) {
            Drive::Values one = nothing;
            one.known[k] += 1.0;
            knowns_.push_back(pattern_of(one));
        }
        p_.drive.set(nothing);
        balance_ = assemble(p_.network, {p_.reference, cold});
        integrator_.start(p_.begin, cold);
    }

    /// An even temperature is one of the modes; what is uneven has to be led away like an input.
    void split_start() {
        double heat = 0.0, capacity = 0.0;
        for (std::size_t i = 0; i < p_.start.size(); ++i) {
            heat += p_.network.capacity[i] * p_.start[i];
            capacity += p_.network.capacity[i];
        }
        even_ = heat / capacity;
        uneven_ = p_.start;
        double most = 0.0;
        for (double& x : uneven_) {
            x -= even_;
            most = std::max(most, std::abs(x));
        }
        if (most < 1e-9) uneven_.clear();
    }

    /// Inputs that go up and down together are one.
    void gather_inputs() {
        const std::vector<bool> on(p_.thermostats, true);
        const Drive::Values values = p_.drive.values(p_.begin, on);
        const auto add = [&](const Drive::Course& course, double times, const std::vector<double>& heat) {
            auto input = std::find_if(inputs_.begin(), inputs_.end(), [&](const Input& i) { return i.course == course; });
            if (input == inputs_.end()) input = inputs_.insert(input, {course, std::vector<double>(p_.network.nodes, 0.0)});
            for (std::size_t i = 0; i < heat.size(); ++i) input->heat[i] += times * heat[i];
        };
        for (std::size_t l = 0; l < loads_.size(); ++l) {
            const Drive::Course& course = p_.drive.course_of_load(l);
            add(course, course.constant() ? values.load[l] : p_.drive.scale_of_load(l), loads_[l]);
        }
        for (std::size_t k = 0; k < knowns_.size(); ++k) {
            const Drive::Course course = p_.drive.course_of_known(k);
            add(course, course.constant() ? values.known[k] - p_.reference - even_ : 1.0, knowns_[k]);
        }
        if (!uneven_.empty()) inputs_.push_back({{}, integrator_.heat_of(uneven_)});
        std::erase_if(inputs_, [](const Input& i) { return std::all_of(i.heat.begin(), i.heat.end(), [](double w) { return w == 0.0; }); });
    }

    /// How fast temperatures can move at most when everything that varies jumps at once.
    void find_shortest() {
        const std::vector<bool> on(p_.thermostats, true);
        Drive::Values most = p_.drive.values(p_.begin, on);
        for (double& t : most.known) t = std::abs(t - p_.reference - even_);
        constexpr int looks = 200;
        for (int n = 1; n <= looks; ++n) {
            const Drive::Values now = p_.drive.values(p_.begin + p_.longest * n / looks, on);
            for (std::size_t l = 0; l < most.load.size(); ++l) most.load[l] = std::max(std::abs(most.load[l]), std::abs(now.load[l]));
            for (std::size_t k = 0; k < most.known.size(); ++k) most.known[k] = std::max(most.known[k], std::abs(now.known[k] - p_.reference - even_));
        }
        double fastest = 0.0;
        for (std::size_t i = 0; i < p_.network.nodes; ++i) {
            double heat = 0.0;
            for (std::size_t l = 0; l < loads_.size(); ++l) heat += std::max(1.0, most.load[l]) * std::abs(loads_[l][i]);
            for (std::size_t k = 0; k < knowns_.size(); ++k) heat += most.known[k] * std::abs(knowns_[k][i]);
            fastest = std::max(fastest, heat / p_.network.capacity[i]);
        }
        constexpr double least = 1e-8, share = 0.1;  // of the whole time
        out_->shortest = std::clamp(fastest > 0.0 ? p_.tolerance / fastest : p_.longest, least * p_.longest, share * p_.longest);
    }

    void find_basis() {
        std::vector<double> shifts = shifts_for(p_.longest, out_->shortest);
        for (int round = 1; round < p_.density; ++round) {
            for (std::size_t j = shifts.size() - 1; j > 0; --j)
                shifts.insert(shifts.begin() + static_cast<std::ptrdiff_t>(j), std::sqrt(shifts[j - 1] * shifts[j]));
        }
        const bool leads_out = bodies_without_path(p_.network).empty();
        const auto total = static_cast<int>(inputs_.size() * (shifts.size() + (leads_out ? 1 : 0)));
        constexpr std::size_t even_and_uneven = 2;
        basis_.emplace(p_.network.capacity, std::min<std::size_t>(static_cast<std::size_t>(total) + even_and_uneven, p_.network.nodes));
        basis_->add(std::vector<double>(p_.network.nodes, 1.0));  // so that heat adds up
        if (!uneven_.empty()) basis_->add(uneven_);
        const auto respond = [&](double shift) {
            for (const Input& input : inputs_) {
                constexpr double tolerance = 1e-8;
                basis_->add(integrator_.relax(shift, input.heat, tolerance));
                ++out_->solves;
                if (p_.progress) p_.progress(static_cast<int>(out_->solves), total);
            }
        };
        if (leads_out) respond(0.0);
        for (std::size_t j = 0; j < shifts.size(); j += 2) respond(shifts[j]);
        coarse_ = basis_->size();
        for (std::size_t j = 1; j < shifts.size(); j += 2) respond(shifts[j]);
    }

    [[nodiscard]] NetworkMatrix matrix() const {
        return {.nodes = p_.network.nodes, .edges = edges_of(p_.network, balance_.conductance), .excess = balance_.slope, .order = p_.network.order};
    }

    [[nodiscard]] Nested<Amplitudes> projected(const std::vector<double>& of_columns) const {
        return {out_->modes.fine.from_columns(of_columns), out_->modes.coarse.from_columns(of_columns)};
    }

    void project() {
        std::vector<std::vector<double>> among;
        std::vector<double> heat(p_.network.nodes);
        for (std::size_t v = 0; v < basis_->size(); ++v) {
            multiply(matrix(), basis_->vector(v), heat);
            among.push_back(basis_->project(heat));
        }
        Nested<Modes>& modes = out_->modes;
        modes = {Modes(among, basis_->size()), Modes(among, coarse_)};
        for (const std::vector<double>& pattern : loads_) {
            out_->load.push_back(projected(basis_->project(pattern)));
            out_->heat_of_load.push_back(std::accumulate(pattern.begin(), pattern.end(), 0.0));
        }
        for (const std::vector<double>& pattern : knowns_) out_->known.push_back(projected(basis_->project(pattern)));
        out_->start = projected(basis_->coordinates(p_.start));
        out_->stored = modes.fine.from_columns(basis_->coordinates(std::vector<double>(p_.network.nodes, 1.0)));
        for (std::size_t c = 0; c < coarse_; ++c) {
            for (std::size_t f = 0; f < modes.fine.size(); ++f) {
                double sum = 0.0;
                for (std::size_t column = 0; column < coarse_; ++column) sum += modes.coarse.share(column, c) * modes.fine.share(column, f);
                out_->coarse_in_fine.push_back(sum);
            }
        }
        out_->nodes = p_.network.nodes;
        out_->weight = basis_->take_as(modes.fine.shares());
    }

    ReductionProblem p_;
    std::chrono::steady_clock::time_point clock_;
    std::shared_ptr<ReducedNetwork> out_ = std::make_shared<ReducedNetwork>();
    std::vector<std::vector<double>> loads_, knowns_;
    Balance balance_{};
    double even_ = 0.0;           // K above the reference
    std::vector<double> uneven_;  // K above that; empty where there is nothing
    std::vector<Input> inputs_;
    std::optional<Basis> basis_;
    std::size_t coarse_ = 0;
    Integrator integrator_;
};

}  // namespace

double ReducedNetwork::rise(std::size_t node, const Amplitudes& at) const {
    const double* row = weight.data() + node * at.size();
    double sum = 0.0;
    for (std::size_t k = 0; k < at.size(); ++k) sum += row[k] * at[k];
    return sum;
}

std::vector<double> ReducedNetwork::rises(const Amplitudes& at) const {
    std::vector<double> out(nodes);
    const auto count = static_cast<std::ptrdiff_t>(nodes);
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t i = 0; i < count; ++i) out[static_cast<std::size_t>(i)] = rise(static_cast<std::size_t>(i), at);
    return out;
}

Amplitudes ReducedNetwork::difference(const Nested<Amplitudes>& state) const {
    Amplitudes out = state.fine;
    for (std::size_t c = 0; c < state.coarse.size(); ++c) {
        for (std::size_t f = 0; f < out.size(); ++f) out[f] -= coarse_in_fine[c * out.size() + f] * state.coarse[c];
    }
    return out;
}

double ReducedNetwork::largest_rise(const std::vector<Amplitudes>& states) const {
    double most = 0.0;
    const auto count = static_cast<std::ptrdiff_t>(nodes);
#pragma omp parallel for schedule(static) reduction(max : most)
    for (std::ptrdiff_t i = 0; i < count; ++i) {
        for (const Amplitudes& at : states) most = std::max(most, std::abs(rise(static_cast<std::size_t>(i), at)));
    }
    return most;
}

std::shared_ptr<const ReducedNetwork> reduce_network(const ReductionProblem& problem) { return Reducer(problem).run(); }

}  // namespace firnfield
