// A STEP file as parts of a model.

#include <firnfield/step.hpp>

#include <firnfield/error.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace firnfield {
namespace {

class Expansion {
public:
    Expansion(const Assembly& assembly, const StepImport& import) : assembly_(assembly), import_(import) {}

    std::vector<Part> run() {
        require_matches("pick", assembly_.pick);
        require_matches("leave_out", assembly_.leave_out);
        require_known_materials();
        std::vector<Part> parts;
        for (const StepSolid& solid : import_.solids) {
            const std::vector<int> copies = taken(solid);
            if (!copies.empty()) add(solid, copies, parts);
        }
        if (problems_.empty() && parts.empty()) report("pick", "nothing is left of the assembly");
        if (!without_.empty()) report("materials", fmt::format("no material is given for {}; name them, or all the rest by \"*\"", quoted_list(without_, 12)));
        change(parts);
        if (!problems_.empty()) throw ModelError(std::move(problems_));
        return parts;
    }

private:
    void report(std::string address, std::string message) {
        problems_.push_back({.address = std::move(address), .message = std::move(message), .location = {}});
    }

    /// Whether a name means a copy: the solid, this copy of it, or an assembly that it is in.
    static bool means(const std::string& pattern, const StepSolid& solid, std::size_t copy) {
        const std::string& within = solid.copies[copy].within;
        const std::string numbered = fmt::format("{} {}", solid.name, copy + 1);
        for (const std::string& name : {solid.name, numbered}) {
            if (matches_wildcard(pattern, name) || (!within.empty() && matches_wildcard(pattern, within + "/" + name))) return true;
        }
        // Each assembly on the way, by its own name and by all names down to it.
        for (std::size_t from = 0; from < within.size();) {
            const std::size_t end = std::min(within.find('/', from), within.size());
            if (matches_wildcard(pattern, within.substr(from, end - from)) || matches_wildcard(pattern, within.substr(0, end))) return true;
            from = end + 1;
        }
        return false;
    }

    static bool any_means(const std::vector<std::string>& patterns, const StepSolid& solid, std::size_t copy) {
        return std::any_of(patterns.begin(), patterns.end(), [&](const std::string& pattern) { return means(pattern, solid, copy); });
    }

    /// How many copies of a solid a name of `materials` means. Such a name may begin with the prefix; assemblies it names with a "/" alone, or "board *" would
    /// mean all that is in "board A".
    [[nodiscard]] std::size_t count_meant(const std::string& pattern, const StepSolid& solid) const {
        if (matches_wildcard(pattern, solid.name) || matches_wildcard(pattern, assembly_.prefix + solid.name)) return solid.copies.size();
        std::size_t count = 0;
        for (std::size_t c = 0; c < solid.copies.size(); ++c) {
            const std::string numbered = fmt::format("{} {}", solid.name, c + 1);
            const bool hit = pattern.find('/') != std::string::npos
                                 ? means(pattern, solid, c)
                                 : matches_wildcard(pattern, numbered) || matches_wildcard(pattern, assembly_.prefix + numbered);
            count += hit ? 1 : 0;
        }
        return count;
    }

    void require_matches(const std::string& key, const std::vector<std::string>& patterns) {
        for (std::size_t p = 0; p < patterns.size(); ++p) {
            const auto meant = [&](const StepSolid& solid) {
                for (std::size_t c = 0; c < solid.copies.size(); ++c) {
                    if (means(patterns[p], solid, c)) return true;
                }
                return false;
            };
            if (std::none_of(import_.solids.begin(), import_.solids.end(), meant)) report(fmt::format("{}[{}]", key, p), nothing_called(patterns[p]));
        }
    }

