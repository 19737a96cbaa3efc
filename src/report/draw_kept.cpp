// Pictures of results that were written before.

#include <firnfield/model_file.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "model/bodies.hpp"
#include "report/kept_results.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace firnfield {
namespace {

/// Of a model what the keys of a picture refer to: names of parts, and nothing of their geometry, which takes long to read where it is in files.
Model names_for_pictures(const Model& model, const Picture& picture) {
    Model names{.title = model.title, .units = model.units, .space = model.space, .pictures = {picture}};
    std::set<std::string> known;
    const auto add = [&](const std::string& name) {
        if (known.insert(name).second) names.parts.push_back({.name = name, .shape = Box{.size = {1.0, 1.0, 1.0}, .at = {}}, .material = "copper"});
    };
    for (const Part& part : model.parts) add(part.name);
    for (const PlacedPart& copy : place_parts(model, true)) add(copy.name);
    return names;
}

/// The picture asked for: one of the model with some of its keys changed, read like those of a file.
Picture asked_picture(const Model& model, const DrawQuestion& question) {
    const std::vector<Picture> all = pictures_of(model);
    auto from = all.begin();
    if (!question.picture.empty()) {
        from = std::find_if(all.begin(), all.end(), [&](const Picture& p) { return p.name == question.picture; });
        if (from == all.end()) {
            std::vector<std::string> names;
            for (const Picture& p : all) names.push_back(p.name);
            throw Error(fmt::format("the model has no picture {}; it has {}", in_quotes(question.picture), quoted_list(names, 12)));
        }
    }
    if (question.changes.empty()) return *from;
    Picture drawn = *from;
    drawn.name = "drawn";
    const ModelFile file(write_model(names_for_pictures(model, drawn)), "model.toml");
    std::vector<Change> changes;
    for (const Change& change : question.changes) {
        if (change.address == "name") throw Error("--set: a picture that is drawn is called as its file is: give --out");
        changes.push_back({"picture.drawn." + change.address, change.value});
    }
    try {
        return file.model(file.design(""), changes).pictures.front();
    } catch (const ModelError& error) {
        // The file is the program's own: what is wrong is the question.
        throw Error(fmt::format("--set: {}", error.problems().front().message));
    }
}

/// Keys that say how a picture lies on its page are none of a scene.
void require_of_scene(const DrawQuestion& question) {
    const DrawQuestion usual;
    if (question.width != usual.width || question.height != usual.height) throw Error("a scene has no width and height: they are a picture's");
    const std::vector<std::string> known{"show", "along", "hide", "palette", "light_is_high", "above", "range", "flux_range", "section"};
    for (const Change& change : question.changes) {
        const std::string key = change.address.substr(0, change.address.find('.'));
        if (std::find(known.begin(), known.end(), key) == known.end())
            throw Error(fmt::format("--set {}: a scene has no use for it; of a picture's keys it takes {}", change.address, quoted_list(known, known.size())));
    }
}

}  // namespace

std::vector<std::string> draw_kept(const std::filesystem::path& folder, const std::filesystem::path& file, const DrawQuestion& question) {
    const bool as_scene = file.extension() == ".glb";
    if (!as_scene && file.extension() != ".png")
        throw Error(fmt::format("{}: pictures are PNG and scenes binary glTF; let the name end in .png or .glb", in_quotes(file.string())));
    if (as_scene) require_of_scene(question);
    std::vector<std::string> notes;
    const KeptResults kept(folder, question.study);
    if (!kept.stale().empty()) notes.push_back("these results are stale: " + kept.stale());
    Model model = kept.model();
    model.units = question.units.value_or(kept.summary().units);
    if (model.parts.empty()) throw Error("lumped nodes alone make no picture");
    const PictureFile picture{.file = file, .view = asked_picture(model, question), .remark = kept.stale()};
    const SteadySolution moment = question.at ? kept.at(*question.at, notes) : kept.record(kept.count() - 1);
    if (as_scene) {
        write_scene(file, model, moment, kept.found(), picture.view, picture.remark);
        return notes;
    }
    const bool told = !question.at || kept.study().kind == StudyKind::steady;  // with what was known of the mesh
    draw_pictures(model, moment, told ? kept.found() : findings(model, moment, {.errors = false}), std::span(&picture, 1), question.width, question.height);
    return notes;
}

}  // namespace firnfield
