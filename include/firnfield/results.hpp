/// Results for machines and for later: JSON, fields for viewers, and the results folder.
#pragma once

#include <firnfield/compare.hpp>
#include <firnfield/findings.hpp>
#include <firnfield/history.hpp>
#include <firnfield/model.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/run.hpp>
#include <firnfield/seek.hpp>
#include <firnfield/steady.hpp>
#include <firnfield/tolerance.hpp>

#include <cstdint>
#include <filesystem>
#include <initializer_list>
#include <map>
#include <mutex>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace firnfield {

/// Findings as JSON; every key is described in docs/results.md. SI units, temperatures in °C.
[[nodiscard]] std::string to_json(const Findings& findings);

[[nodiscard]] std::string to_json(const TimeFindings& findings);

/// What `check` tells, as JSON.
[[nodiscard]] std::string to_json(const Inspection& inspection);

/// Where a model came from, so that results can be told from those of a file that has changed since.
struct Origins {
    std::string file{};             ///< as seen from the results folder; empty: not from a file
    std::string design{};           ///< variant or point of a sweep; empty: the file as it stands
    std::vector<Change> changes{};  ///< further ones
};

/// What `summary.json` of a results folder holds.
struct Summary {
    std::string version{};  ///< of the program that wrote it
    std::string title{}, fingerprint{};
    Origins from{};
    Units units{};                         ///< that people are told them in
    std::optional<double> mass{};          ///< kg of all parts; absent when a density is unknown
    std::vector<StudyFindings> studies{};  ///< without histories and networks
    std::vector<StudyFailure> failures{};  ///< studies that failed
};
[[nodiscard]] Summary summarise(const Model& model, std::span<const StudyFindings> studies, const Origins& from = {},
                                std::span<const StudyFailure> failures = {});
/// The whole of `summary.json`.
[[nodiscard]] std::string to_json(const Summary& summary);
/// Reads what to_json() wrote, from a results folder. Throws FileError for a folder that is none and for what another version wrote.
[[nodiscard]] Summary read_summary(const std::filesystem::path& folder);
/// The same from a text. Throws FileError; `file` is named in it.
[[nodiscard]] Summary parse_summary(std::string_view json, const std::filesystem::path& file = "summary.json");

/// What a design of a model file gave; `model` is that of the design.
[[nodiscard]] Outcome outcome_of(const Design& design, const Model& model, std::span<const StudyFindings> studies);

/// A comparison as JSON and as CSV, one line for each figure of each design.
[[nodiscard]] std::string to_json(const Comparison& comparison);
[[nodiscard]] std::string to_csv(const Comparison& comparison, const Units& units = {});
/// Reads the comparison of a folder that `firnfield compare` wrote: its designs have no figures of their own. Throws FileError.
[[nodiscard]] Comparison read_comparison(const std::filesystem::path& folder);

[[nodiscard]] std::string to_json(const ToleranceFindings& tolerance);
/// What a search found; `unit` is that of the numbers.
[[nodiscard]] std::string to_json(const SeekResult& result, const std::string& address, const std::string& unit);
/// A coefficient from a law, between a surface and its surroundings (K), and the numbers on the way to it.
[[nodiscard]] std::string to_json(const ConvectionLaw& law, const ConvectionResult& result, double surface, double ambient);
/// An explanation alone.
[[nodiscard]] std::string to_json(const Explanation& explanation);

/// Results that were written before.
struct KeptOutcome {
    Outcome outcome{};
    Origins from{};
    Units units{};
};
/// From a results folder. Throws FileError for a folder that is none.
[[nodiscard]] KeptOutcome read_outcome(const std::filesystem::path& folder);
/// Why results do not speak for their model file any more: it has changed, or is gone; empty while they do.
[[nodiscard]] std::string stale(const std::filesystem::path& folder, const Origins& from, std::string_view fingerprint);
[[nodiscard]] inline std::string stale(const std::filesystem::path& folder, const KeptOutcome& kept) {
    return stale(folder, kept.from, kept.outcome.fingerprint);
}
[[nodiscard]] inline std::string stale(const std::filesystem::path& folder, const Summary& summary) { return stale(folder, summary.from, summary.fingerprint); }

