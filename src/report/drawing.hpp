/// What all pictures are drawn with: faces in colours of a value, and text, labels, axes and legend on top.
#pragma once

#include <firnfield/error.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>

#include "mesh/surface_pieces.hpp"
#include "report/canvas.hpp"

#include <cairo.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace firnfield {

inline constexpr int oversampling = 2;
inline constexpr int most_labels = 7;

/// Round numbers at even distances for legend and bands; the distances are those of a range of `least` at least.
struct Scale {
    double low, high, step;

    Scale(double coldest, double hottest, int pieces, double least) {
        const double span = std::max(hottest - coldest, least);
        const double rough = span / pieces;
        const double ten = std::pow(10.0, std::floor(std::log10(rough)));
        step = 10.0 * ten;
        for (const double nice : {1.0, 2.0, 2.5, 5.0}) {
            if (nice * ten >= rough * 0.999) {
                step = nice * ten;
                break;
            }
        }
        low = step * std::floor(coldest / step + 1e-9);
        high = step * std::ceil(hottest / step - 1e-9);
        if (high <= low) high = low + step;
    }
    [[nodiscard]] double place(double value) const { return (value - low) / (high - low); }
    [[nodiscard]] int pieces() const { return static_cast<int>(std::lround((high - low) / step)); }
    /// Digits after the point that a step needs.
    [[nodiscard]] int decimals() const {
        int digits = 0;
        for (double s = step; digits < 6 && std::abs(s - std::round(s)) > 1e-6 * s; s *= 10.0) ++digits;
        return digits;
    }
    /// Colour position of a value; the middle of its band when `bands`.
    [[nodiscard]] double tone(double value, bool bands) const {
        const double t = std::clamp(place(value), 0.0, 1.0);
        if (!bands) return t;
        const double count = pieces();
        return (std::min(std::floor(t * count), count - 1.0) + 0.5) / count;
    }
};

/// The colours of a picture and how its legend stands.
struct Colours {
    Palette palette = Palette::ember;
    bool bands = false, light_is_high = false, low_on_top = false;
    [[nodiscard]] std::array<double, 3> at(const Scale& scale, double value) const {
        const double t = scale.tone(value, bands);
        return temperature_colour(light_is_high ? 1.0 - t : t, palette);
    }
};

/// Light from above, a little from the left: how bright a face of each direction is.
inline double brightness(Vec3 n) {
    const double from_side = n.x > 0.0 ? 0.87 : 0.90, from_front = n.y > 0.0 ? 0.84 : 0.95, from_top = n.z > 0.0 ? 1.0 : 0.72;
    return n.x * n.x * from_side + n.y * n.y * from_front + n.z * n.z * from_top;
}

/// Faces of one body, name and direction have one identity: rims are drawn between different ones.
inline std::uint32_t identity(const SurfacePiece& face) {
    const std::uint64_t mixed =
        ((std::uint64_t{face.body} << 24U) + (std::uint64_t{face.tag} << 8U) + (std::uint64_t{face.side} << 1U) + (face.inner ? 1U : 0U)) *
        0x9E3779B97F4A7C15ULL;
    return static_cast<std::uint32_t>(mixed >> 32U) | 1U;
}

/// Values at the corners of a surface become colours later on. Returns the piece of each face of the canvas, whose first is none.
inline std::vector<Index> paint(Canvas& canvas, const Camera& camera, const SurfacePieces& field, const std::vector<double>& value) {
    std::vector<Index> pieces{no_index};
    std::vector<Canvas::Corner> corner(field.corners.size());
    for (std::size_t c = 0; c < corner.size(); ++c) {
        corner[c] = {camera.project(field.corners[c]), value[c]};
        corner[c].pixel.x *= oversampling;
        corner[c].pixel.y *= oversampling;
    }
    for (const SurfacePiece& face : field.pieces) {
        if (dot(face.normal, camera.towards_eye()) <= 0.0) continue;
        const auto corners = field.of(face);
        canvas.begin_face({.identity = identity(face),
                           .light = face.inner ? 1.0F : static_cast<float>(brightness(face.normal)),
                           .normal = {static_cast<float>(face.normal.x), static_cast<float>(face.normal.y), static_cast<float>(face.normal.z)}});
        for (std::size_t i = 1; i + 1 < corners.size(); ++i) canvas.triangle(corner[corners[0]], corner[corners[i]], corner[corners[i + 1]]);
        pieces.push_back(static_cast<Index>(&face - field.pieces.data()));
    }
    return pieces;
}

