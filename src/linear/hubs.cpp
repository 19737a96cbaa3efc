// Block elimination of nodes with very many couplings.

#include "linear/hubs.hpp"

#include <firnfield/error.hpp>

#include <Eigen/Cholesky>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>
#include <map>

namespace firnfield {
namespace {

double norm(std::span<const double> v) {
    double sum = 0.0;
    for (const double x : v) sum += x * x;
    return std::sqrt(sum);
}

class AroundHubs final : public LinearSolver {
public:
    AroundHubs(const NetworkMatrix& matrix, std::vector<std::uint32_t> hubs,
               const std::function<std::unique_ptr<LinearSolver>(const NetworkMatrix&)>& make_inner)
        : matrix_(matrix), reduced_(matrix), hubs_(std::move(hubs)), columns_(hubs_.size()), place_(matrix.nodes, no_hub) {
        for (std::size_t h = 0; h < hubs_.size(); ++h) place_[hubs_[h]] = static_cast<std::uint32_t>(h);
        take_out_hubs();
        reduced_.excess = excess_;
        inner_ = make_inner(reduced_);
        eliminate();
    }

    LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) override {
        const auto start = std::chrono::steady_clock::now();
        inner_->watch = watch;
        std::vector<double> residual(b.size()), correction(b.size());
        const double scale = norm(b);
        const auto left = [&] {
            multiply(matrix_, x, residual);
            for (std::size_t i = 0; i < b.size(); ++i) residual[i] = b[i] - residual[i];
            return scale > 0.0 ? norm(residual) / scale : 0.0;
        };
        LinearSummary out;
        out.relative_residual = left();
        constexpr int most = 10;
        for (int round = 0; round < most && out.relative_residual > tolerance; ++round) {
            const LinearSummary inner = apply(residual, correction, std::clamp(0.1 * tolerance / out.relative_residual, 1e-9, 1e-2));
            out.method = inner.method;
            out.iterations += inner.iterations;
            out.levels = inner.levels;
            out.complexity = inner.complexity;
            out.bytes = inner.bytes + 8 * hubs_.size() * matrix_.nodes;
            for (std::size_t i = 0; i < x.size(); ++i) x[i] += correction[i];
            const double last = out.relative_residual;
            out.relative_residual = left();
            if (out.relative_residual <= 0.5 * last) continue;
            if (out.relative_residual > last) {
                for (std::size_t i = 0; i < x.size(); ++i) x[i] -= correction[i];
                out.relative_residual = left();
            }
            break;
        }
        out.method += out.method.empty() ? "nothing to solve" : ", around nodes with very many couplings";
        // As other solvers end: to the tolerance, or as far as double precision goes.
        out.converged = out.relative_residual <= std::max(tolerance, 1e-12) || out.relative_residual * scale <= rounding_of(x);
        out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        return out;
    }

    void precondition(std::span<const double> r, std::span<double> z) override {
        std::vector<double> right = without_hubs(r);
        inner_->precondition(right, z);
        finish(r, z);
    }

    void shift(double shift) override {
        matrix_.shift = reduced_.shift = shift;
        inner_->shift(shift);
        eliminate();
    }

private:
    static constexpr std::uint32_t no_hub = 0xFFFFFFFFU;

    /// The couplings of a hub to all others, W/K by node.
    struct Column {
        std::vector<std::uint32_t> node{};
        std::vector<double> conductance{};
        std::vector<double> solution{};  // K⁻¹ of them
    };

