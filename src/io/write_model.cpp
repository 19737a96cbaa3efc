#include <firnfield/model_file.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/stl.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

namespace firnfield {
namespace {

std::string toml_text(std::string_view text) {
    std::string out = "\"";
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (c == '"' || c == '\\') {
            out += '\\';
            out += c;
        } else if (byte < 0x20 || byte == 0x7F) {
            out += fmt::format("\\u{:04X}", byte);
        } else {
            out += c;
        }
    }
    return out + '"';
}

std::string direction_text(Vec3 d);
std::string inline_shape(const Shape& shape);
std::string half_space_keys(const HalfSpace& h);

/// Writes keys of one table after another; what is at its default is left out.
class Writer {
public:
    void header(std::string_view line) { text_ += fmt::format("\n{}\n", line); }
    void line(std::string_view key, std::string_view value) { text_ += fmt::format("{} = {}\n", key, value); }
    void text(std::string_view key, const std::string& value) {
        if (!value.empty()) line(key, toml_text(value));
    }
    void texts(std::string_view key, const std::vector<std::string>& values) {
        if (!values.empty()) line(key, list(values));
    }
    void flag(std::string_view key, bool value) {
        if (value) line(key, "true");
    }
    void quantity(std::string_view key, const std::optional<double>& value, const QuantityKind& kind) {
        if (value) line(key, Writer::value(*value, kind));
    }

    void curve(std::string_view key, const Curve& curve, const QuantityKind& at, const QuantityKind& value) {
        if (curve.empty()) return;
        const auto join = [](const std::vector<double>& numbers, const QuantityKind& kind) {
            std::string out;
            for (const double number : numbers) out += (out.empty() ? "" : ", ") + Writer::value(number, kind);
            return out;
        };
        line(key, fmt::format("{{ at = [{}], value = [{}] }}", join(curve.at, at), join(curve.value, value)));
    }

    /// Lengths in mm and temperatures in °C stand bare, in the units named at the top; everything else in quotes.
    static std::string value(double number, const QuantityKind& kind) {
        const std::string text = write_quantity(number, kind);
        for (const std::string_view bare : {" mm", " degC"}) {
            if (text.ends_with(bare)) return text.substr(0, text.size() - bare.size());
        }
        return kind.dimension == Dimension{} ? text : toml_text(text);
    }
    static std::string point(Vec3 p) {
        return fmt::format("[{}, {}, {}]", value(p.x, kinds::length), value(p.y, kinds::length), value(p.z, kinds::length));
    }
    static std::string list(const std::vector<std::string>& values) {
        std::string out = "[";
        for (const std::string& v : values) out += (out.size() > 1 ? ", " : "") + toml_text(v);
        return out + "]";
    }
    /// The keys of a rule, as "key = value" pairs.
    static std::vector<std::pair<std::string, std::string>> selection(const Selection& pick) {
        std::vector<std::pair<std::string, std::string>> keys;
        if (!pick.parts.empty()) keys.emplace_back("parts", list(pick.parts));
        if (!pick.sides.empty()) keys.emplace_back("sides", list(pick.sides));
        if (!pick.facing.empty()) {
            std::string directions;
            for (const Vec3 d : pick.facing) directions += (directions.empty() ? "" : ", ") + direction_text(d);
            keys.emplace_back("facing", "[" + directions + "]");
        }
        if (pick.within != Selection{}.within) keys.emplace_back("within", value(pick.within, kinds::number));
        if (!pick.surfaces.empty()) keys.emplace_back("surfaces", list(pick.surfaces));
        if (!pick.except.empty()) keys.emplace_back("except", list(pick.except));
        if (!pick.touching.empty()) keys.emplace_back("touching", list(pick.touching));
        if (pick.region) keys.emplace_back("region", inline_shape(*pick.region));
        if (!pick.beyond.empty()) {
            std::string planes;
            for (const HalfSpace& h : pick.beyond) planes += (planes.empty() ? "" : ", ") + ("{ " + half_space_keys(h) + " }");
            keys.emplace_back("beyond", "[" + planes + "]");
        }
        if (pick.rest) keys.emplace_back("rest", "true");
        return keys;
    }

    void on(const Selection& pick) {
        const auto keys = selection(pick);
        if (keys.size() == 1 && pick.rest) return line("on", "\"exposed\"");
        if (keys.size() == 1 && !pick.surfaces.empty() && pick.surfaces.front() != "exposed") return line("on", list(pick.surfaces));
        std::string inside;
        for (const auto& [key, value] : keys) inside += fmt::format("{}{} = {}", inside.empty() ? "" : ", ", key, value);
        line("on", inside.empty() ? "{}" : "{ " + inside + " }");
    }

