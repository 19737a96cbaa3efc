/// Model files: TOML in, TOML out.
#pragma once

#include <firnfield/model.hpp>

#include <filesystem>
#include <string>
#include <string_view>

namespace firnfield {

/// Reads and validates a model. Throws ModelError with every mistake and its file:line:column, FileError when the
/// file cannot be read. The format is described in docs/model-file.md.
[[nodiscard]] Model read_model(const std::filesystem::path& file);

/// The same from text; `file` is the name shown in messages.
[[nodiscard]] Model read_model_text(std::string_view text, const std::string& file = "model.toml");

/// Where the mistakes of a model that was read from a text stand. `problems` carry addresses, as build_mesh() and
/// build_network() throw them; returns them with file, line and column.
[[nodiscard]] std::vector<Problem> locate_problems(std::string_view text, const std::string& file, const std::vector<Problem>& problems);

/// Writes a model so that read_model_text() gives back an equal one.
[[nodiscard]] std::string write_model(const Model& model);

}  // namespace firnfield
