// A study of a results folder as it was kept.

#include "report/kept_results.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "io/cad_files.hpp"
#include "model/lumped.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

bool was_solved(const Summary& summary, const std::string& study) {
    return std::any_of(summary.studies.begin(), summary.studies.end(),
                       [&](const StudyFindings& found) { return std::visit([](const auto& f) { return f.study.name; }, found) == study; });
}

const Study& study_called(const std::vector<Study>& studies, const std::string& name) {
    const auto found =
        std::find_if(studies.begin(), studies.end(), [&](const Study& s) { return name.empty() ? s.kind != StudyKind::steady : s.name == name; });
    if (found != studies.end()) return *found;
    if (name.empty()) return studies.front();
    std::string known;
    for (const Study& s : studies) known += fmt::format("{}\"{}\"", known.empty() ? "" : ", ", s.name);
    throw Error(fmt::format("the results have no study \"{}\"; they have {}", name, known));
}

Study chosen(const std::filesystem::path& folder, const Model& model, const Summary& summary, const std::string& name) {
    std::vector<Study> studies = studies_of(model);
    std::erase_if(studies, [&](const Study& study) { return !was_solved(summary, study.name); });
    if (studies.empty()) throw Error(fmt::format("{} holds no study that was solved", in_quotes(folder.string())));
    return study_called(studies, name);
}

Model model_in(const std::filesystem::path& folder, const std::function<void(Model&)>& add, const std::shared_ptr<CadFiles>& cad) {
    Model model = read_model_file(folder / "model.toml", cad).base();
    if (add) add(model);
    return model;
}

}  // namespace

KeptResults::KeptResults(const std::filesystem::path& folder, const std::string& study, const std::function<void(Model&)>& add)
    : summary_(read_summary(folder)),
      cad_(std::make_shared<CadFiles>()),
      stale_(firnfield::stale(folder, summary_.from, summary_.fingerprint, cad_)),
      model_(model_in(folder, add, cad_)),
      study_(chosen(folder, model_, summary_, study)),
      kept_(read_temperatures(folder / "fields" / (ResultNames(model_).study(study_.name) + ".temperatures"))),
      mesh_(std::make_shared<const Mesh>(build_mesh(meshed_as_kept(model_, study_, summary_)))) {
    if (kept_.rise.empty() || kept_.rise.front().size() != node_count(model_, *mesh_))
        throw Error("the kept temperatures do not belong to the model beside them");
    moments_ = std::make_unique<Moments>(model_, mesh_, study_);
}

const Findings& KeptResults::found() const {
    for (const StudyFindings& found : summary_.studies) {
        const Findings* steady = std::get_if<Findings>(&found);
        const Findings& own = steady != nullptr ? *steady : std::get<TimeFindings>(found).end;
        if (own.study.name == study_.name) return own;
    }
    throw Error(fmt::format("the results have no study {}", in_quotes(study_.name)));
}

SteadySolution KeptResults::record(std::size_t n) const { return moments_->at(kept_.time[n], kept_.reference, kept_.rise[n], kept_.on[n]); }

SteadySolution KeptResults::at(double time, std::vector<std::string>& notes) const {
    if (study_.kind == StudyKind::steady) {
        notes.push_back(fmt::format("{} is a steady study: it has no times", study_.name));
        return moments_->at(kept_.time.front(), kept_.reference, kept_.rise.front(), {});
    }
    const double last = kept_.time.back(), close = 1e-9 * std::max(last, 1e-9);
    if (!(time >= kept_.time.front() - close && time <= last + close)) {
        throw Error(fmt::format("the study has times from {} to {}, not {}", show_quantity(kept_.time.front(), kinds::time, 4),
                                show_quantity(last, kinds::time, 4), show_quantity(time, kinds::time, 4)));
    }
    std::size_t r = 0;
    while (r + 1 < kept_.time.size() && kept_.time[r + 1] <= time + close) ++r;
    if (std::abs(kept_.time[r] - time) <= close) return moments_->at(kept_.time[r], kept_.reference, kept_.rise[r], kept_.on[r]);
    notes.push_back(fmt::format("at {}: run on from {}, the last time before it that was kept", show_quantity(time, kinds::time, 4),
                                show_quantity(kept_.time[r], kinds::time, 4)));
    return run_on(model_, mesh_, study_, {.time = kept_.time[r], .reference = kept_.reference, .rise = kept_.rise[r], .on = kept_.on[r]}, time);
}

}  // namespace firnfield