    std::string take() { return std::move(text_); }

private:
    std::string text_;
};

void write_material(Writer& out, const Material& material) {
    out.header("[[material]]");
    out.text("name", material.name);
    out.text("group", material.group);
    const auto k = [&](std::size_t axis) { return Writer::value(material.conductivity[axis], kinds::conductivity); };
    out.line("conductivity", material.isotropic() ? k(0) : fmt::format("[{}, {}, {}]", k(0), k(1), k(2)));
    out.curve("conductivity_factor", material.conductivity_factor, kinds::temperature, kinds::number);
    out.quantity("density", material.density, kinds::density);
    out.quantity("specific_heat", material.specific_heat, kinds::specific_heat);
    out.curve("specific_heat_factor", material.specific_heat_factor, kinds::temperature, kinds::number);
    if (material.melting) {
        out.line("melting", fmt::format("{{ from = {}, to = {}, latent_heat = {} }}", Writer::value(material.melting->from, kinds::temperature),
                                        Writer::value(material.melting->to, kinds::temperature), Writer::value(material.melting->latent_heat, kinds::latent_heat)));
    }
    out.quantity("emissivity", material.emissivity, kinds::number);
    out.quantity("resistivity", material.resistivity, kinds::resistivity);
    out.quantity("service_limit", material.service_limit, kinds::temperature);
    if (material.valid_from && material.valid_to) {
        out.line("valid", fmt::format("[{}, {}]", Writer::value(*material.valid_from, kinds::temperature),
                                      Writer::value(*material.valid_to, kinds::temperature)));
    }
    out.text("note", material.note);
}

void write_fluid(Writer& out, const Fluid& fluid) {
    out.header("[[fluid]]");
    out.text("name", fluid.name);
    const auto property = [&](std::string_view key, const Curve& curve, const QuantityKind& kind) {
        if (curve.at.size() == 1) {
            out.quantity(key, curve.value.front(), kind);
        } else {
            out.curve(key, curve, kinds::temperature, kind);
        }
    };
    property("conductivity", fluid.conductivity, kinds::conductivity);
    property("density", fluid.density, kinds::density);
    property("viscosity", fluid.viscosity, kinds::viscosity);
    property("specific_heat", fluid.specific_heat, kinds::specific_heat);
    property("expansion", fluid.expansion, kinds::expansion);
}

/// Keys and values of a solid, for a table of its own or one in place.
using Entries = std::vector<std::pair<std::string, std::string>>;

std::string length_text(double metres) { return Writer::value(metres, kinds::length); }

std::string outline_text(const Outline& outline) {
    std::string text;
    for (const OutlinePoint& p : outline) {
        const std::string to = fmt::format("[{}, {}]", length_text(p.x), length_text(p.y));
        if (!text.empty()) text += ", ";
        text += p.through ? fmt::format("{{ to = {}, through = [{}, {}] }}", to, length_text((*p.through)[0]), length_text((*p.through)[1])) : to;
    }
    return "[" + text + "]";
}

struct ShapeEntries {
    Entries& out;

