#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <fstream>
#include <memory>
#include <sstream>
#include <unistd.h>

namespace firnfield::command {
namespace {

std::atomic<bool> asked_to_stop{false};

void on_interrupt(int) { asked_to_stop = true; }

void tell_problems(const std::filesystem::path& model, std::vector<Problem> problems) {
    const bool placed = !problems.empty() && !problems.front().location.empty();
    if (!placed && !model.empty()) {
        std::ifstream stream(model, std::ios::binary);
        std::ostringstream text;
        text << stream.rdbuf();
        problems = locate_problems(text.str(), model.string(), problems);
    }
    for (const Problem& problem : problems) {
        const std::string& place = problem.location.empty() ? problem.address : problem.location;
        fmt::print(stderr, "{}{}{}\n", place, place.empty() ? "" : ": ", problem.message);
    }
    if (problems.size() > 1) fmt::print(stderr, "{} mistakes; nothing was written\n", problems.size());
}

}  // namespace

int guarded(const std::filesystem::path& model, int (*run)(const void*), const void* options) {
    try {
        return run(options);
    } catch (const ModelError& error) {
        tell_problems(model, error.problems());
        return wrong_input;
    } catch (const ComputationError& error) {
        fmt::print(stderr, "firnfield: {}\n", error.what());
        return computation_failed;
    } catch (const Cancelled& error) {
        fmt::print(stderr, "firnfield: {}; nothing was written\n", error.what());
        return computation_failed;
    } catch (const Error& error) {
        fmt::print(stderr, "firnfield: {}\n", error.what());
        return wrong_input;
    } catch (const std::bad_alloc&) {
        fmt::print(stderr, "firnfield: not enough memory; raise mesh.cell or lower mesh.max_cells\n");
        return computation_failed;
    }
}

std::string relative_to(const std::filesystem::path& file, const std::filesystem::path& folder) {
    return std::filesystem::absolute(file).lexically_normal().lexically_relative(std::filesystem::absolute(folder).lexically_normal()).string();
}

std::vector<Change> changes_of(const std::vector<std::string>& set) {
    const auto trimmed = [](std::string text) {
        text.erase(0, std::min(text.find_first_not_of(' '), text.size()));
        text.erase(text.find_last_not_of(' ') + 1);
        return text;
    };
    std::vector<Change> changes;
    for (const std::string& text : set) {
        const std::size_t equals = text.find('=');
        if (equals == std::string::npos || equals == 0) throw Error(fmt::format("--set takes an address and a value, as in --set \"pad = 1 mm\"; found \"{}\"", text));
        changes.push_back({trimmed(text.substr(0, equals)), trimmed(text.substr(equals + 1))});
    }
    return changes;
}

std::function<bool(const std::string&, const std::string&)> design_progress(ProgressLine& progress, std::size_t studies) {
    return [&progress, studies, begun = std::make_shared<std::size_t>(0)](const std::string& design, const std::string& stage) {
        if (progress.interrupted()) return false;
        if (!stage.empty() && stage.find('%') == std::string::npos) progress.show(fmt::format("{}: {} ({} of {})", design, stage, ++*begun, studies));
        return true;
    };
}

void require_studies(const Model& model, const std::vector<std::string>& names) {
    const std::vector<Study> all = studies_of(model);
    for (const std::string& name : names) {
        if (std::any_of(all.begin(), all.end(), [&](const Study& s) { return s.name == name; })) continue;
        std::string known;
        for (const Study& study : all) known += fmt::format("{}\"{}\"", known.empty() ? "" : ", ", study.name);
        throw Error(fmt::format("the model has no study \"{}\"; it has {}", name, known));
    }
}

ProgressLine::ProgressLine(bool quiet) : quiet_(quiet), terminal_(isatty(STDERR_FILENO) == 1) {
    asked_to_stop = false;
    std::signal(SIGINT, on_interrupt);
    std::signal(SIGTERM, on_interrupt);
}

ProgressLine::~ProgressLine() {
    close();
    std::signal(SIGINT, SIG_DFL);
    std::signal(SIGTERM, SIG_DFL);
}

bool ProgressLine::interrupted() const { return asked_to_stop; }

void ProgressLine::close() {
    if (open_) fmt::print(stderr, "\r\x1b[K");
    open_ = false;
}

std::function<bool(const TimeProgress&)> ProgressLine::time_callback(std::string label) {
    using Clock = std::chrono::steady_clock;
    return [this, label = std::move(label), start = Clock::now(), shown = Clock::time_point()](const TimeProgress& progress) mutable {
        if (asked_to_stop) return false;
        const auto now = Clock::now();
        if (now - shown < std::chrono::milliseconds(terminal_ ? 200 : 5000)) return true;
        shown = now;
        const double elapsed = std::chrono::duration<double>(now - start).count(), share = progress.time / progress.end;
        const std::string left = share > 0.02 ? fmt::format(", about {:.0f} s left", elapsed * (1.0 - share) / share) : std::string();
        show(fmt::format("{}: {} of {}, step {} of {}, {:.0f} s{}", label, show_quantity(progress.time, kinds::time), show_quantity(progress.end, kinds::time), progress.steps,
                         show_quantity(progress.step, kinds::time), elapsed, left));
        return true;
    };
}

void ProgressLine::show(const std::string& text) {
    if (quiet_) return;
    if (terminal_) {
        fmt::print(stderr, "\r\x1b[K{}", text);
        std::fflush(stderr);
        open_ = true;
    } else {
        fmt::print(stderr, "{}\n", text);
    }
}

ProgressCallback ProgressLine::callback(std::string label) {
    struct State {
        std::chrono::steady_clock::time_point start = std::chrono::steady_clock::now(), shown{};
        double first = 0.0;
        int step = -1;
        std::string stage{};
    };
    return [this, label = std::move(label), state = std::make_shared<State>()](const Progress& progress) {
        if (asked_to_stop) return false;
        const auto now = std::chrono::steady_clock::now();
        if (progress.iteration < state->step || progress.stage != state->stage) *state = State{.stage = progress.stage};  // another mesh, another solve
        if (state->first == 0.0) state->first = progress.residual;
        // Every Newton step; in between a few times a second on a terminal, where the line is rewritten.
        const bool next = progress.iteration != state->step;
        if (!next && (!terminal_ || now - state->shown < std::chrono::milliseconds(200))) return true;
        state->step = progress.iteration;
        state->shown = now;
        const double elapsed = std::chrono::duration<double>(now - state->start).count();
        std::string left;
        if (progress.residual > 0.0 && progress.residual < 0.5 * state->first && progress.residual > progress.target) {
            // Residuals fall by about the same factor in the same time.
            left = fmt::format(", about {:.0f} s left", elapsed * std::log(progress.residual / progress.target) / std::log(state->first / progress.residual));
        }
        const std::string step = progress.stage == "solving" ? fmt::format(", Newton step {}", progress.iteration + 1) : std::string();
        show(fmt::format("{}: {}{}, heat residual {:.1e} (target {:.0e}), {:.0f} s{}", label, progress.stage, step, progress.residual, progress.target, std::max(0.0, elapsed), left));
        return true;
    };
}

}  // namespace firnfield::command
