// Heat that is put into nodes or onto walls.

#include "network/laws/laws.hpp"

#include <algorithm>

namespace firnfield {
namespace {

class LoadLaw final : public Law {
public:
    explicit LoadLaw(const Curve& factor) : factor_(factor) {}

    void heat(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) out[i] = -(e.coefficient[i] * e.scale);
        if (factor_.empty()) return;
        for (std::size_t i = 0; i < e.size(); ++i) out[i] *= factor_(e.first[i]);
    }

    void slopes(const Elements& e, std::span<double> by_first, std::span<double> by_second) const override {
        std::fill(by_first.begin(), by_first.end(), 0.0);
        std::fill(by_second.begin(), by_second.end(), 0.0);
        if (factor_.empty()) return;
        for (std::size_t i = 0; i < e.size(); ++i) by_first[i] = -(e.coefficient[i] * e.scale) * factor_.slope(e.first[i]);
    }

    bool is_linear() const override { return factor_.empty(); }

private:
    Curve factor_;
};

}  // namespace

std::shared_ptr<const Law> load_law(const Curve& factor) { return std::make_shared<const LoadLaw>(factor); }

}  // namespace firnfield