    void require_known_materials() {
        for (const auto& [pattern, material] : assembly_.materials) {
            bool any = false;
            for (const StepSolid& solid : import_.solids) {
                const std::size_t count = count_meant(pattern, solid);
                any = any || count > 0;
                if (count > 0 && count < solid.copies.size())
                    report("materials", fmt::format("{} means {} of the {} copies of {}, and copies have one material; leave some out and take them by a "
                                                    "part of their own for another",
                                                    in_quotes(pattern), count, solid.copies.size(), in_quotes(solid.name)));
            }
            if (!any) report("materials", nothing_called(pattern));
        }
    }

    [[nodiscard]] std::string nothing_called(const std::string& pattern) const {
        std::vector<std::string> names;
        for (const StepSolid& solid : import_.solids) {
            names.push_back(solid.name);
            for (const StepCopy& copy : solid.copies) {
                if (!copy.within.empty()) names.push_back(copy.within);
            }
        }
        return fmt::format("nothing in the file is called {}{}", in_quotes(pattern), did_you_mean(pattern, names));
    }

    /// The numbers of the copies that are wanted.
    [[nodiscard]] std::vector<int> taken(const StepSolid& solid) const {
        std::vector<int> copies;
        for (std::size_t c = 0; c < solid.copies.size(); ++c) {
            const bool wanted = assembly_.pick.empty() || any_means(assembly_.pick, solid, c);
            if (wanted && !any_means(assembly_.leave_out, solid, c)) copies.push_back(static_cast<int>(c) + 1);
        }
        return copies;
    }

    void add(const StepSolid& solid, const std::vector<int>& copies, std::vector<Part>& parts) {
        if (!solid.geometry) {
            report("file", fmt::format("solid {} cannot be used: {}; leave_out = [{}] goes on without it", in_quotes(solid.name), solid.why_not,
                                       in_quotes(solid.name)));
            return;
        }
        Part part{.name = assembly_.prefix + solid.name, .material = material_of(solid), .scale = assembly_.scale, .mirrored = assembly_.mirrored};
        CadSolid shape = cad_solid(import_, assembly_.file, solid.name, copies);
        shape.at = assembly_.at;
        part.shape = std::move(shape);
        part.rotate = assembly_.rotate;
        part.cell = assembly_.cell;
        part.colour = solid.colour;
        if (part.material.empty() && !changed_material(part.name)) without_.push_back(part.name);
        parts.push_back(std::move(part));
    }

    [[nodiscard]] std::string material_of(const StepSolid& solid) const {
        for (const auto& [pattern, material] : assembly_.materials) {
            if (count_meant(pattern, solid) > 0) return material;
        }
        return !solid.material.empty() && find_material({}, solid.material) != nullptr ? solid.material : std::string();
    }

    [[nodiscard]] bool changed_material(const std::string& name) const {
        return std::any_of(assembly_.parts.begin(), assembly_.parts.end(),
                           [&](const AssemblyPart& p) { return !p.material.empty() && matches_wildcard(p.name, name); });
    }

    void change(std::vector<Part>& parts) {
        for (std::size_t c = 0; c < assembly_.parts.size(); ++c) {
            const AssemblyPart& change = assembly_.parts[c];
            bool any = false;
            for (Part& part : parts) {
                if (!matches_wildcard(change.name, part.name)) continue;
                any = true;
                if (change.include) part.include = *change.include;
                if (change.stirred) part.stirred = *change.stirred;
                if (!change.material.empty()) part.material = change.material;
                if (change.cell) part.cell = change.cell;
                if (!change.colour.empty()) part.colour = change.colour;
            }
            std::vector<std::string> names;
            for (const Part& part : parts) names.push_back(part.name);
            if (!any && problems_.empty())
                report(fmt::format("part[{}].name", c),
                       fmt::format("no part of the assembly is called {}{}", in_quotes(change.name), did_you_mean(change.name, names)));
        }
    }

    const Assembly& assembly_;
    const StepImport& import_;
    std::vector<Problem> problems_;
    std::vector<std::string> without_;  // parts without a material
};

}  // namespace

std::vector<Part> parts_of(const Assembly& assembly, const StepImport& import) { return Expansion(assembly, import).run(); }

}  // namespace firnfield
