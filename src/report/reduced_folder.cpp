// A reduced study for other programs: tables, matrices, a netlist, step responses.

#include <firnfield/error.hpp>
#include <firnfield/probe.hpp>
#include <firnfield/results.hpp>
#include <firnfield/state_space_files.hpp>
#include <firnfield/units.hpp>

#include "report/phrases.hpp"
#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>

namespace firnfield {
namespace {

namespace fs = std::filesystem;

std::vector<std::size_t> powers_of(const StateSpace& system) {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < system.inputs.size(); ++i) {
        if (!system.inputs[i].temperature) out.push_back(i);
    }
    return out;
}

std::string ports(const StateSpace& s) {
    std::string out = "port,matrix,number,name,unit,at the beginning\n";
    for (std::size_t i = 0; i < s.inputs.size(); ++i)
        fmt::format_to(std::back_inserter(out), "in{0},B and D,{0},{1},{2},{3:.12g}\n", i + 1, csv_cell(s.inputs[i].name), s.inputs[i].temperature ? "K" : "W",
                       s.inputs[i].at_start);
    std::vector<double> at_start;
    for (const StateSpace::Input& input : s.inputs) at_start.push_back(input.at_start);
    const std::vector<double> read = s.read(s.start, at_start);
    for (std::size_t o = 0; o < s.outputs.size(); ++o)
        fmt::format_to(std::back_inserter(out), "out{0},C and D,{0},{1},K,{2:.12g}\n", o + 1, csv_cell(s.outputs[o]), read[o]);
    return out;
}

/// By columns: what is one of each input, as rows.
std::vector<std::vector<double>> turned(const std::vector<std::vector<double>>& columns, std::size_t rows) {
    std::vector<std::vector<double>> out(rows);
    for (const std::vector<double>& column : columns) {
        for (std::size_t r = 0; r < rows; ++r) out[r].push_back(column[r]);
    }
    return out;
}

std::string foster_table(const StateSpace& s) {
    std::string out = "power,output,resistance (K/W),time constant (s)\n";
    for (const std::size_t i : powers_of(s)) {
        for (std::size_t o = 0; o < s.outputs.size(); ++o) {
            for (const FosterTerm& t : foster_terms(s, i, o))
                fmt::format_to(std::back_inserter(out), "{},{},{},{}\n", csv_cell(s.inputs[i].name), csv_cell(s.outputs[o]), t.resistance, t.time_constant);
        }
    }
    return out;
}

}  // namespace

Curves step_responses(const StateSpace& s) {
    Curves out{.title = fmt::format("Step responses of study \"{}\"", s.study), .x_label = "time (s)", .y_label = "K/W", .decades = true};
    double slowest = 0.0, fastest = 1e300;
    std::vector<std::vector<FosterTerm>> terms;
    for (const std::size_t i : powers_of(s)) {
        for (std::size_t o = 0; o < s.outputs.size(); ++o) {
            out.names.push_back(fmt::format("{} by {}", s.outputs[o], s.inputs[i].name));
            out.units.emplace_back("K/W");
            terms.push_back(foster_terms(s, i, o));
            for (const FosterTerm& t : terms.back()) {
                slowest = std::max(slowest, t.time_constant);
                if (t.time_constant > 0.0) fastest = std::min(fastest, t.time_constant);
            }
        }
    }
    out.y.resize(terms.size());
    if (!(slowest > 0.0)) return out;
    constexpr int a_decade = 20;
    const int first = static_cast<int>(std::floor(a_decade * std::log10(0.1 * fastest))),
              last = static_cast<int>(std::ceil(a_decade * std::log10(7.0 * slowest)));
    for (int n = first; n <= last; ++n) {
        out.x.push_back(std::pow(10.0, static_cast<double>(n) / a_decade));
        for (std::size_t c = 0; c < terms.size(); ++c) out.y[c].push_back(step_response(terms[c], out.x.back()));
    }
    return out;
}

void write_state_space(const fs::path& folder, const StateSpace& s) {
    std::error_code error;
    if (fs::exists(folder, error) && !(fs::is_directory(folder, error) && (fs::is_empty(folder, error) || fs::exists(folder / "reduced.cir", error))))
        throw FileError(fmt::format("{} is there already and holds no reduced study; write it elsewhere with --out", folder.string()));
    fs::create_directories(folder, error);
    if (error) throw WriteError(fmt::format("{} cannot be created: {}", folder.string(), error.message()));
    const std::size_t modes = s.rate.size();
    std::vector<std::vector<double>> a(modes, std::vector<double>(modes, 0.0));
    for (std::size_t m = 0; m < modes; ++m) a[m][m] = -s.rate[m];
    // What stands in a column of its own: the constants of the modes and their beginnings, then those of the outputs.
    std::vector<std::vector<double>> rest;
    for (std::size_t m = 0; m < modes; ++m) rest.push_back({s.in_constant[m], s.start[m]});
    for (const double c : s.constant) rest.push_back({c, 0.0});
    write_file(folder / "ports.csv", ports(s));
    write_file(folder / "A.mtx", matrix_market(a, modes));
    write_file(folder / "B.mtx", matrix_market(turned(s.in, modes), s.inputs.size()));
    write_file(folder / "C.mtx", matrix_market(s.out, modes));
    write_file(folder / "D.mtx", matrix_market(s.through, s.inputs.size()));
    write_file(folder / "rest.mtx", matrix_market(rest, 2));
    write_file(folder / "responses.csv", to_csv(step_responses(s)));
    write_file(folder / "foster.csv", foster_table(s));
    write_file(folder / "reduced.cir", spice_netlist(s));
}

std::string to_text(const StateSpace& s, const Units& units) {
    std::string out = fmt::format("Study \"{}\", reduced to {} modes with time constants from {} to {}: within {} over the study\n", s.study, s.rate.size(),
                                  show_quantity(1.0 / s.rate.back(), kinds::time),
                                  s.rate.front() > 0.0 ? show_quantity(1.0 / s.rate.front(), kinds::time) : "what never fades", about_degrees(s.within, units));
    if (s.linearised) out += "Something depends on temperature, or varies: these are tangents at temperatures in the middle of the study.\n";
    Table inputs({"in", "input", "> at the beginning"});
    for (std::size_t i = 0; i < s.inputs.size(); ++i)
        inputs.row(
            {fmt::format("{}", i + 1), s.inputs[i].name, show_quantity(s.inputs[i].at_start, s.inputs[i].temperature ? kinds::temperature : kinds::power)});
    out += "\nInputs\n" + inputs.text();
    const std::vector<std::size_t> powers = powers_of(s);
    std::vector<std::string> headings{"out", "output"};
    for (const std::size_t i : powers) headings.push_back(fmt::format("> by in{} K/W", i + 1));
    Table outputs(headings);
    for (std::size_t o = 0; o < s.outputs.size(); ++o) {
        std::vector<std::string> row{fmt::format("{}", o + 1), s.outputs[o]};
        for (const std::size_t i : powers) {
            double all = 0.0;
            for (const FosterTerm& t : foster_terms(s, i, o)) all += t.resistance;
            row.push_back(fmt::format("{:.4g}", all));
        }
        outputs.row(row);
    }
    return out + "\nOutputs, and what a watt comes to in the end\n" + outputs.text();
}

}  // namespace firnfield
