// Conduction across joints between bodies, where any of the three depends on temperature.

#include "network/laws/laws.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

double factor_at(const Factor& factor, double temperature) { return factor ? (*factor)(temperature) : 1.0; }
double slope_at(const Factor& factor, double temperature) { return factor ? factor->slope(temperature) : 0.0; }

/// A joint between two nodes at given temperatures.
struct Joined {
    double heat = 0.0;                       ///< W from the first to the second
    double by_first = 0.0, by_second = 0.0;  ///< slopes as of Law, W/K
    double drop = 0.0;                       ///< K across the joint itself
};

/// An element with the resistances (K/W) of its two bodies at their temperatures, and that of its joint before factors.
struct Row {
    Row(const InSeries& parts_in, double conductance, double t1, double t2, double apart)
        : parts(parts_in),
          temperature_1(t1),
          temperature_2(t2),
          difference(apart),
          first(parts.first_share / factor_at(parts.first, t1) / conductance),
          second(parts.second_share / factor_at(parts.second, t2) / conductance),
          joint((1.0 - parts.first_share - parts.second_share) / conductance) {}

    const InSeries& parts;
    double temperature_1, temperature_2, difference;  // K
    double first, second, joint;

    /// Derivatives of the resistances of the bodies by their temperatures, 1/W.
    [[nodiscard]] double first_slope() const { return -first * slope_at(parts.first, temperature_1) / factor_at(parts.first, temperature_1); }
    [[nodiscard]] double second_slope() const { return -second * slope_at(parts.second, temperature_2) / factor_at(parts.second, temperature_2); }
};

Joined across_resistance(const Row& row) {
    const double middle = 0.5 * (row.temperature_1 + row.temperature_2);
    const double joint = row.joint * factor_at(row.parts.joint, middle), all = row.first + row.second + joint, heat = row.difference / all;
    const double by_middle = 0.5 * row.joint * slope_at(row.parts.joint, middle);
    return {.heat = heat,
            .by_first = (1.0 - heat * (by_middle + row.first_slope())) / all,
            .by_second = (1.0 + heat * (by_middle + row.second_slope())) / all,
            .drop = heat * joint};
}

/// A film in a row with its bodies: its coefficient follows from the temperatures of the faces, which follow from the heat.
class AcrossFilm {
public:
    explicit AcrossFilm(const Row& row) : row_(row), bodies_(row.first + row.second), conductance_(row.joint > 0.0 ? 1.0 / row.joint : 0.0) {}

    [[nodiscard]] Joined state(bool with_slopes) const {
        Joined out;
        // Two bodies whose measured resistances leave nothing to the joint.
        if (!(conductance_ > 0.0)) {
            out.heat = row_.difference / bodies_;
            out.by_first = out.by_second = 1.0 / bodies_;
            return out;
        }
        const double share = share_of_film();
        out.drop = share * row_.difference;
        // Each way round keeps its digits where the other loses them.
        out.heat = share < 0.5 ? (1.0 - share) * row_.difference / bodies_ : out.drop * film_conductance(share);
        if (!with_slopes) return out;
        // By the implicit function: the heat through the film, from face to face, is that through the bodies.
        constexpr double step = 0.01;  // K; as for correlations on walls
        const double first = face_1(share), second = first - out.drop;
        const auto through_film = [&](double a, double b) { return (a - b) * conductance(a, b); };
        const double by_1 = std::max(0.0, (through_film(first + step, second) - through_film(first - step, second)) / (2.0 * step));
        const double by_2 = std::max(0.0, (through_film(first, second - step) - through_film(first, second + step)) / (2.0 * step));
        constexpr double least = 0.25;  // where the bodies take less than nothing
        const double stiffened = std::max(least, 1.0 + by_1 * row_.first + by_2 * row_.second);
        out.by_first = by_1 * (1.0 - out.heat * row_.first_slope()) / stiffened;
        out.by_second = by_2 * (1.0 + out.heat * row_.second_slope()) / stiffened;
        return out;
    }

private:
    /// W/K of the film between faces of these temperatures.
    [[nodiscard]] double conductance(double first, double second) const {
        const VaryingFilm& film = *row_.parts.film;
        return conductance_ * (row_.parts.fluid_first ? film.coefficient(second, first) : film.coefficient(first, second)) / film.usual();
    }
    /// K, the face of the first body where the film has this share of the difference.
    [[nodiscard]] double face_1(double share) const {
        return row_.temperature_1 - (bodies_ != 0.0 ? (1.0 - share) * row_.difference * row_.first / bodies_ : 0.0);
    }
    [[nodiscard]] double film_conductance(double share) const {
        const double first = face_1(share);
        return conductance(first, first - share * row_.difference);
    }

