/// What is said of a key of the model file, in one place: its name, what it takes, what it means, what depends on it.
///
/// Every table of the file has one function `describe(visitor, now)`, a list of its keys in the order in which they are written. It calls the
/// visitor with a pointer to the member that the key stands for, the kind of quantity where it takes one, and a Key. Reading a file,
/// writing it, the reference, and what a mesh depends on are such visitors (io/read_keys.hpp, io/write_keys.hpp, model/keys/reference.hpp,
/// model/keys/mesh_basis.hpp). `now` is the thing itself as far as it is known: which keys a table has may depend on those before.
///
/// What a visitor offers: one function a form of value (text, flag, quantity, point, word, threshold, table, …); `inside` for keys of something else that
/// stand among the table's own; `either(name, is_given, first, second)` for two forms of a table told apart by whether a key is given;
/// `one_kind()` whether only the keys of the thing at hand are meant, or those of all its kinds.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string_view>

namespace firnfield {

/// Whether meshes differ where the key differs.
enum class Meshed : std::uint8_t {
    no,
    value,     ///< by its value
    presence,  ///< only by being given
};

/// What a number may be, besides finite. Temperatures are above absolute zero in any case.
enum class Range : std::uint8_t {
    any,
    positive,
    not_negative,
    share,  ///< above 0 and at most 1
};

struct Key {
    std::string_view name{};
    std::string_view meaning{};  ///< for the reference
    std::string_view example{};  ///< what to write, for one that is missing
    std::string_view usual{};    ///< what holds where it is left out, where the default value does not say it
    bool required = false;       ///< of some kinds only where `usual` is said, too
    bool written = false;        ///< written also where it has its default value
    bool lines = false;          ///< a text that may be empty or have several lines
    Meshed meshed = Meshed::no;
    double stand_in = 0.0;     ///< for a number that is given and cannot be read, so that nothing else seems wrong because of it
    Range range = Range::any;  ///< of a number, or everywhere along a curve
    std::string_view what{};   ///< the number in messages, "an emissivity", where its kind does not say it
};

/// Words that a key takes.
template <std::size_t N>
using Words = std::array<std::string_view, N>;

/// What an optional holds, or the type itself.
template <typename T>
struct Held {
    using type = T;
};
template <typename T>
struct Held<std::optional<T>> {
    using type = T;
};
template <typename T>
using held_type = typename Held<T>::type;

inline constexpr Words<3> axis_words{"x", "y", "z"};

}  // namespace firnfield