inline constexpr auto no_levels = [](double) { return 0.0; };

/// The usual rims: those of the picture itself.
inline Canvas::Rims rims_of(const Canvas& canvas) { return {canvas, {0.10F, 0.11F, 0.14F}, 0.60F}; }

/// A spot to name, and where its label goes.
struct Label {
    std::string name, value;
    Vec3 pixel;           // of the spot
    bool covered;         // behind something
    bool missed = false;  // breaks its limit
    double x = 0.0, y = 0.0;
    bool left = true;
};

/// Text, lines and the legend on top of the rendered scene.
class Drawing {
public:
    Drawing(const std::vector<std::uint32_t>& pixels, int width, int height)
        : surface_(cairo_image_surface_create(CAIRO_FORMAT_RGB24, width, height), cairo_surface_destroy), width_(width), height_(height) {
        if (cairo_surface_status(surface_.get()) != CAIRO_STATUS_SUCCESS) throw FileError("no memory for a picture");
        unsigned char* data = cairo_image_surface_get_data(surface_.get());
        const int stride = cairo_image_surface_get_stride(surface_.get());
        for (int y = 0; y < height; ++y) {
            auto* row = reinterpret_cast<std::uint32_t*>(data + static_cast<std::ptrdiff_t>(y) * stride);
            std::copy_n(pixels.begin() + static_cast<std::ptrdiff_t>(y) * width, width, row);
        }
        cairo_surface_mark_dirty(surface_.get());
        cairo_.reset(cairo_create(surface_.get()));
    }

    void text(double x, double y, const std::string& content, double size, bool bold, double grey, double anchor = 0.0) {
        font(size, bold);
        cairo_text_extents_t extents;
        cairo_text_extents(cairo_.get(), content.c_str(), &extents);
        cairo_set_source_rgb(cairo_.get(), grey, grey, grey * 1.05);
        cairo_move_to(cairo_.get(), x - anchor * extents.x_advance, y);
        cairo_show_text(cairo_.get(), content.c_str());
    }

    double text_width(const std::string& content, double size, bool bold) {
        font(size, bold);
        cairo_text_extents_t extents;
        cairo_text_extents(cairo_.get(), content.c_str(), &extents);
        return extents.x_advance;
    }

    /// `lowest` and `highest`: what is really there.
    void legend(const Scale& scale, const Colours& colours, double lowest, double highest, const std::string& unit) {
        const double x = width_ - 96.0, top = 132.0, bottom = height_ - 110.0, wide = 20.0;
        const auto height_of = [&](double value) {
            const double share = scale.place(value);
            return bottom - (bottom - top) * (colours.low_on_top ? 1.0 - share : share);
        };
        const int rows = static_cast<int>(bottom - top);
        for (int r = 0; r < rows; ++r) {
            const double down = (r + 0.5) / rows, share = colours.low_on_top ? down : 1.0 - down;
            const std::array<double, 3> rgb = colours.at(scale, scale.low + share * (scale.high - scale.low));
            cairo_set_source_rgb(cairo_.get(), rgb[0], rgb[1], rgb[2]);
            cairo_rectangle(cairo_.get(), x, top + r, wide, 1.0);
            cairo_fill(cairo_.get());
        }
        stroke_colour(0.25, 1.0);
        cairo_rectangle(cairo_.get(), x - 0.5, top - 0.5, wide + 1.0, rows + 1.0);
        cairo_stroke(cairo_.get());
        text(x + wide, top - 34.0, unit, 14.0, true, 0.15, 1.0);
        for (int i = 0; i <= scale.pieces(); ++i) {
            const double y = std::round(height_of(scale.low + i * scale.step)) + 0.5;
            cairo_move_to(cairo_.get(), x + wide, y);
            cairo_line_to(cairo_.get(), x + wide + 5.0, y);
            stroke_colour(0.25, 1.0);
            cairo_stroke(cairo_.get());
            text(x + wide + 9.0, y + 4.5, fmt::format("{:.{}f}", scale.low + i * scale.step, scale.decimals()), 13.0, false, 0.2);
        }
        // The range that is really there, marked on the left of the bar.
        for (const double value : {lowest, highest}) {
            const double y = height_of(std::clamp(value, scale.low, scale.high));
            cairo_move_to(cairo_.get(), x - 3.0, y);
            cairo_line_to(cairo_.get(), x - 11.0, y - 4.5);
            cairo_line_to(cairo_.get(), x - 11.0, y + 4.5);
            cairo_close_path(cairo_.get());
            cairo_set_source_rgb(cairo_.get(), 0.2, 0.2, 0.22);
            cairo_fill(cairo_.get());
        }
    }

