/// Pictures that move: an animated PNG, which browsers play.
#pragma once

#include <filesystem>
#include <span>

namespace firnfield {

/// Joins PNG files of the same size, written by one program, into one that plays them in turn without end. Throws FileError.
void write_animation(const std::filesystem::path& file, std::span<const std::filesystem::path> frames, int milliseconds_each);

}  // namespace firnfield
