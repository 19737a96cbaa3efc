/// Results for machines and for later: JSON, fields for viewers, and the results folder.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/model.hpp>
#include <firnfield/steady.hpp>

#include <filesystem>
#include <span>
#include <string>

namespace firnfield {

/// Findings as JSON; every key is described in docs/results.md. SI units, temperatures in °C.
[[nodiscard]] std::string to_json(const Findings& findings);

/// What `check` tells, as JSON.
[[nodiscard]] std::string to_json(const Inspection& inspection);

/// The whole of `summary.json`: version, fingerprint of the model, and the findings of every study.
[[nodiscard]] std::string summary_json(const Model& model, std::span<const Findings> studies);

/// 32 hexadecimal digits that change whenever anything in the model or in a material it uses changes.
[[nodiscard]] std::string fingerprint(const Model& model);

/// Writes temperature (°C), part number, heat flux (W/m²) and how much of its box the part fills, of every cell, as a VTK unstructured grid (XML, appended
/// binary data, zlib). Throws FileError.
void write_vtu(const std::filesystem::path& file, const Model& model, const SteadySolution& solution);

/// Writes the true surface of every part with smooth temperatures (°C) at its corners, in the same format. Throws FileError.
void write_surface_vtu(const std::filesystem::path& file, const Model& model, const SteadySolution& solution);

/// Writes text to a file, by way of a temporary one beside it. Throws FileError.
void write_file(const std::filesystem::path& file, std::string_view content);

/// A results folder in the making: files go to a temporary folder beside it, commit() renames that into place.
/// A results folder that is there already is replaced; anything else in the way is an error.
class ResultsFolder {
public:
    /// Throws FileError when `target` exists and is not a results folder, or cannot be created.
    explicit ResultsFolder(std::filesystem::path target);
    ResultsFolder(const ResultsFolder&) = delete;
    ResultsFolder& operator=(const ResultsFolder&) = delete;
    ~ResultsFolder();

    /// Where to put files.
    [[nodiscard]] const std::filesystem::path& path() const { return work_; }
    void commit();

private:
    std::filesystem::path target_, work_;
    bool committed_ = false;
};

}  // namespace firnfield
