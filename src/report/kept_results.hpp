/// A study of a results folder as it was kept: its model, its mesh, and its temperatures at any time it reached.
#pragma once

#include <firnfield/results.hpp>
#include <firnfield/transient.hpp>

#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

class KeptResults {
public:
    /// What is asked of the results may add to the model, as figures, before anything is made of it. `study`: empty: the first in time, else the first.
    /// Throws FileError for a folder that is none of results, Error for a study that it does not have.
    KeptResults(const std::filesystem::path& folder, const std::string& study, const std::function<void(Model&)>& add = {});
    KeptResults(const KeptResults&) = delete;
    KeptResults& operator=(const KeptResults&) = delete;

    [[nodiscard]] const Summary& summary() const { return summary_; }
    [[nodiscard]] const Model& model() const { return model_; }
    [[nodiscard]] const Study& study() const { return study_; }
    [[nodiscard]] const std::shared_ptr<const Mesh>& mesh() const { return mesh_; }
    /// Why the results do not speak for their model file any more; empty while they do.
    [[nodiscard]] const std::string& stale() const { return stale_; }
    /// What was found: of a study in time at its end.
    [[nodiscard]] const Findings& found() const;
    /// Moments that were kept, and each of them.
    [[nodiscard]] std::size_t count() const { return kept_.time.size(); }
    [[nodiscard]] SteadySolution record(std::size_t n) const;
    /// Any time that the study reached (s): as it was kept, or by running on from the last time before it that was; `notes` tell which.
    [[nodiscard]] SteadySolution at(double time, std::vector<std::string>& notes) const;

private:
    Summary summary_;
    std::shared_ptr<class CadFiles> cad_;  // the folder has copies of the files that its model names
    std::string stale_;
    Model model_;
    Study study_;
    KeptTemperatures kept_;
    std::shared_ptr<const Mesh> mesh_;
    std::unique_ptr<Moments> moments_;
};

}  // namespace firnfield
