/// The two directions of the CAD kernel's library.
#pragma once

#include "io/step/kernel.hpp"

namespace firnfield::step {

/// See Kernel::read.
[[nodiscard]] StepImport read_bytes(std::string_view bytes, const std::string& name);
/// See Kernel::write.
void write_products(const std::filesystem::path& file, const std::string& title, std::span<const Product> products);

}  // namespace firnfield::step
