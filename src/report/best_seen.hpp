/// Where on a picture things are seen best.
#pragma once

#include "report/canvas.hpp"

#include <functional>
#include <vector>

namespace firnfield {

/// A spot of a picture, in its pixels.
struct SeenSpot {
    int x = 0, y = 0;
    double room = 0.0;  ///< pixels around it that belong to the thing; 0: it is not seen
};

/// The spot with most room of each of `count` things. `owner` says what a face of the canvas belongs to, `count` for nothing; `factor` pixels of the canvas are
/// one of the picture.
[[nodiscard]] std::vector<SeenSpot> best_seen(const Canvas& canvas, int factor, std::size_t count, const std::function<std::size_t(std::uint32_t)>& owner);

}  // namespace firnfield
