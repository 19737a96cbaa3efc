// How good the errors of figures are: models of bench/errors at their default meshes against much finer ones. For each model: how many true errors lie
// within the told one, how much wider that is, and what is left of the error when the estimate is added. With --warm-up instead of their steady study
// one that begins at the ambient and lasts for their time constant, with limits that are passed on the way; with --pulses a settled cycle of loads that
// are on for half of the time.

#include <firnfield/findings.hpp>
#include <firnfield/history.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/steady.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <string>
#include <vector>

using namespace firnfield;

namespace {

struct Solved {
    std::vector<Figure> figures{};
    Index cells = 0;
    double coldest = 0.0;  // K, of the surroundings
    double solve_seconds = 0.0, error_seconds = 0.0;
};

double seconds_since(std::chrono::steady_clock::time_point start) { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); }

/// The model over time instead.
Model over_time(Model model, bool pulses) {
    const Study steady = studies_of(model).front();
    for (Material& m : model.materials) {
        m.density = m.density.value_or(2000.0);
        m.specific_heat = m.specific_heat.value_or(900.0);
    }
    Study study{
        .name = steady.name, .ambient = steady.ambient, .scale = steady.scale, .kind = StudyKind::transient, .lasts = 1.0, .coarsening = steady.coarsening};
    study.start.temperature = steady.ambient.value_or(293.15);
    const auto mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    const double constant = solve_transient(model, mesh, study, start_temperatures(model, *mesh, study)).time_constant.value();
    study.lasts = constant;
    model.limits.clear();
    if (pulses) {
        study.kind = StudyKind::cyclic;
        study.lasts = 0.0;
        model.profiles.push_back({.name = "half of the time", .duty = Duty{.on = 0.1 * constant, .off = 0.1 * constant}});
        for (Power& p : model.powers) p.profile = {"half of the time"};
    } else {
        for (const PartOverTime& part : solve_over_time(model, study, mesh, {}, false).parts) {
            const double half = 0.5 * (*study.start.temperature + part.hottest.spot.temperature);
            if (part.hottest.spot.temperature - *study.start.temperature > 1.0) model.limits.push_back({.part = part.name, .below = half});
        }
    }
    model.studies = {study};
    return model;
}

Solved solved_over_time(Model model, double tolerance) {
    model.studies.front().tolerance = tolerance;
    const Study& study = model.studies.front();
    const auto mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    auto start = std::chrono::steady_clock::now();
    static_cast<void>(solve_over_time(model, study, mesh, {}, false));
    const double without = seconds_since(start);
    start = std::chrono::steady_clock::now();
    const TimeFindings found = solve_over_time(model, study, mesh);
    return {.figures = found.figures,
            .cells = mesh->cells.size(),
            .coldest = *study.start.temperature,
            .solve_seconds = without,
            .error_seconds = seconds_since(start) - without};
}

Solved solved(const Model& model) {
    const Study study = studies_of(model).front();
    const auto mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    const SteadySolution solution = solve_steady(model, mesh, study);
    auto start = std::chrono::steady_clock::now();
    static_cast<void>(findings(model, solution, {.errors = false}));
    const double without = seconds_since(start);
    start = std::chrono::steady_clock::now();
    const Findings found = findings(model, solution);
    return {.figures = found.figures,
            .cells = found.cells,
            .coldest = solution.network->lowest_known,
            .solve_seconds = solution.summary.solve_seconds,
            .error_seconds = seconds_since(start) - without};
}

