// Runs a fuzz target on randomly damaged copies of seeds, files or folders of files: -runs=N SEED…
#include <algorithm>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <string>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

namespace {

void damage(std::string& bytes, const std::vector<std::string>& seeds, std::mt19937& random) {
    const auto below = [&](std::size_t n) { return n == 0 ? 0 : random() % n; };
    for (std::size_t times = 1 + below(6); times-- > 0;) {
        const std::size_t at = below(bytes.size());
        switch (below(7)) {
            case 0:
                if (!bytes.empty()) bytes[at] = static_cast<char>(random());
                break;
            case 1:
                if (!bytes.empty()) bytes[at] = static_cast<char>(bytes[at] ^ (1 << below(8)));
                break;
            case 2:
                bytes.erase(at, below(20));
                break;
            case 3:
                bytes.insert(at, std::string(1 + below(8), static_cast<char>(random())));
                break;
            case 4:
                bytes.resize(at);
                break;
            case 5: {
                const std::string& other = seeds[below(seeds.size())];
                const std::size_t from = below(other.size());
                bytes.insert(at, other.substr(from, below(60)));
                break;
            }
            default: {
                static const std::vector<std::string> words{
                    "nan",  "1e999",  "-1", "0", "[", "]", "{", "}", "\"", "=", "\n[[part]]\n", "shape = \"prism\"\n", "outline = [[0,0],[1,0],[1,1]]\n",
                    "true", "1e-300", "\n"};
                bytes.insert(at, words[below(words.size())]);
            }
        }
    }
}

}  // namespace

int main(int argc, char** argv) {
    long runs = 10000;
    std::vector<std::string> seeds;
    for (int i = 1; i < argc; ++i) {
        const std::string word = argv[i];
        if (word.rfind("-runs=", 0) == 0) {
            runs = std::atol(word.c_str() + 6);
            continue;
        }
        if (word.rfind('-', 0) == 0) continue;
        const auto read = [&](const std::filesystem::path& file) {
            std::ifstream stream(file, std::ios::binary);
            seeds.emplace_back(std::istreambuf_iterator<char>(stream), std::istreambuf_iterator<char>());
        };
        if (!std::filesystem::is_directory(word)) {
            read(word);
            continue;
        }
        std::vector<std::filesystem::path> files;
        for (const auto& entry : std::filesystem::directory_iterator(word)) files.push_back(entry.path());
        std::sort(files.begin(), files.end());
        for (const auto& file : files) read(file);
    }
    if (seeds.empty()) seeds.emplace_back();
    std::mt19937 random(1);
    for (long run = 0; run < runs; ++run) {
        std::string bytes = seeds[random() % seeds.size()];
        if (run > 0) damage(bytes, seeds, random);
        LLVMFuzzerTestOneInput(reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size());
    }
    std::printf("%ld runs, none failed\n", runs);
}
