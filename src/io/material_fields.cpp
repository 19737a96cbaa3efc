#include "io/material_fields.hpp"

#include <fmt/format.h>

namespace firnfield {
namespace {

std::array<double, 3> read_conductivity(Fields& fields, Curve& factor) {
    std::array<double, 3> k{1.0, 1.0, 1.0};  // stands in for a mistaken value, which has been reported
    fields.require("conductivity", "\"167 W/(m K)\"");
    const toml::node* node = fields.node("conductivity");
    if (node == nullptr) return k;
    factor = fields.curve("conductivity_factor", kinds::temperature, kinds::number);
    if (node->is_table()) {
        const Curve curve = fields.curve("conductivity", kinds::temperature, kinds::conductivity);
        if (!factor.empty()) fields.report(*node, "give the conductivity as a curve, or one value and conductivity_factor, not both");
        if (curve.empty()) return k;
        if (!(curve.value.front() > 0.0)) {
            fields.report(*node, fmt::format("a conductivity must be positive, found {:g} W/(m K) at the first point", curve.value.front()));
            return k;
        }
        factor = curve;
        for (double& value : factor.value) value /= curve.value.front();
        return isotropic(curve.value.front());
    }
    const std::string address = fields.address() + ".conductivity";
    const toml::array* list = node->as_array();
    if (list == nullptr) return isotropic(fields.quantity_of(*node, kinds::conductivity, address).value_or(1.0));
    if (list->size() != 3) {
        fields.report(*node, fmt::format("a conductivity is one value, or three along x, y, z; found {}", list->size()));
        return k;
    }
    for (std::size_t axis = 0; axis < 3; ++axis) k[axis] = fields.quantity_of((*list)[axis], kinds::conductivity, address).value_or(1.0);
    return k;
}

/// A value, or a curve over temperature.
void read_specific_heat(Fields& fields, Material& material) {
    const toml::node* node = fields.node("specific_heat");
    if (node == nullptr || !node->is_table()) {
        material.specific_heat = fields.quantity("specific_heat", kinds::specific_heat);
        material.specific_heat_factor = fields.curve("specific_heat_factor", kinds::temperature, kinds::number);
        return;
    }
    Curve curve = fields.curve("specific_heat", kinds::temperature, kinds::specific_heat);
    if (curve.empty()) return;
    if (!(curve.value.front() > 0.0)) {
        fields.report(*node, fmt::format("a specific heat must be positive, found {:g} J/(kg K) at the first point", curve.value.front()));
        return;
    }
    material.specific_heat = curve.value.front();
    for (double& value : curve.value) value /= *material.specific_heat;
    material.specific_heat_factor = std::move(curve);
}

}  // namespace

Material read_material(Fields& fields) {
    Material material;
    fields.require("name", "\"my alloy\"");
    material.name = fields.text("name").value_or("");
    material.group = fields.text("group", true).value_or("");
    material.conductivity = read_conductivity(fields, material.conductivity_factor);
    material.density = fields.quantity("density", kinds::density);
    read_specific_heat(fields, material);
    fields.table("melting", [&](Fields& melting) {
        melting.require("from", "\"52 degC\"");
        melting.require("to", "\"54 degC\"");
        melting.require("latent_heat", "\"200 kJ/kg\"");
        material.melting = Melting{melting.quantity("from", kinds::temperature).value_or(300.0), melting.quantity("to", kinds::temperature).value_or(301.0),
                                   melting.quantity("latent_heat", kinds::latent_heat).value_or(0.0)};
    });
    material.emissivity = fields.quantity("emissivity", kinds::number);
    material.resistivity = fields.quantity("resistivity", kinds::resistivity);
    material.service_limit = fields.quantity("service_limit", kinds::temperature);
    if (const toml::node* range = fields.node("valid")) {
        const toml::array* ends = range->as_array();
        if (ends == nullptr || ends->size() != 2) {
            fields.report(*range, "valid takes two temperatures, as in [\"-50 degC\", \"150 degC\"]");
        } else {
            material.valid_from = fields.quantity_of((*ends)[0], kinds::temperature, fields.address() + ".valid");
            material.valid_to = fields.quantity_of((*ends)[1], kinds::temperature, fields.address() + ".valid");
            if (material.valid_from && material.valid_to && *material.valid_from >= *material.valid_to) {
                fields.report(*range, "the lower end of a validity range comes first");
            }
        }
    }
    material.note = fields.text("note", true).value_or("");
    return material;
}

}  // namespace firnfield
