/// What the CAD kernel does for the library.
///
/// It stands in a shared library of its own, which is loaded when the first STEP file is read or written: its hundred megabytes and some sixty libraries
/// would make every start of a program several times as long.
#pragma once

#include <firnfield/step.hpp>

#include <filesystem>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield::step {

/// A solid to write: a shape with others added and cut out, all where the product describes them.
struct Product {
    std::string name{}, material{}, colour{};  ///< material and colour may be empty
    double density = 0.0;                      ///< kg/m³
    Shape shape{};
    std::vector<Shape> also{}, holes{};
    /// What the product becomes before it is placed; for mirror images and scales, which an assembly cannot express.
    Placement before{};
    struct Copy {
        std::string name{};
        Placement place{};  ///< a rotation, moved
    };
    std::vector<Copy> copies{};
};

class Kernel {
public:
    Kernel() = default;
    Kernel(const Kernel&) = delete;
    Kernel& operator=(const Kernel&) = delete;
    virtual ~Kernel() = default;

    /// As read_step_bytes().
    [[nodiscard]] virtual StepImport read(std::string_view bytes, const std::string& name) const = 0;
    /// Writes an assembly. Throws Error that names a product which cannot be written, and FileError.
    virtual void write(const std::filesystem::path& file, const std::string& title, std::span<const Product> products) const = 0;
};

/// The kernel, loaded by the first call. Throws Error where its library is not found.
[[nodiscard]] const Kernel& kernel();

}  // namespace firnfield::step
