// Runs the studies of a solve one after the other and writes what each gave.

#include "study_runs.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>

namespace firnfield::command {
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
        if (!writer_) writer_.emplace(file_, step.rise_end.size(), thermostats_, step.reference, after_);
        for (; next_ < times_.size() && times_[next_] <= step.end; ++next_)
            writer_->add(times_[next_], step.rises(std::max(times_[next_], step.begin)), step.on);
        last_ = step.end;
        last_rise_.assign(step.rise_end.begin(), step.rise_end.end());
        on_ = step.on;
    }
    /// A run that ended early keeps its last temperatures, too.
    void finish() {
        if (writer_ && next_ < times_.size() && (next_ == 0 || times_[next_ - 1] < last_)) writer_->add(last_, last_rise_, on_);
    }

private:
    std::filesystem::path file_;
    std::size_t thermostats_;
    std::vector<double> times_, last_rise_;
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

}  // namespace

StudyRuns::StudyRuns(const Model& model, const SolveOptions& options, const ResultsFolder& folder, ProgressLine& progress)
    : model_(model),
      options_(options),
      folder_(folder.path()),
      checkpoints_(folder.checkpoints()),
      names_(model),
      progress_(progress),
      fingerprint_(fingerprint(model)) {
    std::filesystem::create_directories(folder_ / "fields");
    if (options.pictures) std::filesystem::create_directories(folder_ / "pictures");
}

const std::shared_ptr<const Mesh>& StudyRuns::mesh(const Study& study) {
    Meshed& meshed = meshes_[study.coarsening];
    if (meshed.mesh) return meshed.mesh;
    progress_.show("meshing");
    const auto start = std::chrono::steady_clock::now();
    meshed.mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model_, study)));
    meshed.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    return meshed.mesh;
}

void StudyRuns::run(const Study& study) {
    if (study.kind == StudyKind::steady) {
        run_steady(study);
    } else {
        run_in_time(study);
    }
}

void StudyRuns::run_steady(const Study& study) {
    SteadyOptions steady;
    steady.progress = progress_.callback(study.name);
    SteadySolution solution;
    const bool bars = options_.error_bars || model_.mesh.error_target;
    Findings found;
    if (bars) {
        ErrorBarOptions bar_options;
        bar_options.steady = steady;
        BarredSolution barred = solve_with_error_bars(meshed_for(model_, study), study, bar_options);
        solution = std::move(barred.solution);
        found = std::move(barred.findings);
    } else {
        const auto& own = mesh(study);
        solution = solve_steady(model_, own, study, steady);
        solution.summary.mesh_seconds = meshes_[study.coarsening].seconds;
        found = firnfield::findings(model_, solution);
        ends_[study.name] = solution.temperature;
    }
    progress_.show(fmt::format("{}: writing fields and pictures", study.name));
    if (options_.why) found.why = explained(study, solution, tightest(found));
    TemperatureWriter(folder_ / "fields" / (names_.study(study.name) + ".temperatures"), solution.rise.size(), 0, solution.reference)
        .add(0.0, solution.rise, {});
    write_fields(study.name, solution, found);
    findings_.emplace_back(std::move(found));
}

void StudyRuns::write_fields(const std::string& name, const SteadySolution& solution, const Findings& found) {
    write_vtu(folder_ / "fields" / (names_.study(name) + ".vtu"), model_, solution);
    write_surface_vtu(folder_ / "fields" / (names_.study(name) + " surface.vtu"), model_, solution);
    if (!options_.pictures) return;
    std::vector<PictureFile> pictures;
    for (const Picture& view : pictures_of(model_)) pictures.push_back({folder_ / "pictures" / (names_.picture(name, view.name) + ".png"), view});
    draw_pictures(model_, solution, found, pictures);
}

std::vector<double> StudyRuns::start_of(const Study& study) {
    const Start& start = study.start;
    if (start.study.empty()) return start_temperatures(model_, *mesh(study), study);
    if (start.results.empty()) return end_of(start.study);
    // Of an earlier run: a steady study left a field, one in time the last of its kept temperatures.
    const std::filesystem::path results = options_.model.parent_path() / start.results;
    const KeptTemperatures kept =
        read_temperatures(results / "fields" / (ResultNames(read_model(results / "model.toml")).study(start.study) + ".temperatures"));
    if (kept.rise.empty() || kept.rise.back().size() != mesh(study)->cells.size()) {
        throw Error(fmt::format("the results in \"{}\" are of another geometry or mesh; solve study \"{}\" again in this model", start.results, start.study));
    }
    std::vector<double> temperature = kept.rise.back();
    for (double& t : temperature) t += kept.reference;
    return temperature;
}

const std::vector<double>& StudyRuns::end_of(const std::string& name) {
    if (const auto known = ends_.find(name); known != ends_.end()) return known->second;
    const std::vector<Study> all = studies_of(model_);
    const Study& study = *std::find_if(all.begin(), all.end(), [&](const Study& s) { return s.name == name; });
    progress_.show(fmt::format("{}: solved to start another study from", name));
    if (study.kind == StudyKind::steady) {
        SteadyOptions steady;
        steady.progress = progress_.callback(name);
        return ends_[name] = solve_steady(model_, mesh(study), study, steady).temperature;
    }
    TransientOptions quiet;
    quiet.progress = progress_.time_callback(name);
    quiet.time_constant = false;
    std::vector<double> end = in_time(study, quiet).end.temperature;
    return ends_[name] = std::move(end);
}

