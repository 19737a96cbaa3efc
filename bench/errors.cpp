// How good the errors of figures are: models of bench/errors at their default meshes against meshes of another family at three levels, shifted and
// growing more slowly. For each model: how many true errors lie within the told one, how much wider that is, and what is left of the error when the
// estimate is added. With --warm-up instead of their steady study one that begins at the ambient and lasts for their time constant, with limits that are
// passed on the way, against one finer mesh; with --pulses a settled cycle of loads that are on for half of the time. With --refined the meshes that
// solving refines itself, what they cost, and the cells that a mesh which is finer everywhere takes to be as good. With --table every figure, for fits.

#include <firnfield/findings.hpp>
#include <firnfield/history.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/refine.hpp>
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

/// What solving by itself costs.
struct Adaptive {
    Solved solved{};
    std::size_t rounds = 0;
    bool met = false;
    double seconds = 0.0;        // of all of it
    double plain_seconds = 0.0;  // of the final mesh: made, solved and evaluated, without errors
};

Adaptive solved_refined(const Model& model) {
    const Study study = studies_of(model).front();
    auto start = std::chrono::steady_clock::now();
    const RefinedSolution found = solve_refined(model, study);
    Adaptive out{.solved = {.figures = found.findings.figures, .cells = found.findings.cells, .coldest = found.solution.network->lowest_known},
                 .rounds = found.findings.refinement ? found.findings.refinement->rounds.size() : 1,
                 .met = found.findings.refinement && found.findings.refinement->met,
                 .seconds = seconds_since(start)};
    const Model last = with_layers(model, found.findings.layers);
    start = std::chrono::steady_clock::now();
    static_cast<void>(findings(last, solve_steady(last, std::make_shared<const Mesh>(build_mesh(meshed_for(last, study))), study), {.errors = false}));
    out.plain_seconds = seconds_since(start);
    return out;
}

/// Cells of a mesh that is finer everywhere and meets what solve_refined() aims at; 0 where that is beyond two million.
Index uniform_cells(Model model) {
    const Study study = studies_of(model).front();
    for (; model.mesh.coarsening > 0.1; model.mesh.coarsening *= 0.8) {
        const Model meshed = meshed_for(model, study);
        if (static_cast<double>(plan_grid(meshed).boxes()) > 2e6) return 0;
        const Findings found = solve_refined(model, study, {.most_rounds = 1}).findings;
        if (found.refinement && found.refinement->met) return found.cells;
    }
    return 0;
}

double median(std::vector<double> values) {
    if (values.empty()) return 0.0;
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

struct Tally {
    int figures = 0, within = 0, nearer = 0;
    int open = 0;           // figures that the references do not agree about
    int unsure_missed = 0;  // more than 2 % of the rise off, and not told to be unsure
    std::vector<double> width{}, off{}, left{};

    void add(const Tally& other) {
        figures += other.figures;
        within += other.within;
        nearer += other.nearer;
        open += other.open;
        unsure_missed += other.unsure_missed;
        width.insert(width.end(), other.width.begin(), other.width.end());
        off.insert(off.end(), other.off.begin(), other.off.end());
        left.insert(left.end(), other.left.begin(), other.left.end());
    }
};

/// The model on a finer mesh of another family: other ratios, and planes where no part ends.
Model refined(Model model, double coarsening) {
    constexpr double golden = 0.381966;
    const Grid grid = plan_grid(model);
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const std::vector<double>& lines = grid.lines[axis];
        if (lines.size() > 2) model.mesh.planes[axis].push_back(lines.front() + golden * (lines.back() - lines.front()));
    }
    model.mesh.coarsening *= coarsening;
    model.mesh.growth = std::min(model.mesh.growth, 1.25);
    return model;
}

const Figure* find_same(const std::vector<Figure>& figures, const Figure& figure) {
    const auto found = std::find_if(figures.begin(), figures.end(), [&](const Figure& x) { return same(x, figure); });
    return found == figures.end() ? nullptr : &*found;
}

