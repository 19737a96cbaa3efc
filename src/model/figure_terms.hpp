/// Addresses of what a solution tells at a moment, as "die.max" or "joint.pad.flow": what figures are made of.
#pragma once

#include <firnfield/model.hpp>

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

enum class TermOf : std::uint8_t { part, sensor, surface, joint, resistor, cooling, hold, power, product };
enum class TermWhat : std::uint8_t { reading, max, min, mean, share, flow, through, flux, drop, heat, convection, radiation, mass };

/// A form of address, for messages and the reference.
struct TermInfo {
    TermOf of{};
    TermWhat what{};
    std::string_view word{};  ///< after the last dot; empty: the name stands alone
    const QuantityKind* quantity = nullptr;
    bool wildcard = false;  ///< the name may be one
    std::string_view meaning{};
};
[[nodiscard]] std::span<const TermInfo> figure_terms();
/// "part", "joint", …
[[nodiscard]] std::string_view word_of(TermOf of);

/// What an address names.
struct FigureTerm {
    const TermInfo* info = nullptr;
    std::string name{};
    std::optional<double> above{};  ///< K, of a share
    int axis = 0;                   ///< of a section: across x, y or z
    double at = 0.0;                ///< m, where on it
    bool operator==(const FigureTerm& other) const {
        return info == other.info && name == other.name && above == other.above && axis == other.axis && at == other.at;
    }
};

/// Reads an address. Throws Error where it names nothing of the model.
[[nodiscard]] FigureTerm figure_term(const Model& model, std::string_view address);

/// The names of a model's entries, listed when they are first asked for, and what addresses among them mean.
class Addresses {
public:
    /// `model` has to outlive it.
    explicit Addresses(const Model& model) : model_(model) {}
    [[nodiscard]] const Model& model() const { return model_; }
    [[nodiscard]] const std::vector<std::string>& of(TermOf kind);
    /// Those of all copies of parts; empty where no part has several.
    [[nodiscard]] const std::vector<std::string>& copies();
    /// Throws Error where an address names nothing, or several things.
    [[nodiscard]] FigureTerm term(std::string_view address);
    /// Whether it names one or more.
    [[nodiscard]] bool name_something(std::string_view address);

private:
    const Model& model_;
    std::array<std::optional<std::vector<std::string>>, static_cast<std::size_t>(TermOf::product) + 1> lists_{};
    std::optional<std::vector<std::string>> copies_{};
};

}  // namespace firnfield
