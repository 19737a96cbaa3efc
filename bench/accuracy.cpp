// The accuracy of cut cells, as a table: errors against exact fields on the worst of four random grids.
#include "verification/manufactured.hpp"

#include <fmt/format.h>

using namespace firnfield::test;

namespace {

void row(Subject subject, double biot, double ratio, double contact) {
    std::string line = fmt::format("| {} | {:g} | {:g} | {:g} |", name_of(subject), biot, ratio, contact);
    for (const int across : {10, 20}) {
        const Errors e = worst_errors(subject, across, biot, ratio, contact);
        line += fmt::format(" {:.2f} | {:.3f} | {:.3f} | {:.2f} |", 100.0 * e.max, 100.0 * e.l2, 100.0 * e.flow, 100.0 * e.wall);
    }
    fmt::print("{}\n", line);
    std::fflush(stdout);
}

}  // namespace

int main() {
    fmt::print("Errors in per cent of the temperature range, or of the heat flow, at 10 and at 20 cells across.\n\n");
    fmt::print(
        "| shape | Biot | k ratio | contact | max 10 | L2 | flow | wall | max 20 | L2 | flow | wall |\n|---|---|---|---|---|---|---|---|---|---|---|---|\n");
    for (const Subject subject : {Subject::rod, Subject::pipe, Subject::ball, Subject::tilted_block}) {
        for (const double biot : {0.3, 1.0, 10.0}) row(subject, biot, 1.0, 0.0);
    }
    row(Subject::held_pipe, 1.0, 1.0, 0.0);
    for (const Subject subject : {Subject::pin_in_ring, Subject::ball_in_shell}) {
        for (const double ratio : {0.1, 1.0, 10.0, 1000.0}) {
            for (const double contact : {0.0, 0.3}) row(subject, 1.0, ratio, contact);
        }
    }
}
