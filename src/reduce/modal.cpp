// Modes of a reduced network.

#include "reduce/modal.hpp"

#include "reduce/phi.hpp"

#include <Eigen/Eigenvalues>

#include <algorithm>

namespace firnfield {

Modes::Modes(const std::vector<std::vector<double>>& matrix, std::size_t columns) {
    const auto n = static_cast<Eigen::Index>(columns);
    // The heat of the slowest modes is booked to twelve digits, and rates span nine decades: a double would round them by what it rounds the fastest by.
    using Matrix = Eigen::Matrix<long double, Eigen::Dynamic, Eigen::Dynamic>;
    Matrix reduced(n, n);
    for (Eigen::Index a = 0; a < n; ++a) {
        for (Eigen::Index b = 0; b < n; ++b)  // symmetric but for rounding
            reduced(a, b) =
                0.5L * (matrix[static_cast<std::size_t>(a)][static_cast<std::size_t>(b)] + matrix[static_cast<std::size_t>(b)][static_cast<std::size_t>(a)]);
    }
    const Eigen::SelfAdjointEigenSolver<Matrix> eigen(reduced);
    for (Eigen::Index k = 0; k < n; ++k) rate_.push_back(std::max(0.0, static_cast<double>(eigen.eigenvalues()(k))));
    share_.resize(columns * columns);
    for (std::size_t c = 0; c < columns; ++c) {
        for (std::size_t k = 0; k < columns; ++k)
            share_[c * columns + k] = static_cast<double>(eigen.eigenvectors()(static_cast<Eigen::Index>(c), static_cast<Eigen::Index>(k)));
    }
}

Amplitudes Modes::from_vectors(std::span<const double> of_vectors) const {
    Amplitudes out(size(), 0.0);
    for (std::size_t c = 0; c < size(); ++c) {
        for (std::size_t k = 0; k < size(); ++k) out[k] += share(c, k) * of_vectors[c];
    }
    return out;
}

std::vector<double> Modes::coordinates(const Amplitudes& at) const {
    std::vector<double> out(size(), 0.0);
    for (std::size_t c = 0; c < size(); ++c) {
        for (std::size_t k = 0; k < size(); ++k) out[c] += share(c, k) * at[k];
    }
    return out;
}

Amplitudes Modes::after(const Amplitudes& from, const ModalInput& input, double time, double length) const {
    Amplitudes out(size());
    const double s = time / length;
    for (std::size_t k = 0; k < size(); ++k) {
        const std::array<double, 5> phi = phi_at_minus(rate_[k] * time);
        const auto& [c0, c1, c2] = input.coefficient;
        out[k] = phi[0] * from[k] + time * (phi[1] * c0[k] + s * (phi[2] * c1[k] + 2.0 * s * phi[3] * c2[k]));
    }
    return out;
}

Amplitudes Modes::integral(const Amplitudes& from, const ModalInput& input, double length) const {
    Amplitudes out(size());
    for (std::size_t k = 0; k < size(); ++k) {
        const std::array<double, 5> phi = phi_at_minus(rate_[k] * length);
        const auto& [c0, c1, c2] = input.coefficient;
        out[k] = length * (phi[1] * from[k] + length * (phi[2] * c0[k] + phi[3] * c1[k] + 2.0 * phi[4] * c2[k]));
    }
    return out;
}

Amplitudes Modes::slope(const Amplitudes& at, const Amplitudes& input) const {
    Amplitudes out(size());
    for (std::size_t k = 0; k < size(); ++k) out[k] = input[k] - rate_[k] * at[k];
    return out;
}

double slowest_rate(const Modes& modes, const std::vector<Amplitudes>& follows) {
    const auto n = static_cast<Eigen::Index>(modes.size());
    Eigen::MatrixXd matrix(n, n);
    for (Eigen::Index k = 0; k < n; ++k) {
        for (Eigen::Index j = 0; j < n; ++j) matrix(j, k) = -follows[static_cast<std::size_t>(k)][static_cast<std::size_t>(j)];
        matrix(k, k) += modes.rate()[static_cast<std::size_t>(k)];
    }
    return Eigen::EigenSolver<Eigen::MatrixXd>(matrix, false).eigenvalues().real().minCoeff();
}

}  // namespace firnfield