    /// Of the difference: what falls across the film. Bracketed between nothing and all of it, or, where the bodies take less than nothing, between all
    /// and twice it, which is as far as they may; false position, with the end that stays halved (M. Dowell and P. Jarratt, A modified regula falsi
    /// method, BIT 11, 1971).
    [[nodiscard]] double share_of_film() const {
        if (bodies_ == 0.0 || row_.difference == 0.0) return 1.0;
        const auto excess = [&](double share) { return share * (1.0 + bodies_ * film_conductance(share)) - 1.0; };
        constexpr double enough = 1e-15, rounding = 4e-16;
        double low = bodies_ > 0.0 ? 0.0 : 1.0, high = low + 1.0, at_low = excess(low), at_high = excess(high);
        if (at_high <= 0.0) return high;
        if (at_low >= 0.0) return low;
        int stayed = 0;  // which end, and how often
        for (int i = 0; i < 100 && high - low > enough; ++i) {
            const double share = std::clamp((low * at_high - high * at_low) / (at_high - at_low), low, high), at = excess(share);
            if (std::abs(at) <= rounding) return share;
            if (at < 0.0) {
                low = share;
                at_low = at;
                if (stayed > 0) at_high *= 0.5;
                stayed = 1;
            } else {
                high = share;
                at_high = at;
                if (stayed < 0) at_low *= 0.5;
                stayed = -1;
            }
        }
        return 0.5 * (low + high);
    }

    const Row& row_;
    double bodies_;       // K/W
    double conductance_;  // W/K of the film with its usual coefficient
};

class InSeriesLaw final : public ContactLaw {
public:
    explicit InSeriesLaw(std::vector<InSeries> elements) : elements_(std::move(elements)) {
        has_films_ = std::any_of(elements_.begin(), elements_.end(), [](const InSeries& parts) { return parts.film != nullptr; });
    }

    void heat(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) out[i] = joined(e, i, false).heat;
    }

    void slopes(const Elements& e, std::span<double> by_first, std::span<double> by_second) const override {
        for (std::size_t i = 0; i < e.size(); ++i) {
            const Joined state = joined(e, i, true);
            by_first[i] = state.by_first;
            if (!by_second.empty()) by_second[i] = state.by_second;
        }
    }

    void drops(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) out[i] = joined(e, i, false).drop;
    }

    bool starts_flat() const override { return has_films_; }

    std::shared_ptr<const Law> of_some(std::span<const Index> elements) const override {
        std::vector<InSeries> some;
        for (const Index e : elements) some.push_back(elements_[e]);
        return contact_law(std::move(some));
    }

private:
    [[nodiscard]] Joined joined(const Elements& e, std::size_t i, bool with_slopes) const {
        const InSeries& parts = elements_[e.begin + i];
        const double conductance = e.coefficient[i] * e.scale;
        // What does not vary keeps all its digits.
        if (!parts.first && !parts.second && !parts.joint && !parts.film) {
            return {.heat = conductance * e.difference[i],
                    .by_first = conductance,
                    .by_second = conductance,
                    .drop = (1.0 - parts.first_share - parts.second_share) * e.difference[i]};
        }
        const Row row(parts, conductance, e.first[i], e.second[i], e.difference[i]);
        return parts.film ? AcrossFilm(row).state(with_slopes) : across_resistance(row);
    }

    std::vector<InSeries> elements_;
    bool has_films_ = false;
};

}  // namespace

std::shared_ptr<const ContactLaw> contact_law(std::vector<InSeries> elements) { return std::make_shared<const InSeriesLaw>(std::move(elements)); }

}  // namespace firnfield
