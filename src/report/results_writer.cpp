// Makes a results folder of a run as it goes.

#include <firnfield/animation.hpp>
#include <firnfield/chart.hpp>
#include <firnfield/explain.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/results_writer.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <optional>
#include <set>

namespace firnfield {
namespace {

constexpr std::size_t kept_by_itself = 41;  // fields in time for later questions
constexpr std::size_t most_frames = 240;

/// The times of a study at which whole fields are kept: those asked for.
std::vector<double> asked_times(const Study& study) {
    std::vector<double> times = study.fields_at;
    if (study.fields_every) {
        const auto count = static_cast<int>(study.lasts / *study.fields_every * (1.0 + 1e-12));
        for (int n = 0; n <= count; ++n) times.push_back(n * *study.fields_every);
    }
    std::sort(times.begin(), times.end());
    times.erase(std::unique(times.begin(), times.end()), times.end());
    return times;
}

/// And some more, evenly over the whole time, for `probe`.
std::vector<double> kept_times(const Study& study, double length) {
    std::vector<double> times = asked_times(study);
    for (std::size_t n = 0; n < kept_by_itself; ++n) times.push_back(length * static_cast<double>(n) / (kept_by_itself - 1));
    std::sort(times.begin(), times.end());
    times.erase(std::unique(times.begin(), times.end(), [&](double a, double b) { return b - a < 1e-9 * length; }), times.end());
    return times;
}

/// Writes the temperatures of chosen times as a run passes them.
class Keeper {
public:
    Keeper(std::filesystem::path file, std::size_t thermostats, std::vector<double> times, std::optional<double> after)
        : file_(std::move(file)), thermostats_(thermostats), times_(std::move(times)), after_(after) {
        if (after_) next_ = static_cast<std::size_t>(std::upper_bound(times_.begin(), times_.end(), *after_) - times_.begin());
    }
    void see(const TimeStep& step) {
        if (!writer_) writer_.emplace(file_, step.nodes(), thermostats_, step.reference, after_);
        for (; next_ < times_.size() && times_[next_] <= step.end; ++next_)
            writer_->add(times_[next_], step.rises(std::max(times_[next_], step.begin)), step.on);
        last_ = step.end;
        last_rise_ = step.keep(step.end);
        on_ = step.on;
    }
    /// A run that ended early keeps its last temperatures, too.
    void finish() {
        if (writer_ && next_ < times_.size() && (next_ == 0 || times_[next_ - 1] < last_)) writer_->add(last_, last_rise_(), on_);
    }

private:
    std::filesystem::path file_;
    std::size_t thermostats_;
    std::vector<double> times_;
    std::function<std::vector<double>()> last_rise_;
    std::vector<bool> on_;
    std::optional<double> after_;
    std::optional<TemperatureWriter> writer_;
    std::size_t next_ = 0;
    double last_ = 0.0;
};

/// The view that leaves out most.
Picture view_inside(const Model& model) {
    Picture best = pictures_of(model).front();
    for (const Picture& picture : pictures_of(model)) {
        if (!picture.above && picture.hide.size() > best.hide.size()) best = picture;
    }
    return best;
}

/// Calls `use` with the file of every shape that has one.
void each_geometry_file(Model& model, const std::function<void(std::string&)>& use) {
    const auto look = [&](Shape& shape) {
        if (Solid* solid = std::get_if<Solid>(&shape)) use(solid->source);
        if (CadSolid* solid = std::get_if<CadSolid>(&shape)) use(solid->source);
    };
    for (Part& part : model.parts) {
        look(part.shape);
        for (Shape& more : part.also) look(more);
        for (Shape& hole : part.holes) look(hole);
    }
}

using CopiedFiles = std::map<std::string, std::string>;

/// Copies the files that shapes come from into a results folder, so that it can be read whatever happens to them: their names there, by those in the model.
/// Those that a stopped run has copied stay. Throws WriteError.
CopiedFiles copy_geometry(Model model, const std::filesystem::path& file, const std::filesystem::path& folder) {
    CopiedFiles copied;
    std::set<std::string> taken;
    each_geometry_file(model, [&](const std::string& source) {
        if (source.empty() || copied.count(source) != 0) return;
        const std::filesystem::path from =
            std::filesystem::path(source).is_absolute() ? std::filesystem::path(source) : std::filesystem::absolute(file).parent_path() / source;
        std::error_code status;
        if (!std::filesystem::exists(from, status)) return;  // of a surface that was made by a program
        std::string name = from.filename().string();
        for (int n = 2; !taken.insert(name).second; ++n) name = fmt::format("{} {}{}", from.stem().string(), n, from.extension().string());
        const std::filesystem::path to = folder / "geometry" / name;
        std::filesystem::create_directories(to.parent_path(), status);
        if (!std::filesystem::exists(to, status)) write_file(to, read_file(from));
        copied[source] = (std::filesystem::path("geometry") / name).generic_string();
    });
    return copied;
}

/// The model with the files and folders that it names as seen from the results folder, so that it can be read there.
Model moved(Model model, const std::filesystem::path& file, const std::filesystem::path& folder, const CopiedFiles& copied) {
    const auto move = [&](std::string& path) {
        if (path.empty() || std::filesystem::path(path).is_absolute()) return;
        path = seen_from(std::filesystem::absolute(file).parent_path() / path, folder);
    };
    for (Study& study : model.studies) move(study.start.results);
    each_geometry_file(model, [&](std::string& source) {
        if (const auto there = copied.find(source); there != copied.end()) {
            source = there->second;
        } else {
            move(source);
        }
    });
    return model;
}

}  // namespace

class ResultsWriter::Work {
public:
    Work(const Model& model, const ResultsFolder& folder, ResultsOptions options)
        : model_(model),
          target_(folder.target()),
          folder_(folder.path()),
          checkpoints_(folder.checkpoints()),
          options_(std::move(options)),
          names_(model),
          fingerprint_(fingerprint(model)),
          told_(options_.from) {
        if (!told_.file.empty()) told_.file = seen_from(told_.file, target_);
        std::filesystem::create_directories(folder_ / "fields");
        if (options_.pictures) std::filesystem::create_directories(folder_ / "pictures");
        if (!options_.from.file.empty()) copied_ = copy_geometry(model_, options_.from.file, folder_);
    }

