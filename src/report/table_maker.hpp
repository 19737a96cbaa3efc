/// Makes the rows of a table from the descriptions of findings: every field that has a heading becomes a column.
#pragma once

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/figures.hpp"
#include "findings/schema/field.hpp"
#include "report/finding_tables.hpp"
#include "report/phrases.hpp"

#include <fmt/format.h>

#include <cmath>
#include <functional>
#include <span>
#include <string>
#include <type_traits>
#include <utility>

namespace firnfield {

/// The unit that stands in a heading; none where the cells carry theirs.
[[nodiscard]] inline std::string unit_in_head(const QuantityKind& kind, const Units& units) {
    const bool head = kind.unit == "degC" || kind.unit == "K" || kind.unit == "W" || kind.unit == "K/W" || kind.unit == "W/(m^2 K)";
    return head ? " " + unit_of(kind, units).shown : std::string();
}

/// "12.3 %", "50 %".
[[nodiscard]] inline std::string percent(double share) {
    std::string text = fmt::format("{:.1f}", 100.0 * share);
    if (text.ends_with(".0")) text.resize(text.size() - 2);
    return text + " %";
}

/// A value as a cell has it. `scale`: the power that others are seen next to, W.
[[nodiscard]] inline std::string cell_text(double value, const QuantityKind& kind, const Units& units, double scale) {
    if (kind.absolute_temperature) return degrees(value, units);
    if (kind.unit == "K") return degrees_apart(value, units, 2);
    if (kind.unit == "W/(m^2 K)") return fmt::format("{:.2f}", value);
    if (kind.unit == "W") return watts(value, scale);
    if (kind.unit == "K/W") return fmt::format("{:.4g}", unit_of(kind, units).out(value));
    if (kind.unit == "s") return duration(value);
    if (kind.unit == "1") return percent(value);
    return show_quantity(value, kind, units, kind.unit == "J" ? 4 : 3);
}

/// How far the mesh lets a figure be off, beside its value and with as many digits; nothing where that is less than they show.
[[nodiscard]] inline std::string error_text(const Figure* figure, const Units& units, double scale) {
    if (figure == nullptr || !figure->bar) return {};
    const QuantityKind& kind = quantity_of(*figure);
    const double error = figure->bar->error;
    std::string text = figure->of != nullptr
                           ? (error > std::max(2e-9, 5e-4 * std::abs(figure->value.value_or(0.0))) ? amount_text(error, difference_of(kind), units, 2) : "")
                       : kind.absolute_temperature ? fmt::format("{:.1f}", error)
                                                   : cell_text(error, kind, units, scale);
    const bool shows = text.find_first_of("123456789") != std::string::npos;
    return shows ? text : std::string();
}

/// Visits the fields of a row and makes a cell of each that has a heading, and of its error, where `figures` know one.
template <typename T>
class CellMaker : public Unasked {
public:
    struct Cell {
        FindingTable::Column column{};
        std::string text{};
    };

    CellMaker(const T& row, const Units& units, double scale, std::span<const Figure> figures = {})
        : row_(row), units_(units), scale_(scale), figures_(figures) {}
    [[nodiscard]] std::vector<Cell> take() { return std::move(cells_); }