    /// An arrow around a point, dark in a light seam so that it stands on every colour.
    void arrow(double x, double y, double dx, double dy) {
        const double length = std::hypot(dx, dy), head = std::min(9.0, 0.45 * length);
        const double ux = dx / length, uy = dy / length, tip_x = x + 0.5 * dx, tip_y = y + 0.5 * dy;
        for (const bool seam : {true, false}) {
            cairo_set_source_rgba(cairo_.get(), seam ? 1.0 : 0.08, seam ? 1.0 : 0.09, seam ? 1.0 : 0.12, seam ? 0.75 : 1.0);
            cairo_set_line_width(cairo_.get(), seam ? 3.4 : 1.5);
            cairo_move_to(cairo_.get(), x - 0.5 * dx, y - 0.5 * dy);
            cairo_line_to(cairo_.get(), tip_x, tip_y);
            for (const double side : {1.0, -1.0}) {
                cairo_move_to(cairo_.get(), tip_x, tip_y);
                cairo_line_to(cairo_.get(), tip_x - head * (0.88 * ux + side * 0.48 * uy), tip_y - head * (0.88 * uy - side * 0.48 * ux));
            }
            cairo_stroke(cairo_.get());
        }
    }

    /// A number that stands out on every colour.
    void number(double x, double y, std::size_t value, double size) {
        const std::string content = fmt::format("{}", value);
        font(size, true);
        cairo_text_extents_t extents;
        cairo_text_extents(cairo_.get(), content.c_str(), &extents);
        cairo_move_to(cairo_.get(), x - 0.5 * extents.width - extents.x_bearing, y - 0.5 * extents.height - extents.y_bearing);
        cairo_text_path(cairo_.get(), content.c_str());
        cairo_set_source_rgba(cairo_.get(), 1.0, 1.0, 1.0, 0.85);
        cairo_set_line_width(cairo_.get(), 0.25 * size);
        cairo_stroke_preserve(cairo_.get());
        cairo_set_source_rgb(cairo_.get(), 0.10, 0.11, 0.14);
        cairo_fill(cairo_.get());
    }

    /// `shift`: pixels to the right, of a view that is not the first.
    void axes(const Camera& camera, double shift = 0.0) {
        const double x = 70.0 + shift, y = height_ - 62.0, reach = 34.0;
        for (int axis = 0; axis < 3; ++axis) {
            Vec3 unit;
            unit[axis] = 1.0;
            const double dx = reach * dot(unit, camera.right()), dy = -reach * dot(unit, camera.up());
            if (std::hypot(dx, dy) < 3.0) continue;  // points at the eye
            cairo_move_to(cairo_.get(), x, y);
            cairo_line_to(cairo_.get(), x + dx, y + dy);
            stroke_colour(0.3, 1.6);
            cairo_stroke(cairo_.get());
            text(x + 1.35 * dx, y + 1.35 * dy + 4.5, std::string(1, "xyz"[axis]), 13.0, false, 0.25, 0.5);
        }
    }

