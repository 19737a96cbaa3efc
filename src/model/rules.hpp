/// Every rule of a model that picks surfaces.
#pragma once

#include <firnfield/model.hpp>

#include <fmt/format.h>

#include <string>

namespace firnfield {

/// Calls `visit(rule, address, acts)` for each, in the order of the model; `acts` is false for what is left out of it.
template <typename Visit>
void for_each_rule(const Model& model, const Visit& visit) {
    for (std::size_t i = 0; i < model.surfaces.size(); ++i) visit(model.surfaces[i].pick, fmt::format("surface[{}]", i), true);
    for (std::size_t i = 0; i < model.coolings.size(); ++i) visit(model.coolings[i].on, fmt::format("cooling[{}].on", i), model.coolings[i].include);
    for (std::size_t i = 0; i < model.holds.size(); ++i) visit(model.holds[i].on, fmt::format("hold[{}].on", i), model.holds[i].include);
    for (std::size_t i = 0; i < model.powers.size(); ++i) {
        if (model.powers[i].on) visit(*model.powers[i].on, fmt::format("power[{}].on", i), model.powers[i].include);
    }
}

}  // namespace firnfield
