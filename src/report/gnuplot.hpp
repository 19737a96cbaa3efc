/// Drawing by gnuplot.
#pragma once

#include <filesystem>
#include <string>

namespace firnfield {

/// A text as a string in a script: nothing in it acts.
[[nodiscard]] std::string plot_text(const std::string& text);

/// The same as a mark of an axis, where a percent sign would begin a format.
[[nodiscard]] std::string tick_text(const std::string& text);

/// Runs a script once for each file format: `stem`.svg and `stem`.png. It finds the terminal set. Files appear whole or not at all. Throws FileError.
void run_gnuplot(const std::filesystem::path& stem, const std::string& script);

}  // namespace firnfield