    void steady(const Study& study, const SteadySolution& solution, const Findings& found) const {
        TemperatureWriter(kept_file(study), solution.rise.size(), 0, solution.reference).add(0.0, solution.rise, {});
        write_fields(study.name, solution, found);
    }

    std::optional<PutAside> begin(const Study& study) {
        const double length = study.kind == StudyKind::cyclic ? (study.period ? *study.period : period_of(model_, study).value()) : study.lasts;
        std::optional<PutAside> before;
        if (options_.resume && std::filesystem::exists(checkpoint_file(study))) {
            Checkpoint saved = read_checkpoint(checkpoint_file(study));
            if (saved.fingerprint != fingerprint_)
                throw Error(fmt::format(
                    "the model has changed since the run was stopped. What it had computed stays in {}; solve the model as it is now without --resume, "
                    "which puts that aside",
                    folder_.string()));
            before = PutAside{std::move(saved.state), std::move(saved.record)};
        }
        keeper_.emplace(kept_file(study), model_.thermostats.size(), kept_times(study, length), before ? std::optional(before->state.time) : std::nullopt);
        return before;
    }

    void step(const TimeStep& step) { keeper_->see(step); }

    void checkpoint(const Study& study, const TransientState& state, const TimeRecord& record) const {
        std::filesystem::create_directories(checkpoints_);
        write_file(checkpoint_file(study), write_checkpoint({fingerprint_, study.name, state, record}));
    }

    void in_time(const Study& study, const TransientSolution& solution, const TimeFindings& found, Moments& moments) {
        keeper_->finish();
        keeper_.reset();
        std::filesystem::create_directories(folder_ / "history");
        write_file(folder_ / "history" / (names_.study(study.name) + ".csv"), history_csv(found.history, model_.units));
        write_fields(study.name, solution.end, found.end);
        write_series(study, asked_times(study), moments);
        draw(study, found);
    }

