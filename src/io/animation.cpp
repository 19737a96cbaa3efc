// Animated PNG: the chunks acTL, fcTL and fdAT of the Portable Network Graphics specification, third edition (W3C, 2025).

#include <firnfield/animation.hpp>
#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"

#include <fmt/format.h>
#include <zlib.h>

#include <cstdint>
#include <fstream>
#include <iterator>
#include <string>

namespace firnfield {
namespace {

constexpr std::string_view signature{"\x89PNG\r\n\x1a\n", 8};

std::string big_endian(std::uint32_t value, int bytes = 4) {
    std::string out;
    for (int b = bytes - 1; b >= 0; --b) out += static_cast<char>((value >> (8 * b)) & 0xFFU);
    return out;
}

std::uint32_t number_at(const std::string& bytes, std::size_t at) {
    std::uint32_t value = 0;
    for (std::size_t b = 0; b < 4; ++b) value = (value << 8U) | static_cast<unsigned char>(bytes[at + b]);
    return value;
}

std::string chunk(std::string_view type, const std::string& data) {
    std::string body = std::string(type) + data;
    const auto sum = static_cast<std::uint32_t>(::crc32(0, reinterpret_cast<const Bytef*>(body.data()), static_cast<uInt>(body.size())));
    return big_endian(static_cast<std::uint32_t>(data.size())) + body + big_endian(sum);
}

struct Still {
    std::string header;  // content of IHDR
    std::string pixels;  // of all IDAT together
};

Still read_still(const std::filesystem::path& file) {
    std::ifstream stream(file, std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(stream)), std::istreambuf_iterator<char>());
    Still still;
    if (bytes.starts_with(signature)) {
        for (std::size_t at = signature.size(); at + 12 <= bytes.size();) {
            const std::size_t size = number_at(bytes, at);
            if (at + 12 + size > bytes.size()) break;
            const std::string type = bytes.substr(at + 4, 4);
            if (type == "IHDR") still.header = bytes.substr(at + 8, size);
            if (type == "IDAT") still.pixels += bytes.substr(at + 8, size);
            at += 12 + size;
        }
    }
    if (still.header.size() != 13 || still.pixels.empty()) throw FileError(fmt::format("{} is not a PNG picture", in_quotes(file.string())));
    return still;
}

}  // namespace

void write_animation(const std::filesystem::path& file, std::span<const std::filesystem::path> frames, int milliseconds_each) {
    std::string out(signature);
    std::string header;
    std::uint32_t sequence = 0;
    for (const std::filesystem::path& frame : frames) {
        const Still still = read_still(frame);
        if (header.empty()) {
            header = still.header;
            out += chunk("IHDR", header) + chunk("acTL", big_endian(static_cast<std::uint32_t>(frames.size())) + big_endian(0));
        }
        if (still.header != header) throw FileError(fmt::format("{} differs in size from the first picture", in_quotes(frame.string())));
        out += chunk("fcTL", big_endian(sequence++) + header.substr(0, 8) + big_endian(0) + big_endian(0) +
                                 big_endian(static_cast<std::uint32_t>(milliseconds_each), 2) + big_endian(1000, 2) + std::string(2, '\0'));
        // The first frame is also what a viewer shows that knows no animation.
        const bool first = &frame == &frames.front();
        out += first ? chunk("IDAT", still.pixels) : chunk("fdAT", big_endian(sequence++) + still.pixels);
    }
    write_file(file, out + chunk("IEND", {}));
}

}  // namespace firnfield
