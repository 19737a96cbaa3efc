// The entry of the CAD kernel's library.

#include "io/step/reader.hpp"

namespace firnfield::step {
namespace {

class OpenCascade final : public Kernel {
public:
    StepImport read(std::string_view bytes, const std::string& name) const override { return read_bytes(bytes, name); }
    void write(const std::filesystem::path& file, const std::string& title, std::span<const Product> products) const override {
        write_products(file, title, products);
    }
};

}  // namespace
}  // namespace firnfield::step

extern "C" __attribute__((visibility("default"))) const firnfield::step::Kernel* firnfield_step_kernel() {
    static const firnfield::step::OpenCascade kernel;
    return &kernel;
}
