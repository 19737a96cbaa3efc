// Refining the mesh until what matters is known well enough.

#include <firnfield/refine.hpp>

#include "base/words.hpp"
#include "findings/figure_errors.hpp"
#include "findings/figures.hpp"
#include "findings/refinement.hpp"
#include "model/figure_forms.hpp"
#include "model/lumped.hpp"
#include "network/probe.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>
#include <new>
#include <optional>
#include <unordered_map>

namespace firnfield {
namespace {

/// A temperature that has to be known well.
struct Goal {
    std::string name{};
    double error = 0.0, allowed = 0.0;  // K
    std::optional<Place> place{};       // of a part; else of a sensor:
    std::string in{};
    Vec3 at{};
    [[nodiscard]] double need() const { return error / allowed; }
};

// One round.
constexpr std::size_t most_goals = 6;  // that are looked into at once: the others mostly have their errors from the same layers
constexpr double well_enough = 0.3;    // of the need: asks for nothing
constexpr double aim = 0.7;            // of the need: the estimate of what helps is none too good
constexpr double boldest = 0.25;       // of the error in one round: where errors come from shows better on the next mesh
constexpr double timid = 0.8;          // of the error: less is not worth a solve
constexpr double larger = 1.5;         // than before may cells be at once where nothing depends on them: what was known to well_enough still is to aim
constexpr double most_default = 2.0;   // of the default size
constexpr double least_part = 0.05;    // of the largest rise: what is nearly as cold as the surroundings need not be known to a hundredth of its rise

class Refiner {
public:
    Refiner(const Model& model, const Study& study, const RefineOptions& options) : current_(meshed_for(model, study)), study_(study), options_(options) {}

    RefinedSolution run() {
        MeshRefinement told;
        std::optional<RefinedSolution> last;
        for (int round = 1;; ++round) {
            RefinedSolution out;
            try {
                out = solve();
            } catch (const ComputationError& error) {
                if (!last) throw;
                return kept(std::move(*last), std::move(told), error.what());
            } catch (const std::bad_alloc&) {
                if (!last) throw;
                return kept(std::move(*last), std::move(told), "not enough memory");
            }
            const Goal* worst = worst_goal();
            if (worst == nullptr) return out;  // nothing was estimated
            told.rounds.push_back({out.findings.cells, worst->name, worst->error, worst->allowed});
            told.met = worst->need() <= 1.0;
            if (!told.met) told.outlook = refine(round, out.findings.cells);
            if (told.met || !told.outlook.empty()) {
                out.findings.refinement = std::move(told);
                return out;
            }
            last = std::move(out);
        }
    }

private:
    [[nodiscard]] std::string reached(const std::string& worst, double error, double allowed) const {
        const UnitOf degree = unit_of(kinds::temperature_difference, current_.units);
        return fmt::format("{} is known to ±{:.2g} {} where ±{:.2g} {} are aimed at", in_quotes(worst), degree.out(error), degree.shown, degree.out(allowed),
                           degree.shown);
    }
    /// What an earlier mesh gave is not lost with a finer one that cannot be solved.
    RefinedSolution kept(RefinedSolution last, MeshRefinement told, const std::string& reason) const {
        told.met = false;
        const MeshRefinement::Round& round = told.rounds.back();
        told.outlook = fmt::format("{}; the next mesh could not be solved: {}", reached(round.worst, round.error, round.allowed), reason);
        last.findings.refinement = std::move(told);
        return last;
    }

    RefinedSolution solve() {
        RefinedSolution out;
        const auto start = std::chrono::steady_clock::now();
        auto mesh = std::make_shared<const Mesh>(build_mesh(current_));
        const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        out.solution = solve_steady(current_, std::move(mesh), study_, options_.steady);
        out.solution.summary.mesh_seconds = seconds;
        goals_.clear();
        sources_ = {};
        const auto look = [&](MeshError& error, const Findings& found) {
            find_goals(out.solution, found);
            const Goal* worst = worst_goal();
            if (worst != nullptr && worst->need() > 1.0) find_sources(out.solution, error);
        };
        Findings plain = evaluate(current_, out.solution);
        out.findings = with_errors(current_, out.solution, std::move(plain), options_.steady.progress, look);
        tell_uncertain(out.findings, out.solution.network->lowest_known, current_.units);
        out.solution.solver.reset();  // a finer one comes, or it is over
        return out;
    }

