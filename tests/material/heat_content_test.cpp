// Heat content against temperature: curves of specific heat and melting.

#include "material/heat_content.hpp"

#include <catch2/catch.hpp>

using namespace firnfield;

TEST_CASE("heat content follows the specific heat and the latent heat", "[material]") {
    Material wax{.name = "wax", .conductivity = isotropic(0.2), .density = 800.0, .specific_heat = 2000.0};
    CHECK_FALSE(HeatContent::varies(wax));
    wax.specific_heat_factor = {{300.0, 400.0}, {1.0, 2.0}};
    wax.melting = Melting{.from = 320.0, .to = 330.0, .latent_heat = 100e3};
    REQUIRE(HeatContent::varies(wax));
    const HeatContent content(wax, 0.1);
    // Below the curve the factor stays 1; along it the mean of both ends counts; latent heat is worth 50 K.
    CHECK(content.at(300.0) - content.at(290.0) == Approx(10.0));
    CHECK(content.at(320.0) - content.at(300.0) == Approx(20.0 * 1.1));
    CHECK(content.at(330.0) - content.at(320.0) == Approx(10.0 * 1.25 + 50.0));
    CHECK(content.at(420.0) - content.at(400.0) == Approx(40.0));
    CHECK(content.slope(325.0) == Approx(1.25 + 5.0));
    CHECK(content.melted(319.0) == 0.0);
    CHECK(content.melted(325.0) == Approx(0.5));
    CHECK(content.melted(331.0) == 1.0);
    for (double t = 250.0; t < 450.0; t += 0.37) {
        CHECK(content.temperature(content.at(t)) == Approx(t).epsilon(1e-12));
        CHECK(content.at(t + 0.1) > content.at(t));
    }
}
