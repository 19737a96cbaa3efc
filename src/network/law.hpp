/// What the elements of a family do at given temperatures of their ends: the contract of every law.
#pragma once

#include <firnfield/network.hpp>

#include <array>
#include <span>

namespace firnfield {

/// Some elements of a family in a row, with the temperatures of their ends.
struct Elements {
    std::size_t begin = 0;                      ///< of the family, for laws that know something about each element
    std::span<const double> coefficient{};      ///< as the family has it
    double scale = 1.0;                         ///< on all of them
    std::span<const double> first{}, second{};  ///< K; second ends outside read nothing
    std::span<const double> difference{};       ///< K, first less second, with more digits than these have
    [[nodiscard]] std::size_t size() const { return coefficient.size(); }
};

/// A law of heat transfer, for whole spans at once. It knows nothing of where it is used.
class Law {
public:
    Law() = default;
    Law(const Law&) = delete;
    Law& operator=(const Law&) = delete;
    virtual ~Law() = default;

    /// W from the first end to the second.
    virtual void heat(const Elements& elements, std::span<double> out) const = 0;
    /// d heat / d T_first and −d heat / d T_second, W/K. `by_second` may be empty: it is not wanted then, and not where the second ends lie outside.
    /// What Newton's method is led by may not fall below nothing where the heat leaves a wall: such laws cut `by_first` off there.
    virtual void slopes(const Elements& elements, std::span<double> by_first, std::span<double> by_second) const = 0;
    /// Whether the slopes are the same at all temperatures.
    [[nodiscard]] virtual bool is_linear() const { return false; }
    /// The law of some of the elements, where it knows something about each; null where all are alike.
    [[nodiscard]] virtual std::shared_ptr<const Law> of_some(std::span<const Index> /*elements*/) const { return nullptr; }
    /// Whether the slopes vanish where both ends are equally warm, as in natural convection: Newton's method cannot begin there.
    [[nodiscard]] virtual bool starts_flat() const { return false; }
};

/// The heat of some elements, W.
void heat_of(const Family& family, const Elements& elements, std::span<double> out);
/// Their slopes, as of Law::slopes().
void slopes_of(const Family& family, const Elements& elements, std::span<double> by_first, std::span<double> by_second);
/// Whether the slopes of a family are the same at all temperatures.
[[nodiscard]] inline bool is_linear(const Family& family) { return !family.law || family.law->is_linear(); }

/// What a linearisation takes for the slopes of a law.
enum class Slopes : std::uint8_t {
    tangent,  ///< derivatives
    secant,   ///< heat over difference in temperature, and nothing for loads: the network that carries the same heat linearly
};
/// The slope of an element in a linearisation, W/K: its derivative `slope`, or the secant where there is a difference.
[[nodiscard]] double linearised(const Family& family, Slopes slopes, double heat, double difference, double slope);

/// One element of a family between two temperatures, K.
struct Element {
    const Family& family;
    std::size_t index = 0;
    double first = 0.0, second = 0.0, difference = 0.0;

    [[nodiscard]] double heat() const;  ///< W
    struct BothSlopes {
        double by_first = 0.0, by_second = 0.0;  ///< W/K, as of Law::slopes()
    };
    [[nodiscard]] BothSlopes slopes() const;

private:
    [[nodiscard]] Elements alone() const;
};

/// As many elements as are evaluated at once.
inline constexpr std::size_t block_size = 256;

/// Calls `use` with all elements of a family of nodes, block by block, at the temperatures of `nodes`.
template <typename Use>
void in_blocks(const Network& network, const Family& family, const NodeTemperatures& nodes, const Use& use) {
    std::array<double, block_size> first, second, difference;
    const double known = family.known == no_index ? nodes.reference : network.knowns[family.known].temperature;
    for (std::size_t begin = 0; begin < family.size(); begin += block_size) {
        const std::size_t count = std::min(block_size, family.size() - begin);
        for (std::size_t i = 0; i < count; ++i) {
            const double here = nodes.rise[family.first[begin + i]];
            first[i] = nodes.reference + here;
            if (family.between_nodes()) {
                const double there = nodes.rise[family.second[begin + i]];
                second[i] = nodes.reference + there;
                difference[i] = here - there;
            } else {
                second[i] = known;
                difference[i] = here - (known - nodes.reference);
            }
        }
        use(Elements{.begin = begin,
                     .coefficient = std::span(family.coefficient).subspan(begin, count),
                     .scale = family.scale,
                     .first = std::span(first).first(count),
                     .second = std::span(second).first(count),
                     .difference = std::span(difference).first(count)});
    }
}

}  // namespace firnfield
