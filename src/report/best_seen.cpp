// Where on a picture things are seen best: the pixel farthest from what does not belong to them.

#include "report/best_seen.hpp"

#include <algorithm>

namespace firnfield {

std::vector<SeenSpot> best_seen(const Canvas& canvas, int factor, std::size_t count, const std::function<std::size_t(std::uint32_t)>& owner) {
    // Steps to the nearest pixel of something else, in two sweeps (Rosenfeld & Pfaltz, "Sequential operations in digital picture processing", 1966).
    const int width = canvas.width(), height = canvas.height();
    const auto place = [&](int x, int y) { return static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x); };
    std::vector<std::size_t> whose(place(0, height));
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) whose[place(x, y)] = owner(canvas.face(x, y));
    }
    std::vector<int> room(whose.size(), 0);
    const auto step = [&](int x, int y, int dx, int dy) {
        if (!canvas.inside(x + dx, y + dy) || whose[place(x + dx, y + dy)] != whose[place(x, y)]) return 0;
        return room[place(x + dx, y + dy)];
    };
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
            if (whose[place(x, y)] < count) room[place(x, y)] = 1 + std::min({step(x, y, -1, 0), step(x, y, 0, -1), step(x, y, -1, -1), step(x, y, 1, -1)});
        }
    }
    std::vector<SeenSpot> out(count);
    for (int y = height - 1; y >= 0; --y) {
        for (int x = width - 1; x >= 0; --x) {
            if (whose[place(x, y)] >= count) continue;
            int& here = room[place(x, y)];
            here = std::min(here, 1 + std::min({step(x, y, 1, 0), step(x, y, 0, 1), step(x, y, 1, 1), step(x, y, -1, 1)}));
            SeenSpot& best = out[whose[place(x, y)]];
            if (here > best.room * factor) best = {x / factor, y / factor, static_cast<double>(here) / factor};
        }
    }
    return out;
}

}  // namespace firnfield
