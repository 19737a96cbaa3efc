// Any text that makes a small model is meshed and solved, or refused with an error; and what is found obeys physics: with heat only put in,
// nothing is colder than the coldest surroundings, the heat balance closes or says why not, and errors of figures are numbers.
#include <firnfield/firnfield.hpp>

#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <string_view>

using namespace firnfield;

namespace {

constexpr long long most_cells = 4000;

bool only_heats(const Model& model) {
    for (const Power& p : model.powers) {
        for (const auto& amount : {p.total, p.each, p.density, p.flux}) {
            if (amount && *amount < 0.0) return false;
        }
    }
    for (const Study& s : model.studies) {
        for (const auto& [name, factor] : s.scale) {
            if (factor < 0.0) return false;
        }
    }
    return true;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    try {
        Model model = read_model_text({reinterpret_cast<const char*>(data), size}, "");
        model.mesh.max_cells = std::min(model.mesh.max_cells, most_cells);
        if (model.parts.size() > 20) return 0;
        const auto mesh = std::make_shared<const Mesh>(build_mesh(model));
        for (Study study : studies_of(model)) {
            if (study.kind != StudyKind::steady) continue;
            const SteadySolution solution = solve_steady(model, mesh, study);
            const Findings found = findings(model, solution);
            for (const PartFinding& part : found.parts) {
                if (!std::isfinite(part.coldest.temperature) || !std::isfinite(part.hottest.temperature)) std::abort();
                if (only_heats(model) && part.coldest.temperature < solution.network->lowest_known - 1e-3 - 1e-6 * std::abs(part.hottest.temperature))
                    std::abort();
            }
            for (const Figure& figure : found.figures) {
                if (!std::isfinite(figure.error()) || figure.error() < 0.0) std::abort();
            }
            static_cast<void>(to_text(found));
        }
    } catch (const Error&) {
    }
    return 0;
}
