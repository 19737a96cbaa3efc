/// A reduced study for people and for other programs.
#pragma once

#include <firnfield/chart.hpp>
#include <firnfield/state_space.hpp>
#include <firnfield/units.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace firnfield {

/// As a subcircuit of SPICE (volts stand for watts and for °C), with one line for every mode, input and output. Names of the model stand in comments.
[[nodiscard]] std::string spice_netlist(const StateSpace& system);

/// A matrix in the Matrix Market exchange format, real and general, by arrays.
[[nodiscard]] std::string matrix_market(const std::vector<std::vector<double>>& rows, std::size_t columns);

/// Step responses of every output to every power over decades of time, K/W.
[[nodiscard]] Curves step_responses(const StateSpace& system);

/// Writes all of it to a folder: ports.csv, A.mtx, B.mtx, C.mtx, D.mtx, rest.mtx, reduced.cir, responses.csv, foster.csv. Throws FileError for a folder with
/// other things in it, WriteError.
void write_state_space(const std::filesystem::path& folder, const StateSpace& system);

/// Inputs, outputs, and what every watt comes to in the end; for people.
[[nodiscard]] std::string to_text(const StateSpace& system, const Units& units = {});

}  // namespace firnfield
