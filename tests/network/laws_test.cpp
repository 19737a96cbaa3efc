// Every law: its slopes are derivatives, spans and scales change nothing, equal temperatures carry nothing.

#include "network/laws/laws.hpp"

#include <rapidcheck/catch.h>
#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;

namespace {

constexpr std::size_t count = 5;

/// A family of each law there is, of `count` elements.
std::vector<Family> all_laws() {
    const auto curve = [](std::vector<double> at, std::vector<double> values) { return Curve{std::move(at), std::move(values)}; };
    const auto factor = [&](double slope) { return std::make_shared<const Curve>(curve({200.0, 700.0}, {1.0, 1.0 + 500.0 * slope})); };
    const Factor rising = factor(1e-3), falling = factor(-1e-3);
    std::vector<InSeries> contacts(count, InSeries{0.3, 0.2, rising, falling, factor(2e-3)});
    contacts[2] = {0.5, 0.5, nullptr, nullptr, nullptr};
    const auto family = [](Channel channel, std::shared_ptr<const Law> law) {
        Family out{.channel = channel, .index = {0}, .law = std::move(law)};
        for (std::size_t i = 0; i < count; ++i) out.coefficient.push_back(0.1 * static_cast<double>(i + 1));
        return out;
    };
    return {family(Channel::conduction, nullptr),
            family(Channel::conduction, conduction_law({rising, nullptr, falling}, {0, 1, 2, 1, 0})),
            family(Channel::contact, contact_law(std::move(contacts))),
            family(Channel::radiation, radiation_law()),
            family(Channel::radiation, radiation_law(curve({200.0, 700.0}, {0.3, 0.9}))),
            family(Channel::convection, convection_law(curve({0.0, 500.0}, {5.0, 15.0}))),
            family(Channel::convection, convection_law(ConvectionLaw{.law = "vertical plate", .length = 0.1})),
            family(Channel::load, load_law({})),
            family(Channel::load, load_law(curve({200.0, 700.0}, {1.0, 2.0})))};
}

double heat(const Family& family, std::size_t i, double first, double second) { return Element{family, i, first, second, first - second}.heat(); }

}  // namespace

TEST_CASE("slopes of laws are derivatives of their heat", "[network][property]") {
    const std::vector<Family> families = all_laws();
    rc::prop("random temperatures", [&] {
        const double second = 250.0 + 0.1 * *rc::gen::inRange(0, 3000), first = second + 20.0 + 0.1 * *rc::gen::inRange(0, 1000);
        const auto i = static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(count)));
        const double step = 0.01;
        for (const Family& family : families) {
            const Element::BothSlopes slopes = Element{family, i, first, second, first - second}.slopes();
            const double by_first = (heat(family, i, first + step, second) - heat(family, i, first - step, second)) / (2.0 * step);
            RC_ASSERT(std::abs(slopes.by_first - by_first) <= 1e-5 * std::abs(by_first) + 1e-12 * std::abs(heat(family, i, first, second)) / step);
            if (family.channel == Channel::load) continue;
            const double by_second = (heat(family, i, first, second - step) - heat(family, i, first, second + step)) / (2.0 * step);
            RC_ASSERT(std::abs(slopes.by_second - by_second) <= 1e-5 * std::abs(by_second) + 1e-12 * std::abs(heat(family, i, first, second)) / step);
        }
    });
}

TEST_CASE("laws take elements one by one or in a row, and scales are factors", "[network]") {
    const std::vector<double> first{300, 400, 500, 350, 290}, second{310, 300, 320, 350, 300};
    std::vector<double> difference, in_a_row(count), doubled(count);
    for (std::size_t i = 0; i < count; ++i) difference.push_back(first[i] - second[i]);
    for (const Family& family : all_laws()) {
        Elements all{.coefficient = family.coefficient, .first = first, .second = second, .difference = difference};
        heat_of(family, all, in_a_row);
        all.scale = 2.0;
        heat_of(family, all, doubled);
        for (std::size_t i = 0; i < count; ++i) {
            CHECK(in_a_row[i] == heat(family, i, first[i], second[i]));
            CHECK(doubled[i] == Approx(2.0 * in_a_row[i]));
        }
        if (family.channel == Channel::load) continue;
        CHECK(in_a_row[3] == 0.0);  // equal temperatures
        CHECK(in_a_row[1] > 0.0);
        CHECK(in_a_row[4] < 0.0);
    }
}
