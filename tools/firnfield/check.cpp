#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {

int check(const CheckOptions& options) {
    const Model model = read_model(options.model);
    const Mesh mesh = build_mesh(model);
    const Inspection inspection = inspect(model, mesh);
    fmt::print("{}", options.json ? to_json(inspection) : to_text(inspection));
    return done;
}

}  // namespace firnfield::command
