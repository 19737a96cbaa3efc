// Any bytes either make a closed surface or are refused with an error.
#include <firnfield/error.hpp>
#include <firnfield/stl.hpp>

#include <cstdint>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    try {
        static_cast<void>(firnfield::read_stl_bytes({reinterpret_cast<const char*>(data), size}, 1e-3, "fuzz"));
    } catch (const firnfield::Error&) {
    }
    return 0;
}