/// Every figure against that of the finest mesh with its own correction. Figures that the finer ones do not agree about are left out.
Tally compare(const std::string& model, const Solved& plain, const std::vector<Solved>& finer, bool each, bool table) {
    Tally out;
    for (const Figure& f : plain.figures) {
        if (f.kind == FigureKind::margin || !f.bar) continue;  // its temperature tells it
        const Figure* other = find_same(finer.back().figures, f);
        if (other == nullptr) continue;
        const bool temperature = info(f.kind).quantity->absolute_temperature;
        const double scale = std::abs(temperature ? *f.value - plain.coldest : *f.value);
        const double truth = *other->value, off = std::abs(*f.solved - truth), left = std::abs(*f.value - truth);
        double disagreement = other->error();  // of one finer mesh alone
        if (finer.size() > 1) {
            disagreement = 0.0;
            for (const Solved& level : finer) {
                const Figure* there = find_same(level.figures, f);
                disagreement = there == nullptr ? scale : std::max(disagreement, std::abs(*there->value - truth));
            }
        }
        if (scale < 1e-6) continue;
        if (disagreement > std::max(f.error(), 5e-3 * scale)) {
            ++out.open;
            continue;
        }
        ++out.figures;
        out.within += left <= f.error() ? 1 : 0;
        out.nearer += left <= std::max(off, 1e-3 * scale) ? 1 : 0;
        out.unsure_missed += left > 0.02 * scale && f.error() <= 0.02 * scale ? 1 : 0;
        if (left > 1e-3 * scale) out.width.push_back(f.error() / left);
        out.off.push_back(100.0 * off / scale);
        out.left.push_back(100.0 * left / scale);
        if (table)
            fmt::print("{};{};{};{:.9g};{:.9g};{:.9g};{:.9g}\n", model, info(f.kind).word, f.name, scale, left, f.error(), f.bar->correction.value_or(0.0));
        if (each)
            fmt::print("  {:13} {:40} off {:7.3f} %, told {:7.3f} %, left {:7.3f} %{}\n", info(f.kind).word, f.name, 100.0 * off / scale,
                       100.0 * f.error() / scale, 100.0 * left / scale, left <= f.error() ? "" : "   OUTSIDE");
    }
    return out;
}

void print(const std::string& name, const Tally& t, const std::string& more) {
    fmt::print("{:24} {:7} {:7} {:7} {:7} {:7} {:9.2f} {:9.2f} {:9.2f}{}\n", name, t.figures, t.open, t.within, t.nearer, t.unsure_missed, median(t.width),
               median(t.off), median(t.left), more);
}

}  // namespace

int main(int argc, char** argv) {
    bool each = false, table = false, warm_up = false, pulses = false, adaptive = false;
    std::vector<std::filesystem::path> models;
    for (int i = 1; i < argc; ++i) {
        const std::string word = argv[i];
        each = each || word == "--each";
        table = table || word == "--table";
        warm_up = warm_up || word == "--warm-up";
        pulses = pulses || word == "--pulses";
        adaptive = adaptive || word == "--refined";
        if (!word.starts_with("--")) models.emplace_back(word);
    }
    if (models.empty()) {
        for (const auto& entry : std::filesystem::directory_iterator(FIRNFIELD_ERROR_MODELS)) models.push_back(entry.path());
        std::sort(models.begin(), models.end());
    }
    fmt::print("{:24} {:>7} {:>7} {:>7} {:>7} {:>7} {:>9} {:>9} {:>9} {:>9} {:>9}\n", "model", "figures", "open", "within", "nearer", "missed", "told/true",
               "off %", "left %", "cells", "of solve");
    Tally all;
    for (const std::filesystem::path& path : models) {
        const Model given = read_model(path), model = warm_up || pulses ? over_time(given, pulses) : given;
        const bool in_time = warm_up || pulses;
        const Adaptive by_itself = adaptive ? solved_refined(model) : Adaptive{};
        const Solved plain = adaptive ? by_itself.solved : in_time ? solved_over_time(model, 0.1) : solved(model);
        std::vector<Solved> finer;
        for (const double coarsening : in_time ? std::vector{0.4} : std::vector{0.5, 0.38, 0.28}) {
            const Model fine = refined(model, coarsening);
            finer.push_back(in_time ? solved_over_time(fine, 0.02) : solved(fine));
        }
        const Tally tally = compare(path.stem().string(), plain, finer, each, table);
        const Solved& fine = finer.back();
        std::string cost = fmt::format(" {:9} {:9.2f}", plain.cells, fine.error_seconds / fine.solve_seconds);
        if (adaptive)
            cost += fmt::format("   {} rounds{}, {:.2f} plain solves; everywhere: {} cells", by_itself.rounds, by_itself.met ? "" : " (not met)",
                                by_itself.seconds / by_itself.plain_seconds, uniform_cells(model));
        print(path.stem().string(), tally, cost);
        all.add(tally);
    }
    print("all", all, "");
}