double median(std::vector<double> values) {
    if (values.empty()) return 0.0;
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

struct Tally {
    int figures = 0, within = 0, nearer = 0;
    int unsure_missed = 0;  // more than 2 % of the rise off, and not told to be unsure
    std::vector<double> width{}, off{}, left{};

    void add(const Tally& other) {
        figures += other.figures;
        within += other.within;
        nearer += other.nearer;
        unsure_missed += other.unsure_missed;
        width.insert(width.end(), other.width.begin(), other.width.end());
        off.insert(off.end(), other.off.begin(), other.off.end());
        left.insert(left.end(), other.left.begin(), other.left.end());
    }
};

/// Every figure against that of the finer mesh with its own correction. Figures that the finer one does not know well enough are left out.
Tally compare(const Solved& plain, const Solved& fine, bool each) {
    Tally out;
    for (const Figure& f : plain.figures) {
        if (f.kind == FigureKind::margin || !f.bar) continue;  // its temperature tells it
        const auto other = std::find_if(fine.figures.begin(), fine.figures.end(), [&](const Figure& x) { return same(x, f); });
        if (other == fine.figures.end()) continue;
        const bool temperature = info(f.kind).quantity->absolute_temperature;
        const double scale = std::abs(temperature ? *f.value - plain.coldest : *f.value);
        const double truth = *other->value, off = std::abs(*f.solved - truth), left = std::abs(*f.value - truth);
        if (scale < 1e-6 || other->error() > std::max(f.error(), 5e-3 * scale)) continue;
        ++out.figures;
        out.within += left <= f.error() ? 1 : 0;
        out.nearer += left <= std::max(off, 1e-3 * scale) ? 1 : 0;
        out.unsure_missed += left > 0.02 * scale && f.error() <= 0.02 * scale ? 1 : 0;
        if (left > 1e-3 * scale) out.width.push_back(f.error() / left);
        out.off.push_back(100.0 * off / scale);
        out.left.push_back(100.0 * left / scale);
        if (each)
            fmt::print("  {:13} {:40} off {:7.3f} %, told {:7.3f} %, left {:7.3f} %{}\n", info(f.kind).word, f.name, 100.0 * off / scale,
                       100.0 * f.error() / scale, 100.0 * left / scale, left <= f.error() ? "" : "   OUTSIDE");
    }
    return out;
}

void print(const std::string& name, const Tally& t, const std::string& more) {
    fmt::print("{:24} {:7} {:7} {:7} {:7} {:9.2f} {:9.2f} {:9.2f}{}\n", name, t.figures, t.within, t.nearer, t.unsure_missed, median(t.width), median(t.off),
               median(t.left), more);
}

}  // namespace

int main(int argc, char** argv) {
    bool each = false, warm_up = false, pulses = false;
    std::vector<std::filesystem::path> models;
    for (int i = 1; i < argc; ++i) {
        const std::string word = argv[i];
        each = each || word == "--each";
        warm_up = warm_up || word == "--warm-up";
        pulses = pulses || word == "--pulses";
        if (!word.starts_with("--")) models.emplace_back(word);
    }
    if (models.empty()) {
        for (const auto& entry : std::filesystem::directory_iterator(FIRNFIELD_ERROR_MODELS)) models.push_back(entry.path());
        std::sort(models.begin(), models.end());
    }
    fmt::print("{:24} {:>7} {:>7} {:>7} {:>7} {:>9} {:>9} {:>9} {:>9} {:>9}\n", "model", "figures", "within", "nearer", "missed", "told/true", "off %",
               "left %", "cells", "of solve");
    Tally all;
    for (const std::filesystem::path& path : models) {
        const Model given = read_model(path), model = warm_up || pulses ? over_time(given, pulses) : given;
        Model finer = model;
        finer.mesh.coarsening *= 0.4;
        finer.mesh.growth = std::min(model.mesh.growth, 1.3);
        const bool in_time = warm_up || pulses;
        const Solved plain = in_time ? solved_over_time(model, 0.1) : solved(model), fine = in_time ? solved_over_time(finer, 0.02) : solved(finer);
        const Tally tally = compare(plain, fine, each);
        print(path.stem().string(), tally, fmt::format(" {:9} {:9.2f}", plain.cells, fine.error_seconds / fine.solve_seconds));
        all.add(tally);
    }
    print("all", all, "");
}
