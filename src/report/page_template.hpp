/// Pages from Mustache templates.
#pragma once

#include "report/finding_tables.hpp"

#include <nlohmann/json_fwd.hpp>

#include <string>

namespace firnfield {

/// Fills a template. Throws std::logic_error for a name that the data do not have, which the template engine would pass over.
[[nodiscard]] std::string render_strictly(const std::string& page, const nlohmann::ordered_json& data);

/// What both kinds of page are made of: templates, style and script, as files under web/.
[[nodiscard]] std::string report_template();
[[nodiscard]] std::string model_template();
[[nodiscard]] std::string page_style();
[[nodiscard]] std::string page_script();
/// What can stand inside a script element: no "<" that could begin markup there, of which "<!--" is the worst. In JSON one only stands in texts.
[[nodiscard]] std::string for_script(const std::string& json);
/// A table for a template: cells know whether they are aligned right; rows of limits what became of them.
[[nodiscard]] nlohmann::ordered_json table_json(const FindingTable& table);

}  // namespace firnfield
