/// Runs studies of a model one after the other, as the command does: meshes are kept, studies start from each other, runs in time go on from
/// where they were put aside, steady ones get error bars, and what is tightest is explained. Nothing is written here: what is found goes to
/// sinks as it comes (ResultsWriter makes a results folder of it).
#pragma once

#include <firnfield/history.hpp>
#include <firnfield/model.hpp>
#include <firnfield/steady.hpp>
#include <firnfield/transient.hpp>

#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace firnfield {

/// A run in time that was put aside: how it stands, and what its recorder has seen.
struct PutAside {
    TransientState state{};
    TimeRecord record{};
};

/// A study that could not be solved.
struct StudyFailure {
    std::string study{}, reason{};
};

/// What a run gave.
struct RunResult {
    std::vector<StudyFindings> findings{};  ///< of the studies that were solved, in their order
    std::vector<StudyFailure> failures{};   ///< one that fails leaves the others as they are
    bool stopped = false;                   ///< before the end, as a progress callback asked
};

/// Where findings go as they come. Any of these may be left out.
struct RunSinks {
    /// A steady study is solved: its solution, and its findings, explained where that was asked for.
    std::function<void(const Study&, const SteadySolution&, const Findings&)> steady{};
    /// A study in time begins. What is returned is where it goes on from.
    std::function<std::optional<PutAside>(const Study&)> begin{};
    /// After every step of a study in time.
    std::function<void(const Study&, const TimeStep&)> step{};
    /// Every so many steps of a transient: what `begin` may return later on.
    std::function<void(const Study&, const TransientState&, const TimeRecord&)> checkpoint{};
    /// A study in time has ended. `moments` makes fields of its kept temperatures.
    std::function<void(const Study&, const TransientSolution&, const TimeFindings&, Moments& moments)> in_time{};
    /// A place is explained, of a steady study or at the worst moment of one in time.
    std::function<void(const Study&, const SteadySolution&, const Explanation&)> explained{};
    /// A study is done with, solved or not: what there is so far. Where the run is ended from outside, this is what remains.
    std::function<void(const RunResult&)> so_far{};
    /// K per cell of a mesh, for a study that starts from a results folder (Start::results).
    std::function<std::vector<double>(const Study&, const Mesh&)> start_from_results{};
};

struct RunOptions {
    bool error_bars = false;  ///< of steady studies, as where the model has an error target
    /// Without them MeshOptions::refine has no effect. Studies in time are solved on the mesh that the model's first steady one is refined to.
    bool errors = true;  ///< of steady studies without error bars: FindingsOptions::errors
    bool why = true;     ///< explain the tightest limit of each study, or its hottest place
    long long checkpoint_steps = 100;
    ProgressCallback progress{};  ///< told by the name of the study
};

/// Solves the studies in their order. A study that does not settle, or does not fit into memory, is among the failures; a wrong model throws
/// ModelError, and what sinks throw goes through.
[[nodiscard]] RunResult run_studies(const Model& model, std::span<const Study> studies, const RunOptions& options = {}, const RunSinks& sinks = {});

}  // namespace firnfield
