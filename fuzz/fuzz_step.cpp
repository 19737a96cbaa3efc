// Any bytes either make an assembly or are refused with an error, in the time that reading may take.
#include <firnfield/error.hpp>
#include <firnfield/step.hpp>

#include <cstdint>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    try {
        const firnfield::StepImport import = firnfield::read_step_bytes({reinterpret_cast<const char*>(data), size}, "fuzz");
        for (const firnfield::StepSolid& solid : import.solids) {
            if (solid.geometry) static_cast<void>(solid.geometry->facets(1e30));
        }
    } catch (const firnfield::Error&) {
    }
    return 0;
}
