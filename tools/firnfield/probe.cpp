// `firnfield probe`: temperatures over time or along a line, from a results folder.

#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {

int probe(const ProbeOptions& options) {
    ProbeQuestion question{.study = options.study,
                           .parts = options.parts,
                           .sensors = options.sensors,
                           .surfaces = options.surfaces,
                           .points = options.points,
                           .mean = options.mean,
                           .samples = options.samples};
    if (options.lines.size() > 1) throw Error("give one --line at a time");
    if (!options.lines.empty()) question.line = options.lines.front();
    if (options.at) question.at = parse_quantity(*options.at, kinds::time);
    const ProbeAnswer answer = firnfield::probe(options.folder, question);
    for (const std::string& note : answer.notes) tell("{}\n", note);
    say("{}", options.csv ? to_csv(answer.curves) : to_text(answer.curves));
    if (!options.chart.empty()) {
        draw_curves(options.chart, answer.curves);
        tell("Chart in {0}.svg and {0}.png\n", options.chart.string());
    }
    return done;
}

}  // namespace firnfield::command
