// `firnfield probe`: temperatures over time or along a line, from a results folder.

#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {

int probe(const ProbeOptions& options) {
    std::optional<Units> units;
    if (!options.units.empty()) units = parse_units(options.units, read_summary(options.folder).units);
    ProbeQuestion question{.study = options.study,
                           .parts = options.parts,
                           .sensors = options.sensors,
                           .surfaces = options.surfaces,
                           .points = options.points,
                           .figures = options.figures,
                           .mean = options.mean,
                           .heat_flux = options.heat_flux,
                           .samples = options.samples,
                           .units = units};
    if (!options.when.empty()) {
        const bool more = !options.parts.empty() || !options.sensors.empty() || !options.surfaces.empty() || !options.points.empty() ||
                          !options.figures.empty() || !options.lines.empty();
        if (more || options.at || options.mean || options.heat_flux || !options.chart.empty())
            throw Error(
                "--when is a question of its own: leave out --part, --sensor, --figure, --surface, --point, --line, --at, --mean, --heat-flux and --chart");
        const WhenAnswer answer = probe_when(options.folder, options.when, options.study, units);
        for (const std::string& note : answer.notes) tell("{}\n", note);
        say("{}", options.csv ? to_csv(answer) : to_text(answer));
        return done;
    }
    if (options.lines.size() > 1) throw Error("give one --line at a time");
    if (!options.lines.empty()) question.line = options.lines.front();
    if (options.at) question.at = parse_quantity(*options.at, kinds::time);
    const ProbeAnswer answer = firnfield::probe(options.folder, question);
    for (const std::string& note : answer.notes) tell("{}\n", note);
    say("{}", options.csv ? to_csv(answer.curves) : to_text(answer.curves));
    if (!options.chart.empty() && answer.curves.y_label.empty()) throw Error("a chart shows one unit: leave out what is in another");
    if (!options.chart.empty()) {
        draw_curves(options.chart, answer.curves);
        tell("Chart in {0}.svg and {0}.png\n", options.chart.string());
    }
    return done;
}

}  // namespace firnfield::command
