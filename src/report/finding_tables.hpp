/// Findings as tables: the same ones in text and on the page. What columns they have and what their rows tell comes from the descriptions
/// of findings (findings/schema).
#pragma once

#include <firnfield/history.hpp>
#include <firnfield/units.hpp>

#include <span>
#include <string>
#include <vector>

namespace firnfield {

struct FindingTable {
    std::string title{};
    struct Column {
        std::string head{};
        bool right = false;
        bool operator==(const Column&) const = default;
    };
    std::vector<Column> columns{};
    std::vector<std::vector<std::string>> rows{};
    std::vector<std::string> notes{};  ///< lines below it
    std::vector<bool> kept{};          ///< of every row, where rows are of limits: their column without a heading tells it in words
    [[nodiscard]] bool empty() const { return rows.empty(); }
};

/// The tables as text, each under its title.
[[nodiscard]] std::string to_text(const FindingTable& table);
[[nodiscard]] std::string to_text(std::span<const FindingTable> tables);

/// The limits of a study, the tightest first; of a list of studies each row tells which it is of, and where in time, too. A row has "ok" or "MISSED" before the
/// subject.
[[nodiscard]] FindingTable limits_table(const Findings& findings, const Units& units);
[[nodiscard]] FindingTable limits_table(const TimeFindings& findings, const Units& units);
[[nodiscard]] FindingTable limits_table(std::span<const StudyFindings> studies, const Units& units);
/// Parts, sensors, joints, resistors, where the heat goes; those that have no rows are left out.
[[nodiscard]] std::vector<FindingTable> finding_tables(const Findings& findings, const Units& units);
/// Parts, sensors, thermostats, energy.
[[nodiscard]] std::vector<FindingTable> finding_tables(const TimeFindings& findings, const Units& units);
/// Figures with their error bars; no rows where none were worked out.
[[nodiscard]] FindingTable error_bars_table(const Findings& findings, const Units& units);
/// How the mesh was refined, in a line; empty where it was not to be.
[[nodiscard]] std::string refinement_note(const Findings& findings, const Units& units);
/// What `check` tells: parts, joints, nodes, resistors.
[[nodiscard]] std::vector<FindingTable> inspection_tables(const Inspection& inspection, const Units& units);
/// The rules that pick surfaces.
[[nodiscard]] FindingTable thin_cells_table(const Inspection& inspection, const Units& units);
[[nodiscard]] FindingTable rules_table(const Inspection& inspection, const Units& units);

/// The margin of the limit that is tightest, in one line: "ALL LIMITS KEPT   smallest margin 3.1 K, lid".
[[nodiscard]] std::string verdict_line(const Findings& findings, const Units& units);
[[nodiscard]] std::string verdict_line(const TimeFindings& findings, const Units& units);

}  // namespace firnfield
