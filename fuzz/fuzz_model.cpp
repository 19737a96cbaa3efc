// Any text either makes a model that can be written and read again, with all its designs, or is refused with an error.
#include <firnfield/error.hpp>
#include <firnfield/model_file.hpp>

#include <cstdint>
#include <cstdlib>
#include <string>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    try {
        const firnfield::Model model = firnfield::read_model_text({reinterpret_cast<const char*>(data), size}, "");
        if (!(firnfield::read_model_text(firnfield::write_model(model), "") == model)) std::abort();
        const firnfield::ModelFile file(std::string(reinterpret_cast<const char*>(data), size), "");
        for (const firnfield::Design& design : file.designs()) static_cast<void>(file.model(design));
    } catch (const firnfield::Error&) {
    }
    return 0;
}
