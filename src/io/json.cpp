// Findings as JSON, and the summary of a results folder read back.

#include <firnfield/error_bars.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/refine.hpp>
#include <firnfield/results.hpp>
#include <firnfield/version.hpp>

#include "base/words.hpp"
#include "findings/schema/inspection.hpp"
#include "io/cad_files.hpp"
#include "io/json_files.hpp"
#include "io/json_rows.hpp"
#include "io/schema.hpp"

#include <fmt/format.h>

namespace firnfield {
namespace {

constexpr int summary_format = 5;

OrderedJson study_json(const StudyFindings& study) {
    return std::visit([](const auto& findings) { return json_of(findings); }, study);
}

StudyFindings study_of(const OrderedJson& in, const std::string& title) {
    if (row_of<Study>(in.at("study")).kind == StudyKind::steady) {
        auto found = row_of<Findings>(in);
        found.title = title;
        return found;
    }
    auto found = row_of<TimeFindings>(in);
    found.title = title;
    found.end.title = title;
    found.end.study = found.study;
    return found;
}

Summary summary_of(const OrderedJson& in) {
    if (in.at("format") != summary_format) throw NotAResult("format");
    auto out = row_of<Summary>(in);
    for (const OrderedJson& study : in.at("studies")) out.studies.push_back(study_of(study, out.title));
    return out;
}

}  // namespace

std::string to_json(const Findings& findings) { return json_text(json_of(findings)); }

std::string to_json(const TimeFindings& findings) { return json_text(json_of(findings)); }

std::string to_json(const Explanation& explanation) { return json_text(json_of(explanation)); }

std::string to_json(const Inspection& inspection) {
    OrderedJson out{{"firnfield", version}};
    JsonWriter<Inspection> writer(inspection, out);
    fields(writer, inspection);
    return json_text(out);
}

std::string to_json(const ConvectionLaw& law, const ConvectionResult& r, double surface, double ambient) {
    OrderedJson out{{"firnfield", version},
                    {"law", law.law},
                    {"fluid", law.fluid},
                    {"surface", kinds::temperature.out(surface)},
                    {"ambient", kinds::temperature.out(ambient)},
                    {"film_temperature", kinds::temperature.out(r.film_temperature)},
                    {"conductivity", r.fluid.conductivity},
                    {"kinematic_viscosity", r.fluid.kinematic_viscosity},
                    {"prandtl", r.fluid.prandtl},
                    {"expansion", r.fluid.expansion},
                    {r.forced ? "reynolds" : "rayleigh", r.driving},
                    {"regime", r.regime},
                    {"nusselt", r.nusselt},
                    {"coefficient", r.coefficient},
                    {"heat_flux", r.coefficient * (surface - ambient)},
                    {"in_range", r.in_range},
                    {"optimum_spacing", r.optimum_spacing ? OrderedJson(*r.optimum_spacing) : OrderedJson(nullptr)}};
    return json_text(out);
}

Summary summarise(const Model& model, std::span<const StudyFindings> studies, const Origins& from, std::span<const StudyFailure> failures) {
    return {.version = std::string(version),
            .title = model.title,
            .fingerprint = fingerprint(model),
            .from = from,
            .units = model.units,
            .mass = studies.empty() ? std::nullopt : mass_of(studies.front()),
            .studies = {studies.begin(), studies.end()},
            .failures = {failures.begin(), failures.end()}};
}

std::string to_json(const Summary& summary) {
    OrderedJson out{{"format", summary_format}};
    JsonWriter<Summary> writer(summary, out);
    fields(writer, summary);
    out["studies"] = OrderedJson::array();
    for (const StudyFindings& study : summary.studies) out["studies"].push_back(study_json(study));
    return json_text(out);
}

Summary parse_summary(std::string_view json, const std::filesystem::path& file) { return read_json(json, file, summary_of); }

Summary read_summary(const std::filesystem::path& folder) {
    return read_json(summary_text(folder), folder / "summary.json", [&](const OrderedJson& in) {
        if (in.contains("designs")) throw FileError(fmt::format("{} holds a comparison; name a results folder of solve", in_quotes(folder.string())));
        return summary_of(in);
    });
}

KeptOutcome read_outcome(const std::filesystem::path& folder) {
    const Summary summary = read_summary(folder);
    std::filesystem::path name = folder;
    if (name.filename().empty()) name = name.parent_path();
    KeptOutcome out{.from = summary.from, .units = summary.units};
    out.outcome.name = name.filename() == "." ? std::filesystem::absolute(name).parent_path().filename().string() : name.stem().string();
    out.outcome.fingerprint = summary.fingerprint;
    out.outcome.mass = summary.mass;
    for (const StudyFindings& study : summary.studies) out.outcome.studies.push_back(outcome(study));
    return out;
}

Model meshed_as_kept(const Model& model, const Study& study, const std::filesystem::path& folder) { return meshed_as_kept(model, study, read_summary(folder)); }

Model meshed_as_kept(const Model& model, const Study& study, const Summary& summary) {
    Model meshed = meshed_for(model, study);
    for (const StudyFindings& found : summary.studies) {
        const auto& [name, layers] = std::visit([](const auto& f) { return std::tie(f.study.name, f.layers); }, found);
        if (name != study.name) continue;
        meshed = with_layers(std::move(meshed), layers);
        const Findings* steady = std::get_if<Findings>(&found);
        if (steady != nullptr && steady->error_bars) meshed = meshed_finest(std::move(meshed), *steady->error_bars);
    }
    return meshed;
}

std::string stale(const std::filesystem::path& folder, const Origins& from, std::string_view kept) { return stale(folder, from, kept, nullptr); }

std::string stale(const std::filesystem::path& folder, const Origins& from, std::string_view kept, const std::shared_ptr<CadFiles>& cad) {
    if (from.file.empty()) return {};
    const std::filesystem::path file = (folder / from.file).lexically_normal();
    try {
        const ModelFile model = read_model_file(file, cad);
        if (fingerprint(model.model(model.design(from.design), from.changes)) == kept) return {};
        return fmt::format("{} has changed since", in_quotes(file.filename().string()));
    } catch (const Error&) {
        return fmt::format("{} cannot be read any more", in_quotes(file.filename().string()));
    }
}

}  // namespace firnfield