    void take_out_hubs() {
        excess_.assign(matrix_.excess.begin(), matrix_.excess.end());
        diagonal_.assign(hubs_.size(), 0.0);
        between_ = Eigen::MatrixXd::Zero(static_cast<Eigen::Index>(hubs_.size()), static_cast<Eigen::Index>(hubs_.size()));
        reduced_.edges.clear();
        for (const Edges& edges : matrix_.edges) {
            const auto is_hub = [&](std::uint32_t node) { return place_[node] != no_hub; };
            if (std::none_of(edges.first.begin(), edges.first.end(), is_hub) && std::none_of(edges.second.begin(), edges.second.end(), is_hub)) {
                reduced_.edges.push_back(edges);
                continue;
            }
            kept_.push_back(std::make_unique<Kept>());
            Kept& kept = *kept_.back();
            for (std::size_t e = 0; e < edges.first.size(); ++e) {
                const std::uint32_t a = edges.first[e], b = edges.second[e];
                const double g = edges.conductance[e];
                if (is_hub(a)) diagonal_[place_[a]] += g;
                if (is_hub(b)) diagonal_[place_[b]] += g;
                if (is_hub(a) && is_hub(b)) {
                    between_(place_[a], place_[b]) += g;
                    between_(place_[b], place_[a]) += g;
                } else if (is_hub(a) || is_hub(b)) {
                    const std::uint32_t hub = is_hub(a) ? a : b, node = is_hub(a) ? b : a;
                    columns_[place_[hub]].node.push_back(node);
                    columns_[place_[hub]].conductance.push_back(g);
                    excess_[node] += g;
                } else {
                    kept.first.push_back(a);
                    kept.second.push_back(b);
                    kept.conductance.push_back(g);
                }
            }
            reduced_.edges.push_back({kept.first, kept.second, kept.conductance});
        }
        for (const std::uint32_t hub : hubs_) excess_[hub] = 1.0;  // alone, and read by nobody
    }

    /// Solves for the columns, and factorises what is left of the hubs.
    void eliminate() {
        const auto count = static_cast<Eigen::Index>(hubs_.size());
        std::vector<double> right(matrix_.nodes);
        for (Column& column : columns_) {
            std::fill(right.begin(), right.end(), 0.0);
            for (std::size_t i = 0; i < column.node.size(); ++i) right[column.node[i]] += column.conductance[i];
            column.solution.resize(matrix_.nodes, 0.0);
            const LinearSummary summary = inner_->solve(right, column.solution, 1e-9);
            if (!summary.converged) throw ComputationError("the linear solver stopped: " + summary.text());
        }
        Eigen::MatrixXd schur = -between_;
        for (Eigen::Index h = 0; h < count; ++h) {
            const std::uint32_t hub = hubs_[static_cast<std::size_t>(h)];
            schur(h, h) +=
                diagonal_[static_cast<std::size_t>(h)] + matrix_.excess[hub] + (matrix_.capacity.empty() ? 0.0 : matrix_.shift * matrix_.capacity[hub]);
            for (Eigen::Index other = 0; other < count; ++other)
                schur(h, other) -= gathered(columns_[static_cast<std::size_t>(h)], columns_[static_cast<std::size_t>(other)].solution);
        }
        schur_.compute(0.5 * (schur + schur.transpose()));
        if (schur_.info() != Eigen::Success) throw ComputationError("the heat balance of lumped nodes is not positive definite");
    }

    [[nodiscard]] static double gathered(const Column& column, std::span<const double> x) {
        double sum = 0.0;
        for (std::size_t i = 0; i < column.node.size(); ++i) sum += column.conductance[i] * x[column.node[i]];
        return sum;
    }

    [[nodiscard]] std::vector<double> without_hubs(std::span<const double> r) const {
        std::vector<double> out(r.begin(), r.end());
        for (const std::uint32_t hub : hubs_) out[hub] = 0.0;
        return out;
    }

    LinearSummary apply(std::span<const double> r, std::span<double> z, double tolerance) {
        std::fill(z.begin(), z.end(), 0.0);
        const LinearSummary summary = inner_->solve(without_hubs(r), z, tolerance);
        finish(r, z);
        return summary;
    }

    /// The hubs from what the others do by themselves, and the others from the hubs.
    void finish(std::span<const double> r, std::span<double> z) const {
        Eigen::VectorXd right(static_cast<Eigen::Index>(hubs_.size()));
        for (std::size_t h = 0; h < hubs_.size(); ++h) {
            z[hubs_[h]] = 0.0;
            right[static_cast<Eigen::Index>(h)] = r[hubs_[h]] + gathered(columns_[h], z);
        }
        const Eigen::VectorXd solution = schur_.solve(right);
        for (std::size_t h = 0; h < hubs_.size(); ++h) {
            const double x = solution[static_cast<Eigen::Index>(h)];
            for (std::size_t i = 0; i < z.size(); ++i) z[i] += x * columns_[h].solution[i];
        }
        for (std::size_t h = 0; h < hubs_.size(); ++h) z[hubs_[h]] = solution[static_cast<Eigen::Index>(h)];
    }