    [[nodiscard]] const Goal* worst_goal() const {
        const auto worst = std::max_element(goals_.begin(), goals_.end(), [](const Goal& a, const Goal& b) { return a.need() < b.need(); });
        return worst == goals_.end() ? nullptr : &*worst;
    }

    void find_goals(const SteadySolution& solution, const Findings& found) {
        const BodyTemperatures bodies = Extremes(*solution.mesh).of(solution.nodes(), solution.patch_temperature, solution.contacts);
        std::unordered_map<std::string, std::size_t> body_of_name;
        for (std::size_t b = 0; b < solution.mesh->bodies.size(); ++b) body_of_name.emplace(solution.mesh->bodies[b].name, b);
        const double coldest = solution.network->lowest_known, largest = std::abs(found.hottest.temperature - coldest);
        const auto add = [&](Goal goal, const Figure* figure, double temperature) {
            if (figure == nullptr || !figure->bar) return;
            goal.error = figure->bar->error;
            goal.allowed = current_.mesh.error_target.value_or(options_.share * std::max(std::abs(temperature - coldest), least_part * largest));
            if (goal.allowed > 0.0) goals_.push_back(std::move(goal));
        };
        const auto add_spot = [&](const std::string& name, const Spot& spot, bool hottest, const Figure* figure) {
            const auto body = body_of_name.find(spot.body);
            if (spot.lumped || body == body_of_name.end()) return;
            add({.name = name, .place = (hottest ? bodies.hottest_place : bodies.coldest_place)[body->second]}, figure, spot.temperature);
        };
        const FigureForms forms = forms_of_figures(current_);
        for (const LimitFinding& limit : found.limits) {
            if (limit.of == SubjectKind::part) add_spot(limit.subject, limit.worst, limit.upper, margin_of(found.figures, limit));
            if (limit.of != SubjectKind::figure) continue;
            // A figure is known as well as the places that it is made of.
            for (const std::size_t t : forms.terms_of(*forms.find(limit.subject))) {
                const FigureTerm& term = forms.terms[t];
                const bool hottest = term.info->what == TermWhat::max;
                if (term.info->of != TermOf::part || (!hottest && term.info->what != TermWhat::min)) continue;
                for (const PartFinding& part : found.parts) {
                    if (matches_wildcard(term.name, part.name))
                        add_spot(part.name, hottest ? part.hottest : part.coldest, hottest,
                                 find_figure(found.figures, hottest ? FigureKind::max : FigureKind::min, part.name));
                }
            }
        }
        for (const SensorFinding& sensor : found.sensors) {
            const std::string& in = sensor.lumped ? sensor.name : sensor.part;
            add({.name = sensor.name, .in = in, .at = sensor.at}, find_figure(found.figures, FigureKind::sensor, sensor.name), sensor.temperature);
        }
        for (const PartFinding& part : found.parts) {
            const bool wanted = current_.mesh.error_target || part.hottest.body == found.hottest.body;
            if (wanted) add_spot(part.name, part.hottest, true, find_figure(found.figures, FigureKind::max, part.name));
        }
    }

    /// Where the errors of the goals come from, each counted by how much it has to shrink.
    void find_sources(const SteadySolution& solution, MeshError& error) {
        const ContactReader contacts(current_, *solution.mesh);
        std::vector<const Goal*> goals;
        for (const Goal& goal : goals_) {
            if (goal.need() > well_enough) goals.push_back(&goal);
        }
        std::stable_sort(goals.begin(), goals.end(), [](const Goal* a, const Goal* b) { return a->need() > b->need(); });
        if (goals.size() > most_goals) goals.resize(most_goals);
        for (int axis = 0; axis < 3; ++axis) sources_[static_cast<std::size_t>(axis)].assign(solution.mesh->grid.count(axis), 0.0);
        for (const Goal* goal : goals) {
            if (goal->place) {
                error.add_sources(*goal->place, 1.0 / goal->allowed, sources_);
                continue;
            }
            const Probe probe(current_, *solution.mesh, *solution.network, contacts, goal->in, goal->at, "sensor");
            error.add_sources(probe.readout(), 1.0 / goal->allowed, sources_);
        }
        grid_ = solution.mesh->grid;
        if (may_coarsen()) coarsening_ = {.most = larger, .default_size = solution.mesh->usual_cell, .largest = most_default * solution.mesh->usual_cell};
    }

    /// Sizes that are asked for stay; and what the end of a study does not depend on may matter on the way there.
    [[nodiscard]] bool may_coarsen() const {
        const std::vector<Study> all = studies_of(current_);
        return options_.coarsen && !current_.mesh.cell && std::all_of(all.begin(), all.end(), [](const Study& s) { return s.kind == StudyKind::steady; });
    }