    void explained(const Study& study, const SteadySolution& solution, const Explanation& why) const {
        if (!options_.pictures) return;
        if (has_geometry()) draw_explanation(folder_ / "pictures" / (names_.study(study.name) + " - why.png"), model_, solution, why, view_inside(model_));
        if (!charts_possible()) return;
        std::filesystem::create_directories(folder_ / "charts");
        draw_explanation(folder_ / "charts" / (names_.study(study.name) + " - why"), why, model_.units);
    }

    /// Of an earlier run: a steady study left a field, one in time the last of its kept temperatures.
    std::vector<double> start_from_results(const Study& study, const Mesh& mesh) const {
        const Start& start = study.start;
        const std::filesystem::path results = std::filesystem::path(options_.from.file).parent_path() / start.results;
        const KeptTemperatures kept =
            read_temperatures(results / "fields" / (ResultNames(read_model(results / "model.toml")).study(start.study) + ".temperatures"));
        if (kept.rise.empty() || kept.rise.back().size() != node_count(model_, mesh)) {
            throw Error(
                fmt::format("the results in \"{}\" are of another geometry or mesh; solve study \"{}\" again in this model", start.results, start.study));
        }
        std::vector<double> temperature = kept.rise.back();
        for (double& t : temperature) t += kept.reference;
        return temperature;
    }

    std::string finish(const RunResult& result) const {
        std::string summary = to_json(summarise(model_, result.findings, told_, result.failures));
        write_file(folder_ / "model.toml", write_model(options_.from.file.empty() ? model_ : moved(model_, options_.from.file, target_, copied_)));
        write_file(folder_ / "summary.json", summary);  // last: with it the folder is one of results
        return summary;
    }

private:
    void tell(const std::string& stage) const {
        if (options_.progress) static_cast<void>(options_.progress({.stage = stage}));
    }
    std::filesystem::path kept_file(const Study& study) const { return folder_ / "fields" / (names_.study(study.name) + ".temperatures"); }
    std::filesystem::path checkpoint_file(const Study& study) const { return checkpoints_ / (names_.study(study.name) + ".checkpoint"); }

    /// Lumped nodes alone make no field and no picture.
    bool has_geometry() const { return !model_.parts.empty(); }

    void write_fields(const std::string& name, const SteadySolution& solution, const Findings& found) const {
        if (!has_geometry()) return;
        write_vtu(folder_ / "fields" / (names_.study(name) + ".vtu"), solution);
        write_surface_vtu(folder_ / "fields" / (names_.study(name) + " surface.vtu"), solution);
        if (!options_.pictures) return;
        std::vector<PictureFile> pictures;
        for (const Picture& view : pictures_of(model_)) pictures.push_back({folder_ / "pictures" / (names_.picture(name, view.name) + ".png"), view});
        draw_pictures(model_, solution, found, pictures);
    }

