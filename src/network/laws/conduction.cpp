// Conduction within bodies whose conductivity depends on temperature.

#include "network/laws/laws.hpp"

namespace firnfield {
namespace {

class ConductionLaw final : public Law {
public:
    ConductionLaw(std::vector<Factor> factors, std::vector<Index> which) : factors_(std::move(factors)), which_(std::move(which)) {}

    void heat(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) {
            const Curve* factor = factors_[which_[e.begin + i]].get();
            const double conductance = e.coefficient[i] * e.scale;
            out[i] = factor == nullptr ? conductance * e.difference[i] : conductance * factor->mean(e.first[i], e.second[i]) * e.difference[i];
        }
    }

    void slopes(const Elements& e, std::span<double> by_first, std::span<double> by_second) const override {
        for (std::size_t i = 0; i < e.size(); ++i) {
            const Curve* factor = factors_[which_[e.begin + i]].get();
            const double conductance = e.coefficient[i] * e.scale;
            by_first[i] = factor == nullptr ? conductance : conductance * (*factor)(e.first[i]);
            if (!by_second.empty()) by_second[i] = factor == nullptr ? conductance : conductance * (*factor)(e.second[i]);
        }
    }

    std::shared_ptr<const Law> of_some(std::span<const Index> elements) const override {
        std::vector<Index> which;
        for (const Index e : elements) which.push_back(which_[e]);
        return conduction_law(factors_, std::move(which));
    }

private:
    std::vector<Factor> factors_;
    std::vector<Index> which_;
};

}  // namespace

std::shared_ptr<const Law> conduction_law(std::vector<Factor> factors, std::vector<Index> which) {
    return std::make_shared<const ConductionLaw>(std::move(factors), std::move(which));
}

}  // namespace firnfield