    /// Sets the layers of the next mesh; says why where there is none, and then leaves them.
    std::string refine(int round, Index cells) {
        const Goal& worst = *worst_goal();
        const std::string stands = reached(worst.name, worst.error, worst.allowed);
        if (round == options_.most_rounds) return fmt::format("{}; refining was ended after {} solves", stands, round);
        const MeshOptions before = current_.mesh;
        const bool asked = before.error_target.has_value();
        const double most = asked ? std::numeric_limits<double>::infinity() : options_.most_cells;
        double next = 0.0;
        bool fits = false;
        // Where all that is wanted would be too much, a part of it is better than nothing.
        for (double share = std::max(boldest, aim / worst.need()); share < timid && !fits; share = asked ? 1.0 : 1.3 * share) {
            const Refinement refined = refine_layers(before, grid_, sources_, share, coarsening_);
            if (!refined.finer) {
                current_.mesh = before;
                return stands + "; no layer of cells has a part in that which could be made smaller";
            }
            current_.mesh.layers = refined.layers;
            next = next_cells(cells, refined.cells);
            fits = next > 0.0 && next <= most;
        }
        if (fits) return {};
        current_.mesh = before;
        const auto count = [](double number) { return grouped(static_cast<unsigned long long>(number)); };
        if (next > 0.0)
            return fmt::format("{}; a finer mesh would have about {} cells, and without mesh.error_target it ends at {}", stands, count(next), count(most));
        return fmt::format("{}; a mesh that is finer there has more cells than mesh.max_cells or the memory allows", stands);
    }

    /// Of the next mesh: counted, as neighbours of small cells grow gently. 0 where it is more than the model or the machine allows.
    double next_cells(Index cells, double about) const {
        try {
            return std::max(about, static_cast<double>(plan_grid(current_).boxes()) / static_cast<double>(grid_.boxes())) * static_cast<double>(cells);
        } catch (const ModelError&) {
            return 0.0;
        }
    }

    Model current_;
    const Study& study_;
    const RefineOptions& options_;
    std::vector<Goal> goals_;
    PerLayer sources_;
    Coarsening coarsening_;
    Grid grid_;
};

}  // namespace

RefinedSolution solve_refined(const Model& model, const Study& study, const RefineOptions& options) { return Refiner(model, study, options).run(); }

namespace {

/// What a study in time would settle to with its loads on all the time.
Study settled(const Model& model, const Study& study) {
    Study out{.name = study.name, .ambient = study.ambient, .scale = study.scale, .without = study.without, .coarsening = study.coarsening};
    const auto begins_with = [&](const std::string& profile) {
        if (!out.ambient && !profile.empty()) out.ambient = value_at(*find_profile(model, profile), 0.0);
    };
    begins_with(study.ambient_profile);
    for (const Cooling& cooling : model.coolings) begins_with(cooling.ambient_profile);
    for (const Resistor& resistor : model.resistors) begins_with(resistor.ambient_profile);
    return out;
}

}  // namespace

std::vector<LayerSize> refined_layers(const Model& model, RefineOptions options) {
    const std::vector<Study> studies = studies_of(model);
    if (!model.mesh.refine || model.parts.empty() || studies.empty()) return model.mesh.layers;
    const auto steady = std::find_if(studies.begin(), studies.end(), [](const Study& s) { return s.kind == StudyKind::steady; });
    const bool in_time = steady == studies.end();
    const Study study = in_time ? settled(model, studies.front()) : *steady;
    options.steady.progress = of_study(options.steady.progress, study.name);
    if (in_time) options.most_cells = most_cells_in_time;
    try {
        // What is larger than refining goes is not solved to learn that.
        const Model meshed = meshed_for(model, study);
        const auto is_too_large = [&](double count) { return !model.mesh.error_target && count > options.most_cells; };
        if (is_too_large(static_cast<double>(plan_grid(meshed).boxes())) && is_too_large(static_cast<double>(build_mesh(meshed).cells.size())))
            return model.mesh.layers;
        return solve_refined(model, study, options).findings.layers;
    } catch (const ModelError&) {
    } catch (const ComputationError&) {
    } catch (const std::bad_alloc&) {
    }
    return model.mesh.layers;
}

Model with_layers(Model model, std::span<const LayerSize> layers) {
    model.mesh.layers.assign(layers.begin(), layers.end());
    return model;
}

}  // namespace firnfield
