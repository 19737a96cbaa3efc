// The folders of src/ form layers: a file includes only from its own folder and from those before it.

#include <catch2/catch.hpp>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <string>
#include <vector>

namespace fs = std::filesystem;

namespace {

const std::vector<std::string> layers{"base", "material", "geometry", "model", "mesh", "network", "linear", "study", "findings", "io", "report"};

const std::map<std::string, std::string> layer_of_header{
    {"error.hpp", "base"},      {"quantity.hpp", "base"},  {"version.hpp", "base"},    {"material.hpp", "material"}, {"geometry.hpp", "geometry"},
    {"model.hpp", "model"},     {"mesh.hpp", "mesh"},      {"network.hpp", "network"}, {"steady.hpp", "study"},      {"findings.hpp", "findings"},
    {"model_file.hpp", "io"},   {"results.hpp", "io"},     {"text.hpp", "report"},     {"picture.hpp", "report"},    {"firnfield.hpp", "report"}};

std::size_t rank(const std::string& layer) {
    return static_cast<std::size_t>(std::find(layers.begin(), layers.end(), layer) - layers.begin());
}

/// Every include of our own in a file, as the layer it reaches for.
std::vector<std::string> included_layers(const fs::path& file) {
    static const std::regex own(R"re(#include "([a-z]+)/)re"), pub(R"re(#include <firnfield/([a-z_]+\.hpp)>)re");
    std::vector<std::string> found;
    std::ifstream stream(file);
    for (std::string line; std::getline(stream, line);) {
        std::smatch match;
        if (std::regex_search(line, match, own)) found.push_back(match[1]);
        if (std::regex_search(line, match, pub)) {
            INFO(file << " includes an unknown header " << match[1]);
            REQUIRE(layer_of_header.contains(match[1]));
            found.push_back(layer_of_header.at(match[1]));
        }
    }
    return found;
}

}  // namespace

TEST_CASE("folders include only from folders before them", "[structure]") {
    const fs::path root = FIRNFIELD_SOURCE_DIR;
    std::size_t includes = 0;
    for (const auto& entry : fs::recursive_directory_iterator(root / "src")) {
        if (entry.path().extension() != ".cpp" && entry.path().extension() != ".hpp") continue;
        const std::string layer = entry.path().parent_path().filename();
        REQUIRE(rank(layer) < layers.size());
        for (const std::string& other : included_layers(entry.path())) {
            INFO(entry.path() << " includes from " << other);
            CHECK(rank(other) <= rank(layer));
            ++includes;
        }
    }
    for (const auto& [header, layer] : layer_of_header) {
        for (const std::string& other : included_layers(root / "include/firnfield" / header)) {
            INFO(header << " includes from " << other);
            CHECK(rank(other) <= rank(layer));
        }
    }
    CHECK(includes > 50);
}

TEST_CASE("the core prints nothing and knows no file format", "[structure]") {
    static const std::regex forbidden(R"re(#include <(toml|nlohmann|cairo|iostream|fstream|cstdio|zlib))re");
    for (const std::string& layer : layers) {
        if (layer == "io" || layer == "report") continue;
        for (const auto& entry : fs::directory_iterator(fs::path(FIRNFIELD_SOURCE_DIR) / "src" / layer)) {
            std::ifstream stream(entry.path());
            for (std::string line; std::getline(stream, line);) {
                INFO(entry.path() << ": " << line);
                CHECK_FALSE(std::regex_search(line, forbidden));
            }
        }
    }
}