/// Values over time as CSV: names in the first line, the time (s) in the first column. In the usual units numbers are exact: read back they are the same.
[[nodiscard]] std::string history_csv(const History& history, const Units& units = {});

/// Reads what history_csv() wrote in these units. Throws FileError.
[[nodiscard]] History read_history(const std::filesystem::path& file, const Units& units = {});

/// Temperatures of every cell at some times of a run, kept for later questions: a file that grows by one record a time.
/// Format: docs/results.md.
class TemperatureWriter {
public:
    /// Begins a file, or goes on with one from the record after `time` (s). Throws FileError.
    TemperatureWriter(std::filesystem::path file, std::size_t cells, std::size_t thermostats, double reference, std::optional<double> after = {});
    void add(double time, std::span<const double> rise, const std::vector<bool>& on);

private:
    std::filesystem::path file_;
    std::size_t cells_, thermostats_;
};

/// What a TemperatureWriter wrote.
struct KeptTemperatures {
    double reference = 0.0;                   ///< K
    std::vector<double> time{};               ///< s
    std::vector<std::vector<bool>> on{};      ///< of every thermostat
    std::vector<std::vector<double>> rise{};  ///< K above the reference, per cell
};
/// Throws FileError for a file that is not one or breaks off.
[[nodiscard]] KeptTemperatures read_temperatures(const std::filesystem::path& file);

/// The model with the mesh that the kept temperatures of a study belong to: the finest one, where the results have error bars.
/// `folder` is that of the results. Throws FileError.
[[nodiscard]] Model meshed_as_kept(const Model& model, const Study& study, const std::filesystem::path& folder);
[[nodiscard]] Model meshed_as_kept(const Model& model, const Study& study, const Summary& summary);

/// A run put aside: what resume needs, as bytes. `read_checkpoint` throws FileError for bytes that are not one of this fingerprint.
struct Checkpoint {
    std::string fingerprint{}, study{};
    TransientState state{};
    TimeRecord record{};
};
[[nodiscard]] std::string write_checkpoint(const Checkpoint& checkpoint);
[[nodiscard]] Checkpoint read_checkpoint(const std::filesystem::path& file);

/// 32 hexadecimal digits that change whenever anything in the model or in a material it uses changes.
[[nodiscard]] std::string fingerprint(const Model& model);

/// Writes temperature (°C), part number, heat flux (W/m²) and how much of its box the part fills, of every cell, as a VTK unstructured grid (XML, appended
/// binary data, zlib). Throws FileError.
void write_vtu(const std::filesystem::path& file, const SteadySolution& solution);

/// Writes the true surface of every part with smooth temperatures (°C) at its corners, in the same format. Throws FileError.
void write_surface_vtu(const std::filesystem::path& file, const SteadySolution& solution);

/// All bytes of a regular file of at most `largest` bytes; pipes and devices are refused. Throws FileError.
[[nodiscard]] std::string read_file(const std::filesystem::path& file, std::uintmax_t largest = std::uintmax_t{4} << 30U);

/// A name as a name of a file: what could act on a path or a shell becomes "-", long ones are cut and get eight digits that tell them apart.
[[nodiscard]] std::string file_stem(std::string_view name);

/// A text inside of XML.
[[nodiscard]] std::string xml_text(std::string_view text);
/// A text as one cell of a CSV file: on one line, quoted where it has to be, with an apostrophe before what a spreadsheet would take for a formula.
[[nodiscard]] std::string csv_cell(std::string text);
/// The text of such a cell whose quotes are off already: without that apostrophe.
[[nodiscard]] std::string text_of_csv_cell(std::string cell);

