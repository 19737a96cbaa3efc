// Options in, commands run. The only file that includes the option parser.

#include "commands.hpp"

#include <CLI/CLI.hpp>

#include <cstdlib>
#include <iostream>

#include <unistd.h>

namespace {

/// Idle threads of the solver should sleep: spinning ones slow it down a lot where another program has one of the cores. The threads'
/// runtime reads that before main() begins, so the command starts itself again with it.
void let_threads_sleep(char** argv) {
    if (std::getenv("OMP_WAIT_POLICY") != nullptr) return;
    if (setenv("OMP_WAIT_POLICY", "passive", 0) == 0) execv("/proc/self/exe", argv);
}

/// A change of the model like any other, with a flag of its own because it is asked for often.
/// Of the answers.
void add_units(CLI::App& command, std::string& units) {
    command.add_option("--units", units, "Units of lengths and temperatures that answers are told in, as in \"in, degF\" (JSON: always SI and degC)");
}

void add_as_meshed(CLI::App& command, bool& as_meshed) {
    command.add_flag("--as-meshed", as_meshed, "Do not refine the mesh where errors come from (as mesh.refine = false does)");
}

}  // namespace

static int run(int argc, char** argv) {
    using namespace firnfield::command;

    CLI::App app{"Temperatures of heat-dissipating assemblies: hot spots, limits, and where the heat goes.", "firnfield"};
    app.set_version_flag("--version", std::string("firnfield ") + firnfield::version);
    app.require_subcommand(1);
    app.footer(
        "Exit status: 0 done, 1 a limit is missed, 2 the input is wrong, 3 the computation or the writing failed.\n"
        "Findings go to standard output, progress to standard error.");

    CheckOptions check_options;
    auto* check_command = app.add_subcommand("check", "Read, validate and mesh a model; tell what it means before solving it");
    check_command->add_option("MODEL", check_options.model, "Model file (TOML)")->required();
    add_units(*check_command, check_options.units);
    check_command->add_flag("--json", check_options.json, "Print JSON instead of text");
    check_command->add_option("--show", check_options.show, "Draw what a surface, cooling or hold picks, or \"unclaimed\", or a profile over time");
    check_command->add_option("--picture", check_options.picture, "Where to draw it (default: RULE.png)");
    check_command->add_flag("--page", check_options.page,
                            "Write one HTML page instead: the assembly to turn, every face with what claims it, rules by a click");
    check_command->add_option("--out", check_options.out, "The page's file (default: the model's name with .model.html)");
    check_command->add_option("--variant", check_options.variant, "Variant, or point of a sweep, of the model");
    check_command->add_option("--set", check_options.set, "Change a value, as in \"pad = 1 mm\" (may be given several times)");
    check_command->add_option("--azimuth", check_options.azimuth, "Degrees; 0 looks along +y");
    check_command->add_option("--elevation", check_options.elevation, "Degrees above the horizon");

    SolveOptions solve_options;
    auto* solve_command = app.add_subcommand("solve", "Solve the studies of a model, print findings, write a results folder");
    solve_command->add_option("MODEL", solve_options.model, "Model file (TOML)")->required();
    solve_command->add_option("--variant", solve_options.variant, "Solve this variant, or point of a sweep, of the model");
    solve_command->add_option("--set", solve_options.set,
                              "Change a value, as in \"pad = 1 mm\" or \"part.fin.repeat.count = 16\" (may be given several times)");
    solve_command->add_option("--study", solve_options.studies, "Solve only this study (may be given several times)");
    solve_command->add_option("--out", solve_options.out, "Results folder (default: the model's name, and what was changed, with .results)");
    add_units(*solve_command, solve_options.units);
    solve_command->add_flag("--json", solve_options.json, "Print the summary as JSON instead of text");
    solve_command->add_flag("!--no-pictures", solve_options.pictures, "Draw no pictures");
    solve_command->add_flag("!--no-why", solve_options.why, "Do not work out why the tightest place is as hot as it is");
    solve_command->add_flag("--quiet", solve_options.quiet, "No progress on standard error");
    add_as_meshed(*solve_command, solve_options.as_meshed);
    auto* solve_no_errors =
        solve_command->add_flag("!--no-errors", solve_options.errors, "Do not work out how far figures may be off because cells have a size");
    solve_command->add_flag("--error-bars", solve_options.error_bars, "Work that out from a finer and a coarser mesh instead")->excludes(solve_no_errors);

    solve_command->add_option("--checkpoint-steps", solve_options.checkpoint_steps, "Time steps from one checkpoint to the next (default: 100)")
        ->check(CLI::PositiveNumber);
    solve_command->add_flag("--resume", solve_options.resume, "Go on with a run that was stopped: from its last checkpoint");

    CompareOptions compare_options;
    auto* compare_command =
        app.add_subcommand("compare", "Solve the variants and sweeps of a model, or read several results folders, and set them side by side");
    compare_command->add_option("MODEL|DIR", compare_options.what, "Model file (TOML), or results folders")->required();
    compare_command->add_option("--study", compare_options.studies, "Only this study (may be given several times)");
    compare_command->add_option("--variant", compare_options.variants, "Only this variant (may be given several times)");
    compare_command->add_option("--sweep", compare_options.sweeps, "Only this sweep (may be given several times)");
    compare_command->add_option(
        "--figure", compare_options.figures,
        "Tell this figure of every design, too: an address as \"die.mean\", or an expression as \"= 'die.max' - 'die.min'\"; of results: in steady studies");
    compare_command->add_option("--base", compare_options.base,
                                "Design that the others are compared with (default: the file as it stands, or the first folder)");
    compare_command->add_option("--out", compare_options.out, "Results folder (default: the model's name with .comparison; none for folders)");
    add_units(*compare_command, compare_options.units);
    compare_command->add_flag("--json", compare_options.json, "Print JSON instead of text");
    compare_command->add_flag("--quiet", compare_options.quiet, "No progress on standard error");
    add_as_meshed(*compare_command, compare_options.as_meshed);
    auto* compare_no_errors =
        compare_command->add_flag("!--no-errors", compare_options.errors, "Do not work out how far figures may be off because cells have a size");
    compare_command->add_flag("--error-bars", compare_options.error_bars, "Work that out from a finer and a coarser mesh of each design instead")
        ->excludes(compare_no_errors);
    compare_command->add_flag("--stale", compare_options.stale, "Also take results whose model file has changed since");

    WhyOptions why_options;
    auto* why_command = app.add_subcommand("why", "Tell why a part is as hot as it is, and what would change it");
    why_command->add_option("MODEL", why_options.model, "Model file (TOML)")->required();
    why_command->add_option("--study", why_options.study, "Study (default: the first)");
    why_command->add_option("--part", why_options.part, "Part or copy whose hottest place is explained (default: that of the tightest limit)");
    why_command->add_option("--sensor", why_options.sensor, "Sensor, instead of a part");
    why_command->add_flag("--coldest", why_options.coldest, "The coldest place of the part instead");
    why_command->add_option("--variant", why_options.variant, "Variant, or point of a sweep");
    why_command->add_option("--set", why_options.set, "Change a value, as in \"pad = 1 mm\"");
    why_command->add_option("--chart", why_options.chart, "Draw a chart as FILE.svg and FILE.png, too");
    add_units(*why_command, why_options.units);
    why_command->add_flag("--json", why_options.json, "Print JSON instead of text");
    why_command->add_flag("--quiet", why_options.quiet, "No progress on standard error");
    add_as_meshed(*why_command, why_options.as_meshed);

    SeekCommandOptions seek_options;
    auto* seek_command = app.add_subcommand("seek", "Find the value of one quantity at which a limit is just met");
    seek_command->add_option("MODEL", seek_options.model, "Model file (TOML)")->required();
    seek_command->add_option("ADDRESS", seek_options.address, "Parameter, or address such as \"power.burst.total\"")->required();
    seek_command->add_option("--from", seek_options.from, "One end of the range, as in \"0.25 mm\"")->required();
    seek_command->add_option("--to", seek_options.to, "The other end, in the same unit")->required();
    seek_command->add_option("--limit", seek_options.limit, "Part or sensor whose limit is to be met (default: all, so the tightest)");
    seek_command->add_option("--figure", seek_options.goal.figure, "Instead of a limit of the model: a figure, address or expression, with --below or --above");
    seek_command->add_option("--below", seek_options.goal.below, "What the figure has to stay below, as in \"0.5 K/W\"");
    seek_command->add_option("--above", seek_options.goal.above, "What it has to stay above");
    seek_command->add_option("--study", seek_options.study, "Study (default: the first)");
    seek_command->add_option("--variant", seek_options.variant, "Variant, or point of a sweep");
    seek_command->add_option("--set", seek_options.set, "Change a value, as in \"pad = 1 mm\"");
    seek_command->add_option("--within", seek_options.within,
                             "A margin this small counts as met (default: 0.05 K, of other quantities a thousandth of the limit)");
    add_units(*seek_command, seek_options.units);
    seek_command->add_flag("--json", seek_options.json, "Print JSON instead of text");
    seek_command->add_flag("--quiet", seek_options.quiet, "No progress on standard error");
    add_as_meshed(*seek_command, seek_options.as_meshed);

    ToleranceOptions tolerance_options;
    auto* tolerance_command = app.add_subcommand("tolerance", "Tell how likely limits are kept when parameters vary as their spreads say");
    tolerance_command->add_option("MODEL", tolerance_options.model, "Model file (TOML)")->required();
    tolerance_command->add_option("--study", tolerance_options.studies, "Only this study (may be given several times)");
    tolerance_command->add_option("--runs", tolerance_options.runs, "Samples (default: 100)")->check(CLI::Range(10, 100000));
    tolerance_command->add_option("--figure", tolerance_options.goal.figure,
                                  "Tell this figure, too: an address or expression; with --below or --above as a limit besides those of the model");
    tolerance_command->add_option("--below", tolerance_options.goal.below, "What the figure has to stay below");
    tolerance_command->add_option("--above", tolerance_options.goal.above, "What it has to stay above");
    tolerance_command->add_option("--seed", tolerance_options.seed, "Another seed gives other samples (default: 1)");
    tolerance_command->add_option("--budget", tolerance_options.budget, "If sampling would take longer, differences are used instead (default: 30 min)");
    tolerance_command->add_flag("--linear", tolerance_options.linear, "Use differences around the nominal values in any case");
    tolerance_command->add_option("--variant", tolerance_options.variant, "Variant, or point of a sweep");
    tolerance_command->add_option("--set", tolerance_options.set, "Change a value, as in \"fins = 16\"");
    add_units(*tolerance_command, tolerance_options.units);
    tolerance_command->add_flag("--json", tolerance_options.json, "Print JSON instead of text");
    tolerance_command->add_flag("--quiet", tolerance_options.quiet, "No progress on standard error");
    add_as_meshed(*tolerance_command, tolerance_options.as_meshed);

    ReportOptions report_options;
    auto* report_command = app.add_subcommand("report", "Write one HTML page with everything in a results folder, to be opened without a network");
    report_command->add_option("DIR", report_options.folder, "Results folder")->required();
    report_command->add_option("--out", report_options.out, "HTML file (default: the folder's name with .html)");
    report_command->add_option("--comparison", report_options.comparison, "Folder that compare wrote (default: the one beside the results)");
    report_command->add_option("--frames", report_options.frames, "Moments of a transient or cyclic study that the view can show (default: 8)")
        ->check(CLI::Range(1, 200));
    report_command->add_flag("!--no-view", report_options.view, "Without the assembly to turn, which makes the page small");
    add_units(*report_command, report_options.units);
    report_command->add_flag("--quiet", report_options.quiet, "No progress on standard error");

    ProbeOptions probe_options;
    auto* probe_command = app.add_subcommand("probe", "Tell temperatures over time, or along a line, from a results folder");
    probe_command->add_option("DIR", probe_options.folder, "Results folder")->required();
    probe_command->add_option("--study", probe_options.study, "Study (default: the first over time)");
    probe_command->add_option("--part", probe_options.parts, "Lowest, mean and highest temperature of a part");
    probe_command->add_option("--sensor", probe_options.sensors, "A sensor of the model");
    probe_command->add_option("--figure", probe_options.figures,
                              "A figure of the model, an address as \"fin 3.max\", or an expression as \"= 'lid.max' - 'lid.min'\"");
    probe_command->add_option("--point", probe_options.points, "A point of a part, bare lengths in the unit of the answers, as in \"base: 90, 60, 3\"");
    probe_command->add_option("--surface", probe_options.surfaces, "Mean and highest temperature of a named surface, cooling or hold");
    probe_command->add_option("--line", probe_options.lines,
                              "Along a straight line in a part, bare lengths in the unit of the answers, as in \"base: 0, 60, 3 to 180, 60, 3\"");
    probe_command->add_option("--at", probe_options.at, "Only at this time, whatever was kept, as in \"120 s\" (a line: default the last)");
    probe_command->add_option("--when", probe_options.when,
                              "When a part, sensor, address or figure lies on one side of a value, as in \"lid < 40 degC\" (a part: its hottest place)");
    probe_command->add_option("--samples", probe_options.samples, "Points along a line (default: 41)")->check(CLI::Range(2, 10000));
    probe_command->add_flag("--mean", probe_options.mean, "The mean of all that is named, instead of each");
    probe_command->add_flag("--heat-flux", probe_options.heat_flux, "Of points, sensors and a line the heat flux instead: its size and its components");
    add_units(*probe_command, probe_options.units);
    probe_command->add_flag("--csv", probe_options.csv, "Print CSV with all digits instead of a table");
    probe_command->add_option("--chart", probe_options.chart, "Draw a chart as FILE.svg and FILE.png, too");

    DrawOptions draw_options;
    auto* draw_command = app.add_subcommand("draw", "Draw further pictures of a results folder, without solving again");
    draw_command->add_option("DIR", draw_options.folder, "Results folder")->required();
    draw_command->add_option("--study", draw_options.study, "Study (default: the first over time)");
    draw_command->add_option("--at", draw_options.at, "At this time, whatever was kept, as in \"120 s\" (default: the end)");
    draw_command->add_option("--picture", draw_options.picture, "Picture of the model to begin with (default: the first)");
    draw_command->add_option("--set", draw_options.set,
                             "A key of [[picture]], as in \"azimuth = 60\", \"show = heat flux\", \"above = 80 degC\" (may be given several times)");
    draw_command->add_option("--out", draw_options.out, "PNG file (default: named after the results and what was asked)");
    draw_command->add_option("--width", draw_options.width, "Pixels (default: 1280)")->check(CLI::Range(600, 8000));
    draw_command->add_option("--height", draw_options.height, "Pixels (default: 800)")->check(CLI::Range(400, 8000));
    add_units(*draw_command, draw_options.units);

    ReduceOptions reduce_options;
    auto* reduce_command = app.add_subcommand("reduce", "Write a study in time as a few linear equations: state space, SPICE netlist, step responses");
    reduce_command->add_option("MODEL", reduce_options.model, "Model file (TOML)")->required();
    reduce_command->add_option("--study", reduce_options.study, "Study (default: the first in time)");
    reduce_command->add_option("--variant", reduce_options.variant, "Variant, or point of a sweep");
    reduce_command->add_option("--set", reduce_options.set, "Change a value, as in \"pad = 1 mm\" (may be given several times)");
    reduce_command->add_option("--out", reduce_options.out, "Folder to write to (default: the model's name with .reduced)");
    add_units(*reduce_command, reduce_options.units);
    reduce_command->add_flag("--quiet", reduce_options.quiet, "No progress on standard error");

    SurfaceOptions surface_options;
    auto* surface_command = app.add_subcommand("surface", "Tell what is in an STL or STEP file, or write parts of a model as one");
    surface_command->add_option("FILE", surface_options.file, "STL or STEP file, or model file (TOML)")->required();
    surface_command->add_option("--part", surface_options.part,
                                "Part of the model to write (STEP: default all); of a STEP file the solid whose faces are told");
    surface_command->add_option("--variant", surface_options.variant, "Variant, or point of a sweep, of the model");
    surface_command->add_option("--set", surface_options.set, "Change a value of the model, as in \"pad = 1 mm\" (may be given several times)");
    surface_command->add_option("--body", surface_options.body, "Only this one of several bodies of an STL file, by number or name");
    surface_command->add_flag("--each", surface_options.each, "Every body of an STL file in a file of its own: \"out 1.stl\", \"out 2.stl\", ...");
    surface_command->add_option("--out", surface_options.out, "STL or STEP file to write; a repaired one when FILE is an STL file");
    surface_command->add_option("--picture", surface_options.picture, "PNG to draw: faces with their numbers, or the solids of a STEP file");
    surface_command->add_option("--azimuth", surface_options.azimuth, "Of the picture, degrees (default: -35; 0 looks along +y)");
    surface_command->add_option("--elevation", surface_options.elevation, "Of the picture, degrees above the horizon (default: 28)");
    surface_command->add_option("--unit", surface_options.unit, "Length unit of STL files (default: mm)");
    surface_command->add_option("--chord", surface_options.chord, "How far facets may be from curved faces (default: 0.05 mm)");

    ImportOptions import_options;
    auto* import_command = app.add_subcommand("import", "Write a model file to begin with from a STEP file: its parts, materials, what touches, what is open");
    import_command->add_option("FILE", import_options.file, "STEP file")->required();
    import_command->add_option("--out", import_options.out, "Model file to write (default: the file's name with .toml)");
    import_command->add_flag("--overwrite", import_options.overwrite, "Write over a model file that is there already");

    KeysOptions keys_options;
    auto* keys_command = app.add_subcommand("keys", "Tell the tables of a model file or of results, and what their keys take and mean");
    keys_command->add_option("TABLE", keys_options.table, "Table or shape, as in \"part\" or \"cylinder\"; without it, list all");
    keys_command->add_flag("--results", keys_options.results, "Tell the tables of results for machines instead: summary.json and what --json prints");
    keys_command->add_flag("--markdown", keys_options.markdown, "Print a table of Markdown instead of text");

    MaterialsOptions materials_options;
    auto* materials_command = app.add_subcommand("materials", "Browse the material library with its sources");
    materials_command->add_option("WORD", materials_options.word,
                                  "Show only materials with this word in their name or group, or commonly called so (\"mild steel\", \"FR4\", \"PA66\")");

    add_units(*materials_command, materials_options.units);

    ConvectionOptions convection_options;
    auto* convection_command = app.add_subcommand("convection", "Work out a convection coefficient; without a law, list laws and usual values");
    convection_command->add_option("LAW", convection_options.law, "Law, as in \"vertical plate\"");
    convection_command->add_option("--surface", convection_options.surface, "Surface temperature, as in \"75 degC\"");
    convection_command->add_option("--ambient", convection_options.ambient, "Temperature of the fluid far away");
    convection_command->add_option("--fluid", convection_options.fluid, "Fluid (default: air)");
    convection_command->add_option("--model", convection_options.model, "Model file whose [[fluid]] tables may be named");
    add_units(*convection_command, convection_options.units);
    convection_command->add_flag("--json", convection_options.json, "Print JSON with all digits instead of text");
    convection_command->add_option("--length", convection_options.length, "Height, length along the flow, or area over perimeter");
    convection_command->add_option("--diameter", convection_options.diameter, "Diameter; hydraulic diameter of a duct");
    convection_command->add_option("--spacing", convection_options.spacing, "Clear width between fins");
    convection_command->add_option("--angle", convection_options.angle, "Degrees from the vertical");
    convection_command->add_option("--speed", convection_options.speed, "Speed of the flow, as in \"2 m/s\"");
    convection_command->add_option("--pressure", convection_options.pressure, "Pressure of a gas, as in \"0.7 bar\"");

    DemoOptions demo_options;
    auto* demo_command = app.add_subcommand("demo", "Write the demo model and run everything on it");
    demo_command->add_option("DIR", demo_options.folder, "Where to write (default: firnfield-demo)");

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        const int code = app.exit(error);
        return code == 0 ? done : wrong_input;
    }

    if (*check_command) {
        return guarded(
            check_options.model, [](const void* o) { return check(*static_cast<const CheckOptions*>(o)); }, &check_options);
    }
    if (*solve_command) {
        return guarded(
            solve_options.model, [](const void* o) { return solve(*static_cast<const SolveOptions*>(o)); }, &solve_options);
    }
    if (*compare_command) {
        const bool model = compare_options.what.size() == 1;
        return guarded(
            model ? compare_options.what.front() : std::filesystem::path(), [](const void* o) { return compare(*static_cast<const CompareOptions*>(o)); },
            &compare_options);
    }
    if (*why_command) {
        return guarded(
            why_options.model, [](const void* o) { return why(*static_cast<const WhyOptions*>(o)); }, &why_options);
    }
    if (*seek_command) {
        return guarded(
            seek_options.model, [](const void* o) { return seek(*static_cast<const SeekCommandOptions*>(o)); }, &seek_options);
    }
    if (*tolerance_command) {
        return guarded(
            tolerance_options.model, [](const void* o) { return tolerance(*static_cast<const ToleranceOptions*>(o)); }, &tolerance_options);
    }
    if (*report_command) {
        return guarded(
            {}, [](const void* o) { return report(*static_cast<const ReportOptions*>(o)); }, &report_options);
    }
    if (*probe_command) {
        return guarded(
            {}, [](const void* o) { return probe(*static_cast<const ProbeOptions*>(o)); }, &probe_options);
    }
    if (*draw_command) {
        return guarded(
            {}, [](const void* o) { return draw(*static_cast<const DrawOptions*>(o)); }, &draw_options);
    }
    if (*reduce_command) {
        return guarded(
            reduce_options.model, [](const void* o) { return reduce(*static_cast<const ReduceOptions*>(o)); }, &reduce_options);
    }
    if (*surface_command) {
        return guarded(
            {}, [](const void* o) { return surface(*static_cast<const SurfaceOptions*>(o)); }, &surface_options);
    }
    if (*import_command) {
        return guarded(
            {}, [](const void* o) { return import_step(*static_cast<const ImportOptions*>(o)); }, &import_options);
    }
    if (*keys_command) {
        return guarded(
            {}, [](const void* o) { return keys(*static_cast<const KeysOptions*>(o)); }, &keys_options);
    }
    if (*materials_command) {
        return guarded(
            {}, [](const void* o) { return materials(*static_cast<const MaterialsOptions*>(o)); }, &materials_options);
    }
    if (*convection_command) {
        return guarded(
            convection_options.model, [](const void* o) { return convection(*static_cast<const ConvectionOptions*>(o)); }, &convection_options);
    }
    const std::filesystem::path demo_model = demo_options.folder / "radar.toml";
    return guarded(
        demo_model, [](const void* o) { return demo(*static_cast<const DemoOptions*>(o)); }, &demo_options);
}

int main(int argc, char** argv) {
    using namespace firnfield::command;
    let_threads_sleep(argv);
    const bool output_was_closed = open_closed_streams();
    return finished(run(argc, argv), output_was_closed);
}
