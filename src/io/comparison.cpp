// Comparisons written, and outcomes read back from results folders.

#include <firnfield/error_bars.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>
#include <firnfield/version.hpp>

#include "base/words.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace firnfield {
namespace {

using Json = nlohmann::ordered_json;

template <typename T>
Json maybe(const std::optional<T>& value) {
    return value ? Json(*value) : Json(nullptr);
}

std::optional<double> number(const Json& value) { return value.is_number() ? std::optional(value.get<double>()) : std::nullopt; }

StudyOutcome read_study(const Json& study) {
    StudyOutcome out{.study = study.at("study").at("name"), .verdict = study.at("verdict")};
    const Json& hottest = study.at("hottest");
    const Json& at = hottest.at("at");
    const Vec3 place = at.is_null() ? Vec3{} : Vec3{at.at(0), at.at(1), at.at(2)};
    out.hottest = {hottest.at("temperature").get<double>() + zero_celsius, place, hottest.at("body"), at.is_null()};
    for (const Json& f : study.at("figures")) {
        Figure figure{
            .kind = f.at("kind"), .name = f.at("name"), .unit = f.at("unit"), .value = number(f.at("value")), .error = f.at("error"), .better = f.at("better")};
        if (f.contains("limit")) figure.limit = f.at("limit").get<double>();
        figure.upper = f.value("upper", true);
        out.figures.push_back(std::move(figure));
    }
    return out;
}

/// What `read` makes of the summary in a results folder.
auto from_summary(const std::filesystem::path& folder, const auto& read) {
    if (!std::filesystem::exists(folder / "summary.json"))
        throw FileError(fmt::format("{} is no results folder: it has no summary.json", in_quotes(folder.string())));
    try {
        return read(Json::parse(read_file(folder / "summary.json")));
    } catch (const nlohmann::json::exception&) {
        throw FileError(
            fmt::format("{} does not hold what this version of firnfield writes; solve the model again", in_quotes((folder / "summary.json").string())));
    }
}

std::string csv_number(const std::optional<double>& value) { return value ? fmt::format("{}", *value) : std::string(); }

}  // namespace

std::string to_json(const Comparison& c) {
    Json out{{"firnfield", version}, {"format", 1}, {"title", c.title}, {"base", c.designs[c.base].name}};
    out["designs"] = Json::array();
    for (const Outcome& d : c.designs) {
        Json row{{"name", d.name}, {"fingerprint", d.fingerprint}, {"mass", maybe(d.mass)}};
        if (!d.sweep.empty()) {
            row["sweep"] = d.sweep;
            row["at"] = Json::array();
            for (const auto& at : d.at) row["at"].push_back({{"address", at.address}, {"value", at.text}, {"number", at.number}});
        }
        row["studies"] = Json::array();
        for (const StudyOutcome& s : d.studies) {
            row["studies"].push_back({{"study", s.study},
                                      {"verdict", s.verdict},
                                      {"hottest",
                                       {{"temperature", s.hottest.temperature - zero_celsius},
                                        {"at", {s.hottest.at.x, s.hottest.at.y, s.hottest.at.z}},
                                        {"body", s.hottest.body}}}});
        }
        out["designs"].push_back(std::move(row));
    }
    out["figures"] = Json::array();
    for (const ComparedFigure& f : c.figures) {
        Json row{{"study", f.study}, {"kind", f.what.kind}, {"name", f.what.name}, {"unit", f.what.unit}, {"limit", maybe(f.what.limit)}};
        for (const char* key : {"values", "errors", "differences", "uncertain"}) row[key] = Json::array();
        for (std::size_t d = 0; d < c.designs.size(); ++d) {
            row["values"].push_back(maybe(f.value[d]));
            row["errors"].push_back(f.error[d]);
            row["differences"].push_back(maybe(f.difference(d, c.base)));
            row["uncertain"].push_back(f.uncertain(d, c.base));
        }
        row["best"] = f.best ? Json(c.designs[*f.best].name) : Json(nullptr);
        out["figures"].push_back(std::move(row));
    }
    return out.dump(2) + "\n";
}

