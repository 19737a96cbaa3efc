// Any bytes in place of what a results folder holds are read or refused with an error: the first byte picks the file.
#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include "fuzz_folder.hpp"

#include <cstdint>
#include <string_view>

using namespace firnfield;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size == 0) return 0;
    static const fuzz::Folder folder;
    const std::string_view bytes(reinterpret_cast<const char*>(data) + 1, size - 1);
    const auto attempt = [&](const char* name, const auto& read) {
        folder.put(name, bytes);
        try {
            read(folder.path() / name);
        } catch (const Error&) {
        }
    };
    switch (data[0] % 4) {
        case 0:
            // What was read can be written, and read again.
            attempt("summary.json", [&](const auto&) { static_cast<void>(parse_summary(to_json(read_summary(folder.path())))); });
            attempt("summary.json", [&](const auto&) { static_cast<void>(read_outcome(folder.path())); });
            attempt("summary.json", [&](const auto&) { static_cast<void>(to_json(read_comparison(folder.path()))); });
            break;
        case 1:
            attempt("kept.temperatures", [](const auto& file) { static_cast<void>(read_temperatures(file)); });
            break;
        case 2:
            attempt("run.checkpoint", [](const auto& file) { static_cast<void>(read_checkpoint(file)); });
            break;
        default:
            attempt("history.csv", [](const auto& file) { static_cast<void>(read_history(file)); });
    }
    return 0;
}
