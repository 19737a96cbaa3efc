// Flexible GMRES around a symmetric preconditioner, for matrices that are not symmetric.

#include "linear/gmres.hpp"

#include <Eigen/Core>

#include <cmath>

namespace firnfield {
namespace {

constexpr int restart = 12;  // two vectors for each
constexpr int most_iterations = 200;

double norm_of(std::span<const double> v) {
    double sum = 0.0;
    for (const double x : v) sum += x * x;
    return std::sqrt(sum);
}

double dot(std::span<const double> a, std::span<const double> b) {
    double sum = 0.0;
    for (std::size_t i = 0; i < a.size(); ++i) sum += a[i] * b[i];
    return sum;
}

}  // namespace

LinearSummary solve_gmres(const Operator& apply, const Operator& preconditioner, std::span<const double> b, std::span<double> x, double tolerance) {
    LinearSummary summary{.method = "flexible GMRES"};
    const std::size_t n = b.size();
    const double scale = norm_of(b);
    if (scale == 0.0) {
        std::fill(x.begin(), x.end(), 0.0);
        summary.converged = true;
        return summary;
    }
    std::vector<std::vector<double>> basis(restart + 1), directions(restart);
    std::vector<double> r(n);
    while (true) {
        apply(x, r);
        for (std::size_t i = 0; i < n; ++i) r[i] = b[i] - r[i];
        const double norm = norm_of(r);
        summary.relative_residual = norm / scale;
        summary.converged = summary.relative_residual <= tolerance;
        if (summary.converged || summary.iterations >= most_iterations) return summary;
        basis[0].resize(n);
        for (std::size_t i = 0; i < n; ++i) basis[0][i] = r[i] / norm;
        Eigen::MatrixXd hessenberg = Eigen::MatrixXd::Zero(restart + 1, restart);
        Eigen::VectorXd right = Eigen::VectorXd::Zero(restart + 1), cosine = Eigen::VectorXd::Zero(restart), sine = Eigen::VectorXd::Zero(restart);
        right[0] = norm;
        int columns = 0;
        while (columns < restart && std::abs(right[columns]) > tolerance * scale) {
            const int j = columns++;
            const auto place = static_cast<std::size_t>(j);
            directions[place].resize(n);
            basis[place + 1].resize(n);
            preconditioner(basis[place], directions[place]);
            std::vector<double>& w = basis[place + 1];
            apply(directions[place], w);
            for (int i = 0; i <= j; ++i) {
                const std::vector<double>& v = basis[static_cast<std::size_t>(i)];
                hessenberg(i, j) = dot(w, v);
                for (std::size_t k = 0; k < n; ++k) w[k] -= hessenberg(i, j) * v[k];
            }
            hessenberg(j + 1, j) = norm_of(w);
            if (hessenberg(j + 1, j) > 0.0) {
                for (double& v : w) v /= hessenberg(j + 1, j);
            }
            // Givens rotations keep the small least-squares problem triangular.
            for (int i = 0; i < j; ++i) {
                const double upper = hessenberg(i, j), lower = hessenberg(i + 1, j);
                hessenberg(i, j) = cosine[i] * upper + sine[i] * lower;
                hessenberg(i + 1, j) = -sine[i] * upper + cosine[i] * lower;
            }
            const double size = std::hypot(hessenberg(j, j), hessenberg(j + 1, j));
            if (size == 0.0) return summary;
            cosine[j] = hessenberg(j, j) / size;
            sine[j] = hessenberg(j + 1, j) / size;
            hessenberg(j, j) = size;
            right[j + 1] = -sine[j] * right[j];
            right[j] *= cosine[j];
            ++summary.iterations;
        }
        const Eigen::VectorXd weights = hessenberg.topLeftCorner(columns, columns).triangularView<Eigen::Upper>().solve(right.head(columns));
        for (int j = 0; j < columns; ++j) {
            for (std::size_t i = 0; i < n; ++i) x[i] += weights[j] * directions[static_cast<std::size_t>(j)][i];
        }
    }
}

}  // namespace firnfield
