/// Mustache templates.
#pragma once

#include <nlohmann/json_fwd.hpp>

#include <string>

namespace firnfield {

/// Fills a template. Throws std::logic_error for a name that the data do not have, which the template engine would pass over.
[[nodiscard]] std::string render_strictly(const std::string& page, const nlohmann::ordered_json& data);

}  // namespace firnfield
