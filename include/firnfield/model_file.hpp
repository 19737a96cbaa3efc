/// Model files: TOML in, TOML out.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/parameter.hpp>

#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

class CadFiles;

/// A model made from a file by changes: a variant, or a point of a sweep.
struct Design {
    std::string name{};
    std::string from{};  ///< the variant that it changes; empty: the file as it stands
    std::string note{};
    std::string sweep{};            ///< of a point, the sweep
    std::vector<Change> changes{};  ///< its own, without those of what it is made from
};

/// The name of the file as it stands among its designs.
inline constexpr std::string_view base_design = "base";

/// A model file with its parameters, variants and sweeps.
class ModelFile {
public:
    /// Reads and validates the model, and reads what its designs are; `file` is the name shown in messages. Throws ModelError with every mistake and its place.
    /// `cad`: CAD files that have been read; what this one reads is added. Null: none yet.
    ModelFile(std::string text, std::string file, std::shared_ptr<CadFiles> cad = nullptr);

    [[nodiscard]] const Model& base() const { return base_; }
    [[nodiscard]] const std::vector<ParameterInfo>& parameters() const { return parameters_; }
    /// Variants, then the points of sweeps, in the order of the file.
    [[nodiscard]] const std::vector<Design>& designs() const { return designs_; }
    /// The design of that name; throws Error that names the nearest. `base_design` is the file as it stands.
    [[nodiscard]] const Design& design(const std::string& name) const;
    /// Validates these designs, as a model of any of them does for one. Throws ModelError with every mistake of all, its design and its place.
    void check(std::span<const Design> designs) const;
    /// The model of a design, with further changes. Throws ModelError.
    [[nodiscard]] Model model(const Design& design, std::span<const Change> more = {}) const;
    [[nodiscard]] const std::string& file() const { return file_; }
    /// From here on the models tell their answers in these units instead of those of the file.
    void tell_in(const Units& units);

private:
    std::string text_, file_;
    std::shared_ptr<CadFiles> cad_;  // read once for all designs
    Design as_it_stands_{.name = std::string(base_design)};
    Model base_{};
    std::optional<Units> units_{};
    std::vector<ParameterInfo> parameters_{};
    std::vector<Design> designs_{};
};

/// Reads a model file. Throws as the constructor, and FileError when the file cannot be read.
[[nodiscard]] ModelFile read_model_file(const std::filesystem::path& file);

/// Reads and validates a model. Throws ModelError with every mistake and its file:line:column, FileError when the
/// file cannot be read. The format is described in docs/model-file.md.
[[nodiscard]] Model read_model(const std::filesystem::path& file);

/// The same from text; `file` is the name shown in messages, beside which files that the text names are looked for. Without it such files are
/// refused: text from elsewhere opens nothing here.
[[nodiscard]] Model read_model_text(std::string_view text, const std::string& file = "model.toml");

/// Where the mistakes of a model that was read from a text stand. `problems` carry addresses, as build_mesh() and
/// build_network() throw them; returns them with file, line and column.
[[nodiscard]] std::vector<Problem> locate_problems(std::string_view text, const std::string& file, const std::vector<Problem>& problems);

/// Writes a model so that read_model_text() gives back an equal one.
[[nodiscard]] std::string write_model(const Model& model);

}  // namespace firnfield
