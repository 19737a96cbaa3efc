/// The demo model and the files that it names, carried inside the command.
#pragma once

#include <cstddef>

namespace firnfield {

struct DemoFile {
    const char* name;
    const unsigned char* bytes;
    std::size_t size;
};

extern const char* const demo_model_text;
extern const DemoFile demo_files[];
extern const std::size_t demo_file_count;

}  // namespace firnfield
