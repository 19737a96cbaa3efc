// Runs the studies of a model one after the other and hands out what each gave.

#include <firnfield/run.hpp>

#include <firnfield/error_bars.hpp>
#include <firnfield/explain.hpp>
#include <firnfield/refine.hpp>

#include "findings/mesh_error.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <map>
#include <new>

namespace firnfield {
namespace {

class Runner {
public:
    Runner(const Model& model, const RunOptions& options, const RunSinks& sinks) : model_(model), options_(options), sinks_(sinks) {}

    StudyFindings run(const Study& study) { return study.kind == StudyKind::steady ? StudyFindings(run_steady(study)) : StudyFindings(run_in_time(study)); }

private:
    /// Where a study ends that others start from.
    struct End {
        std::vector<double> temperature{};  // K per node
        NodeErrors errors{};
    };

    /// Several meshes tell of the model's own one; with a target they stand around the one that meets it.
    bool refines() const { return options_.errors && model_.mesh.refine && !model_.parts.empty() && !(options_.error_bars && !model_.mesh.error_target); }

    /// The layers that the model's first steady study is refined to, whichever are solved.
    const std::vector<LayerSize>& layers() {
        if (!layers_) layers_ = refines() ? refined_layers(model_, {.steady = {.progress = options_.progress}}) : model_.mesh.layers;
        return *layers_;
    }

    RefinedSolution refined(const Study& study) {
        const std::vector<Study> all = studies_of(model_);
        const auto first = std::find_if(all.begin(), all.end(), [](const Study& s) { return s.kind == StudyKind::steady; });
        const bool leads = !layers_ && first != all.end() && first->name == study.name;
        const Model meshed = with_layers(model_, leads ? model_.mesh.layers : layers());
        RefinedSolution out = solve_refined(meshed, study, {.steady = {.progress = progress_of(study)}});
        if (leads) layers_ = out.findings.layers;
        if (out.findings.layers == *layers_) meshes_[cells_of(study)].mesh = out.solution.mesh;  // studies in time have it, too
        return out;
    }

    /// A stop is seen by the next computation: what was just found is not lost.
    void tell(const Study& study, const std::string& stage) const {
        if (options_.progress) static_cast<void>(options_.progress({.study = study.name, .stage = stage}));
    }
    ProgressCallback progress_of(const Study& study) const { return of_study(options_.progress, study.name); }

    Model meshed(const Study& study) { return with_layers(meshed_for(model_, study), layers()); }

    const std::shared_ptr<const Mesh>& mesh(const Study& study) {
        static_cast<void>(layers());
        Meshed& meshed = meshes_[cells_of(study)];
        if (meshed.mesh) return meshed.mesh;
        tell(study, "meshing");
        const auto start = std::chrono::steady_clock::now();
        meshed.mesh = std::make_shared<const Mesh>(build_mesh(this->meshed(study)));
        meshed.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        return meshed.mesh;
    }

    Findings run_steady(const Study& study) {
        SteadySolution solution;
        Findings found;
        if (options_.error_bars) {
            BarredSolution barred = solve_with_error_bars(with_layers(model_, layers()), study, {.steady = {.progress = progress_of(study)}});
            solution = std::move(barred.solution);
            found = std::move(barred.findings);
        } else if (refines()) {
            RefinedSolution fine = refined(study);
            solution = std::move(fine.solution);
            found = std::move(fine.findings);
            if (found.layers == layers()) keep_end(study, solution);
        } else {
            solution = solve_steady(model_, mesh(study), study, {.progress = progress_of(study)});
            solution.summary.mesh_seconds = meshes_[cells_of(study)].seconds;
            found = findings(model_, solution, {.errors = options_.errors, .progress = progress_of(study)});
            solution.solver.reset();
            found.layers = layers();
            keep_end(study, solution);
        }
        tell(study, "writing fields and pictures");
        if (options_.why) found.why = explained(study, solution, tightest(found));
        if (sinks_.steady) sinks_.steady(study, solution, found);
        return found;
    }