    /// Norm of what double precision leaves of a residual: the last digit of every row's diagonal times its value.
    [[nodiscard]] double rounding_of(std::span<const double> x) const {
        std::vector<double> size(x.size(), 0.0);
        for (std::size_t i = 0; i < x.size(); ++i)
            size[i] = (matrix_.excess[i] + (matrix_.capacity.empty() ? 0.0 : matrix_.shift * matrix_.capacity[i])) * std::abs(x[i]);
        for (const Edges& edges : matrix_.edges) {
            for (std::size_t e = 0; e < edges.first.size(); ++e) {
                size[edges.first[e]] += edges.conductance[e] * std::abs(x[edges.first[e]]);
                size[edges.second[e]] += edges.conductance[e] * std::abs(x[edges.second[e]]);
            }
        }
        return 4.0 * std::numeric_limits<double>::epsilon() * norm(size);
    }

    struct Kept {
        std::vector<std::uint32_t> first{}, second{};
        std::vector<double> conductance{};
    };

    NetworkMatrix matrix_, reduced_;
    std::vector<std::uint32_t> hubs_;
    std::vector<Column> columns_;
    std::vector<std::uint32_t> place_;  // among the hubs, per node
    std::vector<double> excess_;        // of the reduced matrix
    std::vector<double> diagonal_;      // couplings of each hub
    std::vector<std::unique_ptr<Kept>> kept_;
    Eigen::MatrixXd between_;
    Eigen::LLT<Eigen::MatrixXd> schur_;
    std::unique_ptr<LinearSolver> inner_;
};

}  // namespace

std::vector<std::uint32_t> find_hubs(const NetworkMatrix& matrix) {
    if (matrix.lumped_from >= matrix.nodes) return {};
    const std::size_t many = 200;
    constexpr double strong = 0.5, often = 0.1;
    struct Spoke {
        std::uint32_t node = 0;
        double conductance = 0.0;
    };
    std::map<std::uint32_t, std::vector<Spoke>> spokes;
    for (const Edges& edges : matrix.edges) {
        for (std::size_t e = 0; e < edges.first.size(); ++e) {
            if (edges.first[e] >= matrix.lumped_from) spokes[edges.first[e]].push_back({edges.second[e], edges.conductance[e]});
            if (edges.second[e] >= matrix.lumped_from) spokes[edges.second[e]].push_back({edges.first[e], edges.conductance[e]});
        }
    }
    std::erase_if(spokes, [many](const auto& entry) { return entry.second.size() < many; });
    if (spokes.empty()) return {};
    std::vector<double> all(matrix.excess.begin(), matrix.excess.end());
    for (const Edges& edges : matrix.edges) {
        for (std::size_t e = 0; e < edges.first.size(); ++e) {
            all[edges.first[e]] += edges.conductance[e];
            all[edges.second[e]] += edges.conductance[e];
        }
    }
    std::vector<std::pair<double, std::uint32_t>> found;
    for (const auto& [hub, list] : spokes) {
        double sum = 0.0;
        std::size_t count = 0;
        for (const Spoke& spoke : list) {
            sum += spoke.conductance;
            if (spoke.conductance > strong * (all[spoke.node] - spoke.conductance)) ++count;
        }
        if (static_cast<double>(count) > often * static_cast<double>(list.size())) found.emplace_back(-sum, hub);
    }
    std::sort(found.begin(), found.end());
    std::vector<std::uint32_t> hubs;
    for (std::size_t h = 0; h < std::min(found.size(), most_hubs); ++h) hubs.push_back(found[h].second);
    return hubs;
}

std::unique_ptr<LinearSolver> make_solver_around(const NetworkMatrix& matrix, std::vector<std::uint32_t> hubs,
                                                 const std::function<std::unique_ptr<LinearSolver>(const NetworkMatrix&)>& make_inner) {
    return std::make_unique<AroundHubs>(matrix, std::move(hubs), make_inner);
}

}  // namespace firnfield