    void label(const Label& l) {
        const double high = 42.0, wide = label_width(l);
        const double left = l.left ? l.x : l.x - wide;
        const double join = l.left ? left + wide : left;
        cairo_move_to(cairo_.get(), join, l.y);
        cairo_line_to(cairo_.get(), l.pixel.x, l.pixel.y);
        const std::array<double, 2> dashes{4.0, 3.0};
        cairo_set_dash(cairo_.get(), dashes.data(), l.covered ? 2 : 0, 0.0);
        stroke_colour(0.15, 1.1);
        cairo_stroke(cairo_.get());
        cairo_set_dash(cairo_.get(), nullptr, 0, 0.0);

        cairo_arc(cairo_.get(), l.pixel.x, l.pixel.y, 3.6, 0.0, 6.2831853);
        if (l.covered) {
            cairo_set_source_rgb(cairo_.get(), 1.0, 1.0, 1.0);
        } else {
            cairo_set_source_rgb(cairo_.get(), 0.12, 0.12, 0.14);
        }
        cairo_fill_preserve(cairo_.get());
        stroke_colour(0.12, 1.3);
        cairo_stroke(cairo_.get());

        cairo_rectangle(cairo_.get(), left + 0.5, std::round(l.y - high / 2) + 0.5, wide, high);
        cairo_set_source_rgba(cairo_.get(), 1.0, 1.0, 1.0, 0.93);
        cairo_fill_preserve(cairo_.get());
        stroke_colour(l.missed ? 0.1 : 0.55, l.missed ? 2.2 : 1.0);
        cairo_stroke(cairo_.get());
        text(left + 10.0, l.y - 4.0, l.name, 12.5, false, 0.3);
        text(left + 10.0, l.y + 14.0, l.value, 14.5, true, 0.08);
    }

    double label_width(const Label& l) { return 20.0 + std::max(text_width(l.name, 12.5, false), text_width(l.value, 14.5, true)); }

    void save(const std::filesystem::path& file) {
        std::string bytes;
        const auto append = [](void* to, const unsigned char* data, unsigned int count) {
            static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(data), count);
            return CAIRO_STATUS_SUCCESS;
        };
        if (cairo_surface_write_to_png_stream(surface_.get(), append, &bytes) != CAIRO_STATUS_SUCCESS) throw FileError("no memory for a picture");
        write_file(file, bytes);
    }

private:
    void font(double size, bool bold) {
        cairo_select_font_face(cairo_.get(), "sans-serif", CAIRO_FONT_SLANT_NORMAL, bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
        cairo_set_font_size(cairo_.get(), size);
    }
    void stroke_colour(double grey, double width) {
        cairo_set_source_rgb(cairo_.get(), grey, grey, grey);
        cairo_set_line_width(cairo_.get(), width);
    }

    std::unique_ptr<cairo_surface_t, decltype(&cairo_surface_destroy)> surface_;
    std::unique_ptr<cairo_t, decltype(&cairo_destroy)> cairo_{nullptr, cairo_destroy};
    int width_, height_;
};

/// Labels stand in two columns beside the scene, in the order of their spots, without overlap.
inline void arrange_labels(std::vector<Label>& labels, double left, double right, double middle, double top, double bottom) {
    constexpr double pitch = 54.0;
    for (const bool on_left : {true, false}) {
        std::vector<Label*> column;
        for (Label& l : labels) {
            if ((l.pixel.x < middle) == on_left) column.push_back(&l);
        }
        std::sort(column.begin(), column.end(), [](const Label* a, const Label* b) { return a->pixel.y < b->pixel.y; });
        double next = top;
        for (Label* l : column) {
            l->left = on_left;
            l->x = on_left ? left : right;
            l->y = std::max(next, l->pixel.y);
            next = l->y + pitch;
        }
        double last = bottom;
        for (auto l = column.rbegin(); l != column.rend(); ++l) {
            (*l)->y = std::min((*l)->y, last);
            last = (*l)->y - pitch;
        }
    }
}

/// The corners of a box.
inline std::vector<Vec3> corners_of(const Box& box) {
    std::vector<Vec3> corners;
    for (int corner = 0; corner < 8; ++corner) {
        corners.push_back({(corner & 1) != 0 ? box.upper().x : box.lower().x, (corner & 2) != 0 ? box.upper().y : box.lower().y,
                           (corner & 4) != 0 ? box.upper().z : box.lower().z});
    }
    return corners;
}

}  // namespace firnfield
