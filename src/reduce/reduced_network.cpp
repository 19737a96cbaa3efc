// From a linear network to its modes: patterns of inputs, responses to them, the matrix among those.

#include "reduce/reduced_network.hpp"

#include "linear/network_matrix.hpp"
#include "network/assemble.hpp"
#include "network/paths.hpp"
#include "reduce/basis.hpp"

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

}  // namespace

class Reducer::Work {
public:
    explicit Work(const ReductionProblem& problem)
        : p_(problem),
          leads_out_(bodies_without_path(problem.network).empty()),
          integrator_(
              problem.network, problem.reference, problem.tolerance, [](double) {}, [] { return 0; }) {}

    std::shared_ptr<const ReducedNetwork> next(const std::vector<std::vector<double>>& patterns = {}) {
        const auto clock = std::chrono::steady_clock::now();
        out_ = std::make_shared<ReducedNetwork>();
        if (!basis_) {
            find_patterns();
            split_start();
            gather_inputs();
            find_shortest();
            begin_basis();
        }
        out_->shortest = shortest_;
        if (patterns.empty())
            refine_basis();
        else
            enrich_basis(patterns);
        project();
        out_->seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - clock).count();
        return out_;
    }

    std::vector<double> response(const std::vector<double>& heat, double time) {
        constexpr double tolerance = 1e-4;
        return integrator_.relax(1.0 / time, heat, tolerance);
    }

    [[nodiscard]] const IntegratorCounts& counts() const { return integrator_.counts(); }

private:
    /// W per node of each load with a factor of one, and of each known temperature a kelvin above the reference.
    void find_patterns() {
        const std::vector<double> cold(p_.network.nodes, 0.0);
        each_input(p_.drive, p_.drive.values(p_.begin, std::vector<bool>(p_.thermostats, true)), p_.reference, [&] {
            patterns_.push_back(assemble(p_.network, {p_.reference, cold}).residual);
        });
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
        const std::size_t loads = values.load.size();
        for (std::size_t l = 0; l < loads; ++l) {
            const Drive::Course& course = p_.drive.course_of_load(l);
            add(course, course.constant() ? values.load[l] : p_.drive.scale_of_load(l), patterns_[l]);
        }
        for (std::size_t k = 0; k < values.known.size(); ++k) {
            const Drive::Course course = p_.drive.course_of_known(k);
            add(course, course.constant() ? values.known[k] - p_.reference - even_ : 1.0, patterns_[loads + k]);
        }
        if (!uneven_.empty()) inputs_.push_back({{}, integrator_.heat_of(uneven_)});
        for (const std::vector<double>& pattern : p_.patterns) inputs_.push_back({{}, pattern});
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
            const std::size_t loads = most.load.size();
            for (std::size_t l = 0; l < loads; ++l) heat += std::max(1.0, most.load[l]) * std::abs(patterns_[l][i]);
            for (std::size_t k = 0; k < most.known.size(); ++k) heat += most.known[k] * std::abs(patterns_[loads + k][i]);
            fastest = std::max(fastest, heat / p_.network.capacity[i]);
        }
        constexpr double least = 1e-8, share = 0.1;  // of the whole time
        shortest_ = std::clamp(fastest > 0.0 ? p_.tolerance / fastest : p_.longest, least * p_.longest, share * p_.longest);
    }

    void begin_basis() {
        shifts_ = shifts_for(p_.longest, shortest_);
        basis_ = std::make_shared<Basis>(p_.network.capacity, room(2 * shifts_.size()));
        basis_->add(std::vector<double>(p_.network.nodes, 1.0));  // so that heat adds up
        if (!uneven_.empty()) basis_->add(uneven_);
        if (leads_out_) respond(0.0);
        for (const double shift : shifts_) respond(shift);
    }

    /// The coarse basis is what there was. Its error is what is told; that of all is the square of it, about.
    void refine_basis() {
        coarse_ = basis_->size();
        basis_->reserve(room(2 * shifts_.size()));
        std::vector<double> finer;
        for (std::size_t j = 0; j < shifts_.size(); ++j) {
            if (j > 0) {
                finer.push_back(std::sqrt(shifts_[j - 1] * shifts_[j]));
                respond(finer.back());
            }
            finer.push_back(shifts_[j]);
        }
        shifts_ = std::move(finer);
    }

    /// The same for inputs that came to light later.
    void enrich_basis(const std::vector<std::vector<double>>& patterns) {
        coarse_ = basis_->size();
        const std::size_t known = inputs_.size();
        for (const std::vector<double>& pattern : patterns) inputs_.push_back({{}, pattern});
        basis_->reserve(room(shifts_.size() + 1));
        if (leads_out_) respond(0.0, known);
        // They matter less than what there was from the beginning: rates twice as far apart do.
        for (std::size_t j = 0; j < shifts_.size(); j += 2) respond(shifts_[j], known);
    }

    [[nodiscard]] std::size_t room(std::size_t rates) const {
        constexpr std::size_t others = 2;  // what is even, and what is uneven
        return std::min<std::size_t>(inputs_.size() * rates + others, p_.network.nodes);
    }

    void respond(double shift, std::size_t from = 0) {
        for (std::size_t i = from; i < inputs_.size(); ++i) {
            constexpr double tolerance = 1e-8;
            basis_->add(integrator_.relax(shift, inputs_[i].heat, tolerance));
            if (p_.progress) p_.progress(static_cast<int>(integrator_.counts().solves));
        }
    }

    [[nodiscard]] NetworkMatrix matrix() const {
        return {.nodes = p_.network.nodes, .edges = edges_of(p_.network, balance_.conductance), .excess = balance_.slope, .order = p_.network.order};
    }

    [[nodiscard]] Nested<Amplitudes> projected(const std::vector<double>& of_vectors) const {
        return {out_->modes.fine.from_vectors(of_vectors), out_->modes.coarse.from_vectors(of_vectors)};
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
        const std::size_t loads = p_.network.load_coverage.size();
        for (std::size_t i = 0; i < patterns_.size(); ++i) {
            (i < loads ? out_->load : out_->known).push_back(projected(basis_->project(patterns_[i])));
            if (i < loads) out_->heat_of_load.push_back(std::accumulate(patterns_[i].begin(), patterns_[i].end(), 0.0));
        }
        out_->start = projected(basis_->coordinates(p_.start));
        out_->stored = modes.fine.from_vectors(basis_->coordinates(std::vector<double>(p_.network.nodes, 1.0)));
        out_->basis = basis_;
    }

    ReductionProblem p_;
    bool leads_out_;
    std::shared_ptr<ReducedNetwork> out_{};
    std::vector<std::vector<double>> patterns_;  // of loads, then of known temperatures
    Balance balance_{};
    double even_ = 0.0;           // K above the reference
    std::vector<double> uneven_;  // K above that; empty where there is nothing
    std::vector<Input> inputs_;
    double shortest_ = 0.0;  // s
    std::vector<double> shifts_;
    std::shared_ptr<Basis> basis_;
    std::size_t coarse_ = 0;
    Integrator integrator_;
};

