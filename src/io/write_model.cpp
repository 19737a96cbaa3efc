// A model as the text of its file.

#include <firnfield/model_file.hpp>

#include "io/write_keys.hpp"

#include <fmt/format.h>

namespace firnfield {
namespace {

/// Visits the tables of a model and writes each under its head.
class ModelWriter {
public:
    explicit ModelWriter(const Model& model) : model_(model) { write({{"firnfield", "1"}}); }

    void text(std::string Model::*member, const Key& key) {
        if (!(model_.*member).empty()) write({{std::string(key.name), toml_text(model_.*member)}});
    }
    void units() {
        out_ += "\n[units]\n";
        write({{"length", "\"mm\""}, {"temperature", "\"degC\""}});
        if (model_.units != Units{}) write({{"answers", toml_text(fmt::format("{}, {}", model_.units.length, model_.units.temperature))}});
    }
    template <typename Inner>
    void table(Inner Model::*member, const Key& key) {
        out_ += fmt::format("\n[{}]\n", key.name);
        write(written_keys(model_.*member));
    }
    template <typename Inner>
    void table(std::optional<Inner> Model::*member, const Key& key) {
        if (!(model_.*member)) return;
        out_ += fmt::format("\n[{}]\n", key.name);
        write(written_keys(*(model_.*member)));
    }
    template <typename Inner>
    void tables(std::vector<Inner> Model::*member, const Key& key) {
        for (const Inner& inner : model_.*member) {
            out_ += fmt::format("\n[[{}]]\n", key.name);
            write(written_keys(inner));
        }
    }
    [[nodiscard]] std::string take() { return std::move(out_); }

private:
    void write(const Entries& entries) {
        for (const auto& [key, value] : entries) out_ += fmt::format("{} = {}\n", key, value);
    }

    const Model& model_;
    std::string out_;
};

}  // namespace

std::string write_model(const Model& model) {
    ModelWriter writer(model);
    describe(writer, model);
    return writer.take();
}

}  // namespace firnfield