    TimeFindings run_in_time(const Study& study) {
        const std::shared_ptr<const Mesh>& meshed = mesh(study);
        const auto start = std::chrono::steady_clock::now();
        const auto network = std::make_shared<const Network>(build_network(model_, *meshed, study));
        const double network_seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        HistoryRecorder recorder(model_, mesh(study), study, network);
        TransientOptions options{.progress = progress_of(study), .network = network, .errors = options_.errors};
        if (sinks_.begin) {
            if (std::optional<PutAside> before = sinks_.begin(study)) {
                // Solving without errors does not refine, and so has another mesh.
                if (before->state.rise.size() != network->nodes) {
                    throw Error(fmt::format(
                        "study \"{}\" was stopped on a mesh of {} cells, and this one has {}: go on with the same options that it was started with, or "
                        "begin anew without --resume",
                        study.name, before->state.rise.size(), network->nodes));
                }
                recorder.resume(std::move(before->record));
                options.resume = std::move(before->state);
            }
        }
        PeakCatcher peak(recorder);
        options.observe = [&](const TimeStep& step) {
            const bool go_on = recorder(step);
            if (sinks_.step) sinks_.step(study, step);
            if (options_.why) peak.see(step);
            return go_on;
        };
        if (study.kind == StudyKind::transient && sinks_.checkpoint) {
            options.checkpoint_steps = options_.checkpoint_steps;
            options.checkpoint = [&](const TransientState& state) { sinks_.checkpoint(study, state, recorder.put_aside()); };
        }
        TransientSolution solution = solve(study, options);
        solution.summary.mesh_seconds = meshes_[cells_of(study)].seconds;
        solution.summary.network_seconds += network_seconds;
        TimeFindings found = recorder.findings(solution);
        found.layers = layers();
        if (options_.error_bars) {
            found.warnings.push_back({"no_error_bars", fmt::format("several meshes are solved for steady studies only: {}",
                                                                   options_.errors ? "errors of this one come from its own mesh" : "this one has no errors")});
        }
        Moments moments(model_, mesh(study), study, network);
        try {
            if (const auto worst = peak.solution(moments)) found.why = explained(study, *worst, peak.what());
        } catch (const ComputationError& error) {
            found.warnings.push_back({"not_explained", error.what()});  // a run in time may do without surroundings
        }
        tell(study, "writing fields, pictures and charts");
        if (sinks_.in_time) sinks_.in_time(study, solution, found, moments);
        ends_[study.name] = {std::move(solution.end.temperature), std::move(solution.errors)};
        return found;
    }

    TransientSolution solve(const Study& study, TransientOptions options) {
        End start = start_of(study);
        options.start_errors = std::move(start.errors);
        return solve_in_time(model_, mesh(study), study, start.temperature, options);
    }

    /// From where a study begins.
    End start_of(const Study& study) {
        if (study.start.study.empty()) return {start_temperatures(model_, *mesh(study), study), {}};
        if (study.start.results.empty()) return end_of(study.start.study);
        if (!sinks_.start_from_results) throw Error(fmt::format("study \"{}\" starts from a results folder, and nobody here reads one", study.name));
        End out{sinks_.start_from_results(study, *mesh(study)), {}};
        if (options_.errors) out.errors = start_errors(model_, mesh(study), study, out.temperature, progress_of(study));
        return out;
    }

    /// The end of a steady study, for those that start from it.
    void keep_end(const Study& study, const SteadySolution& solution) {
        const std::vector<Study> all = studies_of(model_);
        const bool used = std::any_of(all.begin(), all.end(), [&](const Study& s) { return s.start.study == study.name && s.start.results.empty(); });
        ends_[study.name] = {solution.temperature, used && options_.errors ? node_errors(model_, solution, progress_of(study)) : NodeErrors{}};
    }

    /// Where a study ends that another one starts from; it is solved for that where it was not yet.
    const End& end_of(const std::string& name) {
        if (const auto known = ends_.find(name); known != ends_.end()) return known->second;
        const std::vector<Study> all = studies_of(model_);
        const Study& study = *std::find_if(all.begin(), all.end(), [&](const Study& s) { return s.name == name; });
        tell(study, "solved to start another study from");
        if (study.kind == StudyKind::steady) {
            keep_end(study, solve_steady(model_, mesh(study), study, {.progress = progress_of(study)}));
        } else {
            TransientSolution solution = solve(study, {.progress = progress_of(study), .time_constant = false, .errors = options_.errors});
            ends_[name] = {std::move(solution.end.temperature), std::move(solution.errors)};
        }
        return ends_[name];
    }

    Explanation explained(const Study& study, const SteadySolution& solution, ExplainOptions what) const {
        what.progress = progress_of(study);
        Explanation why = explain(model_, solution, what);
        if (sinks_.explained) sinks_.explained(study, solution, why);
        return why;
    }

    struct Meshed {
        std::shared_ptr<const Mesh> mesh;
        double seconds = 0.0;
    };

    const Model& model_;
    const RunOptions& options_;
    const RunSinks& sinks_;
    std::optional<std::vector<LayerSize>> layers_;
    using Cells = std::pair<double, int>;
    static Cells cells_of(const Study& study) { return {study.coarsening, study.through}; }
    std::map<Cells, Meshed> meshes_;  // by the resolution of studies
    std::map<std::string, End> ends_;
};

}  // namespace

RunResult run_studies(const Model& model, std::span<const Study> studies, const RunOptions& options, const RunSinks& sinks) {
    Runner runner(model, options, sinks);
    RunResult out;
    try {
        for (const Study& study : studies) {
            try {
                out.findings.push_back(runner.run(study));
            } catch (const Cancelled&) {
                throw;
            } catch (const ComputationError& error) {
                out.failures.push_back({study.name, error.what()});
            } catch (const std::bad_alloc&) {
                out.failures.push_back({study.name, "not enough memory; raise mesh.cell"});
            }
            if (sinks.so_far) sinks.so_far(out);
        }
    } catch (const Cancelled&) {
        out.stopped = true;
    }
    return out;
}

}  // namespace firnfield