Reducer::Reducer(const ReductionProblem& problem) : work_(std::make_unique<Work>(problem)) {}
Reducer::~Reducer() = default;
std::shared_ptr<const ReducedNetwork> Reducer::next() { return work_->next(); }
std::shared_ptr<const ReducedNetwork> Reducer::next_with(const std::vector<std::vector<double>>& patterns) { return work_->next(patterns); }
std::vector<double> Reducer::response(const std::vector<double>& heat, double time) { return work_->response(heat, time); }
const IntegratorCounts& Reducer::counts() const { return work_->counts(); }

void each_input(Drive& drive, const Drive::Values& like, double reference, const std::function<void()>& use) {
    Drive::Values nothing = like;
    std::fill(nothing.load.begin(), nothing.load.end(), 0.0);
    std::fill(nothing.known.begin(), nothing.known.end(), reference);
    for (std::size_t l = 0; l < nothing.load.size(); ++l) {
        Drive::Values one = nothing;
        one.load[l] = 1.0;
        drive.set(one);
        use();
    }
    for (std::size_t k = 0; k < nothing.known.size(); ++k) {
        Drive::Values one = nothing;
        one.known[k] += 1.0;
        drive.set(one);
        use();
    }
    drive.set(nothing);
}

std::vector<double> ReducedNetwork::difference(const Nested<Amplitudes>& state) const {
    std::vector<double> out = modes.fine.coordinates(state.fine);
    const std::vector<double> coarse = modes.coarse.coordinates(state.coarse);
    for (std::size_t c = 0; c < coarse.size(); ++c) out[c] -= coarse[c];
    return out;
}

double largest_rise(const Basis& basis, const std::vector<std::vector<double>>& coordinates) {
    double most = 0.0;
    const auto count = static_cast<std::ptrdiff_t>(basis.nodes());
#pragma omp parallel for schedule(static) reduction(max : most)
    for (std::ptrdiff_t i = 0; i < count; ++i) {
        for (const std::vector<double>& at : coordinates) most = std::max(most, std::abs(basis.at(static_cast<std::size_t>(i), at)));
    }
    return most;
}

}  // namespace firnfield
