// Files and results folders that appear whole or not at all.

#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <unistd.h>
#include <cerrno>
#include <csignal>
#include <fstream>
#include <sstream>

namespace firnfield {
namespace {

namespace fs = std::filesystem;

fs::path beside(const fs::path& target, std::string_view suffix) {
    fs::path name = target;
    name += fmt::format(".{}-{}", suffix, ::getpid());
    return name;
}

/// Holds the process number of the run that works in an unfinished folder.
constexpr std::string_view owner_file = "run.pid";

long owner_of(const fs::path& folder) {
    long owner = 0;
    std::ifstream(folder / owner_file) >> owner;
    return owner;
}

bool is_running(long process) { return process > 0 && (::kill(static_cast<::pid_t>(process), 0) == 0 || errno == EPERM); }

}  // namespace

std::string read_file(const fs::path& file, std::uintmax_t largest) {
    std::error_code status;
    const fs::file_status kind = fs::status(file, status);
    if (fs::is_directory(kind)) throw FileError(fmt::format("{} is a folder; name a file", in_quotes(file.string())));
    if (fs::exists(kind) && !fs::is_regular_file(kind))
        throw FileError(fmt::format("{} is no regular file; pipes and devices are not read", in_quotes(file.string())));
    if (const auto size = fs::file_size(file, status); !status && size > largest) {
        throw FileError(fmt::format("{} has {} MB, more than the {} MB that such a file may have", in_quotes(file.string()), size >> 20U, largest >> 20U));
    }
    std::ifstream stream(file, std::ios::binary);
    std::ostringstream text;
    if (!stream) throw FileError(fmt::format("cannot read {}: does the file exist?", in_quotes(file.string())));
    if (stream.peek() != std::ifstream::traits_type::eof() && !(text << stream.rdbuf()))
        throw FileError(fmt::format("cannot read {}", in_quotes(file.string())));
    return text.str();
}

void require_replaceable(const fs::path& file) {
    std::error_code status;
    const fs::file_status kind = fs::status(file, status);
    if (fs::exists(kind) && !fs::is_regular_file(kind))
        throw WriteError(fmt::format("cannot write {}: it is there, and no regular file; folders, pipes and devices are left alone", in_quotes(file.string())));
}

void write_file(const fs::path& file, std::string_view content) {
    require_replaceable(file);
    const fs::path work = beside(file, "part");
    {
        std::ofstream stream(work, std::ios::binary);
        stream.write(content.data(), static_cast<std::streamsize>(content.size()));
        stream.flush();
        if (!stream) {
            std::error_code ignored;
            fs::remove(work, ignored);
            throw WriteError(fmt::format("cannot write {}: is the folder there, writable and not full?", in_quotes(file.string())));
        }
    }
    std::error_code status;
    fs::rename(work, file, status);
    if (status) throw WriteError(fmt::format("cannot write {}: {}", in_quotes(file.string()), status.message()));
}

std::string seen_from(const fs::path& file, const fs::path& folder) {
    return fs::absolute(file).lexically_normal().lexically_relative(fs::absolute(folder).lexically_normal()).string();
}

ResultsFolder::ResultsFolder(fs::path target, bool resume) : target_(std::move(target)) {
    if (target_.filename().empty()) target_ = target_.parent_path();  // "results/" names the folder "results"
    std::error_code status;
    if (fs::exists(target_, status)) {
        const bool ours = fs::is_directory(target_, status) && (fs::is_empty(target_, status) || fs::exists(target_ / "summary.json", status));
        if (!ours) {
            throw FileError(
                fmt::format("{} exists and is not a results folder; it is left alone. Name another folder with --out", in_quotes(target_.string())));
        }
    }
    work_ = target_;
    work_ += ".unfinished";
    // Another run that is still at work on the same results keeps its folder.
    if (const long owner = owner_of(work_); owner != ::getpid() && is_running(owner)) {
        if (resume) throw FileError(fmt::format("another run is at work on {}", in_quotes(work_.string())));
        work_ = beside(target_, "unfinished");
    }
    if (!resume && (can_resume() || has_results())) {
        // Hours of work may lie there.
        for (int number = 1;; ++number) {
            put_aside_ = work_;
            put_aside_ += fmt::format("-{}", number);
            if (!fs::exists(put_aside_, status)) break;
        }
        fs::rename(work_, put_aside_, status);
        if (status) throw WriteError(fmt::format("cannot put {} aside: {}", in_quotes(work_.string()), status.message()));
    }
    if (!resume) fs::remove_all(work_, status);
    fs::create_directories(work_, status);
    if (status) throw WriteError(fmt::format("cannot create a folder beside {}: {}", in_quotes(target_.string()), status.message()));
    write_file(work_ / owner_file, fmt::format("{}\n", ::getpid()));
}

ResultsFolder::~ResultsFolder() {
    if (!committed_) give_up();
}

ResultsFolder::Left ResultsFolder::give_up() {
    std::call_once(given_up_, [&] {
        std::error_code ignored;
        if (can_resume()) {
            left_ = Left::to_resume;
            fs::remove(work_ / owner_file, ignored);
        } else if (has_results()) {
            left_ = Left::results;
            fs::remove(work_ / owner_file, ignored);
            if (fs::exists(target_, ignored)) return;  // a part of a run does not replace what may be all of an earlier one
            try {
                commit();
            } catch (const WriteError&) {
                return;  // then they stay where they were made
            }
        } else {
            fs::remove_all(work_, ignored);
        }
    });
    return left_;
}

bool ResultsFolder::has_results() const {
    std::error_code status;
    return fs::exists(work_ / "summary.json", status);
}

bool ResultsFolder::can_resume() const {
    std::error_code status;
    return fs::exists(checkpoints(), status) && !fs::is_empty(checkpoints(), status);
}

fs::path ResultsFolder::commit_part() {
    std::error_code status;
    if (!fs::exists(target_, status)) {
        commit();
        return target_;
    }
    fs::remove(work_ / owner_file, status);
    fs::remove_all(checkpoints(), status);
    committed_ = true;
    return work_;
}

void ResultsFolder::commit() {
    const fs::path old = beside(target_, "old");
    std::error_code status;
    fs::remove(work_ / owner_file, status);
    fs::remove_all(checkpoints(), status);
    const bool replaces = fs::exists(target_, status);
    if (replaces) fs::rename(target_, old, status);
    if (!status) fs::rename(work_, target_, status);
    if (status) {
        std::error_code ignored;
        if (replaces && !fs::exists(target_, ignored)) fs::rename(old, target_, ignored);
        throw WriteError(fmt::format("cannot put the results in place at {}: {}", in_quotes(target_.string()), status.message()));
    }
    committed_ = true;
    if (replaces) fs::remove_all(old, status);
}

}  // namespace firnfield
