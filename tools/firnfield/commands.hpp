// The commands: what each is given, and the exit status it returns.
#pragma once

#include <firnfield/firnfield.hpp>

#include <fmt/format.h>

#include <chrono>
#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <thread>
#include <vector>

namespace firnfield::command {

enum ExitStatus : int { done = 0, limit_missed = 1, wrong_input = 2, computation_failed = 3 };

struct CheckOptions {
    std::filesystem::path model;
    std::string units;  // empty: those of the model
    bool json = false;
    std::string show;               // a rule to draw
    std::filesystem::path picture;  // where; empty: named after the rule
    std::string variant;            // or point of a sweep; empty: the file as it stands
    std::vector<std::string> set;   // further changes
    bool page = false;              // one HTML page instead
    std::filesystem::path out;      // where; empty: beside the model
    double azimuth = firnfield::Picture{}.azimuth, elevation = firnfield::Picture{}.elevation;
};
int check(const CheckOptions& options);

struct SolveOptions {
    std::filesystem::path model;
    std::string units;                 // empty: those of the model
    std::string variant;               // or point of a sweep; empty: the file as it stands
    std::vector<std::string> set;      // further changes, "address = value"
    std::vector<std::string> studies;  // empty: all
    std::filesystem::path out;         // empty: beside the model, named after it
    bool json = false;
    bool pictures = true;
    bool quiet = false;
    bool as_meshed = false;
    bool errors = true, error_bars = false;
    bool why = true;
    bool resume = false;
    long long checkpoint_steps = 100;
};
int solve(const SolveOptions& options);

struct CompareOptions {
    std::string units;                                   // empty: those of the model, or of the results of the base
    std::vector<std::filesystem::path> what;             // one model, or several results folders
    std::vector<std::string> studies, variants, sweeps;  // empty: all
    std::vector<std::string> figures;                    // to tell besides
    std::string base;
    std::filesystem::path out;
    bool json = false, quiet = false, as_meshed = false, errors = true, error_bars = false, stale = false;
};
int compare(const CompareOptions& options);

struct WhyOptions {
    std::filesystem::path model;
    std::string units;                         // empty: those of the model
    std::string study, variant, part, sensor;  // empty: the first study, the file as it stands, the tightest limit
    std::vector<std::string> set;
    bool coldest = false, json = false, quiet = false, as_meshed = false;
    std::filesystem::path chart;
};
int why(const WhyOptions& options);

/// A limit that is asked for besides those of the model.
struct FigureGoal {
    std::string figure, below, above;  // empty: none
};
/// The model with it. Throws Error for a figure that makes no sense, and where neither side is given though a limit is `needed`: else it is a figure alone.
[[nodiscard]] Model with_goal(Model model, const FigureGoal& goal, bool needed = true);

struct SeekCommandOptions {
    std::filesystem::path model;
    std::string units;  // empty: those of the model
    std::string address, from, to, limit, study, variant;
    FigureGoal goal;
    std::vector<std::string> set;
    std::string within;  // empty: 0.05 K, or a thousandth of what the figure has to meet
    bool json = false, quiet = false, as_meshed = false;
};
int seek(const SeekCommandOptions& options);

struct ToleranceOptions {
    std::filesystem::path model;
    std::string units;  // empty: those of the model
    std::vector<std::string> studies, set;
    std::string variant;
    FigureGoal goal;
    int runs = 100;
    std::string budget = "30 min";  // beyond it differences instead of samples
    std::uint64_t seed = 1;
    bool linear = false, json = false, quiet = false, as_meshed = false;
};
int tolerance(const ToleranceOptions& options);

struct ReportOptions {
    std::string units;                              // empty: those of the results
    std::filesystem::path folder, out, comparison;  // out: empty: the folder's name with .html; comparison: empty: the one beside it, if any
    bool view = true, quiet = false;
    int frames = 8;
};
int report(const ReportOptions& options);

struct ProbeOptions {
    std::string units;             // empty: those of the results
    std::filesystem::path folder;  // of results
    std::string study;             // empty: the first in time, else the first
    std::vector<std::string> parts, sensors, figures, points, surfaces, lines;
    std::optional<std::string> at;  // one time only
    std::string when;               // "lid < 40 degC", instead of all others
    bool mean = false, heat_flux = false, csv = false;
    std::filesystem::path chart;
    int samples = 41;  // along a line
};
int probe(const ProbeOptions& options);

struct DrawOptions {
    std::filesystem::path folder, out;  // out: empty: named after study and picture
    std::string study, picture, units;
    std::optional<std::string> at;
    std::vector<std::string> set;
    int width = 1280, height = 800;
};
int draw(const DrawOptions& options);

struct ReduceOptions {
    std::filesystem::path model, out;   // out: empty: the model's name with .reduced
    std::string units, study, variant;  // study: empty: the first in time
    std::vector<std::string> set;
    bool quiet = false;
};
int reduce(const ReduceOptions& options);

struct SurfaceOptions {
    std::filesystem::path file;  // a model, or an STL or STEP file
    std::string part, body, unit, chord, variant;
    std::vector<std::string> set;  // of a model
    bool each = false;             // every body of a file in a file of its own
    std::filesystem::path out, picture;
    std::optional<double> azimuth, elevation;  // degrees, of the picture
};
int surface(const SurfaceOptions& options);

struct ImportOptions {
    std::filesystem::path file, out;  // STEP; a model
    bool overwrite = false;
};
int import_step(const ImportOptions& options);

struct KeysOptions {
    std::string table;  // empty: list all
    bool results = false, markdown = false;
};
int keys(const KeysOptions& options);

struct MaterialsOptions {
    std::string units;
    std::string word;
};
int materials(const MaterialsOptions& options);

struct ConvectionOptions {
    std::string units;
    std::string law, fluid = "air";
    std::filesystem::path model;  // whose own fluids may be named
    bool json = false;
    std::optional<std::string> length, diameter, spacing, angle, speed, pressure, surface, ambient;
};
int convection(const ConvectionOptions& options);

struct DemoOptions {
    std::filesystem::path folder = "firnfield-demo";
};
int demo(const DemoOptions& options);

/// Writes to standard output or standard error. Control characters that a name may have brought along are left out, ends of lines apart.
void write_out(std::string text);
void write_error(std::string text);
template <typename... T>
void say(fmt::format_string<T...> format, T&&... arguments) {
    write_out(fmt::format(format, std::forward<T>(arguments)...));
}
template <typename... T>
void tell(fmt::format_string<T...> format, T&&... arguments) {
    write_error(fmt::format(format, std::forward<T>(arguments)...));
}
/// Makes sure that closed standard streams are not taken by files, and tells which were. Call first.
bool open_closed_streams();
/// The exit status after everything is written: `computation_failed`, with a line, when standard output did not take it.
int finished(int status, bool output_was_closed);

/// Changes given as "address = value". Throws Error for one without "=".
std::vector<Change> changes_of(const std::vector<std::string>& set, bool as_meshed = false);

/// A model file whose answers are told in other units where some are named. Throws like read_model_file() and parse_units().
ModelFile read_to_tell(const std::filesystem::path& file, const std::string& units);

/// For what solves designs: one line a study, of so many where that is known.
ProgressCallback design_progress(class ProgressLine& progress, std::size_t studies = 0);

/// Throws Error where error bars are asked for and all of these studies are in time, which have none.
void require_error_bars(const std::vector<Study>& studies);
/// An error target cannot be met by whoever does not ask for errors.
void require_no_target(bool errors, const Model& model);

/// Throws Error for the name of a study that none of the model's has.
void require_studies(const Model& model, const std::vector<std::string>& names);

/// Runs a command and turns what it throws into one clear message on standard error and an exit status.
/// Problems of a model read from `model` are told with file, line and column.
int guarded(const std::filesystem::path& model, int (*run)(const void*), const void* options);

/// A progress line on standard error: rewritten in place on a terminal, a line for each stage otherwise.
/// Also stops the computation when the user interrupts (SIGINT, SIGTERM): the computation looks now and then, and where it does not within a
/// second the command ends all the same. `folder` is then left as if the computation had stopped by itself.
class ProgressLine {
public:
    explicit ProgressLine(bool quiet, ResultsFolder* folder = nullptr);
    ~ProgressLine();
    ProgressLine(const ProgressLine&) = delete;
    ProgressLine& operator=(const ProgressLine&) = delete;
    void show(const std::string& text);
    /// Whether the user has asked to stop.
    [[nodiscard]] static bool interrupted();
    /// For whatever takes one.
    ProgressCallback callback();
    /// Removes the line from a terminal.
    void close();
    /// From here on nothing interrupts: results are being put in place.
    void hold_interrupts();

private:
    /// Of what is under way: when it began, when a line was shown, and how far it was then.
    struct Pace {
        std::string study{}, stage{};
        std::chrono::steady_clock::time_point start = std::chrono::steady_clock::now(), shown{};
        double first = 0.0;  // residual, or share of the time done before
        int iteration = -1;
    };
    void show_solve(const Progress& progress);
    void show_run(const Progress& progress);

    bool quiet_, terminal_;
    bool open_ = false;
    Pace pace_{};
    std::jthread watcher_;  // ends the command where the computation does not
};

/// What is told of a run that ended before its time. `folder` is the one that gave it up, where there is one.
std::string what_is_left(ResultsFolder::Left left, const ResultsFolder* folder);

}  // namespace firnfield::command
