/// Charts, drawn by gnuplot as SVG and PNG.
#pragma once

#include <firnfield/compare.hpp>
#include <firnfield/history.hpp>
#include <firnfield/model.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace firnfield {

/// Whether gnuplot can be called.
[[nodiscard]] bool charts_possible();

/// Temperatures with limit lines and crossing marks, and underneath the heat put in and the switches: `stem`.svg and `stem`.png.
/// Throws FileError when gnuplot is missing or fails.
void draw_history(const std::filesystem::path& stem, const TimeFindings& findings, const Units& units = {});

/// The splits of a rise as two bars in pieces, by what the heat passes and by who heats, with names and kelvin: `stem`.svg and `stem`.png.
void draw_explanation(const std::filesystem::path& stem, const Explanation& explanation, const Units& units = {});

/// The tightest limits of a study: a group of bars for each, one for every design that is no point of a sweep, and the limit as a line.
void draw_comparison(const std::filesystem::path& stem, const Comparison& comparison, const std::string& study, const Units& units = {});

/// A sweep: of one quantity the temperatures of the tightest limits, with the values at which they are just met; of two the least margin.
void draw_sweep(const std::filesystem::path& stem, const Comparison& comparison, const std::string& sweep, const std::string& study, const Units& units = {});

/// A profile over `span` seconds: `stem`.svg and `stem`.png.
void draw_profile(const std::filesystem::path& stem, const Profile& profile, double span, const Units& units = {});

/// How much of a profile is worth showing, s: four periods, or all of a table and a little more.
[[nodiscard]] double span_to_show(const Model& model, const Profile& profile);

/// One line of a chart.
struct Curves {
    std::string title{}, x_label{}, y_label{};
    std::vector<std::string> names{};
    std::vector<std::string> units{};  ///< per name, as "degC"; empty: all in °C
    std::vector<double> x{};
    std::vector<std::vector<double>> y{};  ///< per name, as many as x
    bool decades = false;                  ///< x on a logarithmic scale
};
void draw_curves(const std::filesystem::path& stem, const Curves& curves);

}  // namespace firnfield
