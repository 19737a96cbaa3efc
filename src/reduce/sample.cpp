// Non-negative least squares, one element after the other.

#include "reduce/sample.hpp"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace firnfield {
namespace {

using Columns = Eigen::Map<const Eigen::MatrixXd>;

/// Those that are in, with weights that are best for them.
class Active {
public:
    Active(const Columns& all, const Eigen::VectorXd& sum) : all_(all), sum_(sum) {}

    [[nodiscard]] const std::vector<Eigen::Index>& element() const { return element_; }
    [[nodiscard]] const Eigen::VectorXd& weight() const { return weight_; }
    [[nodiscard]] Eigen::VectorXd residual() const {
        Eigen::VectorXd left = sum_;
        for (std::size_t i = 0; i < element_.size(); ++i) left -= weight_(static_cast<Eigen::Index>(i)) * all_.col(element_[i]);
        return left;
    }

    /// Takes one more in, and lets go of those whose weights would fall below nothing.
    void take(Eigen::Index element) {
        element_.push_back(element);
        weight_.conservativeResize(weight_.size() + 1);
        weight_(weight_.size() - 1) = 0.0;
        while (!element_.empty()) {
            const Eigen::VectorXd best = solve();
            if (best.minCoeff() > 0.0) {
                weight_ = best;
                return;
            }
            double step = 1.0;
            for (Eigen::Index i = 0; i < best.size(); ++i) {
                if (best(i) <= 0.0) step = std::min(step, weight_(i) / std::max(weight_(i) - best(i), 1e-300));
            }
            weight_ += step * (best - weight_);
            drop();
        }
    }

private:
    [[nodiscard]] Eigen::VectorXd solve() const {
        Eigen::MatrixXd some(all_.rows(), static_cast<Eigen::Index>(element_.size()));
        for (std::size_t i = 0; i < element_.size(); ++i) some.col(static_cast<Eigen::Index>(i)) = all_.col(element_[i]);
        return some.householderQr().solve(sum_);
    }

    void drop() {
        const double nothing = 1e-12 * std::max(weight_.maxCoeff(), 0.0);
        std::vector<Eigen::Index> kept;
        std::vector<double> weights;
        for (std::size_t i = 0; i < element_.size(); ++i) {
            const double w = weight_(static_cast<Eigen::Index>(i));
            if (!(w > nothing)) continue;
            kept.push_back(element_[i]);
            weights.push_back(w);
        }
        element_ = std::move(kept);
        weight_ = Eigen::Map<const Eigen::VectorXd>(weights.data(), static_cast<Eigen::Index>(weights.size()));
    }

    const Columns& all_;
    const Eigen::VectorXd& sum_;
    std::vector<Eigen::Index> element_;
    Eigen::VectorXd weight_;
};

}  // namespace

WeightedSample sample(const Contributions& contributions, double within) {
    const auto rows = static_cast<Eigen::Index>(contributions.rows);
    const auto count = static_cast<Eigen::Index>(contributions.column.size() / std::max<std::size_t>(contributions.rows, 1));
    const Columns all(contributions.column.data(), rows, count);
    const Eigen::VectorXd sum = Eigen::Map<const Eigen::VectorXd>(contributions.sum.data(), rows);
    Eigen::VectorXd length(count);
    for (Eigen::Index e = 0; e < count; ++e) length(e) = all.col(e).norm();
    Active active(all, sum);
    Eigen::VectorXd left = sum;
    Eigen::VectorXd likeness(count);
    const double target = within * sum.norm();
    double best = sum.norm();
    int without_gain = 0;
    while (left.norm() > target && static_cast<Eigen::Index>(active.element().size()) < std::min(rows, count) && without_gain < 5) {
#pragma omp parallel for schedule(static)
        for (Eigen::Index e = 0; e < count; ++e) likeness(e) = length(e) > 0.0 ? all.col(e).dot(left) / length(e) : 0.0;
        for (const Eigen::Index e : active.element()) likeness(e) = 0.0;
        Eigen::Index next = 0;
        if (!(likeness.maxCoeff(&next) > 0.0)) break;
        active.take(next);
        left = active.residual();
        without_gain = left.norm() < 0.9999 * best ? 0 : without_gain + 1;
        best = std::min(best, left.norm());
    }
    WeightedSample out;
    std::vector<std::size_t> order(active.element().size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return active.element()[a] < active.element()[b]; });
    for (const std::size_t i : order) {
        out.element.push_back(static_cast<std::size_t>(active.element()[i]));
        out.weight.push_back(active.weight()(static_cast<Eigen::Index>(i)));
    }
    out.open = sum.norm() > 0.0 ? left.norm() / sum.norm() : 0.0;
    return out;
}

}  // namespace firnfield
