// A folder in memory for readers that take files.
#pragma once

#include <cstdio>
#include <filesystem>
#include <fstream>
#include <string>
#include <string_view>

#include <unistd.h>

namespace firnfield::fuzz {

class Folder {
public:
    Folder() {
        const std::filesystem::path memory = "/dev/shm";
        path_ = (std::filesystem::exists(memory) ? memory : std::filesystem::temp_directory_path()) / ("firnfield-fuzz-" + std::to_string(::getpid()));
        std::filesystem::create_directories(path_);
    }
    ~Folder() {
        std::error_code ignored;
        std::filesystem::remove_all(path_, ignored);
    }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;

    void put(const char* name, std::string_view bytes) const { std::ofstream(path_ / name, std::ios::binary) << bytes; }
    [[nodiscard]] const std::filesystem::path& path() const { return path_; }

private:
    std::filesystem::path path_;
};

}  // namespace firnfield::fuzz
