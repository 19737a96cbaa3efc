// How good the errors of figures are: models of bench/errors at their default meshes against much finer ones. For each model: how many true errors lie
// within the told one, how much wider that is, and what is left of the error when the estimate is added.

#include <firnfield/findings.hpp>
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
    Findings findings{};
    double coldest = 0.0;  // K, of the surroundings
    double solve_seconds = 0.0, error_seconds = 0.0;
};

double seconds_since(std::chrono::steady_clock::time_point start) { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); }

Solved solved(const Model& model) {
    const Study study = studies_of(model).front();
    const auto mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    const SteadySolution solution = solve_steady(model, mesh, study);
    auto start = std::chrono::steady_clock::now();
    static_cast<void>(findings(model, solution, {.errors = false}));
    const double without = seconds_since(start);
    start = std::chrono::steady_clock::now();
    Solved out{.findings = findings(model, solution), .coldest = solution.network->lowest_known, .solve_seconds = solution.summary.solve_seconds};
    out.error_seconds = seconds_since(start) - without;
    return out;
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
    for (const Figure& f : plain.findings.figures) {
        if (f.kind == FigureKind::margin) continue;  // its temperature tells it
        const auto other = std::find_if(fine.findings.figures.begin(), fine.findings.figures.end(), [&](const Figure& x) { return same(x, f); });
        if (other == fine.findings.figures.end()) continue;
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
    const bool each = argc > 1 && std::string(argv[1]) == "--each";
    std::vector<std::filesystem::path> models;
    for (int i = each ? 2 : 1; i < argc; ++i) models.emplace_back(argv[i]);
    if (models.empty()) {
        for (const auto& entry : std::filesystem::directory_iterator(FIRNFIELD_ERROR_MODELS)) models.push_back(entry.path());
        std::sort(models.begin(), models.end());
    }
    fmt::print("{:24} {:>7} {:>7} {:>7} {:>7} {:>9} {:>9} {:>9} {:>9} {:>9}\n", "model", "figures", "within", "nearer", "missed", "told/true", "off %",
               "left %", "cells", "of solve");
    Tally all;
    for (const std::filesystem::path& path : models) {
        const Model model = read_model(path);
        Model finer = model;
        finer.mesh.coarsening *= 0.4;
        finer.mesh.growth = std::min(model.mesh.growth, 1.3);
        const Solved plain = solved(model), fine = solved(finer);
        const Tally tally = compare(plain, fine, each);
        print(path.stem().string(), tally, fmt::format(" {:9} {:9.2f}", plain.findings.cells, fine.error_seconds / fine.solve_seconds));
        all.add(tally);
    }
    print("all", all, "");
}
