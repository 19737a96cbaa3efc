// Many designs solved by several workers, with meshes shared where they fit.

#include <firnfield/compare.hpp>
#include <firnfield/error_bars.hpp>
#include <firnfield/refine.hpp>

#include "base/memory.hpp"
#include "model/keys/mesh_basis.hpp"

#include <omp.h>

#include <algorithm>
#include <atomic>
#include <exception>
#include <mutex>
#include <thread>

namespace firnfield {
namespace {

/// Solves designs, each by one of several workers.
class Batch {
public:
    Batch(std::span<const NamedModel> designs, const DesignOptions& options)
        : designs_(designs), options_(options), meshes_(options.meshes != nullptr ? *options.meshes : own_meshes_), out_(designs.size()) {
        for (std::size_t d = 0; d < designs.size(); ++d) {
            const auto same =
                std::find_if(leaders_.begin(), leaders_.end(), [&](std::size_t other) { return same_mesh(designs[other].model, designs[d].model); });
            leader_.push_back(same == leaders_.end() ? d : *same);
            if (leader_.back() == d) leaders_.push_back(d);
        }
    }

    std::vector<std::vector<StudyFindings>> run() {
        const int threads = omp_get_max_threads();
        const int count = std::max(1, std::min({options_.workers > 0 ? options_.workers : usual_workers(threads), static_cast<int>(designs_.size())}));
        // The first design decides on the mesh of those that have its geometry.
        if (!designs_.empty() && refines(designs_.front().model) && !meshes_.base) {
            const Model& base = designs_.front().model;
            // Studies in time have the mesh of the first steady one, also where they come before it or alone.
            if (!begins_with_leading(base)) meshes_.layers[""] = refined_layers(base, {.coarsen = alone(), .steady = {.progress = options_.progress}});
            solve(next_++);
            meshes_.base = designs_.front().model;
        }
        std::vector<std::thread> workers;
        for (int w = 1; w < count; ++w) {
            workers.emplace_back([this, count, threads] {
                omp_set_num_threads(std::max(1, threads / count));
                work();
            });
        }
        omp_set_num_threads(std::max(1, threads / count));
        work();
        for (std::thread& worker : workers) worker.join();
        omp_set_num_threads(threads);
        if (failure_) std::rethrow_exception(failure_);
        return std::move(out_);
    }

private:
    /// As many as the cores, as long as all of them together leave half of the memory free.
    int usual_workers(int threads) const {
        double each = 1.0;
        for (const NamedModel& d : designs_) {
            if (&d != &designs_.front() && same_mesh(d.model, designs_.front().model)) continue;
            const bool in_time = std::any_of(d.model.studies.begin(), d.model.studies.end(), [](const Study& s) { return s.kind != StudyKind::steady; });
            each = std::max(each, memory_to_solve(static_cast<double>(plan_grid(d.model).boxes()), true, in_time));
        }
        return static_cast<int>(std::clamp(0.5 * static_cast<double>(machine_memory()) / each, 1.0, static_cast<double>(threads)));
    }

    void work() {
        try {
            for (std::size_t d = next_++; d < designs_.size() && !failed_; d = next_++) solve(d);
        } catch (...) {
            const std::lock_guard lock(mutex_);
            if (!failure_) failure_ = std::current_exception();
            failed_ = true;
        }
    }

    /// For what solves a study of a design.
    ProgressCallback watch(const std::string& design, const std::string& study) {
        return [&, design, study](Progress progress) {
            progress.design = design;
            progress.study = study;
            const std::lock_guard lock(mutex_);
            return !options_.progress || options_.progress(progress);
        };
    }

    bool refines(const Model& model) const {
        return options_.errors && model.mesh.refine && !model.parts.empty() && !(options_.error_bars && !model.mesh.error_target);
    }

    bool listed(const Study& study) const {
        return options_.studies.empty() || std::find(options_.studies.begin(), options_.studies.end(), study.name) != options_.studies.end();
    }

