// Reduced equations as open files: SPICE and Matrix Market.

#include <firnfield/quantity.hpp>
#include <firnfield/state_space_files.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>

namespace firnfield {
namespace {

/// A name in a comment: it must not end the line.
std::string in_comment(const std::string& name) {
    std::string out = name;
    for (char& c : out) {
        if (static_cast<unsigned char>(c) < ' ' || c == 127) c = ' ';
    }
    return out;
}

}  // namespace

std::string spice_netlist(const StateSpace& s) {
    std::string out;
    const auto line = [&]<typename... T>(fmt::format_string<T...> format, T&&... arguments) {
        fmt::format_to(std::back_inserter(out), format, std::forward<T>(arguments)...);
        out += '\n';
    };
    line("* Study \"{}\", reduced to {} modes.", in_comment(s.study), s.rate.size());
    line("* A volt stands for a watt at inputs that are powers, and for a degree Celsius at all temperatures; time is in s.");
    line("* Begin with the temperatures of the study: .tran STEP END uic");
    for (std::size_t i = 0; i < s.inputs.size(); ++i) {
        const StateSpace::Input& input = s.inputs[i];
        line("* in{}: {}, {} at the beginning: {:.10g}", i + 1, in_comment(input.name), input.temperature ? "degC" : "W",
             input.temperature ? input.at_start - zero_celsius : input.at_start);
    }
    for (std::size_t o = 0; o < s.outputs.size(); ++o) line("* out{}: {}, degC", o + 1, in_comment(s.outputs[o]));
    std::string pins;
    for (std::size_t i = 0; i < s.inputs.size(); ++i) pins += fmt::format(" in{}", i + 1);
    for (std::size_t o = 0; o < s.outputs.size(); ++o) pins += fmt::format(" out{}", o + 1);
    line(".subckt reduced{}", pins);
    std::vector<double> constant = s.in_constant;
    for (std::size_t i = 0; i < s.inputs.size(); ++i) {
        line("Rin{0} in{0} 0 1e9", i + 1);
        if (!s.inputs[i].temperature) continue;
        for (std::size_t m = 0; m < constant.size(); ++m) constant[m] += zero_celsius * s.in[i][m];
    }
    for (std::size_t m = 0; m < s.rate.size(); ++m) {
        line("C{0} x{0} 0 1 ic={1:.12g}", m + 1, s.start[m]);
        // What does not fade would float.
        constexpr double slowest = 1e-12;
        line("R{0} x{0} 0 {1:.12g}", m + 1, 1.0 / std::max(s.rate[m], slowest));
        if (constant[m] != 0.0) line("I{0} 0 x{0} {1:.12g}", m + 1, constant[m]);
        for (std::size_t i = 0; i < s.inputs.size(); ++i) {
            if (s.in[i][m] != 0.0) line("G{0}_{1} 0 x{0} in{1} 0 {2:.12g}", m + 1, i + 1, s.in[i][m]);
        }
    }
    for (std::size_t o = 0; o < s.outputs.size(); ++o) {
        double offset = s.constant[o] - zero_celsius;
        for (std::size_t i = 0; i < s.inputs.size(); ++i) {
            if (s.inputs[i].temperature) offset += zero_celsius * s.through[o][i];
            if (s.through[o][i] != 0.0) line("Gt{0}_{1} 0 out{0} in{1} 0 {2:.12g}", o + 1, i + 1, s.through[o][i]);
        }
        line("Rout{0} out{0} 0 1", o + 1);
        line("Iout{0} 0 out{0} {1:.12g}", o + 1, offset);
        for (std::size_t m = 0; m < s.rate.size(); ++m) {
            if (s.out[o][m] != 0.0) line("Go{0}_{1} 0 out{0} x{1} 0 {2:.12g}", o + 1, m + 1, s.out[o][m]);
        }
    }
    line(".ends reduced");
    return out;
}

std::string matrix_market(const std::vector<std::vector<double>>& rows, std::size_t columns) {
    std::string out = "%%MatrixMarket matrix array real general\n";
    fmt::format_to(std::back_inserter(out), "{} {}\n", rows.size(), columns);
    for (std::size_t c = 0; c < columns; ++c) {
        for (const std::vector<double>& row : rows) fmt::format_to(std::back_inserter(out), "{:.17g}\n", row[c]);
    }
    return out;
}

}  // namespace firnfield
