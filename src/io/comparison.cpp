// Comparisons, tolerances and searches written, and comparisons read back.

#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>
#include <firnfield/version.hpp>

#include "io/json_files.hpp"
#include "io/json_rows.hpp"
#include "io/schema.hpp"

#include <fmt/format.h>

#include <charconv>

namespace firnfield {
namespace {

constexpr int comparison_format = 2;

OrderedJson maybe(const std::optional<double>& value) { return value ? OrderedJson(*value) : OrderedJson(nullptr); }

/// A value of a figure as it stands outside; differences of temperatures stay in K.
std::optional<double> outside(const Figure& figure, std::optional<double> value) {
    if (value) value = quantity_of(figure).out(*value);
    return value;
}

OrderedJson compared_json(const ComparedFigure& f, const Comparison& c) {
    OrderedJson row = json_of(f);
    for (const char* key : {"values", "errors", "corrections", "differences", "uncertain"}) row[key] = OrderedJson::array();
    for (std::size_t d = 0; d < c.designs.size(); ++d) {
        row["values"].push_back(maybe(outside(f.what, f.value[d])));
        row["errors"].push_back(f.error[d]);
        row["corrections"].push_back(maybe(f.correction[d]));
        row["differences"].push_back(maybe(f.difference(d, c.base)));
        row["uncertain"].push_back(f.uncertain(d, c.base));
    }
    row["best"] = f.best ? OrderedJson(c.designs[*f.best].name) : OrderedJson(nullptr);
    return row;
}

/// Place of a name among the designs.
std::size_t design_of(const Comparison& c, const OrderedJson& name) {
    const auto found = std::find_if(c.designs.begin(), c.designs.end(), [&](const Outcome& d) { return d.name == name.get<std::string>(); });
    if (found == c.designs.end()) throw NotAResult("design");
    return static_cast<std::size_t>(found - c.designs.begin());
}

ComparedFigure compared_of(const OrderedJson& in, const Comparison& c) {
    auto out = row_of<ComparedFigure>(in);
    const QuantityKind& quantity = quantity_of(out.what);
    if (in.at("values").size() != c.designs.size() || in.at("errors").size() != c.designs.size() || in.at("corrections").size() != c.designs.size())
        throw NotAResult("values");
    for (const OrderedJson& value : in.at("values")) out.value.push_back(value.is_null() ? std::nullopt : std::optional(quantity.in(value.get<double>())));
    for (const OrderedJson& error : in.at("errors")) out.error.push_back(error.get<double>());
    for (const OrderedJson& change : in.at("corrections")) out.correction.push_back(change.is_null() ? std::nullopt : std::optional(change.get<double>()));
    if (!in.at("best").is_null()) out.best = design_of(c, in.at("best"));
    return out;
}

Comparison comparison_of(const OrderedJson& in) {
    if (in.at("format") != comparison_format) throw NotAResult("format");
    Comparison out{.title = in.at("title").get<std::string>()};
    for (const OrderedJson& design : in.at("designs")) out.designs.push_back(row_of<Outcome>(design));
    out.base = design_of(out, in.at("base"));
    for (const OrderedJson& figure : in.at("figures")) out.figures.push_back(compared_of(figure, out));
    return out;
}

/// "below 60", in °C or the unit of what it is of; empty where it is of no limit.
std::string limit_text(const Figure& f, const Units& units) {
    if (!f.limit) return {};
    return fmt::format("{} {:.10g}", side_words.at(f.upper ? 1 : 0), unit_of(f.of != nullptr ? *f.of : kinds::temperature, units).out(*f.limit));
}

std::string csv_number(const std::optional<double>& value, double one, double zero = 0.0) {
    return value ? fmt::format("{}", (*value - zero) / one) : std::string();
}

}  // namespace

Outcome outcome_of(const Design& design, const Model& model, std::span<const StudyFindings> studies) {
    Outcome out{
        .name = design.name, .fingerprint = fingerprint(model), .mass = studies.empty() ? std::nullopt : mass_of(studies.front()), .sweep = design.sweep};
    for (const StudyFindings& study : studies) out.studies.push_back(outcome(study));
    if (design.sweep.empty()) return out;
    for (const Change& change : design.changes) {
        double number = 0.0;  // of a text that begins with none
        static_cast<void>(std::from_chars(change.value.data(), change.value.data() + change.value.size(), number));
        out.at.push_back({change.address, change.value, number});
    }
    return out;
}

std::string to_json(const Comparison& c) {
    OrderedJson out{{"firnfield", version}, {"format", comparison_format}, {"title", c.title}, {"base", c.designs[c.base].name}};
    out["designs"] = OrderedJson::array();
    for (const Outcome& design : c.designs) out["designs"].push_back(json_of(design));
    out["figures"] = OrderedJson::array();
    for (const ComparedFigure& figure : c.figures) out["figures"].push_back(compared_json(figure, c));
    return json_text(out);
}

Comparison read_comparison(const std::filesystem::path& folder) { return read_json(summary_text(folder), folder / "summary.json", comparison_of); }

std::string to_csv(const Comparison& c, const Units& units) {
    std::string out = fmt::format("study,kind,name,limit,unit,design,value,error,{},best\n", csv_cell("difference to " + c.designs[c.base].name));
    for (const ComparedFigure& f : c.figures) {
        const UnitOf unit = unit_of(quantity_of(f.what), units);
        for (std::size_t d = 0; d < c.designs.size(); ++d) {
            out += fmt::format("{},{},{},{},{},{},{},{},{},{}\n", csv_cell(f.study), info(f.what.kind).word, csv_cell(f.what.name), limit_text(f.what, units),
                               unit.name, csv_cell(c.designs[d].name), csv_number(f.value[d], unit.one, unit.zero), f.error[d] / unit.one,
                               csv_number(f.difference(d, c.base), unit.one), f.best == d ? 1 : 0);
        }
    }
    return out;
}

std::string to_json(const ToleranceFindings& t) {
    OrderedJson out{{"firnfield", version},   {"format", 1},
                    {"runs", t.runs},         {"linearised", t.linearised},
                    {"chance", t.all_chance}, {"chance_interval", {t.all_low, t.all_high}}};
    out["parameters"] = OrderedJson::array();
    for (const ParameterInfo& p : t.parameters) {
        out["parameters"].push_back({{"name", p.name},
                                     {"value", p.value.value},
                                     {"kind", name_of(p.value.dimension)},
                                     {"distribution", p.spread->normal ? "normal" : "uniform"},
                                     {"width", p.spread->width}});
    }
    out["limits"] = OrderedJson::array();
    for (const LimitChance& l : t.limits) {
        out["limits"].push_back({{"study", l.study},
                                 {"subject", l.subject},
                                 {"kind", l.upper ? "below" : "above"},
                                 {"limit", l.quantity->out(l.limit)},
                                 {"unit", l.quantity->unit},
                                 {"chance", l.chance},
                                 {"chance_interval", {l.low, l.high}},
                                 {"mean", l.mean},
                                 {"deviation", l.deviation},
                                 {"worst", l.worst},
                                 {"influence", l.influence}});
    }
    out["figures"] = OrderedJson::array();
    for (const FigureSpread& f : t.figures) {
        out["figures"].push_back({{"study", f.study},
                                  {"name", f.name},
                                  {"unit", f.quantity->unit},
                                  {"mean", f.quantity->out(f.mean)},
                                  {"deviation", f.deviation},
                                  {"lowest", f.quantity->out(f.lowest)},
                                  {"highest", f.quantity->out(f.highest)},
                                  {"influence", f.influence}});
    }
    out["notes"] = t.notes;
    return json_text(out);
}

std::string to_json(const SeekResult& r, const std::string& address, const std::string& unit) {
    OrderedJson out{{"firnfield", version},
                    {"format", 1},
                    {"address", address},
                    {"unit", unit},
                    {"at", maybe(r.at)},
                    {"margin", r.at ? OrderedJson(r.margin) : OrderedJson(nullptr)},
                    {"margin_unit", r.quantity->unit},
                    {"at_error", maybe(r.at_error)},
                    {"margin_error", maybe(r.margin_error)},
                    {"beyond", maybe(r.beyond)},
                    {"jumps", r.jumps}};
    out["evaluations"] = OrderedJson::array();
    for (const auto& e : r.evaluations) out["evaluations"].push_back({{"at", e.at}, {"margin", e.margin}});
    return json_text(out);
}

}  // namespace firnfield
