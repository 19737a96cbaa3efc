// `firnfield report`: a page of a results folder.

#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {

int report(const ReportOptions& options) {
    std::filesystem::path folder = options.folder;
    if (folder.filename().empty()) folder = folder.parent_path();
    std::filesystem::path target = options.out;
    if (target.empty()) target = std::filesystem::path(folder).replace_extension(".html");
    PageOptions how{.comparison = options.comparison, .view = options.view, .frames = options.frames};
    if (how.comparison.empty()) {
        const std::filesystem::path beside = std::filesystem::path(folder).replace_extension(".comparison");
        if (std::filesystem::exists(beside / "summary.json")) how.comparison = beside;
    }
    if (!options.units.empty()) how.units = parse_units(options.units, read_summary(folder).units);
    ProgressLine progress(options.quiet);
    how.progress = progress.callback();
    const std::string page = report_page(folder, how);
    progress.hold_interrupts();
    write_file(target, page);
    progress.close();
    if (const std::string reason = stale(folder, read_summary(folder)); !reason.empty()) say("These results are stale: {}\n", reason);
    say("Report in {}, {:.1f} MB: open it in a browser; it needs no network\n", target.string(), 1e-6 * static_cast<double>(page.size()));
    if (!options.comparison.empty() || how.comparison.empty()) return done;
    say("It shows the comparison in {}, too\n", how.comparison.string());
    return done;
}

}  // namespace firnfield::command
