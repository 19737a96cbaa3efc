// The folders of src/ form layers: a file includes only from its own folder and from those before it.

#include <catch2/catch.hpp>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <map>
#include <string>
#include <vector>

namespace fs = std::filesystem;

namespace {

const std::vector<std::string> layers{"base",  "material", "convection", "geometry", "model", "mesh", "linear", "network",
                                      "study", "reduce",   "findings",   "design",   "run",   "io",   "report"};

const std::map<std::string, std::string> layer_of_header{{"error.hpp", "base"},
                                                         {"quantity.hpp", "base"},
                                                         {"units.hpp", "base"},
                                                         {"version.hpp", "base"},
                                                         {"progress.hpp", "base"},
                                                         {"material.hpp", "material"},
                                                         {"convection.hpp", "convection"},
                                                         {"geometry.hpp", "geometry"},
                                                         {"curve.hpp", "base"},
                                                         {"model.hpp", "model"},
                                                         {"mesh.hpp", "mesh"},
                                                         {"network.hpp", "network"},
                                                         {"profile.hpp", "model"},
                                                         {"steady.hpp", "study"},
                                                         {"transient.hpp", "study"},
                                                         {"findings.hpp", "findings"},
                                                         {"error_bars.hpp", "findings"},
                                                         {"refine.hpp", "findings"},
                                                         {"explain.hpp", "findings"},
                                                         {"state_space.hpp", "findings"},
                                                         {"compare.hpp", "design"},
                                                         {"seek.hpp", "design"},
                                                         {"tolerance.hpp", "design"},
                                                         {"parameter.hpp", "model"},
                                                         {"keys.hpp", "model"},
                                                         {"history.hpp", "findings"},
                                                         {"model_file.hpp", "io"},
                                                         {"run.hpp", "run"},
                                                         {"results_writer.hpp", "report"},
                                                         {"results.hpp", "io"},
                                                         {"stl.hpp", "io"},
                                                         {"step.hpp", "io"},
                                                         {"assembly.hpp", "model"},
                                                         {"report.hpp", "report"},
                                                         {"text.hpp", "report"},
                                                         {"state_space_files.hpp", "report"},
                                                         {"picture.hpp", "report"},
                                                         {"probe.hpp", "report"},
                                                         {"animation.hpp", "io"},
                                                         {"chart.hpp", "report"},
                                                         {"firnfield.hpp", "report"}};

std::size_t rank(const std::string& layer) { return static_cast<std::size_t>(std::find(layers.begin(), layers.end(), layer) - layers.begin()); }

/// What stands between `open` and `close` when the line starts with `open`; empty otherwise.
std::string enclosed(const std::string& line, const std::string& open, char close) {
    if (!line.starts_with(open)) return {};
    const std::size_t end = line.find(close, open.size());
    return end == std::string::npos ? std::string() : line.substr(open.size(), end - open.size());
}

/// Every include of our own in a file, as the layer it reaches for.
std::vector<std::string> included_layers(const fs::path& file) {
    std::vector<std::string> found;
    std::ifstream stream(file);
    for (std::string line; std::getline(stream, line);) {
        if (const std::string own = enclosed(line, "#include \"", '"'); own.find('/') != std::string::npos) found.push_back(own.substr(0, own.find('/')));
        if (const std::string header = enclosed(line, "#include <firnfield/", '>'); !header.empty()) {
            INFO(file << " includes an unknown header " << header);
            REQUIRE(layer_of_header.contains(header));
            found.push_back(layer_of_header.at(header));
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
        const std::string layer = entry.path().lexically_relative(root / "src").begin()->string();
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

TEST_CASE("only the network knows what elements it is made of", "[structure]") {
    const std::vector<std::string> forbidden{"network/laws", ".families", "->families", ".films", "walls.groups", "each_family"};
    for (const char* folder : {"src", "tools"}) {
        for (const auto& entry : fs::recursive_directory_iterator(fs::path(FIRNFIELD_SOURCE_DIR) / folder)) {
            if ((entry.path().extension() != ".cpp" && entry.path().extension() != ".hpp") || entry.path().string().find("/src/network/") != std::string::npos)
                continue;
            std::ifstream stream(entry.path());
            for (std::string line; std::getline(stream, line);) {
                INFO(entry.path() << ": " << line);
                for (const std::string& word : forbidden) CHECK(line.find(word) == std::string::npos);
            }
        }
    }
}

TEST_CASE("the core prints nothing and knows no file format", "[structure]") {
    const std::vector<std::string> forbidden{"toml", "nlohmann", "cairo", "iostream", "fstream", "cstdio", "zlib"};
    for (const std::string& layer : layers) {
        if (layer == "io" || layer == "report") continue;
        for (const auto& entry : fs::recursive_directory_iterator(fs::path(FIRNFIELD_SOURCE_DIR) / "src" / layer)) {
            std::ifstream stream(entry.path());
            for (std::string line; std::getline(stream, line);) {
                INFO(entry.path() << ": " << line);
                for (const std::string& word : forbidden) CHECK_FALSE(line.starts_with("#include <" + word));
            }
        }
    }
}

TEST_CASE("only what reads and writes STEP knows the CAD kernel", "[structure]") {
    for (const char* folder : {"include", "src", "tools", "tests", "examples"}) {
        for (const auto& entry : fs::recursive_directory_iterator(fs::path(FIRNFIELD_SOURCE_DIR) / folder)) {
            if (!entry.is_regular_file() || entry.path().string().find("/src/io/step/") != std::string::npos) continue;
            std::ifstream stream(entry.path());
            for (std::string line; std::getline(stream, line);) {
                INFO(entry.path() << ": " << line);
                CHECK_FALSE((line.starts_with("#include <") && line.ends_with(".hxx>")));
            }
        }
    }
}

TEST_CASE("every file opens with what it is", "[structure]") {
    std::size_t files = 0;
    for (const char* folder : {"include", "src", "tools", "tests", "bench", "examples", "fuzz"}) {
        for (const auto& entry : fs::recursive_directory_iterator(fs::path(FIRNFIELD_SOURCE_DIR) / folder)) {
            if (entry.path().extension() != ".cpp" && entry.path().extension() != ".hpp") continue;
            std::ifstream stream(entry.path());
            std::string line;
            std::getline(stream, line);
            INFO(entry.path());
            CHECK(line.starts_with("//"));
            CHECK(line.size() > 12);
            ++files;
        }
    }
    CHECK(files > 300);
}
