// Figures: the numbers that designs are compared by and that get error bars, as the descriptions of findings name them.

#include "findings/figures.hpp"

#include "findings/schema/in_time.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace firnfield {
namespace {

using Told = FigureInfo::Told;

constexpr std::array<FigureInfo, figure_kinds> infos{{
    {"margin", &kinds::temperature_difference, 1, Told::always, "of a limit; negative: missed"},
    {"first beyond", &kinds::time, 1, Told::always, "time at which a limit is first passed"},
    {"holds from", &kinds::time, -1, Told::always, "time from which on a limit holds until the end: warm-up or cool-down time"},
    {"max", &kinds::temperature, 0, Told::never, "hottest place of a part"},
    {"mean", &kinds::temperature, 0, Told::never, "of a part, by volume; in time by volume and time"},
    {"min", &kinds::temperature, 0, Told::never, "coldest place of a part"},
    {"sensor", &kinds::temperature, 0, Told::when_it_differs, "of a sensor or a lumped node; in time its highest"},
    {"joint flow", &kinds::power, 0, Told::never, "heat through a joint"},
    {"joint drop", &kinds::temperature_difference, 0, Told::when_it_differs, "over a joint"},
    {"resistor flow", &kinds::power, 0, Told::never, "heat through a resistor"},
    {"resistor drop", &kinds::temperature_difference, 0, Told::when_it_differs, "over a resistor"},
    {"cooling", &kinds::power, 0, Told::never, "heat leaving by a cooling"},
    {"convection", &kinds::power, 0, Told::never, "of a cooling that also radiates"},
    {"radiation", &kinds::power, 0, Told::never, "of a cooling that also convects"},
    {"coefficient", &kinds::heat_transfer_coefficient, 0, Told::never, "mean one of convection of a cooling"},
    {"surface mean", &kinds::temperature, 0, Told::never, "of a loaded surface"},
    {"surface max", &kinds::temperature, 0, Told::never, "of a loaded surface"},
    {"hold", &kinds::power, 0, Told::never, "heat leaving into a hold"},
    {"duty", &kinds::number, 0, Told::when_it_differs, "share of the time that a thermostat is on"},
    {"period", &kinds::time, 0, Told::when_it_differs, "of a thermostat, from switching on to switching on"},
    {"milestone", &kinds::time, 0, Told::always, "time at which it is first passed"},
    {"figure", &kinds::number, 0, Told::always, "that the model names; in time its highest value"},
    {"figure mean", &kinds::number, 0, Told::when_it_differs, "of a figure that the model names, by time"},
    {"figure min", &kinds::number, 0, Told::when_it_differs, "lowest value of a figure that the model names, in time"},
}};

/// Visits the fields of a row and collects its figures; rows in lists are looked into, what belongs to the end of a run or to an
/// explanation is not.
template <typename Row>
class FigureCollector : public Unasked {
public:
    FigureCollector(const Row& row, std::vector<Figure>& out) : row_(row), out_(out) {}

    template <typename M>
    void figure(M member, FigureKind kind, const Field& field, const QuantityKind* of = nullptr) {
        const std::optional<double> value = std::invoke(member, row_);
        if (!value || !field.counts || (field.zero_is_none && *value == 0.0)) return;
        add(kind, *value, of);
    }
    template <typename M>
    void spot(M member, FigureKind kind, const Field&, std::string_view = {}) {
        const auto& spot = std::invoke(member, row_);
        if constexpr (requires { spot.spot; }) {
            add(kind, spot.spot.temperature);
        } else {
            add(kind, spot.temperature);
        }
    }
    template <typename M>
    void rows(M member, const Field&) {
        if constexpr (requires { row_.study; }) {  // the lists of a study, not those of one of its rows
            for (const auto& inner : std::invoke(member, row_)) {
                FigureCollector<std::decay_t<decltype(inner)>> collector(inner, out_);
                fields(collector, inner);
            }
        }
    }

private:
    void add(FigureKind kind, double value, const QuantityKind* of = nullptr) {
        Figure figure{.kind = kind, .name = figure_name(row_), .of = of, .value = value};
        if constexpr (requires { row_.upper; }) {
            figure.limit = row_.limit;
            figure.upper = row_.upper;
        }
        out_.push_back(std::move(figure));
    }

    const Row& row_;
    std::vector<Figure>& out_;
};

template <typename Study>
std::vector<Figure> collected(const Study& study) {
    std::vector<Figure> out;
    FigureCollector<Study> collector(study, out);
    fields(collector, study);
    return out;
}

template <typename List>
Verdict verdict_on(const List& limits) {
    if (limits.empty()) return Verdict::no_limits;
    return std::all_of(limits.begin(), limits.end(), [](const auto& limit) { return limit.kept(); }) ? Verdict::kept : Verdict::missed;
}

}  // namespace

const FigureInfo& info(FigureKind kind) { return infos[static_cast<std::size_t>(kind)]; }

std::optional<FigureKind> figure_kind_of(std::string_view word) {
    const auto found = std::find_if(infos.begin(), infos.end(), [&](const FigureInfo& i) { return i.word == word; });
    return found == infos.end() ? std::nullopt : std::optional(static_cast<FigureKind>(found - infos.begin()));
}

std::string figure_name(const JointFinding& joint) {
    const std::string parts = joint.first + " - " + joint.second;
    return joint.name == parts ? parts : fmt::format("{} ({})", parts, joint.name);
}

const Figure* find_figure(std::span<const Figure> figures, FigureKind kind, const std::string& name) {
    const auto found = std::find_if(figures.begin(), figures.end(), [&](const Figure& f) { return f.kind == kind && f.name == name; });
    return found == figures.end() ? nullptr : &*found;
}

const Figure* limit_figure(std::span<const Figure> figures, FigureKind kind, const std::string& subject, bool upper, double limit) {
    const auto found = std::find_if(figures.begin(), figures.end(),
                                    [&](const Figure& f) { return f.kind == kind && f.name == subject && f.upper == upper && f.limit == limit; });
    return found == figures.end() ? nullptr : &*found;
}

bool same(const Figure& a, const Figure& b) { return a.kind == b.kind && a.name == b.name && a.of == b.of && a.upper == b.upper && a.limit == b.limit; }

const QuantityKind& quantity_of(FigureKind kind, const QuantityKind* of) {
    const QuantityKind& own = *info(kind).quantity;
    if (of == nullptr || own.name == kinds::time.name) return own;
    return kind == FigureKind::margin ? difference_of(*of) : *of;
}

std::vector<Figure> figures_of(const Findings& findings) { return collected(findings); }
std::vector<Figure> figures_of(const TimeFindings& findings) { return collected(findings); }

Verdict Findings::verdict() const { return verdict_on(limits); }
bool Findings::all_limits_kept() const { return verdict() != Verdict::missed; }
Verdict TimeFindings::verdict() const { return verdict_on(limits); }
bool TimeFindings::all_limits_kept() const { return verdict() != Verdict::missed; }

}  // namespace firnfield
