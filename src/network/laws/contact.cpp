// Conduction across joints between bodies, where any of the three depends on temperature.

#include "network/laws/laws.hpp"

namespace firnfield {
namespace {

double factor_at(const Factor& factor, double temperature) { return factor ? (*factor)(temperature) : 1.0; }
double slope_at(const Factor& factor, double temperature) { return factor ? factor->slope(temperature) : 0.0; }

class ContactLaw final : public Law {
public:
    explicit ContactLaw(std::vector<InSeries> elements) : elements_(std::move(elements)) {}

    void heat(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) {
            const InSeries& parts = elements_[e.begin + i];
            const double conductance = e.coefficient[i] * e.scale;
            out[i] = constant(parts) ? conductance * e.difference[i] : e.difference[i] / resistance(parts, conductance, e.first[i], e.second[i]);
        }
    }

    void slopes(const Elements& e, std::span<double> by_first, std::span<double> by_second) const override {
        for (std::size_t i = 0; i < e.size(); ++i) {
            const InSeries& parts = elements_[e.begin + i];
            const double conductance = e.coefficient[i] * e.scale;
            by_first[i] = conductance;
            if (!by_second.empty()) by_second[i] = conductance;
            if (constant(parts)) continue;
            const double first = e.first[i], second = e.second[i], middle = 0.5 * (first + second);
            const double f1 = factor_at(parts.first, first), f2 = factor_at(parts.second, second);
            const double all = resistance(parts, conductance, first, second), flow = e.difference[i] / all;
            const double by_middle = 0.5 * joint_share(parts) * slope_at(parts.joint, middle) / conductance;
            by_first[i] = (1.0 - flow * (by_middle - parts.first_share * slope_at(parts.first, first) / (f1 * f1) / conductance)) / all;
            if (!by_second.empty())
                by_second[i] = (1.0 + flow * (by_middle - parts.second_share * slope_at(parts.second, second) / (f2 * f2) / conductance)) / all;
        }
    }

private:
    static bool constant(const InSeries& parts) { return !parts.first && !parts.second && !parts.joint; }
    static double joint_share(const InSeries& parts) { return 1.0 - parts.first_share - parts.second_share; }
    /// K/W.
    static double resistance(const InSeries& parts, double conductance, double first, double second) {
        return (parts.first_share / factor_at(parts.first, first) + parts.second_share / factor_at(parts.second, second) +
                joint_share(parts) * factor_at(parts.joint, 0.5 * (first + second))) /
               conductance;
    }

    std::vector<InSeries> elements_;
};

}  // namespace

std::shared_ptr<const Law> contact_law(std::vector<InSeries> elements) { return std::make_shared<const ContactLaw>(std::move(elements)); }

}  // namespace firnfield
