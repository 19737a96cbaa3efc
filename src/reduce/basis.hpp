/// The space that a linear network is reduced to: responses to its inputs at chosen rates, by rational Krylov methods.
///
/// For each input b, W per node, it holds K⁻¹b and (K + sⱼC)⁻¹b for shifts sⱼ on a logarithmic scale, one moment each (A. Ruhe, "Rational Krylov sequence
/// methods for eigenvalue computation", Linear Algebra Appl. 58 (1984) 391; V. Druskin, C. Lieberman and M. Zaslavsky, "On adaptive choice of shifts in
/// rational Krylov subspace reduction of evolutionary problems", SIAM J. Sci. Comput. 32 (2010) 2485), made orthonormal in the capacities.
#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace firnfield {

/// Columns in the order in which they were found, so that the first few are a basis of their own.
class Basis {
public:
    explicit Basis(std::span<const double> capacity) : capacity_(capacity) {}

    /// Takes what is new in a vector, K per node; false where that is nothing but rounding.
    bool add(std::vector<double> vector);
    [[nodiscard]] std::size_t size() const { return columns_.size(); }
    [[nodiscard]] const std::vector<std::vector<double>>& columns() const { return columns_; }
    /// Of every column Σ column · heat over the nodes.
    [[nodiscard]] std::vector<double> project(std::span<const double> heat) const;
    /// Of every column Σ column · C · x over the nodes.
    [[nodiscard]] std::vector<double> coordinates(std::span<const double> x) const;

private:
    std::span<const double> capacity_;
    std::vector<std::vector<double>> columns_;
};

/// Rates (1/s) on a logarithmic scale, from that of slow changes within `longest` to that of changes within `shortest` (s).
[[nodiscard]] std::vector<double> shifts_for(double longest, double shortest);

}  // namespace firnfield
