/// Drawing by gnuplot.
#pragma once

#include <filesystem>
#include <string>

namespace firnfield {

/// A text as gnuplot reads it.
[[nodiscard]] std::string plot_text(const std::string& text);

/// Runs a script once for each file format: `stem`.svg and `stem`.png. It finds the terminal set. Throws FileError.
void run_gnuplot(const std::filesystem::path& stem, const std::string& script);

}  // namespace firnfield