    void along(int axis) const {
        if (axis != 2) out.emplace_back("along", toml_text(std::string(1, "xyz"[axis])));
    }
    void angle(double degrees) const {
        if (degrees != 360.0) out.emplace_back("angle", Writer::value(degrees, kinds::number));
    }
    void operator()(const Box& b) const { out.emplace_back("size", Writer::point(b.size)); }
    void operator()(const Cylinder& c) const {
        out.emplace_back("radius", length_text(c.radius));
        out.emplace_back("length", length_text(c.length));
        along(c.along);
    }
    void operator()(const Tube& t) const {
        out.emplace_back("outer_radius", length_text(t.outer_radius));
        if (t.inner_radius != 0.0) out.emplace_back("inner_radius", length_text(t.inner_radius));
        out.emplace_back("length", length_text(t.length));
        angle(t.angle);
        along(t.along);
    }
    void operator()(const Sphere& s) const { out.emplace_back("radius", length_text(s.radius)); }
    void operator()(const Cone& c) const {
        out.emplace_back("lower_radius", length_text(c.lower_radius));
        out.emplace_back("upper_radius", length_text(c.upper_radius));
        out.emplace_back("length", length_text(c.length));
        along(c.along);
    }
    void operator()(const Prism& p) const {
        out.emplace_back("outline", outline_text(p.outline));
        std::string cutouts;
        for (const Outline& hole : p.holes) cutouts += (cutouts.empty() ? "" : ", ") + outline_text(hole);
        if (!cutouts.empty()) out.emplace_back("cutouts", "[" + cutouts + "]");
        out.emplace_back("length", length_text(p.length));
        along(p.along);
    }
    void operator()(const Revolution& r) const {
        out.emplace_back("outline", outline_text(r.outline));
        angle(r.angle);
        along(r.along);
    }
    void operator()(const Solid& s) const {
        out.emplace_back("file", toml_text(s.source));
        out.emplace_back("unit", toml_text(s.unit.empty() ? "mm" : s.unit));
        if (s.surface) out.emplace_back("checksum", toml_text(surface_checksum(*s.surface)));
    }
};

Entries shape_entries(const Shape& shape) {
    Entries out{{"shape", toml_text(name_of(shape))}};
    std::visit(ShapeEntries{out}, shape);
    out.emplace_back("at", Writer::point(origin_of(shape)));
    return out;
}

/// A solid in place; a box goes without saying.
std::string inline_shape(const Shape& shape) {
    std::string text;
    for (const auto& [key, value] : shape_entries(shape)) {
        if (key == "shape" && std::holds_alternative<Box>(shape)) continue;
        text += fmt::format("{}{} = {}", text.empty() ? "" : ", ", key, value);
    }
    return "{ " + text + " }";
}

std::string direction_text(Vec3 d) {
    for (const Side side : all_sides) {
        if (d == outward(side)) return toml_text(name_of(side));
    }
    const auto number = [](double x) { return Writer::value(x, kinds::number); };
    return fmt::format("[{}, {}, {}]", number(d.x), number(d.y), number(d.z));
}

std::string half_space_keys(const HalfSpace& h) { return fmt::format("normal = {}, through = {}", direction_text(h.normal), Writer::point(h.through)); }

void write_part(Writer& out, const Part& part) {
    out.header("[[part]]");
    out.text("name", part.name);
    for (const auto& [key, value] : shape_entries(part.shape)) out.line(key, value);
    out.text("material", part.material);
    const auto list = [&](std::string_view key, const std::vector<std::string>& items) {
        if (items.size() == 1) return out.line(key, items.front());
        std::string text;
        for (const std::string& item : items) text += (text.empty() ? "" : ", ") + item;
        if (!items.empty()) out.line(key, "[" + text + "]");
    };
    std::vector<std::string> also, holes, repeats, turns;
    for (const Shape& more : part.also) also.push_back(inline_shape(more));
    for (const Shape& hole : part.holes) holes.push_back(inline_shape(hole));
    for (const Rotation& r : part.rotate) {
        turns.push_back(fmt::format("{{ axis = {}, angle = {}{} }}", direction_text(r.axis), Writer::value(r.angle, kinds::number),
                                    r.about ? ", about = " + Writer::point(*r.about) : ""));
    }
    for (const Repeat& r : part.repeat) {
        std::string text = fmt::format("count = {}", r.count);
        if (r.turn == 0.0 || !(r.step == Vec3{})) text += ", step = " + Writer::point(r.step);
        if (r.turn != 0.0) text += fmt::format(", turn = {}, axis = {}, about = {}", Writer::value(r.turn, kinds::number), direction_text(r.axis), Writer::point(r.about));
        repeats.push_back("{ " + text + " }");
    }
    list("also", also);
    list("holes", holes);
    if (part.scale != 1.0) out.line("scale", Writer::value(part.scale, kinds::number));
    if (part.mirrored) out.line("mirrored", toml_text(std::string(1, "xyz"[*part.mirrored])));
    list("rotate", turns);
    list("repeat", repeats);
    if (!part.include) out.line("include", "false");
    out.quantity("cell", part.cell, kinds::length);
}

void write_joint(Writer& out, const Joint& joint) {
    out.header("[[joint]]");
    out.text("name", joint.name);
    out.line("between", Writer::list({joint.between[0], joint.between[1]}));
    out.quantity("resistance", joint.resistance, kinds::area_resistance);
    out.quantity("total", joint.total, kinds::thermal_resistance);
    out.curve("resistance_factor", joint.resistance_factor, kinds::temperature, kinds::number);
    if (joint.layer) {
        out.line("layer", fmt::format("{{ material = {}, thickness = {} }}", toml_text(joint.layer->material),
                                      Writer::value(joint.layer->thickness, kinds::length)));
    }
    out.flag("insulated", joint.insulated);
    out.quantity("exchange_factor", joint.exchange_factor, kinds::number);
    if (joint.reach != 0.0) out.quantity("reach", joint.reach, kinds::length);
}

void write_power(Writer& out, const Power& power) {
    out.header("[[power]]");
    out.text("name", power.name);
    out.texts("into", power.into);
    if (power.on) out.on(*power.on);
    out.quantity("total", power.total, kinds::power);
    out.quantity("each", power.each, kinds::power);
    out.quantity("density", power.density, kinds::power_density);
    out.quantity("flux", power.flux, kinds::heat_flux);
    out.curve("temperature_factor", power.temperature_factor, kinds::temperature, kinds::number);
    out.texts("profile", power.profile);
}

void write_cooling(Writer& out, const Cooling& cooling) {
    out.header("[[cooling]]");
    out.text("name", cooling.name);
    out.on(cooling.on);
    out.quantity("convection", cooling.convection, kinds::heat_transfer_coefficient);
    out.curve("convection", cooling.convection_curve, kinds::temperature_difference, kinds::heat_transfer_coefficient);
    if (cooling.law) {
        const ConvectionLaw& law = *cooling.law;
        std::string keys = fmt::format("law = {}, fluid = {}", toml_text(law.law), toml_text(law.fluid));
        const auto add = [&](std::string_view key, const std::optional<double>& value, const QuantityKind& kind) {
            if (value) keys += fmt::format(", {} = {}", key, Writer::value(*value, kind));
        };
        add("length", law.length, kinds::length);
        add("diameter", law.diameter, kinds::length);
        add("spacing", law.spacing, kinds::length);
        add("angle", law.angle, kinds::number);
        add("speed", law.speed, kinds::speed);
        if (law.pressure != ConvectionLaw{}.pressure) add("pressure", law.pressure, kinds::pressure);
        out.line("convection", "{ " + keys + " }");
    }
    out.quantity("emissivity", cooling.emissivity, kinds::number);
    if (cooling.material_emissivity) out.line("emissivity", "\"material\"");
    out.quantity("ambient", cooling.ambient, kinds::temperature);
    out.quantity("radiant", cooling.radiant, kinds::temperature);
    out.texts("profile", cooling.profile);
    out.text("ambient_profile", cooling.ambient_profile);
    out.flag("beside", cooling.beside);
}

void write_profile(Writer& out, const Profile& profile) {
    const QuantityKind& kind = profile.temperature ? kinds::temperature : kinds::number;
    // With its unit, which tells a temperature from a factor.
    const auto level = [&](double v) { return profile.temperature ? toml_text(write_quantity(v, kinds::temperature)) : Writer::value(v, kinds::number); };
    out.header("[[profile]]");
    out.text("name", profile.name);
    if (profile.duty) {
        const Duty& duty = *profile.duty;
        out.quantity("on", duty.on, kinds::time);
        out.quantity("off", duty.off, kinds::time);
        if (duty.delay != 0.0) out.quantity("delay", duty.delay, kinds::time);
        if (duty.ramp != 0.0) out.quantity("ramp", duty.ramp, kinds::time);
        if (duty.cycles != 0) out.line("cycles", fmt::format("{}", duty.cycles));
        out.line("high", level(duty.high));
        out.line("low", level(duty.low));
    } else if (profile.sine) {
        const Sine& sine = *profile.sine;
        out.line("sine", fmt::format("{{ mean = {}, amplitude = {}, period = {}, delay = {} }}", level(sine.mean),
                                     Writer::value(sine.amplitude, profile.temperature ? kinds::temperature_difference : kinds::number),
                                     Writer::value(sine.period, kinds::time), Writer::value(sine.delay, kinds::time)));
    } else {
        std::string points;
        for (std::size_t i = 0; i < profile.points.at.size(); ++i) {
            points += fmt::format("{}[{}, {}]", i == 0 ? "" : ", ", Writer::value(profile.points.at[i], kinds::time), Writer::value(profile.points.value[i], kind));
        }
        out.line(profile.temperature ? "temperatures" : "points", "[" + points + "]");
    }
    out.flag("stepped", profile.stepped);
    out.flag("repeat", profile.repeat);
}

void write_thermostat(Writer& out, const Thermostat& thermostat) {
    out.header("[[thermostat]]");
    out.text("name", thermostat.name);
    out.text("sensor", thermostat.sensor);
    out.texts("switches", thermostat.switches);
    out.quantity("lower", thermostat.lower, kinds::temperature);
    out.quantity("upper", thermostat.upper, kinds::temperature);
    if (thermostat.cools) out.line("acts", "\"cooling\"");
    if (thermostat.starts_on) out.line("starts", *thermostat.starts_on ? "\"on\"" : "\"off\"");
    if (thermostat.least_on != 0.0) out.quantity("least_on", thermostat.least_on, kinds::time);
    if (thermostat.least_off != 0.0) out.quantity("least_off", thermostat.least_off, kinds::time);
    out.texts("studies", thermostat.studies);
}

void write_start(Writer& out, const Start& start) {
    if (!start.study.empty()) {
        out.line("start", fmt::format("{{ study = {}{} }}", toml_text(start.study), start.results.empty() ? "" : ", results = " + toml_text(start.results)));
    } else if (start.parts.empty()) {
        out.quantity("start", start.temperature, kinds::temperature);
    } else {
        std::string table;
        const auto add = [&](const std::string& part, double t) {
            table += fmt::format("{}{} = {}", table.empty() ? "" : ", ", toml_text(part), Writer::value(t, kinds::temperature));
        };
        if (start.temperature) add("*", *start.temperature);
        for (const auto& [part, t] : start.parts) add(part, t);
        out.line("start", "{ " + table + " }");
    }
}

void write_study(Writer& out, const Study& study) {
    const Study usual;
    out.header("[[study]]");
    out.text("name", study.name);
    constexpr std::string_view names[] = {"\"steady\"", "\"transient\"", "\"cyclic\""};
    out.line("kind", std::string(names[static_cast<std::size_t>(study.kind)]));
    out.quantity("ambient", study.ambient, kinds::temperature);
    out.text("ambient_profile", study.ambient_profile);
    std::string scale;
    for (const auto& [power, factor] : study.scale) scale += fmt::format("{}{} = {}", scale.empty() ? "" : ", ", toml_text(power), factor);
    if (!scale.empty()) out.line("scale", "{ " + scale + " }");
    if (study.coarsening != 1.0) out.line("coarsening", Writer::value(study.coarsening, kinds::number));
    if (study.kind == StudyKind::steady) return;
    write_start(out, study.start);
    if (study.tolerance != usual.tolerance) out.quantity("tolerance", study.tolerance, kinds::temperature_difference);
    out.quantity("longest_step", study.longest_step, kinds::time);
    if (study.kind == StudyKind::cyclic) {
        out.quantity("period", study.period, kinds::time);
        return;
    }
    out.quantity("lasts", study.lasts, kinds::time);
    if (study.stop_when != StopWhen::never) out.line("stop_when", study.stop_when == StopWhen::steady ? "\"steady\"" : "\"all limits decided\"");
    if (study.steady_within != usual.steady_within) out.quantity("steady_within", study.steady_within, kinds::temperature_difference);
    std::string times;
    for (const double t : study.fields_at) times += (times.empty() ? "" : ", ") + Writer::value(t, kinds::time);
    if (!times.empty()) out.line("fields_at", "[" + times + "]");
    out.quantity("fields_every", study.fields_every, kinds::time);
    out.quantity("history_every", study.history_every, kinds::time);
    out.quantity("fixed_step", study.fixed_step, kinds::time);
}

void write_picture(Writer& out, const Picture& picture) {
    out.header("[[picture]]");
    out.text("name", picture.name);
    out.texts("hide", picture.hide);
    out.line("azimuth", fmt::format("{}", picture.azimuth));
    out.line("elevation", fmt::format("{}", picture.elevation));
    out.flag("bands", picture.bands);
    out.flag("isotherms", picture.isotherms);
    if (picture.section) out.line("section", "{ " + half_space_keys(*picture.section) + " }");
    out.quantity("above", picture.above, kinds::temperature);
    if (picture.range) {
        out.line("range", fmt::format("[{}, {}]", Writer::value((*picture.range)[0], kinds::temperature), Writer::value((*picture.range)[1], kinds::temperature)));
    }
}

}  // namespace

