// Runs the command in a scratch folder.
#pragma once

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <sstream>
#include <string>

#include <sys/wait.h>
#include <unistd.h>

namespace firnfield::test {

struct Outcome {
    int status = -1;
    std::string out, err;
};

inline std::string content(const std::filesystem::path& file) {
    std::ifstream stream(file, std::ios::binary);
    std::ostringstream text;
    text << stream.rdbuf();
    return text.str();
}

/// A scratch folder in which commands run.
class Bench {
public:
    Bench() : folder_(std::filesystem::temp_directory_path() / ("firnfield-cli-" + std::to_string(::getpid()) + "-" + std::to_string(std::rand()))) {
        std::filesystem::create_directories(folder_ / "work");
    }
    ~Bench() { std::filesystem::remove_all(folder_); }
    Bench(const Bench&) = delete;
    Bench& operator=(const Bench&) = delete;

    /// `redirected`, as in ">/dev/full", comes last and so has its way.
    Outcome run(const std::string& arguments, const std::string& redirected = {}) const {
        const std::string line = "cd '" + work().string() + "' && '" FIRNFIELD_COMMAND "' " + arguments + " >'" + (folder_ / "out").string() + "' 2>'" +
                                 (folder_ / "err").string() + "' " + redirected;
        const int status = std::system(line.c_str());
        return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, content(folder_ / "out"), content(folder_ / "err")};
    }
    void put(const std::string& name, const std::string& text) const { std::ofstream(work() / name, std::ios::binary) << text; }
    [[nodiscard]] std::filesystem::path work() const { return folder_ / "work"; }
    [[nodiscard]] std::size_t files() const {
        return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(work()), std::filesystem::directory_iterator()));
    }

private:
    std::filesystem::path folder_;
};

}  // namespace firnfield::test
