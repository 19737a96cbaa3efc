// `firnfield demo`: everything on the demo model.

#include "commands.hpp"
#include "demo_files.hpp"

#include <fmt/format.h>

#include <span>

namespace firnfield::command {

int demo(const DemoOptions& options) {
    std::error_code status;
    std::filesystem::create_directories(options.folder, status);
    const std::filesystem::path model = options.folder / "radar.toml";
    write_file(model, demo_model_text);
    for (const DemoFile& file : std::span(demo_files, demo_file_count))
        write_file(options.folder / file.name, std::string_view(reinterpret_cast<const char*>(file.bytes), file.size));
    say("The model is {0}: read it, change it, and run\n  firnfield check {0}\n  firnfield solve {0}\n  firnfield compare {0} --study \"key held down\"\n\n",
        model.string());

    CheckOptions check_options;
    check_options.model = model;
    int exit = check(check_options);
    say("\n{}\n\n", std::string(100, '='));
    SolveOptions solve_options;
    solve_options.model = model;
    exit = solve(solve_options);
    say("\n{}\n\n", std::string(100, '='));
    CompareOptions compare_options;
    compare_options.what = {model};
    compare_options.studies = {"key held down"};
    static_cast<void>(compare(compare_options));
    say("\n{}\n\n", std::string(100, '='));
    ReportOptions report_options;
    report_options.folder = options.folder / "radar.results";
    static_cast<void>(report(report_options));
    say("Look at the pictures in {}, too\n", (options.folder / "radar.results" / "pictures").string());
    if (exit == limit_missed) say("A missed limit is part of the story; 'firnfield solve' would return 1 for it.\n");
    return exit == limit_missed ? done : exit;
}

}  // namespace firnfield::command
