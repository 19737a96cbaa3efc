#include <firnfield/model_file.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "io/material_fields.hpp"
#include "io/model_tables.hpp"
#include "io/shape_fields.hpp"
#include "io/study_fields.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>

namespace firnfield {
namespace {

constexpr std::string_view exposed_word = "exposed";
Repeat read_repeat(Fields& fields) {
    Repeat repeat;
    fields.require("count", "4");
    const bool ring = fields.has("turn");
    if (!ring) fields.require("step", "[15, 0, 0]");
    if (const auto count = fields.integer("count")) repeat.count = to_int(*count);
    if (const auto step = fields.point("step")) repeat.step = *step;
    repeat.turn = fields.quantity("turn", kinds::number).value_or(0.0);
    if (ring) {
        repeat.axis = read_direction(fields, "axis").value_or(repeat.axis);
        repeat.about = fields.point("about").value_or(repeat.about);
    }
    return repeat;
}

void read_selection_keys(Fields& fields, Selection& pick) {
    pick.parts = fields.texts("parts");
    pick.sides = fields.texts("sides");
    pick.facing = read_directions(fields, "facing");
    pick.within = fields.quantity("within", kinds::number).value_or(pick.within);
    pick.surfaces = fields.texts("surfaces");
    pick.except = fields.texts("except");
    pick.touching = fields.texts("touching");
    fields.table("region", [&](Fields& region) { pick.region = read_shape(region); });
    fields.tables("beyond", true, [&](Fields& plane, std::size_t) { pick.beyond.push_back(read_half_space(plane)); });
}

/// `on = "exposed"`, `on = "a surface"`, `on = ["several", "surfaces"]`, or a rule in place.
std::optional<Selection> read_on(Fields& fields) {
    if (!fields.has("on")) {
        fields.node("on");
        return std::nullopt;
    }
    Selection pick;
    if (fields.node("on")->is_table()) {
        fields.table("on", [&](Fields& rule) {
            read_selection_keys(rule, pick);
            pick.rest = rule.flag("rest").value_or(false);
        });
        return pick;
    }
    pick.surfaces = fields.texts("on");
    if (const auto word = std::find(pick.surfaces.begin(), pick.surfaces.end(), exposed_word); word != pick.surfaces.end()) {
        if (pick.surfaces.size() > 1) fields.report(*fields.node("on"), "\"exposed\" is everything that no other rule claims; it stands alone");
        pick.surfaces.clear();
        pick.rest = true;
    }
    return pick;
}

Part read_part(Fields& fields) {
    Part part;
    fields.require("name", "\"base\"");
    part.name = fields.text("name").value_or("");
    part.shape = read_shape(fields);
    fields.require("material", "\"aluminium 6061-T6\"");
    part.material = fields.text("material").value_or("");
    fields.tables("also", true, [&](Fields& more, std::size_t) { part.also.push_back(read_shape(more)); });
    fields.tables("holes", true, [&](Fields& hole, std::size_t) { part.holes.push_back(read_shape(hole)); });
    part.scale = fields.quantity("scale", kinds::number).value_or(1.0);
    if (const auto axis = fields.word("mirrored", {"x", "y", "z"})) part.mirrored = static_cast<int>(*axis);
    fields.tables("rotate", true, [&](Fields& rotation, std::size_t) { part.rotate.push_back(read_rotation(rotation)); });
    fields.tables("repeat", true, [&](Fields& repeat, std::size_t) { part.repeat.push_back(read_repeat(repeat)); });
    part.include = fields.flag("include").value_or(true);
    part.cell = fields.quantity("cell", kinds::length);
    return part;
}

Joint read_joint(Fields& fields) {
    Joint joint;
    joint.name = fields.text("name").value_or("");
    fields.require("between", "[\"amplifier\", \"base\"]");
    const std::vector<std::string> between = fields.texts("between");
    if (between.size() == 2) {
        joint.between = {between[0], between[1]};
    } else if (const toml::node* node = fields.node("between")) {
        fields.report(*node, fmt::format("between takes two parts, as in [\"amplifier\", \"base\"]; found {}", between.size()));
    }
    const toml::node* resistance = fields.node("resistance");
    joint.resistance_factor = fields.curve("resistance_factor", kinds::temperature, kinds::number);
    if (resistance != nullptr && resistance->is_table()) {
        const Curve curve = fields.curve("resistance", kinds::temperature, kinds::area_resistance);
        if (!joint.resistance_factor.empty()) fields.report(*resistance, "give the resistance as a curve, or one value and resistance_factor, not both");
        if (!curve.empty() && !(curve.value.front() > 0.0)) fields.report(*resistance, "the first value of a resistance curve must be positive");
        if (!curve.empty() && curve.value.front() > 0.0) {
            joint.resistance = curve.value.front();
            joint.resistance_factor = curve;
            for (double& value : joint.resistance_factor.value) value /= *joint.resistance;
        }
    } else {
        joint.resistance = fields.quantity("resistance", kinds::area_resistance);
    }
    joint.total = fields.quantity("total", kinds::thermal_resistance);
    fields.table("layer", [&](Fields& layer) {
        layer.require("material", "\"thermal grease\"");
        layer.require("thickness", "\"0.1 mm\"");
        joint.layer = Layer{.material = layer.text("material").value_or(""), .thickness = layer.quantity("thickness", kinds::length).value_or(1.0)};
    });
    joint.insulated = fields.flag("insulated").value_or(false);
    joint.exchange_factor = fields.quantity("exchange_factor", kinds::number);
    joint.reach = fields.quantity("reach", kinds::length).value_or(0.0);
    return joint;
}

Power read_power(Fields& fields) {
    Power power;
    power.name = fields.text("name").value_or("");
    power.into = fields.texts("into");
    power.on = read_on(fields);
    power.total = fields.quantity("total", kinds::power);
    power.each = fields.quantity("each", kinds::power);
    power.density = fields.quantity("density", kinds::power_density);
    power.flux = fields.quantity("flux", kinds::heat_flux);
    power.temperature_factor = fields.curve("temperature_factor", kinds::temperature, kinds::number);
    power.profile = fields.texts("profile");
    return power;
}

ConvectionLaw read_convection_law(Fields& fields) {
    ConvectionLaw law;
    fields.require("law", "\"vertical plate\"");
    law.law = fields.text("law").value_or("");
    law.fluid = fields.text("fluid").value_or(law.fluid);
    law.length = fields.quantity("length", kinds::length);
    law.diameter = fields.quantity("diameter", kinds::length);
    law.spacing = fields.quantity("spacing", kinds::length);
    law.angle = fields.quantity("angle", kinds::number);
    law.speed = fields.quantity("speed", kinds::speed);
    law.pressure = fields.quantity("pressure", kinds::pressure).value_or(law.pressure);
    return law;
}

/// A value, or a curve over temperature.
Curve read_property(Fields& fields, std::string_view key, const QuantityKind& kind) {
    fields.require(key, fmt::format("\"{}\"", kind.example));
    const toml::node* node = fields.node(key);
    if (node != nullptr && node->is_table()) return fields.curve(key, kinds::temperature, kind);
    const auto value = fields.quantity(key, kind);
    return value ? Curve{{zero_celsius}, {*value}} : Curve{};
}

Fluid read_fluid(Fields& fields) {
    Fluid fluid;
    fields.require("name", "\"coolant\"");
    fluid.name = fields.text("name").value_or("");
    fluid.conductivity = read_property(fields, "conductivity", kinds::conductivity);
    fluid.density = read_property(fields, "density", kinds::density);
    fluid.viscosity = read_property(fields, "viscosity", kinds::viscosity);
    fluid.specific_heat = read_property(fields, "specific_heat", kinds::specific_heat);
    fluid.expansion = read_property(fields, "expansion", kinds::expansion);
    return fluid;
}

Cooling read_cooling(Fields& fields) {
    Cooling cooling;
    cooling.name = fields.text("name").value_or("");
    fields.require("on", "\"exposed\"");
    cooling.on = read_on(fields).value_or(Selection{});
    const toml::node* convection = fields.node("convection");
    if (convection != nullptr && convection->is_table() && convection->as_table()->contains("at")) {
        cooling.convection_curve = fields.curve("convection", kinds::temperature_difference, kinds::heat_transfer_coefficient);
    } else if (convection != nullptr && convection->is_table()) {
        fields.table("convection", [&](Fields& law) { cooling.law = read_convection_law(law); });
    } else {
        cooling.convection = fields.quantity("convection", kinds::heat_transfer_coefficient);
    }
    const toml::node* emissivity = fields.node("emissivity");
    if (emissivity != nullptr && emissivity->is_string()) {
        cooling.material_emissivity = fields.word("emissivity", {"material"}).has_value();
    } else {
        cooling.emissivity = fields.quantity("emissivity", kinds::number);
    }
    cooling.ambient = fields.quantity("ambient", kinds::temperature);
    cooling.radiant = fields.quantity("radiant", kinds::temperature);
    cooling.profile = fields.texts("profile");
    cooling.ambient_profile = fields.text("ambient_profile").value_or("");
    cooling.beside = fields.flag("beside").value_or(false);
    return cooling;
}

Hold read_hold(Fields& fields) {
    Hold hold;
    hold.name = fields.text("name").value_or("");
    fields.require("on", "\"mounting face\"");
    fields.require("temperature", "\"20 degC\"");
    hold.on = read_on(fields).value_or(Selection{});
    hold.temperature = fields.quantity("temperature", kinds::temperature).value_or(zero_celsius);
    hold.profile = fields.text("profile").value_or("");
    return hold;
}

Sensor read_sensor(Fields& fields) {
    Sensor sensor;
    fields.require("name", "\"flange\"");
    fields.require("in", "\"amplifier\"");
    fields.require("at", "[90, 60, 8]");
    sensor.name = fields.text("name").value_or("");
    sensor.in = fields.text("in").value_or("");
    if (const auto at = fields.point("at")) sensor.at = *at;
    return sensor;
}

Limit read_limit(Fields& fields) {
    Limit limit;
    limit.part = fields.text("part").value_or("");
    limit.sensor = fields.text("sensor").value_or("");
    limit.below = fields.quantity("below", kinds::temperature);
    limit.above = fields.quantity("above", kinds::temperature);
    limit.after = fields.quantity("after", kinds::time).value_or(0.0);
    limit.studies = fields.texts("studies");
    return limit;
}

Mirror read_mirror(Fields& fields) {
    Mirror mirror;
    if (fields.has("normal")) {
        mirror.keep = read_half_space(fields);
        return mirror;
    }
    fields.require("across", "\"x\"");
    fields.require("keep", "\"+\"");
    mirror.axis = static_cast<int>(fields.word("across", {"x", "y", "z"}).value_or(0));
    mirror.at = fields.quantity("at", kinds::length).value_or(0.0);
    mirror.keep_plus = fields.word("keep", {"+", "-"}).value_or(0) == 0;
    return mirror;
}

Picture read_picture(Fields& fields) {
    Picture picture;
    fields.require("name", "\"inside\"");
    picture.name = fields.text("name").value_or("");
    picture.hide = fields.texts("hide");
    picture.azimuth = fields.quantity("azimuth", kinds::number).value_or(picture.azimuth);
    picture.elevation = fields.quantity("elevation", kinds::number).value_or(picture.elevation);
    picture.bands = fields.flag("bands").value_or(false);
    picture.isotherms = fields.flag("isotherms").value_or(false);
    fields.table("section", [&](Fields& plane) { picture.section = read_half_space(plane); });
    picture.above = fields.quantity("above", kinds::temperature);
    if (fields.has("range")) {
        const std::vector<double> ends = fields.quantities("range", kinds::temperature);
        if (ends.size() == 2 && ends[0] < ends[1]) {
            picture.range = {ends[0], ends[1]};
        } else {
            fields.report(*fields.node("range"), "range takes the coldest and the hottest temperature of the colour scale, as in [20, 120]");
        }
    }
    return picture;
}

void read_units(Fields& fields, Reading& reading) {
    const auto check = [&](std::string_view key, const QuantityKind& kind) -> std::string {
        const auto unit = fields.text(key);
        if (!unit) return {};
        try {
            static_cast<void>(parse_quantity("1 " + *unit, kind));
            return *unit;
        } catch (const QuantityError&) {
            fields.report(*fields.node(key), fmt::format("{} is not a unit of {}; the {} unit of bare numbers is \"{}\" or alike", in_quotes(*unit), kind.name, key,
                                                         kind.absolute_temperature ? "degC" : "mm"));
            return {};
        }
    };
    reading.length_unit = check("length", kinds::length);
    reading.temperature_unit = check("temperature", kinds::temperature);
}

void check_version(Fields& file) {
    file.require("firnfield", "1");
    const toml::node* node = file.node("firnfield");
    if (node != nullptr && node->value_exact<std::int64_t>() != 1) file.report(*node, "this program reads format version 1; write firnfield = 1");
}

Model read_tables(const toml::table& table, Reading& reading) {
    Fields file(table, "", "", reading);
    Model model;
    check_version(file);
    file.table("units", [&](Fields& units) { read_units(units, reading); });
    static_cast<void>(read_parameters(table, reading));
    // Read where designs are made.
    for (const std::string_view key : {"parameters", "variant", "sweep"}) file.node(key);
    model.title = file.text("title", true).value_or("");
    file.table("mesh", [&](Fields& mesh) {
        model.mesh.cell = mesh.quantity("cell", kinds::length);
        if (const auto through = mesh.integer("through")) model.mesh.through = to_int(*through);
        if (const auto growth = mesh.quantity("growth", kinds::number)) model.mesh.growth = *growth;
        if (const auto cap = mesh.integer("max_cells")) model.mesh.max_cells = *cap;
        model.mesh.coarsening = mesh.quantity("coarsening", kinds::number).value_or(model.mesh.coarsening);
        model.mesh.error_target = mesh.quantity("error_target", kinds::temperature_difference);
        mesh.table("planes", [&](Fields& planes) {
            for (const std::size_t axis : {0U, 1U, 2U}) model.mesh.planes[axis] = planes.quantities(std::string(1, "xyz"[axis]), kinds::length);
        });
        mesh.tables("regions", true, [&](Fields& region, std::size_t) {
            RegionSize size{.box = read_box(region), .cell = 1.0};
            region.require("cell", "0.5");
            if (const auto cell = region.quantity("cell", kinds::length)) size.cell = *cell;
            model.mesh.regions.push_back(size);
        });
        mesh.tables("layers", true, [&](Fields& layer, std::size_t) {
            LayerSize size;
            for (const auto& [key, example] : {std::pair{"along", "\"x\""}, {"from", "0"}, {"to", "5"}, {"cell", "0.5"}}) layer.require(key, example);
            size.axis = static_cast<int>(layer.word("along", {"x", "y", "z"}).value_or(0));
            size.from = layer.quantity("from", kinds::length).value_or(0.0);
            size.to = layer.quantity("to", kinds::length).value_or(0.0);
            size.cell = layer.quantity("cell", kinds::length).value_or(0.0);
            model.mesh.layers.push_back(size);
        });
    });
    file.tables("mirror", false, [&](Fields& f, std::size_t) { model.mirrors.push_back(read_mirror(f)); });
    file.table("space", [&](Fields& f) {
        Space space;
        f.require("kind", "\"plane\"");
        space.revolved = f.word("kind", {"plane", "revolved"}).value_or(0) == 1;
        if (!space.revolved) f.require("depth", "\"10 mm\"");
        space.depth = f.quantity("depth", kinds::length).value_or(space.revolved ? 0.0 : 1.0);
        model.space = space;
    });
    file.table("sector", [&](Fields& f) {
        Sector sector;
        f.require("pieces", "6");
        if (const auto pieces = f.integer("pieces")) sector.pieces = to_int(*pieces);
        sector.along = read_axis(f, "along");
        if (const auto about = f.point("about")) sector.about = *about;
        sector.from = f.quantity("from", kinds::number).value_or(0.0);
        model.sector = sector;
    });
    file.tables("material", false, [&](Fields& f, std::size_t) { model.materials.push_back(read_material(f)); });
    file.tables("fluid", false, [&](Fields& f, std::size_t) { model.fluids.push_back(read_fluid(f)); });
    file.tables("part", false, [&](Fields& f, std::size_t) { model.parts.push_back(read_part(f)); });
    file.tables("surface", false, [&](Fields& f, std::size_t) {
        Surface surface;
        f.require("name", "\"outer skin\"");
        surface.name = f.text("name").value_or("");
        read_selection_keys(f, surface.pick);
        model.surfaces.push_back(std::move(surface));
    });
    file.tables("joint", false, [&](Fields& f, std::size_t) { model.joints.push_back(read_joint(f)); });
    file.tables("power", false, [&](Fields& f, std::size_t) { model.powers.push_back(read_power(f)); });
    file.tables("cooling", false, [&](Fields& f, std::size_t) { model.coolings.push_back(read_cooling(f)); });
    file.tables("hold", false, [&](Fields& f, std::size_t) { model.holds.push_back(read_hold(f)); });
    file.tables("sensor", false, [&](Fields& f, std::size_t) { model.sensors.push_back(read_sensor(f)); });
    file.tables("limit", false, [&](Fields& f, std::size_t) { model.limits.push_back(read_limit(f)); });
    file.tables("profile", false, [&](Fields& f, std::size_t) { model.profiles.push_back(read_profile(f)); });
    file.tables("thermostat", false, [&](Fields& f, std::size_t) { model.thermostats.push_back(read_thermostat(f)); });
    file.tables("study", false, [&](Fields& f, std::size_t) { model.studies.push_back(read_study(f)); });
    file.tables("picture", false, [&](Fields& f, std::size_t) { model.pictures.push_back(read_picture(f)); });
    file.finish();
    return model;
}

}  // namespace

Model read_checked(const toml::table& table, Reading& reading) {
    Model model = read_tables(table, reading);
    // A value that could not be read stands in the model as a placeholder, so what validation says of it is moot.
    for (const Problem& problem : validate(model)) {
        if (!reading.is_misread(problem.address)) reading.report_at_address(problem);
    }
    return model;
}

std::vector<ParameterInfo> read_parameters(const toml::table& table, Reading& reading) {
    std::vector<ParameterInfo> found;
    const toml::node* place = table.get("parameters");
    if (place == nullptr) return found;
    const toml::table* list = place->as_table();
    if (list == nullptr) {
        reading.report(place->source(), fmt::format("parameters are a table, [parameters]; found {}", describe_type(*place)));
        return found;
    }
    const auto take = [&](const std::string& name, const toml::node& node) {
        try {
            const auto text = node.value_exact<std::string>();
            if (text && is_expression(*text)) {
                reading.parameters.define(name, *text);
            } else if (text) {
                reading.parameters.set(name, parse_measured(*text));
            } else if (node.is_number()) {
                reading.parameters.set(name, {node.value<double>().value(), {}});
            } else {
                reading.report(node.source(), fmt::format("parameter {} takes a quantity such as \"0.5 mm\", a number or an expression; found {}", name, describe_type(node)));
                return false;
            }
            return true;
        } catch (const QuantityError& error) {
            reading.report(node.source(), error.what());
            return false;
        }
    };
    std::vector<std::pair<const toml::node*, std::string>> rows;
    for (auto&& [key, node] : *list) {
        const std::string name(key.str());
        const toml::table* inner = node.as_table();
        const toml::node* value = inner == nullptr ? &node : inner->get("value");
        if (value == nullptr) {
            reading.report(node.source(), fmt::format("parameter {} has no value; write {} = {{ value = \"0.5 mm\", uniform = \"0.1 mm\" }}", name, name));
        } else if (take(name, *value)) {
            rows.emplace_back(&node, name);
        }
    }
    std::sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) { return a.first->source().begin.line < b.first->source().begin.line; });
    for (const auto& [node, name] : rows) {
        ParameterInfo info{.name = name};
        try {
            info.value = reading.parameters.value(name);
        } catch (const QuantityError& error) {
            reading.report(node->source(), error.what());
            reading.parameters.set(name, {});
            continue;
        }
        if (const toml::table* inner = node->as_table()) {
            Fields fields(*inner, "parameters." + name, "parameter " + name, reading);
            fields.node("value");
            const std::string kind_name = name_of(info.value.dimension);
            const QuantityKind kind{kind_name, info.value.dimension, "of the same kind as the value"};
            for (const bool normal : {false, true}) {
                const auto spread = fields.quantity(normal ? "normal" : "uniform", kind);
                if (!spread) continue;
                if (info.spread) fields.report_here("a spread is either uniform or normal");
                if (!(*spread > 0.0)) fields.report_here("a spread is larger than nothing");
                info.spread = Spread{*spread, normal};
            }
            fields.finish();
        }
        found.push_back(std::move(info));
    }
    return found;
}

Model read_model_text(std::string_view text, const std::string& file) {
    const toml::table table = parse_toml(text, file);
    Reading reading(file);
    Model model = read_checked(table, reading);
    reading.throw_if_any();
    return model;
}

ModelFile read_model_file(const std::filesystem::path& file) {
    constexpr std::uintmax_t largest = 64U << 20U;
    return {read_file(file, largest), file.string()};
}

Model read_model(const std::filesystem::path& file) { return read_model_file(file).base(); }

std::vector<Problem> locate_problems(std::string_view text, const std::string& file, const std::vector<Problem>& problems) {
    Reading reading(file);
    const toml::table table = parse_toml(text, file);
    static_cast<void>(read_tables(table, reading));
    for (const Problem& problem : problems) reading.report_at_address(problem);
    try {
        reading.throw_if_any();
    } catch (const ModelError& error) {
        return error.problems();
    }
    return problems;
}

}  // namespace firnfield