    /// Fields at the times asked for, an index over them, and the first picture as a series and as one that moves.
    void write_series(const Study& study, const std::vector<double>& times, Moments& moments) const {
        if (times.empty() || !has_geometry()) return;
        const std::string& stem = names_.study(study.name);
        const KeptTemperatures kept = read_temperatures(folder_ / "fields" / (stem + ".temperatures"));
        const auto wanted = [&](double t) { return std::any_of(times.begin(), times.end(), [&](double w) { return std::abs(w - t) <= 1e-9 * study.lasts; }); };
        std::vector<std::size_t> records;
        for (std::size_t r = 0; r < kept.time.size(); ++r) {
            if (wanted(kept.time[r])) records.push_back(r);
        }
        if (records.empty()) return;
        std::filesystem::create_directories(folder_ / "fields" / stem);
        std::string index = "<?xml version=\"1.0\"?>\n<VTKFile type=\"Collection\" version=\"0.1\">\n  <Collection>\n";
        double coldest = 1e300, hottest = 0.0;
        for (std::size_t n = 0; n < records.size(); ++n) {
            const std::size_t r = records[n];
            const std::string file = fmt::format("{}/{:04}.vtu", stem, n);
            const SteadySolution at = moments.at(kept.time[r], kept.reference, kept.rise[r], kept.on[r]);
            write_vtu(folder_ / "fields" / file, at);
            index += fmt::format("    <DataSet timestep=\"{}\" file=\"{}\"/>\n", kept.time[r], xml_text(file));
            const auto [low, high] = std::minmax_element(at.temperature.begin(), at.temperature.begin() + at.mesh->cells.size());
            coldest = std::min(coldest, *low);
            hottest = std::max(hottest, *high);
        }
        write_file(folder_ / "fields" / (stem + ".pvd"), index + "  </Collection>\n</VTKFile>\n");
        if (!options_.pictures) return;
        Picture view = pictures_of(model_).front();
        if (!view.range) view.range = {coldest, hottest};
        std::filesystem::create_directories(folder_ / "pictures" / stem);
        std::vector<std::filesystem::path> frames;
        const std::size_t stride = 1 + (records.size() - 1) / most_frames;
        for (std::size_t n = 0; n < records.size(); n += stride) {
            const std::size_t r = records[n];
            tell(fmt::format("{}: picture {} of {}", study.name, n / stride + 1, 1 + (records.size() - 1) / stride));
            const SteadySolution at = moments.at(kept.time[r], kept.reference, kept.rise[r], kept.on[r]);
            frames.push_back(folder_ / "pictures" / stem / fmt::format("{:04}.png", n));
            draw_picture(frames.back(), model_, at, firnfield::findings(model_, at), view);
        }
        constexpr int frame_milliseconds = 120;
        write_animation(folder_ / "pictures" / (stem + ".png"), frames, frame_milliseconds);
    }

    void draw(const Study& study, const TimeFindings& found) const {
        if (!options_.pictures) return;
        if (!charts_possible()) {
            tell("no charts: gnuplot is not installed (the Debian package gnuplot-nox has it)");
            return;
        }
        std::filesystem::create_directories(folder_ / "charts");
        draw_history(folder_ / "charts" / names_.study(study.name), found, model_.units);
    }

    const Model& model_;
    std::filesystem::path target_, folder_, checkpoints_;
    ResultsOptions options_;
    ResultNames names_;  // of files
    std::string fingerprint_;
    CopiedFiles copied_;
    Origins told_;                  // as seen from the results folder
    std::optional<Keeper> keeper_;  // of the study in time that runs
};

ResultsWriter::ResultsWriter(const Model& model, const ResultsFolder& folder, ResultsOptions options)
    : work_(std::make_unique<Work>(model, folder, std::move(options))) {}
ResultsWriter::~ResultsWriter() = default;

RunSinks ResultsWriter::sinks() {
    Work& work = *work_;
    return {
        .steady = [&work](const Study& study, const SteadySolution& solution, const Findings& found) { work.steady(study, solution, found); },
        .begin = [&work](const Study& study) { return work.begin(study); },
        .step = [&work](const Study&, const TimeStep& step) { work.step(step); },
        .checkpoint = [&work](const Study& study, const TransientState& state, const TimeRecord& record) { work.checkpoint(study, state, record); },
        .in_time = [&work](const Study& study, const TransientSolution& solution, const TimeFindings& found,
                           Moments& moments) { work.in_time(study, solution, found, moments); },
        .explained = [&work](const Study& study, const SteadySolution& solution, const Explanation& why) { work.explained(study, solution, why); },
        .so_far =
            [&work](const RunResult& result) {
                if (!result.findings.empty()) work.finish(result);
            },
        .start_from_results = [&work](const Study& study, const Mesh& mesh) { return work.start_from_results(study, mesh); },
    };
}

std::string ResultsWriter::finish(const RunResult& result) const { return work_->finish(result); }

}  // namespace firnfield
