#include <firnfield/model_file.hpp>
#include <firnfield/quantity.hpp>

#include <fmt/format.h>

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
    static std::string box(const Box& b) { return fmt::format("{{ size = {}, at = {} }}", point(b.size), point(b.at)); }

    /// The keys of a rule, as "key = value" pairs.
    static std::vector<std::pair<std::string, std::string>> selection(const Selection& pick) {
        std::vector<std::pair<std::string, std::string>> keys;
        const auto sides = [](const std::vector<Side>& all) {
            std::vector<std::string> names;
            for (const Side side : all) names.emplace_back(name_of(side));
            return list(names);
        };
        if (!pick.parts.empty()) keys.emplace_back("parts", list(pick.parts));
        if (!pick.sides.empty()) keys.emplace_back("sides", sides(pick.sides));
        if (!pick.facing.empty()) keys.emplace_back("facing", sides(pick.facing));
        if (!pick.surfaces.empty()) keys.emplace_back("surfaces", list(pick.surfaces));
        if (!pick.except.empty()) keys.emplace_back("except", list(pick.except));
        if (pick.region) keys.emplace_back("region", box(*pick.region));
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
    out.quantity("density", material.density, kinds::density);
    out.quantity("specific_heat", material.specific_heat, kinds::specific_heat);
    out.quantity("emissivity", material.emissivity, kinds::number);
    out.quantity("resistivity", material.resistivity, kinds::resistivity);
    out.quantity("service_limit", material.service_limit, kinds::temperature);
    if (material.valid_from && material.valid_to) {
        out.line("valid", fmt::format("[{}, {}]", Writer::value(*material.valid_from, kinds::temperature),
                                      Writer::value(*material.valid_to, kinds::temperature)));
    }
    out.text("note", material.note);
}

void write_part(Writer& out, const Part& part) {
    const Box& box = std::get<Box>(part.shape);
    out.header("[[part]]");
    out.text("name", part.name);
    out.line("shape", "\"box\"");
    out.line("size", Writer::point(box.size));
    out.line("at", Writer::point(box.at));
    out.text("material", part.material);
    const auto list = [&](std::string_view key, const std::vector<std::string>& items) {
        if (items.size() == 1) return out.line(key, items.front());
        std::string text;
        for (const std::string& item : items) text += (text.empty() ? "" : ", ") + item;
        if (!items.empty()) out.line(key, "[" + text + "]");
    };
    std::vector<std::string> holes, repeats;
    for (const Box& hole : part.holes) holes.push_back(Writer::box(hole));
    for (const Repeat& r : part.repeat) repeats.push_back(fmt::format("{{ count = {}, step = {} }}", r.count, Writer::point(r.step)));
    list("holes", holes);
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
}

void write_cooling(Writer& out, const Cooling& cooling) {
    out.header("[[cooling]]");
    out.text("name", cooling.name);
    out.on(cooling.on);
    out.quantity("convection", cooling.convection, kinds::heat_transfer_coefficient);
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
    out.flag("beside", cooling.beside);
}

void write_study(Writer& out, const Study& study) {
    out.header("[[study]]");
    out.text("name", study.name);
    out.line("kind", "\"steady\"");
    out.quantity("ambient", study.ambient, kinds::temperature);
    if (study.scale.empty()) return;
    std::string scale;
    for (const auto& [power, factor] : study.scale) scale += fmt::format("{}{} = {}", scale.empty() ? "" : ", ", toml_text(power), factor);
    out.line("scale", "{ " + scale + " }");
}

void write_picture(Writer& out, const Picture& picture) {
    out.header("[[picture]]");
    out.text("name", picture.name);
    out.texts("hide", picture.hide);
    out.line("azimuth", fmt::format("{}", picture.azimuth));
    out.line("elevation", fmt::format("{}", picture.elevation));
    out.flag("bands", picture.bands);
    out.quantity("above", picture.above, kinds::temperature);
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
    out.line("max_cells", fmt::format("{}", model.mesh.max_cells));
    for (const Mirror& mirror : model.mirrors) {
        out.header("[[mirror]]");
        out.line("across", fmt::format("\"{}\"", "xyz"[mirror.axis]));
        out.quantity("at", mirror.at, kinds::length);
        out.line("keep", mirror.keep_plus ? "\"+\"" : "\"-\"");
    }
    for (const Material& material : model.materials) write_material(out, material);
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
    }
    for (const Study& study : model.studies) write_study(out, study);
    for (const Picture& picture : model.pictures) write_picture(out, picture);
    return out.take();
}

}  // namespace firnfield
