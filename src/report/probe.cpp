// Answers questions about temperatures from a results folder.

#include <firnfield/probe.hpp>

#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>
#include <firnfield/transient.hpp>

#include "base/words.hpp"
#include "model/figure_forms.hpp"
#include "model/lumped.hpp"
#include "report/kept_results.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>

namespace firnfield {
namespace {

/// What columns are read from, as far as the question needs it.
struct Probed {
    const SteadySolution& at;
    Findings findings{};
    std::vector<Vec3> flux{};  // W/m², per cell
};

/// A column of the answer.
struct Quantity {
    std::string name;
    std::function<double(const Probed&)> read;  // SI
    const QuantityKind* kind = &kinds::temperature;
};

std::string trimmed(std::string text) {
    text.erase(0, std::min(text.find_first_not_of(' '), text.size()));
    text.erase(text.find_last_not_of(' ') + 1);
    return text;
}

/// Three lengths; bare numbers are in the unit of the model file.
Vec3 point_of(const std::string& text, const std::string& whole, const std::string& unit) {
    Vec3 point;
    std::size_t at = 0;
    for (int axis = 0; axis < 3; ++axis) {
        const std::size_t comma = axis < 2 ? text.find(',', at) : text.size();
        const std::string number = comma == std::string::npos ? std::string() : trimmed(text.substr(at, comma - at));
        const bool bare = !number.empty() && number.find_first_not_of("0123456789.+-eE") == std::string::npos;
        try {
            point[axis] = parse_quantity(bare ? number + " " + unit : number, kinds::length);
        } catch (const QuantityError&) {
            throw Error(
                fmt::format("\"{}\" is not a part and a point in {}; write for example \"base: 90, 60, 3\" or \"base: 9 cm, 6 cm, 3 mm\"", whole, unit));
        }
        at = comma + 1;
    }
    return point;
}

/// "base: 90, 60, 3" in its two parts.
std::pair<std::string, std::string> part_and_rest(const std::string& text) {
    const std::size_t colon = text.rfind(':');
    if (colon == std::string::npos) throw Error(fmt::format("\"{}\" names no part; write for example \"base: 90, 60, 3\"", text));
    return {trimmed(text.substr(0, colon)), text.substr(colon + 1)};
}

const Coverage& acting(const Coverage& coverage, const std::string& name) {
    if (coverage.patches.empty()) throw Error(fmt::format("\"{}\" is left out of this study, so there is no surface to probe", name));
    return coverage;
}

const Coverage& coverage_of(const Model& model, const Network& network, const std::string& name, Coverage& own, const Mesh& mesh) {
    for (std::size_t c = 0; c < model.coolings.size(); ++c) {
        if (display_name(model.coolings[c], c) == name) return acting(network.cooling_coverage[c], name);
    }
    for (std::size_t h = 0; h < model.holds.size(); ++h) {
        if (display_name(model.holds[h], h) != name) continue;
        if (!model.holds[h].in.empty())
            throw Error(
                fmt::format("hold \"{}\" is of whole parts and has no surface of its own; its heat is in the findings, and --part tells the parts", name));
        return acting(network.hold_coverage[h], name);
    }
    for (std::size_t s = 0; s < model.surfaces.size(); ++s) {
        if (model.surfaces[s].name != name) continue;
        own.patches = select_patches(model, mesh, model.surfaces[s].pick, fmt::format("surface[{}]", s));
        for (const Index p : own.patches) own.area += mesh.patches.area[p];
        return own;
    }
    throw Error(fmt::format("the model has no surface, cooling or hold \"{}\"", name));
}

/// Four columns of a cell: the size of its heat flux, and its components.
void add_flux(std::vector<Quantity>& out, const std::string& name, Index cell) {
    out.push_back({name + " flux", [cell](const Probed& p) { return length(p.flux[cell]); }, &kinds::heat_flux});
    for (int axis = 0; axis < 3; ++axis)
        out.push_back({fmt::format("{} {}", name, "xyz"[axis]), [cell, axis](const Probed& p) { return p.flux[cell][axis]; }, &kinds::heat_flux});
}

std::vector<Quantity> quantities_of(const Model& model, const Mesh& mesh, const Network& network, const ProbeQuestion& question, const std::string& unit) {
    std::vector<Quantity> out;
    for (const std::string& part : question.parts) {
        const bool known = std::any_of(model.parts.begin(), model.parts.end(), [&](const Part& p) { return p.name == part; });
        if (!known) throw Error(fmt::format("the model has no part \"{}\"", part));
        const auto of = [part](const Findings& f) -> const PartFinding& {
            return *std::find_if(f.parts.begin(), f.parts.end(), [&](const PartFinding& p) { return p.name == part; });
        };
        out.push_back({part + " min", [of](const Probed& p) { return of(p.findings).coldest.temperature; }});
        out.push_back({part + " mean", [of](const Probed& p) { return of(p.findings).mean; }});
        out.push_back({part + " max", [of](const Probed& p) { return of(p.findings).hottest.temperature; }});
    }
    const std::vector<Sensor> sensors = sensors_of(model);
    for (const std::string& name : question.sensors) {
        const auto sensor = std::find_if(sensors.begin(), sensors.end(), [&](const Sensor& s) { return s.name == name; });
        if (sensor == sensors.end()) throw Error(fmt::format("the model has no sensor \"{}\"", name));
        if (question.heat_flux) {
            add_flux(out, name, cell_at_point(model, mesh, sensor->in, sensor->at, "the sensor"));
            continue;
        }
        out.push_back({name, [&model, s = *sensor](const Probed& p) { return temperature_at(model, p.at, s.in, s.at, "the sensor"); }});
    }
    for (const std::string& text : question.points) {
        const auto [part, rest] = part_and_rest(text);
        const Vec3 point = point_of(rest, text, unit);
        if (question.heat_flux) {
            add_flux(out, text, cell_at_point(model, mesh, part, point, "the point"));
            continue;
        }
        out.push_back({text, [&model, part = part, point](const Probed& p) { return temperature_at(model, p.at, part, point, "the point"); }});
    }
    for (const std::string& name : question.surfaces) {
        Coverage own;
        const Coverage coverage = coverage_of(model, network, name, own, mesh);
        out.push_back({name + " mean", [&mesh, coverage](const Probed& told) {
                           double sum = 0.0;
                           for (const Index p : coverage.patches) sum += mesh.patches.area[p] * told.at.patch_temperature[p];
                           return sum / coverage.area;
                       }});
        out.push_back({name + " max", [coverage](const Probed& told) {
                           double most = 0.0;
                           for (const Index p : coverage.patches) most = std::max(most, told.at.patch_temperature[p]);
                           return most;
                       }});
    }
    const FigureForms forms = forms_of_figures(model);
    for (const std::string& text : question.figures) {
        const FigureForm* form = forms.find(text);
        if (form->of_run)
            throw Error(
                fmt::format("{} is told of a whole run, and probes read moments; the summary of the study tells it where the model names it in a [[figure]]",
                            in_quotes(text)));
        out.push_back({text,
                       [text](const Probed& p) {
                           const auto found =
                               std::find_if(p.findings.named.begin(), p.findings.named.end(), [&](const NamedFinding& n) { return n.name == text; });
                           return found == p.findings.named.end() ? std::numeric_limits<double>::quiet_NaN()
                                                                  : found->value.value_or(std::numeric_limits<double>::quiet_NaN());
                       },
                       form->quantity});
    }
    if (!question.mean || out.empty()) return out;
    // Of a part its mean counts, of a surface likewise.
    std::vector<Quantity> chosen;
    for (Quantity& q : out) {
        if (!q.name.ends_with(" min") && !q.name.ends_with(" max")) chosen.push_back(std::move(q));
    }
    return {{"mean", [chosen](const Probed& p) {
                 double sum = 0.0;
                 for (const Quantity& q : chosen) sum += q.read(p);
                 return sum / static_cast<double>(chosen.size());
             }}};
}

/// Adds what is asked for to the figures of the model, where it is none of them yet. Throws Error for what makes none.
void ask_figures(Model& model, ProbeQuestion& question) {
    // Copies and wildcards are asked for like figures.
    std::vector<std::string> parts;
    for (const std::string& part : question.parts) {
        if (std::any_of(model.parts.begin(), model.parts.end(), [&](const Part& p) { return p.name == part; })) {
            parts.push_back(part);
            continue;
        }
        for (const char* what : {"min", "mean", "max"}) {
            if (question.mean && std::string_view(what) != "mean") continue;
            const std::string address = fmt::format("part.{}.{}", part, what);
            static_cast<void>(figure_term(model, address));
            question.figures.push_back(fmt::format("{} {}", part, what));
            model.figures.push_back({.name = question.figures.back(), .value = address});
        }
    }
    question.parts = std::move(parts);
    std::vector<std::string> sensors;
    for (const std::string& pattern : question.sensors) {
        const std::size_t before = sensors.size();
        for (const Sensor& sensor : sensors_of(model)) {
            if (matches_wildcard(pattern, sensor.name)) sensors.push_back(sensor.name);
        }
        if (sensors.size() == before) throw Error(fmt::format("the model has no sensor \"{}\"", pattern));
    }
    question.sensors = std::move(sensors);
    for (const std::string& text : question.figures) ask_for(model, text);
}

}  // namespace

ProbeAnswer probe(const std::filesystem::path& folder, const ProbeQuestion& asked) {
    ProbeAnswer answer;
    ProbeQuestion question = asked;
    if (asked.mean && !asked.figures.empty()) throw Error("--mean is of parts, sensors, surfaces and points; an expression of a figure takes means, too");
    const KeptResults kept(folder, question.study, [&](Model& model) { ask_figures(model, question); });
    if (!kept.stale().empty()) answer.notes.push_back("these results are stale: " + kept.stale());
    if (question.heat_flux && (question.mean || !question.parts.empty() || !question.surfaces.empty() || !question.figures.empty()))
        throw Error(
            "--heat-flux is of points, sensors and a line; of a part --figure \"PART.flux\" tells the highest, of a surface \"SURFACE.flow\" what leaves it");
    const Model& model = kept.model();
    const Study& study = kept.study();
    const auto& mesh = kept.mesh();
    const Units units = question.units.value_or(kept.summary().units);
    const std::string& unit = units.length;
    const UnitOf scale = unit_of(kinds::temperature, units);
    std::vector<SteadySolution> at;  // the moments that are told
    if (question.at) {
        at.push_back(kept.at(*question.at, answer.notes));
    } else if (!question.line.empty()) {
        at.push_back(kept.record(kept.count() - 1));
    }
    Curves& curves = answer.curves;
    curves.title = fmt::format("{}: {}", model.title.empty() ? "Assembly" : model.title, study.name);
    curves.y_label = scale.shown;
    if (!question.line.empty()) {
        const auto [part, rest] = part_and_rest(question.line);
        const std::size_t to = rest.find(" to ");
        if (to == std::string::npos) throw Error("a line has two ends; write for example \"base: 0, 60, 3 to 180, 60, 3\"");
        const Vec3 from = point_of(rest.substr(0, to), question.line, unit), end = point_of(rest.substr(to + 4), question.line, unit);
        curves.x_label = fmt::format("along ({})", unit);
        const double metres = parse_quantity("1 " + unit, kinds::length);
        const UnitOf unit_of_y = question.heat_flux ? unit_of(kinds::heat_flux, units) : scale;
        const std::vector<Vec3> flux = question.heat_flux ? heat_flux(at.front()) : std::vector<Vec3>();
        curves.y_label = unit_of_y.shown;
        curves.names = {part};
        if (question.heat_flux) curves.names = {part + " flux", part + " x", part + " y", part + " z"};
        curves.units.assign(curves.names.size(), unit_of_y.name);
        curves.y.resize(curves.names.size());
        for (int n = 0; n < question.samples; ++n) {
            const Vec3 point = from + (static_cast<double>(n) / (question.samples - 1)) * (end - from);
            curves.x.push_back(length(point - from) / metres);
            if (!question.heat_flux) {
                curves.y[0].push_back(scale.out(temperature_at(model, at.front(), part, point, "the line")));
                continue;
            }
            const Vec3 q = flux[cell_at_point(model, *mesh, part, point, "the line")];
            curves.y[0].push_back(unit_of_y.out(length(q)));
            for (int axis = 0; axis < 3; ++axis) curves.y[static_cast<std::size_t>(axis) + 1].push_back(unit_of_y.out(q[axis]));
        }
    } else {
        const std::vector<Quantity> quantities = quantities_of(model, *mesh, build_network(model, *mesh, study), question, unit);
        if (quantities.empty()) throw Error("say what to tell: --part, --sensor, --figure, --point, --surface or --line");
        for (const Quantity& q : quantities) {
            curves.names.push_back(q.name);
            curves.units.push_back(unit_of(*q.kind, units).name);
        }
        const bool alike = std::all_of(curves.units.begin(), curves.units.end(), [&](const std::string& unit_of) { return unit_of == curves.units.front(); });
        curves.y_label = alike ? unit_of(*quantities.front().kind, units).shown : std::string();
        curves.x_label = "time (s)";
        curves.y.resize(quantities.size());
        const auto add = [&](const SteadySolution& moment) {
            const bool needs = !question.parts.empty() || !question.figures.empty();
            const Probed told{.at = moment,
                              .findings = needs ? firnfield::findings(model, moment) : Findings{},
                              .flux = question.heat_flux ? heat_flux(moment) : std::vector<Vec3>()};
            curves.x.push_back(moment.time.value_or(0.0));
            for (std::size_t n = 0; n < quantities.size(); ++n) curves.y[n].push_back(unit_of(*quantities[n].kind, units).out(quantities[n].read(told)));
        };
        if (question.at) {
            add(at.front());
        } else {
            for (std::size_t r = 0; r < kept.count(); ++r) add(kept.record(r));
        }
    }
    return answer;
}

std::string to_text(const Curves& curves) {
    const auto is = [&](std::size_t n, std::string_view unit) { return curves.units.empty() ? unit == "degC" : curves.units[n] == unit; };
    const auto in_degrees = [&](std::size_t n) { return is(n, "degC") || is(n, "degF") || is(n, "degR"); };
    const auto width = [&](std::size_t n) { return std::max<std::size_t>(14, curves.names[n].size()); };
    std::string out = fmt::format("{:>14}", curves.x_label);
    for (const std::string& name : curves.names) out += fmt::format("  {:>14}", name);
    bool usual = true;
    for (std::size_t n = 0; n < curves.names.size(); ++n) usual = usual && is(n, "degC");
    if (!usual) {
        out += fmt::format("\n{:>14}", "");
        for (std::size_t n = 0; n < curves.names.size(); ++n) out += fmt::format("  {:>{}}", curves.units[n], width(n));
    }
    for (std::size_t i = 0; i < curves.x.size(); ++i) {
        out += fmt::format("\n{:14.6g}", curves.x[i]);
        for (std::size_t n = 0; n < curves.names.size(); ++n)
            out += in_degrees(n) ? fmt::format("  {:>{}.2f}", curves.y[n][i], width(n)) : fmt::format("  {:>{}.6g}", curves.y[n][i], width(n));
    }
    return out + "\n";
}

std::string to_csv(const Curves& curves) {
    std::string out = curves.x_label;
    for (std::size_t n = 0; n < curves.names.size(); ++n)
        out += "," + csv_cell(fmt::format("{} ({})", curves.names[n], curves.units.empty() ? "degC" : curves.units[n]));
    for (std::size_t i = 0; i < curves.x.size(); ++i) {
        out += fmt::format("\n{}", curves.x[i]);
        for (const std::vector<double>& values : curves.y) out += fmt::format(",{}", values[i]);
    }
    return out + "\n";
}

}  // namespace firnfield
