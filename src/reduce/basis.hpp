/// The space that a linear network is reduced to: responses to its inputs at chosen rates, by rational Krylov methods.
///
/// For each input b, W per node, it holds K⁻¹b and (K + sⱼC)⁻¹b for shifts sⱼ on a logarithmic scale, one moment each (A. Ruhe, "Rational Krylov sequence
/// methods for eigenvalue computation", Linear Algebra Appl. 58 (1984) 391; V. Druskin, C. Lieberman and M. Zaslavsky, "On adaptive choice of shifts in
/// rational Krylov subspace reduction of evolutionary problems", SIAM J. Sci. Comput. 32 (2010) 2485), made orthonormal in the capacities.
#pragma once

#include <firnfield/mesh.hpp>

#include <cstddef>
#include <span>
#include <vector>

namespace firnfield {

/// Vectors in the order in which they were found, so that the first few are a basis of their own. They lie node by node: whatever is done with all of them
/// reads them once.
class Basis {
public:
    /// Room for so many vectors. `capacity`: J/K per node.
    Basis(std::vector<double> capacity, std::size_t most);

    /// Takes what is new in a vector, K per node; false where that is nothing but rounding.
    bool add(std::span<const double> vector);
    [[nodiscard]] std::size_t size() const { return size_; }
    [[nodiscard]] std::vector<double> vector(std::size_t number) const;
    /// Of every vector Σ vector · heat over the nodes, the same for any number of threads.
    [[nodiscard]] std::vector<double> project(std::span<const double> heat) const;
    /// The same of heat at a few nodes.
    [[nodiscard]] std::vector<double> project(std::span<const Index> nodes, std::span<const double> heat) const;
    /// Of every vector Σ vector · C · x over the nodes.
    [[nodiscard]] std::vector<double> coordinates(std::span<const double> x) const;
    /// Σ of the vectors times these coordinates, at one node and at all; there may be fewer than vectors.
    [[nodiscard]] double at(std::size_t node, std::span<const double> coordinates) const;
    [[nodiscard]] std::vector<double> sum(std::span<const double> coordinates) const;
    [[nodiscard]] std::size_t nodes() const { return capacity_.size(); }
    /// Makes room for more vectors.
    void reserve(std::size_t most);

private:
    template <typename Node, typename Weight>
    [[nodiscard]] std::vector<double> sums(std::size_t terms, const Node& node, const Weight& weight) const;

    std::vector<double> capacity_;
    std::size_t most_, size_ = 0;
    std::vector<double> rows_;
};

/// Rates (1/s) on a logarithmic scale, from that of slow changes within `longest` to that of changes within `shortest` (s).
[[nodiscard]] std::vector<double> shifts_for(double longest, double shortest);

}  // namespace firnfield
