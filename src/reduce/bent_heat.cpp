// Patterns of what bends, and the few elements that tell of them.

#include "reduce/bent_heat.hpp"

#include "reduce/linear_reading.hpp"
#include "reduce/sample.hpp"

#include <Eigen/Dense>
#include <Eigen/Eigenvalues>

#include <algorithm>
#include <array>
#include <cmath>

namespace firnfield {
namespace {

Eigen::Map<const Eigen::VectorXd> as_vector(const std::vector<double>& x) { return {x.data(), static_cast<Eigen::Index>(x.size())}; }

/// The directions in which the rows of a matrix mostly lie, as columns, the strongest last.
Eigen::MatrixXd main_directions(const Eigen::MatrixXd& rows, double least, Eigen::Index most) {
    const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> eigen(rows.transpose() * rows);
    const Eigen::Index n = eigen.eigenvalues().size();
    const double strongest = eigen.eigenvalues()(n - 1);
    Eigen::Index count = 0;
    while (count < std::min(n, most) && eigen.eigenvalues()(n - 1 - count) > least * least * strongest) ++count;
    return eigen.eigenvectors().rightCols(std::max<Eigen::Index>(count, 1));
}

/// What a pattern reads of one watt that an element takes from its first node: the difference of temperature that it makes there.
double reading_of(const BentElement& element, const std::vector<double>& response) {
    return (element.second == no_index ? 0.0 : response[element.second]) - response[element.first];
}

/// The numbers of the elements that are to be looked at, with the weights that make them stand for all.
std::vector<std::size_t> numbers_of(const WeightedSample& chosen, std::size_t stride) {
    std::vector<std::size_t> out;
    for (const std::size_t c : chosen.element) out.push_back(c * stride);
    return out;
}

/// Heat by element and by node.
struct ByBoth {
    std::vector<double> element{}, node{};
};

/// What the temperatures that patterns lead to, within long and short times, do to the heat of all elements: without it the few that are chosen could
/// answer to disturbances by more than all of them do, and what they say would rock.
std::vector<ByBoth> answers(Remainder& all, const ReducedNetwork& network, const PatternSpace& patterns, std::span<const KnownMoment> moments, double longest) {
    std::vector<ByBoth> out;
    const Modes& modes = network.modes.fine;
    constexpr double kelvin = 1.0;
    std::size_t turn = 0;
    for (std::size_t n = 0; n < patterns.size(); ++n) {
        const std::array<double, 3> times{longest, std::sqrt(longest * network.shortest), network.shortest};
        for (const double time : times) {
            const KnownMoment& at = moments[turn++ % moments.size()];
            Amplitudes moved = patterns.input(n).fine;
            for (std::size_t k = 0; k < moved.size(); ++k) moved[k] /= modes.rate()[k] + 1.0 / time;
            std::vector<double> rise = all.rises(*network.basis, modes.coordinates(moved));
            double largest = 0.0;
            for (const double x : rise) largest = std::max(largest, std::abs(x));
            if (!(largest > 0.0)) continue;
            for (std::size_t i = 0; i < rise.size(); ++i) rise[i] = at.rise[i] + kelvin / largest * rise[i];
            ByBoth answer{all.heat_by_element(rise, at.values), all.heat(rise, at.values)};
            const std::vector<double> before = all.heat_by_element(at.rise, at.values);
            for (std::size_t e = 0; e < before.size(); ++e) answer.element[e] -= before[e];
            for (std::size_t i = 0; i < rise.size(); ++i) answer.node[i] -= at.heat[i];
            out.push_back(std::move(answer));
        }
    }
    return out;
}

/// Elements and weights by which what the patterns read of all of them at the moments adds up.
WeightedSample choose(Remainder& all, const ReducedNetwork& network, const PatternSpace& patterns, std::span<const KnownMoment> moments, double within,
                      double longest, std::size_t stride) {
    std::vector<ByBoth> known;
    for (const KnownMoment& moment : moments) known.push_back({all.heat_by_element(moment.rise, moment.values), moment.heat});
    for (ByBoth& answer : answers(all, network, patterns, moments, longest)) known.push_back(std::move(answer));
    // Each matters as much as any other.
    for (ByBoth& one : known) {
        double sum = 0.0;
        for (const double x : one.node) sum += x * x;
        const double scale = sum > 0.0 ? 1.0 / std::sqrt(sum) : 0.0;
        for (double& x : one.element) x *= scale;
        for (double& x : one.node) x *= scale;
    }
    const auto times = static_cast<Eigen::Index>(known.size()), elements = static_cast<Eigen::Index>(all.elements().size());
    const auto count = (elements + static_cast<Eigen::Index>(stride) - 1) / static_cast<Eigen::Index>(stride);
    Eigen::MatrixXd heat(count, times);
    for (Eigen::Index k = 0; k < times; ++k) {
        for (Eigen::Index i = 0; i < count; ++i) heat(i, k) = known[static_cast<std::size_t>(k)].element[static_cast<std::size_t>(i) * stride];
    }
    constexpr double least = 1e-4;
    constexpr Eigen::Index most = 24;
    const Eigen::MatrixXd in_time = main_directions(heat, least, most), course = heat * in_time;
    const auto p = static_cast<Eigen::Index>(patterns.size()), q = in_time.cols();
    std::vector<Origin> entries;
    std::vector<Eigen::Index> entry;
    for (const Origin& origin : all.origins()) {
        auto here = std::find(entries.begin(), entries.end(), origin);
        if (here == entries.end()) here = entries.insert(here, origin);
        entry.push_back(here - entries.begin());
    }
    const auto n_entries = static_cast<Eigen::Index>(entries.size()), rows = (p + n_entries) * q;
    Contributions contributions{.rows = static_cast<std::size_t>(rows),
                                .column = std::vector<double>(static_cast<std::size_t>(rows * count), 0.0),
                                .sum = std::vector<double>(static_cast<std::size_t>(rows), 0.0)};
    Eigen::Map<Eigen::MatrixXd> column(contributions.column.data(), rows, count), sum(contributions.sum.data(), q, p + n_entries);
    for (Eigen::Index n = 0; n < p; ++n) {
        const auto pattern = static_cast<std::size_t>(n);
        const double scale = patterns.size_of(pattern) > 0.0 ? 1.0 / patterns.size_of(pattern) : 0.0;
        for (Eigen::Index i = 0; i < count; ++i) {
            const double read = reading_of(all.elements()[static_cast<std::size_t>(i) * stride], patterns.response(pattern));
            column.col(i).segment(n * q, q) = scale * read * course.row(i).transpose();
        }
        Eigen::VectorXd readings(times);
        for (Eigen::Index k = 0; k < times; ++k) readings(k) = as_vector(patterns.response(pattern)).dot(as_vector(known[static_cast<std::size_t>(k)].node));
        sum.col(n) = scale * in_time.transpose() * readings;
    }
    // The heat of each entry of the model adds up as well, and matters as much.
    Eigen::MatrixXd by_entry = Eigen::MatrixXd::Zero(times, n_entries);
    for (Eigen::Index k = 0; k < times; ++k) {
        for (Eigen::Index e = 0; e < elements; ++e)
            by_entry(k, entry[static_cast<std::size_t>(e)]) += known[static_cast<std::size_t>(k)].element[static_cast<std::size_t>(e)];
    }
    const double scale = by_entry.norm() > 0.0 ? sum.norm() / (in_time.transpose() * by_entry).norm() : 0.0;
    sum.rightCols(n_entries) = scale * in_time.transpose() * by_entry;
    for (Eigen::Index i = 0; i < count; ++i)
        column.col(i).segment((p + entry[static_cast<std::size_t>(i) * stride]) * q, q) = scale * course.row(i).transpose();
    return sample(contributions, within);
}

}  // namespace

PatternSpace::PatternSpace(const Remainder& all, std::shared_ptr<const ReducedNetwork> network, std::span<const std::vector<double>> patterns, double longest) {
    const Modes& modes = network->modes.fine;
    const auto count = static_cast<Eigen::Index>(patterns.size());
    Eigen::MatrixXd read(count, count);
    for (const std::vector<double>& pattern : patterns) {
        const std::vector<double> on = network->basis->project(all.nodes(), pattern);
        input_.push_back({modes.from_vectors(on), network->modes.coarse.from_vectors(on)});
        Amplitudes moved = input_.back().fine;
        for (std::size_t k = 0; k < moved.size(); ++k) moved[k] /= modes.rate()[k] + 1.0 / longest;
        response_.push_back(all.rises(*network->basis, modes.coordinates(moved)));
    }
    for (Eigen::Index i = 0; i < count; ++i) {
        for (Eigen::Index j = 0; j < count; ++j)
            read(i, j) = as_vector(response_[static_cast<std::size_t>(i)]).dot(as_vector(patterns[static_cast<std::size_t>(j)]));
        size_.push_back(std::sqrt(std::max(read(i, i), 0.0)));
        enters_.push_back(as_vector(patterns[static_cast<std::size_t>(i)]).sum());
    }
    // Of patterns that do the same the one that takes less is enough.
    Eigen::VectorXd scale(count);
    for (Eigen::Index i = 0; i < count; ++i) scale(i) = size_[static_cast<std::size_t>(i)] > 0.0 ? 1.0 / size_[static_cast<std::size_t>(i)] : 0.0;
    const Eigen::MatrixXd scaled = scale.asDiagonal() * (0.5 * (read + read.transpose())) * scale.asDiagonal();
    Eigen::CompleteOrthogonalDecomposition<Eigen::MatrixXd> solver;
    constexpr double alike = 1e-8;
    solver.setThreshold(alike);
    solver.compute(scaled);
    const Eigen::MatrixXd inverse = scale.asDiagonal() * solver.pseudoInverse() * scale.asDiagonal();
    for (Eigen::Index i = 0; i < count; ++i) {
        inverse_.emplace_back();
        for (Eigen::Index j = 0; j < count; ++j) inverse_.back().push_back(inverse(i, j));
    }
}

std::vector<double> PatternSpace::readings(const std::vector<double>& heat) const {
    std::vector<double> out;
    for (const std::vector<double>& response : response_) out.push_back(as_vector(response).dot(as_vector(heat)));
    return out;
}

std::vector<double> PatternSpace::amounts(const std::vector<double>& heat) const { return amounts_of(readings(heat)); }

std::vector<double> PatternSpace::amounts_of(std::span<const double> readings) const {
    std::vector<double> out;
    for (const std::vector<double>& row : inverse_) {
        double sum = 0.0;
        for (std::size_t j = 0; j < row.size(); ++j) sum += row[j] * readings[j];
        out.push_back(sum);
    }
    return out;
}

BentHeat::BentHeat(Remainder& all, std::shared_ptr<const ReducedNetwork> network) : network_(std::move(network)), at_(all) {}

BentHeat::BentHeat(Remainder& all, std::shared_ptr<const ReducedNetwork> network, std::shared_ptr<const PatternSpace> patterns,
                   std::span<const KnownMoment> moments, double within, double longest)
    : BentHeat(all, network, patterns, [&] {
          // Neighbours do alike: of very many elements some are as good.
          constexpr std::size_t most = 20'000;
          const std::size_t stride = (all.elements().size() + most - 1) / most;
          WeightedSample chosen = choose(all, *network, *patterns, moments, within, longest, stride);
          chosen.element = numbers_of(chosen, stride);
          return chosen;
      }()) {}

BentHeat::BentHeat(Remainder& all, std::shared_ptr<const ReducedNetwork> network, std::shared_ptr<const PatternSpace> patterns, const WeightedSample& chosen)
    : network_(std::move(network)), patterns_(std::move(patterns)), few_(all.some(chosen.element, chosen.weight)), at_(*few_) {
    for (std::size_t n = 0; n < patterns_->size(); ++n) {
        reading_.emplace_back();
        for (std::size_t i = 0; i < chosen.element.size(); ++i)
            reading_.back().push_back(reading_of(all.elements()[chosen.element[i]], patterns_->response(n)));
    }
}

std::vector<double> BentHeat::amounts(std::span<const double> rise, const Drive::Values& values) {
    const std::vector<double> heat = at_.heat_by_element(rise, values);
    std::vector<double> readings;
    for (const std::vector<double>& by_element : reading_) {
        double sum = 0.0;
        for (std::size_t e = 0; e < heat.size(); ++e) sum += by_element[e] * heat[e];
        readings.push_back(sum);
    }
    return patterns_->amounts_of(readings);
}

Amplitudes BentHeat::input(std::span<const double> rise, const Drive::Values& values, WhichModes which) {
    const bool fine = which == &Nested<Amplitudes>::fine;
    const Modes& modes = fine ? network_->modes.fine : network_->modes.coarse;
    if (!few_) return modes.from_vectors(network_->basis->project(at_.nodes(), at_.heat(rise, values)));
    Amplitudes out(modes.size(), 0.0);
    const std::vector<double> amount = amounts(rise, values);
    for (std::size_t n = 0; n < amount.size(); ++n) {
        const Amplitudes& one = patterns_->input(n).*which;
        for (std::size_t k = 0; k < out.size(); ++k) out[k] += amount[n] * one[k];
    }
    return out;
}

HeatFlows BentHeat::flows(std::span<const double> rise, const Drive::Values& values) {
    HeatFlows out = at_.flows(rise, values);
    if (!few_) return out;
    // What the modes are given is what the patterns say; what the few miss of it goes to all entries in proportion.
    double enters = 0.0, all = 0.0;
    const std::vector<double> amount = amounts(rise, values);
    for (std::size_t n = 0; n < amount.size(); ++n) enters += amount[n] * patterns_->enters(n);
    const double open = enters - out.net();
    std::vector<double> row = in_a_row(out);
    for (const double x : row) all += std::abs(x);
    if (!(all > 0.0)) return out;
    for (std::size_t e = 0; e < row.size(); ++e) row[e] += (e < out.loads.size() ? open : -open) * std::abs(row[e]) / all;
    return from_row(row, out);
}

std::vector<std::vector<double>> patterns_in(const std::vector<std::vector<double>>& heat, std::size_t most) {
    std::vector<std::vector<double>> out;
    if (heat.empty()) return out;
    Eigen::MatrixXd all(static_cast<Eigen::Index>(heat.front().size()), static_cast<Eigen::Index>(heat.size()));
    for (Eigen::Index k = 0; k < all.cols(); ++k) all.col(k) = as_vector(heat[static_cast<std::size_t>(k)]);
    constexpr double least = 1e-3;
    const Eigen::MatrixXd found = all * main_directions(all, least, static_cast<Eigen::Index>(most));
    for (Eigen::Index c = found.cols(); c-- > 0;) {
        const double length = found.col(c).norm();
        if (!(length > 0.0)) continue;
        const Eigen::VectorXd pattern = found.col(c) / length;
        out.emplace_back(pattern.data(), pattern.data() + pattern.size());
    }
    return out;
}

}  // namespace firnfield