    template <typename M>
    void text(M member, const Field& field) {
        add(field, {}, false, std::string(std::invoke(member, row_)));
    }
    template <typename M>
    void text_or_null(M member, const Field& field) {
        text(member, field);
    }
    template <typename M>
    void count(M member, const Field& field) {
        add(field, {}, true, grouped(static_cast<unsigned long long>(std::invoke(member, row_))));
    }
    /// Stands behind the name before it.
    template <typename M>
    void copies(M member, const Field&) {
        if (const auto count = std::invoke(member, row_); count != 1 && !cells_.empty()) cells_.back().text += fmt::format(" ×{}", count);
    }
    template <typename M>
    void value(M member, const QuantityKind& kind, const Field& field) {
        const std::optional<double> value = std::invoke(member, row_);
        const bool has = value && !(field.zero_is_none && *value == 0.0);
        add(field, unit_in_head(kind, units_), true, has ? cell_text(field.magnitude ? std::abs(*value) : *value, kind, units_, scale_) : std::string());
    }
    /// With its own unit, as its column has amounts of several kinds.
    template <typename M>
    void amount(M member, const QuantityKind& kind, const Field& field) {
        const std::optional<double> value = std::invoke(member, row_);
        add(field, {}, true, value ? amount_text(*value, kind, units_) : std::string());
    }
    template <typename M>
    void figure(M member, FigureKind kind, const Field& field, const QuantityKind* of = nullptr) {
        if (of != nullptr) {
            amount(member, quantity_of(kind, of), field);
        } else {
            value(member, quantity_of(kind), field);
        }
        if (!field.head.empty()) add_error(kind);
    }
    /// Its temperature; with a heading for it its place, and when it is one of a run its time.
    template <typename M>
    void spot(M member, FigureKind kind, const Field& field, std::string_view place_head = {}) {
        const auto& found = std::invoke(member, row_);
        const Spot* spot = nullptr;
        if constexpr (requires { found.spot; }) {
            spot = &found.spot;
        } else {
            spot = &found;
        }
        add(field, unit_in_head(kinds::temperature, units_), true, degrees(spot->temperature, units_));
        if (!field.head.empty()) add_error(kind);
        if (!place_head.empty()) add({.head = place_head}, length_in_head(), false, firnfield::place(spot->at, units_));
        if constexpr (requires { found.time; }) add({.head = "at"}, {}, true, duration(found.time));
    }
    template <typename M>
    void point(M member, const Field& field) {
        if constexpr (std::is_same_v<std::decay_t<decltype(std::invoke(member, row_))>, Vec3>) {
            const Vec3 p = std::invoke(member, row_);
            const double one = parse_quantity("1 " + units_.length, kinds::length);
            add(field, length_in_head(), true, fmt::format("{:.6g} × {:.6g} × {:.6g}", p.x / one, p.y / one, p.z / one));
        }
    }
    void place(Vec3 T::*member, bool T::*lumped, const Field& field) {
        add(field, length_in_head(), false, row_.*lumped ? std::string() : firnfield::place(row_.*member, units_));
    }
    /// Heat flows towards the colder side, so an arrow shows its way where there is a flow.
    template <typename M>
    void ends(M first, M second, const Field& field) {
        const std::string &from = std::invoke(first, row_), &to = std::invoke(second, row_);
        if constexpr (requires { row_.flow; }) {
            add(field, {}, false, row_.flow >= 0.0 ? from + " → " + to : to + " → " + from);
        } else {
            add(field, {}, false, from + " - " + to);
        }
    }
    template <typename M, typename... Tags>
    void row(M member, const Field&, Tags... tags) {
        using Inner = std::decay_t<decltype(std::invoke(member, row_))>;
        if constexpr (requires(const Inner& inner) { inner.has_value(); }) {
            // Where there is none its cells are empty, so that all rows have the same columns.
            const Inner& inner = std::invoke(member, row_);
            const typename Inner::value_type shown = inner ? *inner : typename Inner::value_type{};
            CellMaker<typename Inner::value_type> maker(shown, units_, scale_);
            fields(maker, shown, tags...);
            for (auto& cell : maker.take()) cells_.push_back({cell.column, inner ? std::move(cell.text) : std::string()});
        }
    }

private:
    [[nodiscard]] std::string length_in_head() const { return " (" + unit_of_lengths(units_) + ")"; }

    void add(const Field& field, const std::string& unit, bool right, std::string text) {
        if (field.head.empty()) return;
        cells_.push_back({{std::string(field.head) + unit, right}, text.empty() ? std::string(field.none) : std::move(text)});
    }

    void add_error(FigureKind kind) {
        if constexpr (requires { figure_name(row_); }) {
            if (!figures_.empty()) add({.head = "±"}, {}, true, error_text(find_figure(figures_, kind, figure_name(row_)), units_, scale_));
        }
    }

    const T& row_;
    const Units& units_;
    double scale_;
    std::span<const Figure> figures_;
    std::vector<Cell> cells_;
};

/// Leaves out columns in which no row has anything.
inline void drop_empty_columns(FindingTable& table) {
    for (std::size_t c = table.columns.size(); c-- > 0;) {
        bool empty = true;
        for (const auto& row : table.rows) empty = empty && row[c].empty();
        if (!empty) continue;
        table.columns.erase(table.columns.begin() + static_cast<std::ptrdiff_t>(c));
        for (auto& row : table.rows) row.erase(row.begin() + static_cast<std::ptrdiff_t>(c));
    }
}

/// The table of a list of findings.
template <typename T>
[[nodiscard]] FindingTable table_of(std::string title, const std::vector<T>& rows, const Units& units, double scale = 1.0,
                                    std::span<const Figure> figures = {}) {
    FindingTable out{.title = std::move(title)};
    for (const T& row : rows) {
        CellMaker<T> maker(row, units, scale, figures);
        fields(maker, row);
        auto cells = maker.take();
        if (out.columns.empty()) {
            for (const auto& cell : cells) out.columns.push_back(cell.column);
        }
        std::vector<std::string>& texts = out.rows.emplace_back();
        for (auto& cell : cells) texts.push_back(std::move(cell.text));
    }
    drop_empty_columns(out);
    return out;
}

}  // namespace firnfield
