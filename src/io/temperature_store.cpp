// Temperatures of all cells at some times, as a file that grows by one record a time.

#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <fstream>

namespace firnfield {
namespace {

// Little-endian: 8 bytes of magic, the numbers of cells and of thermostats (u64 each), the reference (f64); then for each time the time (f64),
// which thermostats are on (bits of as many u64 as they take, the first in the lowest bit of the first) and a rise (f32) per cell.
constexpr std::array<char, 8> magic{'f', 'i', 'r', 'n', 't', 'm', 'p', '2'};
constexpr std::size_t header = 32, word = 64;

std::size_t words_of(std::size_t thermostats) { return (thermostats + word - 1) / word; }
std::size_t record_bytes(std::size_t cells, std::size_t thermostats) {
    return sizeof(double) + words_of(thermostats) * sizeof(std::uint64_t) + cells * sizeof(float);
}

template <typename T>
void put(std::string& out, const T& value) {
    out.append(reinterpret_cast<const char*>(&value), sizeof value);
}

template <typename T>
T take(const std::string& from, std::size_t at) {
    T value;
    std::memcpy(&value, from.data() + at, sizeof value);
    return value;
}

std::string bytes_of(const std::filesystem::path& file) {
    std::string bytes = read_file(file);
    if (bytes.size() < header || std::memcmp(bytes.data(), magic.data(), magic.size()) != 0) {
        const bool other = bytes.starts_with("firntmp");
        throw FileError(
            fmt::format("{} {}", in_quotes(file.string()), other ? "was written by another version; solve again" : "does not hold kept temperatures"));
    }
    return bytes;
}

}  // namespace

TemperatureWriter::TemperatureWriter(std::filesystem::path file, std::size_t cells, std::size_t thermostats, double reference, std::optional<double> after)
    : file_(std::move(file)), cells_(cells), thermostats_(thermostats) {
    if (after && std::filesystem::exists(file_)) {
        // What was written after the moment that a run is taken up from is written again.
        const std::string bytes = bytes_of(file_);
        std::size_t end = header;
        const std::size_t record = record_bytes(cells, thermostats);
        while (end + record <= bytes.size() && take<double>(bytes, end) <= *after) end += record;
        std::filesystem::resize_file(file_, end);
        return;
    }
    std::string head(magic.data(), magic.size());
    put(head, static_cast<std::uint64_t>(cells));
    put(head, static_cast<std::uint64_t>(thermostats));
    put(head, reference);
    write_file(file_, head);
}

void TemperatureWriter::add(double time, std::span<const double> rise, const std::vector<bool>& on) {
    std::string record;
    record.reserve(record_bytes(cells_, thermostats_));
    put(record, time);
    for (std::size_t w = 0; w < words_of(thermostats_); ++w) {
        std::uint64_t bits = 0;
        for (std::size_t t = w * word; t < std::min(on.size(), (w + 1) * word); ++t) bits |= std::uint64_t{on[t]} << (t - w * word);
        put(record, bits);
    }
    for (const double r : rise) put(record, static_cast<float>(r));
    std::ofstream stream(file_, std::ios::binary | std::ios::app);
    stream.write(record.data(), static_cast<std::streamsize>(record.size()));
    stream.flush();
    if (!stream) throw WriteError(fmt::format("cannot write {}: is the disk full?", in_quotes(file_.string())));
}

KeptTemperatures read_temperatures(const std::filesystem::path& file) {
    const std::string bytes = bytes_of(file);
    const auto cells = static_cast<std::size_t>(take<std::uint64_t>(bytes, magic.size()));
    const auto thermostats = static_cast<std::size_t>(take<std::uint64_t>(bytes, magic.size() + sizeof(std::uint64_t)));
    if (cells == 0 || cells > bytes.size() || thermostats > 8 * bytes.size() || (bytes.size() - header) % record_bytes(cells, thermostats) != 0) {
        throw FileError(fmt::format("{} breaks off", in_quotes(file.string())));
    }
    KeptTemperatures out;
    out.reference = take<double>(bytes, magic.size() + 2 * sizeof(std::uint64_t));
    for (std::size_t at = header; at < bytes.size(); at += record_bytes(cells, thermostats)) {
        out.time.push_back(take<double>(bytes, at));
        std::vector<bool> on(thermostats);
        for (std::size_t t = 0; t < thermostats; ++t)
            on[t] = ((take<std::uint64_t>(bytes, at + sizeof(double) + t / word * sizeof(std::uint64_t)) >> (t % word)) & 1U) != 0;
        out.on.push_back(std::move(on));
        const std::size_t first = at + sizeof(double) + words_of(thermostats) * sizeof(std::uint64_t);
        std::vector<double> rise(cells);
        for (std::size_t i = 0; i < cells; ++i) rise[i] = static_cast<double>(take<float>(bytes, first + i * sizeof(float)));
        out.rise.push_back(std::move(rise));
    }
    return out;
}

}  // namespace firnfield
