/// What is said of a reported value, in one place: its name, its quantity, what it means, how it is told.
///
/// Every row of findings has one function `fields(visitor, now)`, a list of its fields in the order in which they are written. It calls the
/// visitor with a pointer to the member, or with a function of the row for what follows from others. JSON both ways (io/json_rows.hpp), the
/// columns of tables (report/finding_tables.hpp), the figures that designs are compared by and that get error bars (findings/figures.cpp)
/// and the reference of results (findings/schema/reference.cpp) are such visitors. `now` is the row as far as it is known: which fields it has may
/// depend on those before, unless the visitor is after `all_kinds()`.
///
/// What a visitor offers: one function a form of value (text, flag, count, value, figure, point, word, row, rows, …); `inside` for the fields
/// of something that stands among the row's own.
#pragma once

#include <firnfield/findings.hpp>

#include <array>
#include <cstddef>
#include <string_view>

namespace firnfield {

struct Field {
    std::string_view name{};     ///< in JSON
    std::string_view meaning{};  ///< for the reference
    std::string_view head{};     ///< of its column in tables, without the unit; those without one are in none
    std::string_view none{};     ///< what a table has where there is no value
    bool zero_is_none = false;   ///< of a number: tables leave it out, and it is no figure
    bool magnitude = false;      ///< tables have it without its sign, which the ends of the row tell
    bool counts = true;          ///< of a figure: it is one in this row
};

/// Stable words for the values of an enumeration, or of a flag.
template <std::size_t N>
using FieldWords = std::array<std::string_view, N>;

/// What a visitor makes of a field that it does not ask for: nothing. Visitors derive from this and hide what they do ask for.
struct Unasked {
    [[nodiscard]] static bool all_kinds() { return false; }
    template <typename M>
    void text(M, const Field&) {}
    template <typename M>
    void text_or_null(M, const Field&) {}
    template <typename M>
    void texts(M, const Field&) {}
    template <typename M>
    void flag(M, const Field&) {}
    template <typename M>
    void count(M, const Field&) {}
    template <typename M>
    void counts(M, const Field&) {}
    template <typename M>
    void copies(M, const Field&) {}
    template <typename M>
    void number(M, const Field&) {}
    template <typename M>
    void figure_kind(M, const Field&) {}
    template <typename M>
    void point(M, const Field&) {}
    template <typename M>
    void factors(M, const Field&) {}
    template <typename M>
    void rows(M, const Field&) {}
    template <typename M>
    void value(M, const QuantityKind&, const Field&) {}
    template <typename M>
    void measured(M, const QuantityKind&, const Field&) {}
    template <typename M>
    void amount(M, const QuantityKind&, const Field&) {}
    template <typename M>
    void quantity(M, const Field&) {}
    template <typename M>
    void figure(M, FigureKind, const Field&, const QuantityKind* = nullptr) {}
    template <typename M>
    void spot(M, FigureKind, const Field&, std::string_view = {}) {}
    template <typename M, typename Flag>
    void place(M, Flag, const Field&) {}
    template <typename M, std::size_t N>
    void word(M, const FieldWords<N>&, const Field&) {}
    template <typename M>
    void ends(M, M, const Field&) {}
    template <typename M, typename... Tags>
    void row(M, const Field&, Tags...) {}
    template <typename M, typename... Tags>
    void inside(M, Tags...) {}
};

/// The end of a study in time has the fields of a steady study but those of the study itself.
struct AtTheEnd {};
/// A figure of many designs has its values elsewhere.
struct WithoutValue {};

}  // namespace firnfield
