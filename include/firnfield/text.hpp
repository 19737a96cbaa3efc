/// Findings as text to read, in the units of the reader: those of the model are in Model::units and Summary::units.
#pragma once

#include <firnfield/compare.hpp>
#include <firnfield/findings.hpp>
#include <firnfield/history.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/seek.hpp>
#include <firnfield/step.hpp>
#include <firnfield/tolerance.hpp>

#include <string>

namespace firnfield {

/// Verdict first, then hot spots, parts, joints, where the heat goes, and remarks. UTF-8, at most 110 columns wide.
[[nodiscard]] std::string to_text(const Findings& findings, const Units& units = {});

/// What happened over time: verdict first, then peaks, thermostats, energy, and where it stands.
[[nodiscard]] std::string to_text(const TimeFindings& findings, const Units& units = {});

/// Why a place is hot: the splits of its rise, and what would change it.
[[nodiscard]] std::string to_text(const Explanation& explanation, const Units& units = {});

/// Designs side by side: an overview for each study, the figures that differ, where sweeps meet limits.
[[nodiscard]] std::string to_text(const Comparison& comparison, const Units& units = {});

/// Parameters of a model file with their values, and what can be solved besides the file as it stands.
[[nodiscard]] std::string designs_text(const ModelFile& file, const Units& units = {});

/// What a search for the value at `address` found; `unit` is that of the numbers, `limit` what was to be met: "the limit on lid".
[[nodiscard]] std::string to_text(const SeekResult& result, const std::string& address, const std::string& unit, const std::string& limit,
                                  const Units& units = {});

/// How likely limits are kept, and which parameters decide it.
[[nodiscard]] std::string to_text(const ToleranceFindings& tolerance, const Units& units = {});

/// The model as understood: parts, joints, surfaces, studies, remarks.
[[nodiscard]] std::string to_text(const Inspection& inspection, const Units& units = {});

/// One material with all its properties, or many as a table.
[[nodiscard]] std::string to_text(const Material& material, const Units& units = {});
[[nodiscard]] std::string to_table(std::span<const Material> materials, const Units& units = {});

/// The text without control characters, ends of lines and tabs apart: nothing in it commands a terminal.
[[nodiscard]] std::string printable(std::string text);

/// What a file holds, as a table of its solids; lengths in the reader's units.
[[nodiscard]] std::string to_text(const StepImport& import, const Units& units = {});
/// The faces of a solid by the names that rules pick them with, the largest first; `of` says what it is.
[[nodiscard]] std::string faces_text(const std::string& of, std::span<const ExactFace> faces, const Units& units = {});
/// A model file to begin with: the assembly, materials proposed by the words in names, what touches and what nearly does, what looks as if it could be
/// left out, and what is open, as comments. `source` is the path as the model will write it.
[[nodiscard]] std::string first_model(const StepImport& import, const std::string& source);

}  // namespace firnfield
