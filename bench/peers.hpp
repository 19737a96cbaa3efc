// Linear systems of networks, and the general-purpose solvers they are given to.
#pragma once

#include "linear/network_matrix.hpp"

#include <string>
#include <vector>

namespace firnfield::bench {

inline constexpr double tolerance = 1e-8;

/// A system as it is written to a file.
struct System {
    std::vector<std::uint32_t> first{}, second{}, order{};
    std::vector<double> conductance{}, excess{}, heat{};

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
    [[nodiscard]] NetworkMatrix matrix() const { return {.nodes = rows(), .edges = {{first, second, conductance}}, .excess = excess, .order = order}; }
};

struct Measurement {
    double setup = 0.0, solve = 0.0, iterations = 0.0, residual = 0.0, bytes = 0.0;
};

struct Peer {
    std::string title, solver;
    int processes = 1;       ///< of MPI
    double most_rows = 1e9;  ///< beyond, it would take minutes or all memory
};

/// Those that were found when this was built.
[[nodiscard]] std::vector<Peer> peers();

/// Set-up and solve from zero to the tolerance, with the rows in the order of the system. Of several processes only the first returns it.
[[nodiscard]] Measurement run_peer(const std::string& solver, const System& system, std::vector<double>& x);

}  // namespace firnfield::bench
