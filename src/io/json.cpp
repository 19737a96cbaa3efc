// Findings as JSON.

#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>
#include <firnfield/version.hpp>

#include <nlohmann/json.hpp>

namespace firnfield {
namespace {

using Json = nlohmann::ordered_json;

double degrees(double kelvin) { return kelvin - zero_celsius; }

Json point(Vec3 p) { return Json::array({p.x, p.y, p.z}); }

/// A lumped node has no place.
Json spot(const Spot& s) { return {{"temperature", degrees(s.temperature)}, {"at", s.lumped ? Json(nullptr) : point(s.at)}, {"body", s.body}}; }

template <typename T>
Json maybe(const std::optional<T>& value) {
    return value ? Json(*value) : Json(nullptr);
}

Json warnings_json(const std::vector<Warning>& warnings) {
    Json list = Json::array();
    for (const Warning& w : warnings) list.push_back({{"kind", w.kind}, {"message", w.message}});
    return list;
}

/// Of a sensor; of a lumped node there is none.
Json part_of(const std::string& part) { return part.empty() ? Json(nullptr) : Json(part); }

Json joint_json(const JointFinding& j, bool solved) {
    Json row{{"name", j.name},           {"first", j.first},
             {"second", j.second},       {"contact", j.contact},
             {"specified", j.specified}, {"pairs", j.pairs},
             {"area", j.area},           {"nominal_area", j.nominal_area},
             {"mean_gap", j.mean_gap},   {"largest_gap", j.largest_gap},
             {"found", j.found},         {"resistance", maybe(j.resistance)}};
    if (solved) {
        row["flow"] = j.flow;
        row["drop"] = j.drop;
    }
    return row;
}

Json resistor_json(const ResistorFinding& r, bool solved) {
    Json row{{"name", r.name}, {"first", r.first}, {"second", r.second}, {"to_ambient", r.to_ambient}, {"resistance", r.resistance}};
    if (solved) {
        row["flow"] = r.flow;
        row["drop"] = r.drop;
    }
    return row;
}

Json study_json(const Study& study) {
    constexpr const char* kinds[] = {"steady", "transient", "cyclic"};
    Json out{{"name", study.name},
             {"kind", kinds[static_cast<std::size_t>(study.kind)]},
             {"ambient", study.ambient ? Json(degrees(*study.ambient)) : Json(nullptr)},
             {"scale", study.scale}};
    if (study.kind == StudyKind::transient) out["lasts"] = study.lasts;
    if (study.kind != StudyKind::steady) out["tolerance"] = study.tolerance;
    return out;
}

Json explanation_json(const Explanation& e) {
    Json out{{"subject", e.subject}, {"place", e.coldest ? "coldest" : "hottest"},
             {"spot", spot(e.spot)}, {"base", degrees(e.base)},
             {"rise", e.rise},       {"time", maybe(e.time)},
             {"linear", e.linear},   {"limit", e.limit ? Json(degrees(*e.limit)) : Json(nullptr)}};
    for (const auto& [key, list] : {std::pair{"along", &e.along}, {"by_load", &e.by_load}}) {
        out[key] = Json::array();
        for (const Contribution& c : *list) out[key].push_back({{"kind", c.kind}, {"name", c.name}, {"rise", c.rise}});
    }
    out["sensitivities"] = Json::array();
    for (const Sensitivity& s : e.sensitivities)
        out["sensitivities"].push_back({{"kind", s.kind}, {"name", s.name}, {"step", s.per_kelvin() ? "1 K" : "10 %"}, {"change", s.change}});
    return out;
}

Json findings_json(const Findings& f) {
    Json out;
    out["study"] = study_json(f.study);
    out["verdict"] = f.limits.empty() ? "no limits" : f.all_limits_kept() ? "kept" : "missed";
    out["hottest"] = spot(f.hottest);
    out["limits"] = Json::array();
    for (const LimitFinding& l : f.limits) {
        out["limits"].push_back({{"subject", l.subject},
                                 {"kind", l.upper ? "below" : "above"},
                                 {"limit", degrees(l.limit)},
                                 {"worst", spot(l.worst)},
                                 {"margin", l.margin},
                                 {"kept", l.kept()}});
    }
    out["parts"] = Json::array();
    for (const PartFinding& p : f.parts) {
        out["parts"].push_back({{"name", p.name},
                                {"material", p.material},
                                {"copies", p.copies},
                                {"volume", p.volume},
                                {"mass", maybe(p.mass)},
                                {"power", p.power},
                                {"coldest", spot(p.coldest)},
                                {"mean", degrees(p.mean)},
                                {"hottest", spot(p.hottest)}});
    }
    out["sensors"] = Json::array();
    for (const SensorFinding& s : f.sensors) {
        out["sensors"].push_back(
            {{"name", s.name}, {"in", part_of(s.part)}, {"at", s.part.empty() ? Json(nullptr) : point(s.at)}, {"temperature", degrees(s.temperature)}});
    }
    out["joints"] = Json::array();
    for (const JointFinding& j : f.joints) out["joints"].push_back(joint_json(j, true));
    out["resistors"] = Json::array();
    for (const ResistorFinding& r : f.resistors) out["resistors"].push_back(resistor_json(r, true));
    out["coolings"] = Json::array();
    for (const CoolingFinding& c : f.coolings) {
        out["coolings"].push_back({{"name", c.name},
                                   {"area", c.area},
                                   {"convection", c.convection},
                                   {"radiation", c.radiation},
                                   {"mean_coefficient", c.mean_coefficient()},
                                   {"mean_surface", degrees(c.mean_surface)},
                                   {"ambient", degrees(c.ambient)}});
    }
    out["holds"] = Json::array();
    for (const HoldFinding& h : f.holds) {
        out["holds"].push_back({{"name", h.name}, {"area", h.area}, {"flow", h.flow}, {"temperature", degrees(h.temperature)}});
    }
    out["loads"] = Json::array();
    for (const LoadFinding& l : f.loads) {
        Json row{{"name", l.name}, {"heat", l.heat}, {"area", maybe(l.area)}};
        row["mean_surface"] = l.mean_surface ? Json(degrees(*l.mean_surface)) : Json(nullptr);
        row["hottest_surface"] = l.hottest_surface ? Json(degrees(*l.hottest_surface)) : Json(nullptr);
        out["loads"].push_back(std::move(row));
    }
    out["ledger"] = {{"loads", f.ledger.loads},           {"convection", f.ledger.convection},
                     {"radiation", f.ledger.radiation},   {"holds", f.ledger.holds},
                     {"resistors", f.ledger.resistors},   {"residual", f.ledger.residual},
                     {"throughput", f.ledger.throughput}, {"relative_residual", f.ledger.relative_residual()}};
    out["unclaimed_area"] = f.unclaimed_area;
    out["warnings"] = warnings_json(f.warnings);
    out["cells"] = f.cells;
    out["multiplicity"] = f.multiplicity;
    out["solver"] = {{"converged", f.summary.converged},
                     {"newton_iterations", f.summary.newton_iterations},
                     {"linear_iterations", f.summary.linear_iterations},
                     {"linear_method", f.summary.linear_method},
                     {"residual", f.summary.residual},
                     {"rounding_limited", f.summary.rounding_limited},
                     {"seconds", {{"mesh", f.summary.mesh_seconds}, {"network", f.summary.network_seconds}, {"solve", f.summary.solve_seconds}}}};
    if (f.why) out["why"] = explanation_json(*f.why);
    if (f.error_bars) {
        const ErrorBars& e = *f.error_bars;
        Json bars = Json::array();
        for (const ErrorBar& b : e.bars) {
            bars.push_back({{"kind", b.kind},
                            {"name", b.name},
                            {"value", b.is_temperature() ? degrees(b.value) : b.value},
                            {"error", b.error},
                            {"order", maybe(b.order)},
                            {"exact", b.exact},
                            {"unit", b.is_temperature()        ? "degC"
                                     : b.kind == "coefficient" ? "W/(m^2 K)"
                                                               : "W"},
                            {"trusted", b.trusted}});
        }
        Json layers = Json::array();
        for (const LayerSize& l : e.layers) layers.push_back({{"along", std::string(1, "xyz"[l.axis])}, {"from", l.from}, {"to", l.to}, {"cell", l.cell}});
        out["error_bars"] = {{"bars", std::move(bars)},     {"cells", e.cells},          {"ratio", e.ratio},    {"scale", e.scale},
                             {"layers", std::move(layers)}, {"target", maybe(e.target)}, {"outlook", e.outlook}};
    }
    return out;
}

Json moment_json(const Moment& m) {
    Json out = spot(m.spot);
    out["time"] = m.time;
    return out;
}

Json time_findings_json(const TimeFindings& f) {
    Json out;
    out["study"] = study_json(f.study);
    out["verdict"] = f.limits.empty() ? "no limits" : f.all_limits_kept() ? "kept" : "missed";
    out["hottest"] = moment_json(f.hottest);
    out["limits"] = Json::array();
    for (const LimitOverTime& l : f.limits) {
        Json beyond = Json::array();
        for (const Interval& i : l.beyond) beyond.push_back({i.from, i.to});
        out["limits"].push_back({{"subject", l.subject},
                                 {"kind", l.upper ? "below" : "above"},
                                 {"limit", degrees(l.limit)},
                                 {"after", l.after},
                                 {"worst", moment_json(l.worst)},
                                 {"margin", l.margin},
                                 {"kept", l.kept()},
                                 {"first_crossing", maybe(l.first_crossing)},
                                 {"beyond", std::move(beyond)},
                                 {"time_beyond", l.time_beyond()},
                                 {"holds_from", maybe(l.met_from)},
                                 {"beyond_at_end", l.beyond_at_end}});
    }
    out["parts"] = Json::array();
    for (const PartOverTime& p : f.parts) {
        Json row{{"name", p.name},
                 {"coldest", moment_json(p.coldest)},
                 {"mean", degrees(p.mean)},
                 {"hottest", moment_json(p.hottest)},
                 {"end", {{"min", degrees(p.end_min)}, {"mean", degrees(p.end_mean)}, {"max", degrees(p.end_max)}}}};
        if (p.melted_end) row["liquid"] = {{"most", maybe(p.melted_most)}, {"end", maybe(p.melted_end)}};
        out["parts"].push_back(std::move(row));
    }
    out["sensors"] = Json::array();
    for (const SensorOverTime& s : f.sensors) {
        out["sensors"].push_back({{"name", s.name},
                                  {"in", part_of(s.part)},
                                  {"lowest", degrees(s.lowest)},
                                  {"lowest_time", s.lowest_time},
                                  {"mean", degrees(s.mean)},
                                  {"highest", degrees(s.highest)},
                                  {"highest_time", s.highest_time},
                                  {"end", degrees(s.end)}});
    }
    out["thermostats"] = Json::array();
    for (const ThermostatFinding& t : f.thermostats) {
        Json switchings = Json::array();
        for (const Switching& s : t.switchings) switchings.push_back({{"time", s.time}, {"on", s.on}});
        out["thermostats"].push_back({{"name", t.name},
                                      {"duty", t.duty},
                                      {"period", maybe(t.period)},
                                      {"on_time", t.on_time},
                                      {"energy", t.energy},
                                      {"switchings", std::move(switchings)}});
    }
    const TimeLedger& ledger = f.ledger;
    Json energy{
        {"stored", ledger.stored}, {"throughput", ledger.throughput}, {"residual", ledger.residual()}, {"relative_residual", ledger.relative_residual()}};
    const auto list = [](const auto& rows, const std::vector<double>& joule) {
        Json entries = Json::array();
        for (std::size_t i = 0; i < rows.size(); ++i) entries.push_back({{"name", rows[i].name}, {"energy", joule[i]}});
        return entries;
    };
    energy["loads"] = list(f.end.loads, ledger.moved.loads);
    energy["convection"] = list(f.end.coolings, ledger.moved.convection);
    energy["radiation"] = list(f.end.coolings, ledger.moved.radiation);
    energy["holds"] = list(f.end.holds, ledger.moved.holds);
    energy["resistors"] = list(f.end.resistors, ledger.moved.resistors);
    out["energy"] = std::move(energy);
    if (f.why) out["why"] = explanation_json(*f.why);
    out["end_time"] = f.end_time;
    out["stopped"] = f.stopped;
    out["remaining_change"] = maybe(f.remaining_change);
    out["steady_time"] = maybe(f.steady_time);
    out["time_constant"] = maybe(f.time_constant);
    if (f.period > 0.0) out["cycle"] = {{"period", f.period}, {"computed", f.cycles_computed}, {"cycles_to_settle", maybe(f.cycles_to_settle)}};
    out["warnings"] = warnings_json(f.warnings);
    out["cells"] = f.end.cells;
    out["multiplicity"] = f.end.multiplicity;
    const TransientSummary& s = f.summary;
    out["solver"] = {{"steps", s.steps},
                     {"repeated", s.rejected},
                     {"solves", s.solves},
                     {"linear_iterations", s.linear_iterations},
                     {"factorisations", s.factorisations},
                     {"smallest_step", s.smallest_step},
                     {"largest_step", s.largest_step},
                     {"seconds", {{"mesh", s.mesh_seconds}, {"network", s.network_seconds}, {"solve", s.solve_seconds}}}};
    out["end"] = findings_json(f.end);
    out["end"].erase("study");
    out["end"].erase("verdict");
    out["end"].erase("limits");
    out["end"].erase("solver");
    return out;
}

/// Text from a model may hold bytes that are not UTF-8 when it was built through the API; they are replaced.
std::string dump(const Json& json) { return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n"; }

Json figure_json(const Figure& f) {
    Json row{{"kind", f.kind}, {"name", f.name}, {"unit", f.unit}, {"value", maybe(f.value)}, {"error", f.error}, {"better", f.better}};
    if (f.limit) {
        row["limit"] = *f.limit;
        row["upper"] = f.upper;
    }
    return row;
}

}  // namespace

std::string to_json(const Findings& findings) { return dump(findings_json(findings)); }

std::string to_json(const Explanation& explanation) { return dump(explanation_json(explanation)); }

std::string to_json(const ConvectionLaw& law, const ConvectionResult& r, double surface, double ambient) {
    Json out{{"firnfield", version},
             {"law", law.law},
             {"fluid", law.fluid},
             {"surface", degrees(surface)},
             {"ambient", degrees(ambient)},
             {"film_temperature", degrees(r.film_temperature)},
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
             {"optimum_spacing", maybe(r.optimum_spacing)}};
    return dump(out);
}

std::string to_json(const TimeFindings& findings) { return dump(time_findings_json(findings)); }

std::string summary_json(const Model& model, std::span<const StudyFindings> studies, const Origins& from, std::span<const StudyFailure> failures) {
    Json out{{"firnfield", version}, {"format", 1}, {"title", model.title}, {"fingerprint", fingerprint(model)}};
    Json changes = Json::array();
    for (const Change& c : from.changes) changes.push_back({{"address", c.address}, {"value", c.value}});
    if (!from.file.empty()) out["from"] = {{"file", from.file}, {"design", from.design}, {"changes", std::move(changes)}, {"length_unit", from.length_unit}};
    out["mass"] = studies.empty() ? Json(nullptr) : maybe(mass_of(studies.front()));
    Json list = Json::array();
    for (const StudyFindings& study : studies) {
        const Findings* steady = std::get_if<Findings>(&study);
        list.push_back(steady != nullptr ? findings_json(*steady) : time_findings_json(std::get<TimeFindings>(study)));
        list.back()["figures"] = Json::array();
        for (const Figure& f : outcome(study).figures) list.back()["figures"].push_back(figure_json(f));
    }
    out["studies"] = std::move(list);
    if (!failures.empty()) {
        out["failed"] = Json::array();
        for (const StudyFailure& f : failures) out["failed"].push_back({{"study", f.study}, {"reason", f.reason}});
    }
    return dump(out);
}

std::string to_json(const Inspection& i) {
    Json out{{"firnfield", version}, {"title", i.title}, {"cells", i.cells}, {"grid", i.grid}, {"mirrors", i.mirrors}, {"multiplicity", i.multiplicity}};
    out["parts"] = Json::array();
    for (const PartInspection& p : i.parts) {
        out["parts"].push_back({{"name", p.name},
                                {"material", p.material},
                                {"copies", p.copies},
                                {"size", point(p.size)},
                                {"volume", p.volume},
                                {"mass", maybe(p.mass)},
                                {"cells", p.cells},
                                {"thinnest", p.thinnest},
                                {"exposed", p.exposed}});
    }
    out["joints"] = Json::array();
    for (const JointFinding& j : i.joints) out["joints"].push_back(joint_json(j, false));
    out["nodes"] = Json::array();
    for (const NodeInspection& n : i.nodes)
        out["nodes"].push_back({{"name", n.name}, {"material", n.material.empty() ? Json(nullptr) : Json(n.material)}, {"capacity", maybe(n.capacity)}});
    out["resistors"] = Json::array();
    for (const ResistorFinding& r : i.resistors) out["resistors"].push_back(resistor_json(r, false));
    out["rules"] = Json::array();
    for (const RuleInspection& r : i.rules) out["rules"].push_back({{"name", r.name}, {"role", r.role}, {"area", r.area}, {"patches", r.patches}});
    out["exposed_area"] = i.exposed_area;
    out["unclaimed_area"] = i.unclaimed_area;
    out["overlaps"] = Json::array();
    for (const auto& o : i.overlaps) out["overlaps"].push_back({{"displaced", o.displaced}, {"by", o.by}, {"volume", o.volume}});
    out["near_misses"] = Json::array();
    for (const auto& m : i.near_misses) out["near_misses"].push_back({{"first", m.first}, {"second", m.second}, {"gap", m.gap}, {"area", m.area}});
    out["studies"] = Json::array();
    for (const auto& s : i.studies) {
        Json row = study_json(s.study);
        row["power"] = s.power;
        row["in_time"] = s.in_time;
        row["nonlinear"] = s.nonlinear;
        row["seconds"] = s.seconds;
        out["studies"].push_back(std::move(row));
    }
    out["memory"] = i.memory;
    out["error_target"] = maybe(i.error_target);
    if (i.poorest) {
        out["coarsest"] = {{"part", i.poorest->part},
                           {"through", i.poorest->through},
                           {"thickness", i.poorest->thickness},
                           {"finer_cell", i.poorest->cell},
                           {"finer_cells", maybe(i.poorest->cells)}};
    }
    out["warnings"] = warnings_json(i.warnings);
    return dump(out);
}

}  // namespace firnfield
