// What commands share: messages, exit statuses, progress, stopping.

#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <csignal>
#include <cstdio>
#include <memory>
#include <mutex>
#include <string_view>

#include <fcntl.h>
#include <unistd.h>

namespace firnfield::command {
namespace {

std::atomic<bool> asked_to_stop{false};

void on_interrupt(int) { asked_to_stop = true; }

/// Waits until a stop is asked for, then a second for the computation to see it; then ends the command. Returns when no longer needed.
void watch(const std::stop_token& done, ResultsFolder* folder) {
    using namespace std::chrono_literals;
    std::mutex mutex;
    std::condition_variable_any wake;
    std::unique_lock lock(mutex);
    const auto over = [&] { return done.stop_requested(); };
    while (!asked_to_stop) {
        if (wake.wait_for(lock, done, 50ms, over)) return;
    }
    if (wake.wait_for(lock, done, 1s, over)) return;
    const ResultsFolder::Left left = folder != nullptr ? folder->give_up() : ResultsFolder::Left::nothing;
    if (::isatty(STDERR_FILENO) == 1) tell("\n");  // below the progress line
    tell("firnfield: {}; {}\n", Cancelled().what(), what_is_left(left, folder));
    static_cast<void>(std::fflush(stderr));
    ::_exit(computation_failed);
}

void tell_problems(const std::filesystem::path& model, std::vector<Problem> problems) {
    const bool placed = !problems.empty() && !problems.front().location.empty();
    if (!placed && !model.empty()) {
        try {
            problems = locate_problems(read_file(model), model.string(), problems);
        } catch (const Error&) {
            // Then they are told by their addresses.
        }
    }
    constexpr std::size_t most = 50;
    for (std::size_t n = 0; n < std::min(problems.size(), most); ++n) {
        const Problem& problem = problems[n];
        const std::string& place = problem.location.empty() ? problem.address : problem.location;
        tell("{}{}{}\n", place, place.empty() ? "" : ": ", problem.message);
    }
    if (problems.size() > 1)
        tell("{} mistakes{}; nothing was written\n", problems.size(), problems.size() > most ? fmt::format(", of which the first {} are told", most) : "");
}

}  // namespace

int guarded(const std::filesystem::path& model, int (*run)(const void*), const void* options) {
    try {
        return run(options);
    } catch (const ModelError& error) {
        tell_problems(model, error.problems());
        return wrong_input;
    } catch (const ComputationError& error) {
        tell("firnfield: {}\n", error.what());
        return computation_failed;
    } catch (const Cancelled& error) {
        tell("firnfield: {}; {}\n", error.what(), what_is_left(ResultsFolder::Left::nothing, nullptr));
        return computation_failed;
    } catch (const WriteError& error) {
        tell("firnfield: {}\n", error.what());
        return computation_failed;
    } catch (const Error& error) {
        tell("firnfield: {}\n", error.what());
        return wrong_input;
    } catch (const std::bad_alloc&) {
        tell("firnfield: not enough memory; raise mesh.cell or lower mesh.max_cells\n");
        return computation_failed;
    } catch (const std::exception& error) {
        // Of the system: a folder that cannot be made, a disk that is full.
        tell("firnfield: {}\n", error.what());
        return computation_failed;
    }
}

void write_out(std::string text) {
    text = printable(std::move(text));
    static_cast<void>(std::fwrite(text.data(), 1, text.size(), stdout));  // finished() tells whether it arrived
}

void write_error(std::string text) {
    text = printable(std::move(text));
    static_cast<void>(std::fwrite(text.data(), 1, text.size(), stderr));
}

bool open_closed_streams() {
    bool output_was_closed = false;
    for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO}) {
        if (::fcntl(stream, F_GETFD) != -1 || errno != EBADF) continue;
        output_was_closed = output_was_closed || stream == STDOUT_FILENO;
        // The lowest free number is the closed one's.
        static_cast<void>(::open("/dev/null", stream == STDIN_FILENO ? O_RDONLY : O_WRONLY));
    }
    return output_was_closed;
}

