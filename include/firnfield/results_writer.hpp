/// Makes a results folder of a run as it goes, or of a comparison: fields, temperatures kept for later questions, histories, checkpoints, pictures and charts.
/// What lies in it is described in docs/results.md.
///
///     ResultsFolder folder("radar.results");
///     ResultsWriter writer(model, folder);
///     const RunResult result = run_studies(model, studies_of(model), {}, writer.sinks());
///     writer.finish(result);
///     folder.commit();
#pragma once

#include <firnfield/results.hpp>
#include <firnfield/run.hpp>

#include <filesystem>
#include <memory>
#include <string>

namespace firnfield {

struct ResultsOptions {
    Origins from{};               ///< where the model came from: files that it names lie beside `from.file`
    bool pictures = true;         ///< pictures and charts
    bool resume = false;          ///< go on from the checkpoints in the folder
    ProgressCallback progress{};  ///< only told: what is computed is written in any case
};

/// Writes into the folder's path as studies give their results. Its functions throw WriteError where the disk does not take it, and FileError for a
/// checkpoint that is damaged or of another model.
class ResultsWriter {
public:
    /// `model` and `folder` have to outlive it.
    ResultsWriter(const Model& model, const ResultsFolder& folder, ResultsOptions options = {});
    ~ResultsWriter();
    ResultsWriter(const ResultsWriter&) = delete;
    ResultsWriter& operator=(const ResultsWriter&) = delete;

    /// For run_studies(); they refer to this writer.
    [[nodiscard]] RunSinks sinks();
    /// Writes the summary and the model; after this the folder can be committed. Returns the text of the summary.
    /// After each study that is done too, so that nothing finished is lost where the rest is.
    std::string finish(const RunResult& result) const;

private:
    class Work;
    std::unique_ptr<Work> work_;
};

/// Writes a comparison into a folder: figures as CSV, charts where gnuplot is there, what each design gave (`designs`, in the order of the comparison's), and
/// last the summary, with which the folder is one of results. Throws WriteError.
void write_comparison(const std::filesystem::path& folder, const Comparison& comparison, std::span<const Summary> designs);

}  // namespace firnfield
