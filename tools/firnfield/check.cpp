#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield::command {

int check(const CheckOptions& options) {
    const Model model = read_model(options.model);
    const Mesh mesh = build_mesh(model);
    if (!options.show.empty()) {
        Picture view;
        view.azimuth = options.azimuth;
        view.elevation = options.elevation;
        std::filesystem::path file = options.picture;
        if (file.empty()) {
            std::string name = options.show;
            std::replace(name.begin(), name.end(), '/', '-');
            file = name + ".png";
        }
        draw_rule(file, model, mesh, options.show, view);
        fmt::print("Picture in {}\n", file.string());
        return done;
    }
    const Inspection inspection = inspect(model, mesh);
    fmt::print("{}", options.json ? to_json(inspection) : to_text(inspection));
    return done;
}

}  // namespace firnfield::command