int finished(int status, bool output_was_closed) {
    const bool written = std::fflush(stdout) == 0 && std::ferror(stdout) == 0 && !output_was_closed;
    if (written) return status;
    tell("firnfield: standard output did not take what was to be told: it is closed, or its disk is full\n");
    return computation_failed;
}

std::vector<Change> changes_of(const std::vector<std::string>& set, bool as_meshed) {
    const auto trimmed = [](std::string text) {
        text.erase(0, std::min(text.find_first_not_of(' '), text.size()));
        text.erase(text.find_last_not_of(' ') + 1);
        return text;
    };
    std::vector<Change> changes;
    for (const std::string& text : set) {
        const std::size_t equals = text.find('=');
        if (equals == std::string::npos || equals == 0)
            throw Error(fmt::format("--set takes an address and a value, as in --set \"pad = 1 mm\"; found \"{}\"", text));
        changes.push_back({trimmed(text.substr(0, equals)), trimmed(text.substr(equals + 1))});
    }
    if (as_meshed) changes.push_back({"mesh.refine", "false"});
    return changes;
}

ModelFile read_to_tell(const std::filesystem::path& file, const std::string& units) {
    ModelFile model = read_model_file(file);
    if (!units.empty()) model.tell_in(parse_units(units, model.base().units));
    return model;
}

ProgressCallback design_progress(ProgressLine& progress, std::size_t studies) {
    return [&progress, studies, begun = std::size_t{0}](const Progress& now) mutable {
        if (now.stage == "begins") {
            ++begun;
            progress.show(fmt::format("{}: study {} ({}{})", now.design, now.study, begun, studies > 0 ? fmt::format(" of {}", studies) : ""));
        }
        return !ProgressLine::interrupted();
    };
}

void require_error_bars(const std::vector<Study>& studies) {
    if (std::any_of(studies.begin(), studies.end(), [](const Study& s) { return s.kind == StudyKind::steady; })) return;
    throw Error("--error-bars is for steady studies, and none of these is one; leave it out, or add a steady study");
}

void require_no_target(bool errors, const Model& model) {
    if (!errors && model.mesh.error_target) throw Error("--no-errors contradicts mesh.error_target of the model; leave one of them out");
}