std::string to_csv(const Comparison& c) {
    std::string out = fmt::format("study,kind,name,unit,design,value,error,{},best\n", csv_cell("difference to " + c.designs[c.base].name));
    for (const ComparedFigure& f : c.figures) {
        for (std::size_t d = 0; d < c.designs.size(); ++d) {
            out += fmt::format("{},{},{},{},{},{},{},{},{}\n", csv_cell(f.study), csv_cell(f.what.kind), csv_cell(f.what.name), f.what.unit,
                               csv_cell(c.designs[d].name), csv_number(f.value[d]), f.error[d], csv_number(f.difference(d, c.base)), f.best == d ? 1 : 0);
        }
    }
    return out;
}

std::string to_json(const ToleranceFindings& t) {
    Json out{{"firnfield", version},   {"format", 1},
             {"runs", t.runs},         {"linearised", t.linearised},
             {"chance", t.all_chance}, {"chance_interval", {t.all_low, t.all_high}}};
    out["parameters"] = Json::array();
    for (const ParameterInfo& p : t.parameters) {
        out["parameters"].push_back({{"name", p.name},
                                     {"value", p.value.value},
                                     {"kind", name_of(p.value.dimension)},
                                     {"distribution", p.spread->normal ? "normal" : "uniform"},
                                     {"width", p.spread->width}});
    }
    out["limits"] = Json::array();
    for (const LimitChance& l : t.limits) {
        out["limits"].push_back({{"study", l.study},
                                 {"subject", l.subject},
                                 {"kind", l.upper ? "below" : "above"},
                                 {"limit", l.limit},
                                 {"chance", l.chance},
                                 {"chance_interval", {l.low, l.high}},
                                 {"mean", l.mean},
                                 {"deviation", l.deviation},
                                 {"worst", l.worst},
                                 {"influence", l.influence}});
    }
    return out.dump(2) + "\n";
}

std::string to_json(const SeekResult& r, const std::string& address, const std::string& unit) {
    Json out{{"firnfield", version},      {"format", 1},
             {"address", address},        {"unit", unit},
             {"at", maybe(r.at)},         {"margin", r.at ? Json(r.margin) : Json(nullptr)},
             {"beyond", maybe(r.beyond)}, {"jumps", r.jumps}};
    out["evaluations"] = Json::array();
    for (const auto& e : r.evaluations) out["evaluations"].push_back({{"at", e.at}, {"margin", e.margin}});
    return out.dump(2) + "\n";
}

KeptOutcome read_outcome(const std::filesystem::path& folder) {
    return from_summary(folder, [&](const Json& summary) {
        KeptOutcome out;
        std::filesystem::path name = folder;
        if (name.filename().empty()) name = name.parent_path();
        out.outcome.name = name.filename() == "." ? std::filesystem::absolute(name).parent_path().filename().string() : name.stem().string();
        out.outcome.fingerprint = summary.at("fingerprint");
        out.outcome.mass = number(summary.at("mass"));
        for (const Json& study : summary.at("studies")) out.outcome.studies.push_back(read_study(study));
        if (summary.contains("from")) {
            const Json& from = summary.at("from");
            out.from = {.file = from.at("file"), .design = from.at("design")};
            out.from.length_unit = from.value("length_unit", "mm");
            for (const Json& change : from.at("changes")) out.from.changes.push_back({change.at("address"), change.at("value")});
        }
        return out;
    });
}

Model meshed_as_kept(const Model& model, const Study& study, const std::filesystem::path& folder) {
    return from_summary(folder, [&](const Json& summary) {
        Model meshed = meshed_for(model, study);
        for (const Json& s : summary.at("studies")) {
            if (s.at("study").at("name") != study.name || !s.contains("error_bars")) continue;
            ErrorBars bars{.scale = s.at("error_bars").at("scale")};
            for (const Json& l : s.at("error_bars").at("layers")) {
                bars.layers.push_back({.axis = l.at("along").get<std::string>().front() - 'x', .from = l.at("from"), .to = l.at("to"), .cell = l.at("cell")});
            }
            meshed = meshed_finest(std::move(meshed), bars);
        }
        return meshed;
    });
}

std::string stale(const std::filesystem::path& folder, const KeptOutcome& kept) {
    if (kept.from.file.empty()) return {};
    const std::filesystem::path file = (folder / kept.from.file).lexically_normal();
    try {
        const ModelFile model = read_model_file(file);
        if (fingerprint(model.model(model.design(kept.from.design), kept.from.changes)) == kept.outcome.fingerprint) return {};
        return fmt::format("{} has changed since", in_quotes(file.string()));
    } catch (const Error&) {
        return fmt::format("{} cannot be read any more", in_quotes(file.string()));
    }
}

}  // namespace firnfield