    /// Whether the first study to be solved is the model's first steady one.
    bool begins_with_leading(const Model& model) const {
        for (const Study& study : studies_of(model)) {
            if (listed(study)) return study.kind == StudyKind::steady;
            if (study.kind == StudyKind::steady) return false;
        }
        return false;
    }

    /// Layers that the base was refined to in a study; in studies in time those of its first steady one.
    std::vector<LayerSize> layers_for(const Model& model, const Study& study) const {
        if (meshes_.layers.empty()) return model.mesh.layers;
        const auto own = meshes_.layers.find(study.name);
        return own != meshes_.layers.end() ? own->second : meshes_.layers.at("");
    }

    /// The mesh is that of the first design of this geometry, whatever its materials and loads: designs differ by themselves and not by their meshes.
    Model meshed(std::size_t d, const Study& study) const {
        const Model& model = designs_[leader_[d]].model;
        return with_layers(meshed_for(model, study), layers_for(model, study));
    }

    /// What does not matter in one design may in another.
    [[nodiscard]] bool alone() const { return designs_.size() == 1 && !meshes_.base; }

    Findings refined(std::size_t d, const Study& study, const SteadyOptions& steady) {
        const Model& model = designs_[d].model;
        Findings found = solve_refined(with_layers(model, layers_for(model, study)), study, {.coarsen = alone(), .steady = steady}).findings;
        if (!meshes_.base) {
            meshes_.layers.try_emplace("", found.layers);
            meshes_.layers[study.name] = found.layers;
        }
        return found;
    }

    void solve(std::size_t d) {
        const std::string& name = designs_[d].name;
        const Model& model = designs_[d].model;
        for (const Study& study : studies_of(model)) {
            if (!listed(study)) continue;
            const ProgressCallback progress = watch(name, study.name);
            announce(progress, {.stage = "begins"});
            if (study.kind != StudyKind::steady) {
                out_[d].emplace_back(solve_over_time(model, study, meshes_.of(meshed(d, study)), progress, options_.errors));
                continue;
            }
            const SteadyOptions steady{.progress = progress};
            if (options_.error_bars) {
                out_[d].emplace_back(solve_with_error_bars(with_layers(model, layers_for(model, study)), study, {.steady = steady}).findings);
            } else if (refines(model) && (!meshes_.base || !same_mesh(*meshes_.base, model))) {
                out_[d].emplace_back(refined(d, study, steady));
            } else {
                out_[d].emplace_back(
                    findings(model, solve_steady(model, meshes_.of(meshed(d, study)), study, steady), {.errors = options_.errors, .progress = progress}));
            }
        }
    }

    std::span<const NamedModel> designs_;
    const DesignOptions& options_;
    MeshCache own_meshes_;
    MeshCache& meshes_;
    std::vector<std::vector<StudyFindings>> out_;
    std::vector<std::size_t> leaders_, leader_;  // designs that meshes are made for, and that of each design
    std::atomic<std::size_t> next_{0};
    std::atomic<bool> failed_{false};
    std::exception_ptr failure_;
    std::mutex mutex_;
};

}  // namespace

std::shared_ptr<const Mesh> MeshCache::of(const Model& model) {
    Model basis = mesh_basis(model);
    const std::lock_guard lock(mutex_);
    for (const auto& [known, mesh] : made_) {
        if (known == basis) return mesh;
    }
    auto made = std::make_shared<const Mesh>(build_mesh(model));
    // Geometries mostly come one after the other; large meshes are not kept for the rare return to an earlier one.
    constexpr Index large = 3'000'000;  // cells
    const std::size_t most = made->cells.size() > large ? 1 : 4;
    while (made_.size() >= most) made_.erase(made_.begin());
    made_.emplace_back(std::move(basis), std::move(made));
    return made_.back().second;
}

bool same_mesh(const Model& a, const Model& b) { return mesh_basis(a) == mesh_basis(b); }

std::vector<std::vector<StudyFindings>> solve_designs(std::span<const NamedModel> designs, const DesignOptions& options) {
    return Batch(designs, options).run();
}

}  // namespace firnfield