Model with_goal(Model model, const FigureGoal& goal, bool needed) {
    const bool sides = !goal.below.empty() || !goal.above.empty();
    if (goal.figure.empty()) {
        if (sides) throw Error("--below and --above say what a --figure has to keep; name one");
        return model;
    }
    if (!sides && needed) throw Error("say what the figure has to keep: --below or --above with a value, as in --below \"0.5 K/W\"");
    ask_for(model, goal.figure);
    if (!sides) return model;
    const QuantityKind& kind = quantity_of(model, goal.figure);
    Limit limit{.figure = goal.figure};
    if (!goal.below.empty()) limit.below = Threshold(parse_quantity(goal.below, kind), kind);
    if (!goal.above.empty()) limit.above = Threshold(parse_quantity(goal.above, kind), kind);
    model.limits.push_back(std::move(limit));
    return model;
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

std::string what_is_left(ResultsFolder::Left left, const ResultsFolder* folder) {
    switch (left) {
        case ResultsFolder::Left::to_resume:
            return "--resume goes on from the last checkpoint";
        case ResultsFolder::Left::results:
            return fmt::format("the studies that were finished are kept in {}", (folder->has_results() ? folder->path() : folder->target()).string());
        case ResultsFolder::Left::nothing:
            break;
    }
    return "nothing was written";
}

ProgressLine::ProgressLine(bool quiet, ResultsFolder* folder) : quiet_(quiet), terminal_(isatty(STDERR_FILENO) == 1) {
    asked_to_stop = false;
    watcher_ = std::jthread([folder](const std::stop_token& done) { watch(done, folder); });
    std::signal(SIGINT, on_interrupt);
    std::signal(SIGTERM, on_interrupt);
}

void ProgressLine::hold_interrupts() {
    std::signal(SIGINT, SIG_IGN);
    std::signal(SIGTERM, SIG_IGN);
    watcher_ = {};
}

ProgressLine::~ProgressLine() {
    close();
    std::signal(SIGINT, SIG_DFL);
    std::signal(SIGTERM, SIG_DFL);
}

bool ProgressLine::interrupted() { return asked_to_stop; }

void ProgressLine::close() {
    if (open_) std::fputs("\r\x1b[K", stderr);
    open_ = false;
}

void ProgressLine::show(const std::string& text) {
    if (quiet_) return;
    if (terminal_) {
        std::fputs("\r\x1b[K", stderr);
        tell("{}", text);
        std::fflush(stderr);
        open_ = true;
    } else {
        tell("{}\n", text);
    }
}

ProgressCallback ProgressLine::callback() {
    return [this](const Progress& progress) {
        if (asked_to_stop) return false;
        const bool other = progress.study != pace_.study || progress.stage != pace_.stage || progress.iteration < pace_.iteration;
        if (other) pace_ = {.study = progress.study, .stage = progress.stage};  // another study, mesh or solve
        if (progress.of_run()) {
            show_run(progress);
        } else if (progress.of_solve()) {
            show_solve(progress);
        } else {
            show(fmt::format("{}{}{}", progress.study, progress.study.empty() ? "" : ": ", progress.stage));
        }
        return true;
    };
}

/// Every Newton step; in between a few times a second on a terminal, where the line is rewritten.
void ProgressLine::show_solve(const Progress& progress) {
    const auto now = std::chrono::steady_clock::now();
    if (pace_.first == 0.0) pace_.first = progress.residual;
    const bool next = progress.iteration != pace_.iteration;
    if (!next && (!terminal_ || now - pace_.shown < std::chrono::milliseconds(200))) return;
    pace_.iteration = progress.iteration;
    pace_.shown = now;
    const double elapsed = std::chrono::duration<double>(now - pace_.start).count();
    std::string left;
    if (progress.residual > 0.0 && progress.residual < 0.5 * pace_.first && progress.residual > progress.target) {
        // Residuals fall by about the same factor in the same time.
        left = fmt::format(", about {:.0f} s left", elapsed * std::log(progress.residual / progress.target) / std::log(pace_.first / progress.residual));
    }
    const std::string step = progress.stage == "solving" ? fmt::format(", Newton step {}", progress.iteration + 1) : std::string();
    show(fmt::format("{}: {}{}, heat residual {:.1e} (target {:.0e}), {:.0f} s{}", progress.study, progress.stage, step, progress.residual, progress.target,
                     elapsed, left));
}

void ProgressLine::show_run(const Progress& progress) {
    const auto now = std::chrono::steady_clock::now();
    const double elapsed = std::chrono::duration<double>(now - pace_.start).count(), share = progress.time / progress.end;
    if (pace_.iteration < 0) pace_.first = std::max(0.0, (progress.time - progress.step) / progress.end);  // done before this run of the program
    pace_.iteration = 0;
    if (now - pace_.shown < std::chrono::milliseconds(terminal_ ? 200 : 5000)) return;
    pace_.shown = now;
    const double done = share - pace_.first;
    const std::string left = done > 0.02 ? fmt::format(", about {:.0f} s left", elapsed * (1.0 - share) / done) : std::string();
    show(fmt::format("{}: {} of {}, step {} of {}, {:.0f} s{}", progress.study, show_quantity(progress.time, kinds::time),
                     show_quantity(progress.end, kinds::time), progress.steps, show_quantity(progress.step, kinds::time), elapsed, left));
}

}  // namespace firnfield::command