/// Hands out names of files of which no two are alike, also where case does not count.
class FileNames {
public:
    /// file_stem() of a name, with a number behind it where that is taken, alone or with one of the endings.
    [[nodiscard]] std::string claim(std::string_view name, std::initializer_list<std::string_view> endings = {});

private:
    std::set<std::string> taken_{};
};
/// File names for all of these at once: names that can stay as they are do so.
[[nodiscard]] std::vector<std::string> file_names(std::span<const std::string> names, std::initializer_list<std::string_view> endings = {});

/// What files of a results folder are called after: the studies and pictures of a model.
class ResultNames {
public:
    explicit ResultNames(const Model& model);
    /// Throw Error for what the model does not have.
    [[nodiscard]] const std::string& study(const std::string& name) const;
    [[nodiscard]] const std::string& picture(const std::string& study, const std::string& name) const;

private:
    std::map<std::string, std::string> studies_{};
    std::map<std::pair<std::string, std::string>, std::string> pictures_{};
};

/// The path of a file as seen from a folder, whether or not either is there.
[[nodiscard]] std::string seen_from(const std::filesystem::path& file, const std::filesystem::path& folder);

/// Throws WriteError where something stands in the place of a file that is to be written and is no regular file: writing would replace it.
void require_replaceable(const std::filesystem::path& file);

/// Writes text to a file, by way of a temporary one beside it. Throws WriteError, also where something else than a regular file is there.
void write_file(const std::filesystem::path& file, std::string_view content);

/// A results folder in the making: files go to a temporary folder beside it ("NAME.unfinished"), commit() renames that into place.
/// A results folder that is there already is replaced; anything else in the way is an error. What a stopped run left to go on from is
/// never deleted: without `resume` it is put aside, and afterwards it stays where it is unless commit() has replaced it. A folder that has its
/// summary holds finished studies: where the run ends early it is put in place, or stays beside results that are there already.
class ResultsFolder {
public:
    /// With `resume`, goes on with the temporary folder of a run that was stopped. Throws FileError when `target` exists and is not a
    /// results folder, or cannot be created.
    explicit ResultsFolder(std::filesystem::path target, bool resume = false);
    ResultsFolder(const ResultsFolder&) = delete;
    ResultsFolder& operator=(const ResultsFolder&) = delete;
    ~ResultsFolder();

    /// Where the folder will stand.
    [[nodiscard]] const std::filesystem::path& target() const { return target_; }
    /// Where to put files.
    [[nodiscard]] const std::filesystem::path& path() const { return work_; }
    /// Puts the results in place of earlier ones. Throws WriteError.
    void commit();
    /// Keeps what a run finished that did not solve all of its studies: in target() where nothing stands, else where it was made, since a part does not
    /// replace what may be the whole. Returns where. Throws WriteError.
    std::filesystem::path commit_part();
    /// What a run that does not come to its end leaves.
    enum class Left {
        nothing,
        to_resume,  ///< checkpoints, in path()
        results     ///< of the studies that were finished: in target(), or in path() where something stood there
    };
    /// Leaves what a later run can go on from, or what was finished, and removes everything else; what the destructor does where commit() was not
    /// called. A second call changes nothing.
    Left give_up();
    /// Where the checkpoints of studies in time go.
    [[nodiscard]] std::filesystem::path checkpoints() const { return work_ / "checkpoints"; }
    /// Whether there is something that a later run with `resume` can go on from.
    [[nodiscard]] bool can_resume() const;
    /// Whether a summary was written there: studies are finished.
    [[nodiscard]] bool has_results() const;
    /// Where an earlier stopped run was put aside; empty when there was none.
    [[nodiscard]] const std::filesystem::path& put_aside() const { return put_aside_; }

private:
    std::filesystem::path target_, work_, put_aside_;
    bool committed_ = false;
    std::once_flag given_up_;  // by the run, or from outside of it
    Left left_ = Left::nothing;
};

}  // namespace firnfield
