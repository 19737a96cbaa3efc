// What a STEP file holds, in words and tables.

#include <firnfield/quantity.hpp>
#include <firnfield/step.hpp>
#include <firnfield/text.hpp>

#include "base/words.hpp"
#include "report/same_place.hpp"
#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace firnfield {
namespace {

/// Sizes and places stand in the unit that the reader has of lengths, mm where nothing was said.
UnitOf lengths_in(const Units& units) { return {.name = units.length, .shown = units.length, .one = parse_quantity("1 " + units.length, kinds::length)}; }

std::string size_text(const StepSolid& solid, const UnitOf& length) {
    const auto number = [&](double metres) { return fmt::format("{:.4g}", length.out(metres)); };
    return fmt::format("{} × {} × {}", number(solid.box.size.x), number(solid.box.size.y), number(solid.box.size.z));
}

/// "in gearbox (2), cover": the assemblies that its copies are in.
std::string places_text(const StepSolid& solid) {
    std::vector<std::string> seen;
    for (const StepCopy& copy : solid.copies) {
        if (!copy.within.empty() && std::find(seen.begin(), seen.end(), copy.within) == seen.end()) seen.push_back(copy.within);
    }
    std::string out;
    for (const std::string& within : seen) out += (out.empty() ? "" : ", ") + within;
    return out;
}

}  // namespace

std::string to_text(const StepImport& import, const Units& units) {
    const UnitOf length = lengths_in(units);
    const bool nested = std::any_of(import.solids.begin(), import.solids.end(), [](const StepSolid& s) { return !places_text(s).empty(); });
    const bool named = std::any_of(import.solids.begin(), import.solids.end(), [](const StepSolid& s) { return !s.material.empty(); });
    std::vector<std::string> heads{">#", "solid", ">copies", fmt::format(">size ({})", length.shown), ">volume", ">faces"};
    if (nested) heads.emplace_back("in");
    if (named) heads.emplace_back("material in the file");
    Table table(heads);
    std::string remarks;
    std::size_t copies = 0, unusable = 0, number = 0;
    for (const StepSolid& solid : import.solids) {
        copies += solid.copies.size();
        std::vector<std::string> row{fmt::format("{}", ++number), solid.name, fmt::format("{}", solid.copies.size())};
        if (solid.geometry) {
            row.insert(row.end(), {size_text(solid, length), show_quantity(solid.geometry->volume(), kinds::volume, units),
                                   fmt::format("{}", solid.geometry->faces().size())});
        } else {
            ++unusable;
            row.insert(row.end(), {"-", "-", "-"});
            remarks += wrapped(fmt::format("  ! {} cannot be used: {}", in_quotes(solid.name), solid.why_not), 4) + "\n";
        }
        if (nested) row.push_back(places_text(solid));
        if (named) row.push_back(solid.material);
        table.row(std::move(row));
        for (const std::string& repair : solid.repairs) remarks += wrapped(fmt::format("  ! {}: {}", in_quotes(solid.name), repair), 4) + "\n";
    }
    for (const auto& [later, earlier] : in_same_place(import))
        remarks += wrapped(fmt::format("  ! {} stands where {} stands, and is as large: is it there twice?", in_quotes(later), in_quotes(earlier)), 4) + "\n";
    return fmt::format("{}, {} solids in {} places{}\n{}{}", import.schema.empty() ? "STEP" : import.schema, import.solids.size(), copies,
                       unusable == 0 ? "" : fmt::format(", {} of which cannot be used", unusable), table.text(), remarks);
}

std::string faces_text(const std::string& of, std::span<const ExactFace> faces, const Units& units) {
    const UnitOf length = lengths_in(units);
    Table table({">#", "face", "kind", ">area", fmt::format(">diameter ({})", length.shown), fmt::format("middle ({})", length.shown)});
    const auto shown = [&](double metres) { return fmt::format("{:.4g}", std::abs(metres) < 1e-9 ? 0.0 : length.out(metres)); };
    std::size_t number = 0;
    for (const std::size_t place : in_told_order(faces)) {
        const ExactFace& face = faces[place];
        if (!(face.area > 0.0)) break;  // additions cover it
        table.row({fmt::format("{}", ++number), face.name, std::string(name_of(face.kind)), show_quantity(face.area, kinds::area, units),
                   face.diameter ? shown(*face.diameter) : "", fmt::format("({}, {}, {})", shown(face.at.x), shown(face.at.y), shown(face.at.z))});
    }
    return fmt::format("{}: {} {}\n{}", of, number, number == 1 ? "face" : "faces", table.text());
}

}  // namespace firnfield
