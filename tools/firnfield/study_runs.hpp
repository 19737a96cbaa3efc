// Studies solved one after the other, and what they leave in the results folder.
#pragma once

#include "commands.hpp"

#include <map>
#include <memory>
#include <string>
#include <vector>

namespace firnfield::command {

class StudyRuns {
public:
    StudyRuns(const Model& model, const SolveOptions& options, const ResultsFolder& folder, ProgressLine& progress);

    /// Solves a study and writes its fields, pictures, charts and history.
    void run(const Study& study);

    [[nodiscard]] const std::vector<StudyFindings>& findings() const { return findings_; }

private:
    void run_steady(const Study& study);
    void run_in_time(const Study& study);
    void write_fields(const std::string& name, const SteadySolution& solution, const Findings& findings);
    void write_series(const Study& study, const std::vector<double>& times);
    void draw(const Study& study, const TimeFindings& findings);
    /// Works out why a place is hot, and draws it.
    Explanation explained(const Study& study, const SteadySolution& solution, ExplainOptions what);

    /// K per cell, from which a study begins.
    std::vector<double> start_of(const Study& study);
    /// Solves a study whose end another one needs, without writing anything.
    const std::vector<double>& end_of(const std::string& study);
    TransientSolution in_time(const Study& study, const TransientOptions& options);
    const std::shared_ptr<const Mesh>& mesh(const Study& study);

    const Model& model_;
    const SolveOptions& options_;
    std::filesystem::path folder_, checkpoints_;
    ResultNames names_;  // of files
    ProgressLine& progress_;
    std::string fingerprint_;
    struct Meshed {
        std::shared_ptr<const Mesh> mesh;
        double seconds = 0.0;
    };
    std::map<double, Meshed> meshes_;                  // by the coarsening of studies
    std::map<std::string, std::vector<double>> ends_;  // K per cell
    std::vector<StudyFindings> findings_;
};

}  // namespace firnfield::command
