// Any bytes as the CSV of a profile make a curve or are refused with an error.
#include <firnfield/error.hpp>

#include "io/csv.hpp"

#include <cstdint>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    for (const char* column : {"", "P"}) {
        try {
            static_cast<void>(firnfield::read_csv_columns_text(text, "fuzz.csv", "", column));
        } catch (const firnfield::Error&) {
        }
    }
    return 0;
}
