// The folder of a comparison.

#include <firnfield/chart.hpp>
#include <firnfield/results_writer.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {
namespace {

void draw_charts(const std::filesystem::path& folder, const Comparison& comparison, const Units& units) {
    if (!charts_possible()) return;
    std::filesystem::create_directories(folder);
    std::vector<std::string> sweeps;
    for (const Outcome& d : comparison.designs) {
        if (!d.sweep.empty() && std::find(sweeps.begin(), sweeps.end(), d.sweep) == sweeps.end()) sweeps.push_back(d.sweep);
    }
    FileNames files;
    for (const std::string& study : comparison.studies()) draw_comparison(folder / files.claim(study), comparison, study, units);
    for (const std::string& study : comparison.studies()) {
        for (const std::string& sweep : sweeps) draw_sweep(folder / files.claim(fmt::format("{} - {}", study, sweep)), comparison, sweep, study, units);
    }
}

}  // namespace

void write_comparison(const std::filesystem::path& folder, const Comparison& comparison, std::span<const Summary> designs) {
    const Units units = designs.empty() ? Units{} : designs[comparison.base].units;
    std::filesystem::create_directories(folder / "designs");
    std::vector<std::string> names;
    for (const Outcome& d : comparison.designs) names.push_back(d.name);
    const std::vector<std::string> files = file_names(names);
    for (std::size_t d = 0; d < designs.size(); ++d) write_file(folder / "designs" / (files[d] + ".json"), to_json(designs[d]));
    write_file(folder / "comparison.csv", to_csv(comparison, units));
    draw_charts(folder / "charts", comparison, units);
    write_file(folder / "summary.json", to_json(comparison));
}

}  // namespace firnfield
