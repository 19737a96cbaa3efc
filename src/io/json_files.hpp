/// JSON as it stands in files of results.
#pragma once

#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "io/json_rows.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <string>
#include <string_view>

namespace firnfield {

/// The document says last what its numbers are in. Text from a model may hold bytes that are not UTF-8 when it was built through the API; they are replaced.
[[nodiscard]] inline std::string json_text(OrderedJson json) {
    json["numbers"] = "in SI units, temperatures in degC, where no other unit stands beside them";
    return json.dump(2, ' ', false, OrderedJson::error_handler_t::replace) + "\n";
}

/// The summary of a results folder as it stands. Throws FileError.
[[nodiscard]] inline std::string summary_text(const std::filesystem::path& folder) {
    if (!std::filesystem::exists(folder / "summary.json"))
        throw FileError(fmt::format("{} is no results folder: it has no summary.json", in_quotes(folder.string())));
    return read_file(folder / "summary.json");
}

/// What `make` makes of a text. Throws FileError for one that firnfield of this version does not write.
template <typename Make>
[[nodiscard]] auto read_json(std::string_view text, const std::filesystem::path& file, const Make& make) {
    try {
        return make(OrderedJson::parse(text));
    } catch (const nlohmann::json::exception&) {
    } catch (const NotAResult&) {
    }
    throw FileError(fmt::format("{} does not hold what this version of firnfield writes; solve the model again", in_quotes(file.string())));
}

}  // namespace firnfield