std::string write_model(const Model& model) {
    Writer out;
    out.line("firnfield", "1");
    out.text("title", model.title);
    out.header("[units]");
    out.line("length", "\"mm\"");
    out.line("temperature", "\"degC\"");
    out.header("[mesh]");
    out.quantity("cell", model.mesh.cell, kinds::length);
    out.line("through", fmt::format("{}", model.mesh.through));
    out.line("growth", fmt::format("{}", model.mesh.growth));
    if (model.mesh.coarsening != 1.0) out.line("coarsening", Writer::value(model.mesh.coarsening, kinds::number));
    out.quantity("error_target", model.mesh.error_target, kinds::temperature_difference);
    out.line("max_cells", fmt::format("{}", model.mesh.max_cells));
    const auto planes_of = [&](std::size_t axis) {
        std::string text;
        for (const double plane : model.mesh.planes[axis]) text += (text.empty() ? "" : ", ") + length_text(plane);
        return fmt::format("{} = [{}]", "xyz"[axis], text);
    };
    if (std::any_of(model.mesh.planes.begin(), model.mesh.planes.end(), [](const auto& p) { return !p.empty(); })) {
        out.line("planes", fmt::format("{{ {}, {}, {} }}", planes_of(0), planes_of(1), planes_of(2)));
    }
    std::string regions;
    for (const RegionSize& r : model.mesh.regions) {
        regions += fmt::format("{}{{ size = {}, at = {}, cell = {} }}", regions.empty() ? "" : ", ", Writer::point(r.box.size), Writer::point(r.box.at), length_text(r.cell));
    }
    if (!regions.empty()) out.line("regions", "[" + regions + "]");
    std::string layers;
    for (const LayerSize& l : model.mesh.layers) {
        layers += fmt::format("{}{{ along = \"{}\", from = {}, to = {}, cell = {} }}", layers.empty() ? "" : ", ", "xyz"[l.axis], length_text(l.from), length_text(l.to),
                              length_text(l.cell));
    }
    if (!layers.empty()) out.line("layers", "[" + layers + "]");
    if (model.space) {
        out.header("[space]");
        out.line("kind", model.space->revolved ? "\"revolved\"" : "\"plane\"");
        if (!model.space->revolved) out.line("depth", length_text(model.space->depth));
    }
    if (model.sector) {
        out.header("[sector]");
        out.line("pieces", fmt::format("{}", model.sector->pieces));
        out.line("along", fmt::format("\"{}\"", "xyz"[model.sector->along]));
        out.line("about", Writer::point(model.sector->about));
        out.line("from", Writer::value(model.sector->from, kinds::number));
    }
    for (const Mirror& mirror : model.mirrors) {
        out.header("[[mirror]]");
        if (mirror.keep) {
            out.line("normal", direction_text(mirror.keep->normal));
            out.line("through", Writer::point(mirror.keep->through));
            continue;
        }
        out.line("across", fmt::format("\"{}\"", "xyz"[mirror.axis]));
        out.quantity("at", mirror.at, kinds::length);
        out.line("keep", mirror.keep_plus ? "\"+\"" : "\"-\"");
    }
    for (const Material& material : model.materials) write_material(out, material);
    for (const Fluid& fluid : model.fluids) write_fluid(out, fluid);
    for (const Part& part : model.parts) write_part(out, part);
    for (const Surface& surface : model.surfaces) {
        out.header("[[surface]]");
        out.text("name", surface.name);
        for (const auto& [key, value] : Writer::selection(surface.pick)) out.line(key, value);
    }
    for (const Joint& joint : model.joints) write_joint(out, joint);
    for (const Power& power : model.powers) write_power(out, power);
    for (const Cooling& cooling : model.coolings) write_cooling(out, cooling);
    for (const Hold& hold : model.holds) {
        out.header("[[hold]]");
        out.text("name", hold.name);
        out.on(hold.on);
        out.quantity("temperature", hold.temperature, kinds::temperature);
        out.text("profile", hold.profile);
    }
    for (const Sensor& sensor : model.sensors) {
        out.header("[[sensor]]");
        out.text("name", sensor.name);
        out.text("in", sensor.in);
        out.line("at", Writer::point(sensor.at));
    }
    for (const Limit& limit : model.limits) {
        out.header("[[limit]]");
        out.text("part", limit.part);
        out.text("sensor", limit.sensor);
        out.quantity("below", limit.below, kinds::temperature);
        out.quantity("above", limit.above, kinds::temperature);
        if (limit.after != 0.0) out.quantity("after", limit.after, kinds::time);
        out.texts("studies", limit.studies);
    }
    for (const Profile& profile : model.profiles) write_profile(out, profile);
    for (const Thermostat& thermostat : model.thermostats) write_thermostat(out, thermostat);
    for (const Study& study : model.studies) write_study(out, study);
    for (const Picture& picture : model.pictures) write_picture(out, picture);
    return out.take();
}

}  // namespace firnfield
