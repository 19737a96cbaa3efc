// Any text is a quantity, an expression, or refused with an error; what is written of it reads back as the same.
#include <firnfield/error.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/quantity.hpp>

#include "io/parameters.hpp"

#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <string>

using namespace firnfield;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    for (const QuantityKind& kind : {kinds::length, kinds::temperature, kinds::power, kinds::conductivity, kinds::area_resistance}) {
        try {
            const double value = parse_quantity(text, kind);
            if (std::isfinite(value) && parse_quantity(write_quantity(value, kind), kind) != value) std::abort();
        } catch (const Error&) {
        }
    }
    try {
        Parameters parameters;
        parameters.set("pad", {1e-3, kinds::length.dimension});
        parameters.set("fins", {12.0, {}});
        parameters.define("pitch", "= pad * 3");
        static_cast<void>(parameters.evaluate("=" + text));
    } catch (const Error&) {
    }
    return 0;
}