TransientSolution StudyRuns::in_time(const Study& study, const TransientOptions& options) {
    const std::vector<double> start = start_of(study);
    return study.kind == StudyKind::cyclic ? solve_cyclic(model_, mesh(study), study, start, options)
                                           : solve_transient(model_, mesh(study), study, start, options);
}

void StudyRuns::run_in_time(const Study& study) {
    const double length = study.kind == StudyKind::cyclic ? (study.period ? *study.period : period_of(model_, study).value()) : study.lasts;
    const std::string& stem = names_.study(study.name);
    const std::filesystem::path checkpoint = checkpoints_ / (stem + ".checkpoint"), kept = folder_ / "fields" / (stem + ".temperatures");
    HistoryRecorder recorder(model_, mesh(study), study);
    TransientOptions options;
    options.progress = progress_.time_callback(study.name);
    if (options_.resume && std::filesystem::exists(checkpoint)) {
        Checkpoint saved = read_checkpoint(checkpoint);
        if (saved.fingerprint != fingerprint_)
            throw Error(
                fmt::format("the model has changed since the run was stopped. What it had computed stays in {}; solve the model as it is now without --resume, "
                            "which puts that aside",
                            folder_.string()));
        recorder.resume(std::move(saved.record));
        options.resume = std::move(saved.state);
    }
    Keeper keeper(kept, model_.thermostats.size(), kept_times(study, length), options.resume ? std::optional(options.resume->time) : std::nullopt);
    PeakCatcher peak(recorder);
    options.observe = [&](const TimeStep& step) {
        const bool go_on = recorder(step);
        keeper.see(step);
        if (options_.why) peak.see(step);
        return go_on;
    };
    if (study.kind == StudyKind::transient) {
        std::filesystem::create_directories(checkpoint.parent_path());
        options.checkpoint_steps = options_.checkpoint_steps;
        options.checkpoint = [&](const TransientState& state) {
            write_file(checkpoint, write_checkpoint({fingerprint_, study.name, state, recorder.put_aside()}));
        };
    }
    TransientSolution solution = in_time(study, options);
    solution.summary.mesh_seconds = meshes_[study.coarsening].seconds;
    keeper.finish();
    TimeFindings found = recorder.findings(solution);
    if (options_.error_bars || model_.mesh.error_target) {
        found.warnings.push_back(
            {"no_error_bars", "error bars and error targets are for steady studies: how far this one may be off because of its mesh is not told"});
    }
    std::filesystem::create_directories(folder_ / "history");
    write_file(folder_ / "history" / (stem + ".csv"), history_csv(found.history));
    Moments moments(model_, mesh(study), study);
    try {
        if (const auto worst = peak.solution(moments)) found.why = explained(study, *worst, peak.what());
    } catch (const ComputationError& error) {
        found.warnings.push_back({"not_explained", error.what()});  // a run in time may do without surroundings
    }
    progress_.show(fmt::format("{}: writing fields, pictures and charts", study.name));
    write_fields(study.name, solution.end, found.end);
    write_series(study, asked_times(study));
    draw(study, found);
    ends_[study.name] = std::move(solution.end.temperature);
    findings_.emplace_back(std::move(found));
}

/// Fields at the times asked for, an index over them, and the first picture as a series and as one that moves.
void StudyRuns::write_series(const Study& study, const std::vector<double>& times) {
    if (times.empty()) return;
    const std::string& stem = names_.study(study.name);
    const KeptTemperatures kept = read_temperatures(folder_ / "fields" / (stem + ".temperatures"));
    Moments moments(model_, mesh(study), study);
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
        write_vtu(folder_ / "fields" / file, model_, at);
        index += fmt::format("    <DataSet timestep=\"{}\" file=\"{}\"/>\n", kept.time[r], xml_text(file));
        const auto [low, high] = std::minmax_element(at.temperature.begin(), at.temperature.end());
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
        progress_.show(fmt::format("{}: picture {} of {}", study.name, n / stride + 1, 1 + (records.size() - 1) / stride));
        const SteadySolution at = moments.at(kept.time[r], kept.reference, kept.rise[r], kept.on[r]);
        frames.push_back(folder_ / "pictures" / stem / fmt::format("{:04}.png", n));
        draw_picture(frames.back(), model_, at, firnfield::findings(model_, at), view);
    }
    constexpr int frame_milliseconds = 120;
    write_animation(folder_ / "pictures" / (stem + ".png"), frames, frame_milliseconds);
}

Explanation StudyRuns::explained(const Study& study, const SteadySolution& solution, ExplainOptions what) {
    what.progress = progress_.callback(study.name);
    Explanation why = explain(model_, solution, what);
    if (!options_.pictures) return why;
    draw_explanation(folder_ / "pictures" / (names_.study(study.name) + " - why.png"), model_, solution, why, view_inside(model_));
    if (charts_possible()) {
        std::filesystem::create_directories(folder_ / "charts");
        draw_explanation(folder_ / "charts" / (names_.study(study.name) + " - why"), why);
    }
    return why;
}

void StudyRuns::draw(const Study& study, const TimeFindings& found) {
    if (!options_.pictures) return;
    if (!charts_possible()) {
        progress_.show("no charts: gnuplot is not installed (the Debian package gnuplot-nox has it)");
        return;
    }
    std::filesystem::create_directories(folder_ / "charts");
    draw_history(folder_ / "charts" / names_.study(study.name), found);
}

}  // namespace firnfield::command
