// How long may it transmit? The same pulse power with longer and longer bursts: the settled cycle, and how the first minutes come near it.

#include <firnfield/firnfield.hpp>

#include <fmt/core.h>

using namespace firnfield;
using namespace firnfield::literals;

namespace {

Model transmitter(double on, double off) {
    Model model{.title = "Chip on a plate, in bursts"};
    model.mesh.cell = 5_mm;
    model.add(Part{.name = "plate", .shape = Box{.size = {80_mm, 60_mm, 4_mm}}, .material = "aluminium 6061-T6"});
    model.add(Part{.name = "chip", .shape = Box{.size = {20_mm, 10_mm, 3_mm}, .at = {30_mm, 25_mm, 4_mm}}, .material = "copper"});
    model.add(Joint{.between = {"chip", "plate"}, .resistance = 50e-6});
    model.add(Power{.name = "bursts", .into = {"chip"}, .total = 60_W, .profile = {"key"}});
    Profile key{.name = "key"};
    key.duty = Duty{.on = on, .off = off};
    model.add(key);
    model.add(Cooling{.on = exposed(), .convection = 15.0, .emissivity = 0.8});
    model.add(Limit{.part = "chip", .below = 110_degC});
    Study settled;
    settled.name = "settled";
    settled.kind = StudyKind::cyclic;
    settled.ambient = 25_degC;
    model.add(settled);
    Study first = settled;
    first.name = "first quarter of an hour";
    first.kind = StudyKind::transient;
    first.lasts = 15_min;
    model.add(first);
    return model;
}

}  // namespace

int main() {
    fmt::print("on (s)   settled peak (°C)   beyond the limit   cycles to settle   first beyond\n");
    for (const double on : {5_s, 10_s, 15_s, 20_s, 30_s}) {
        const Model model = transmitter(on, 60_s);
        const TimeFindings settled = solve_over_time(model, model.studies[0]), first = solve_over_time(model, model.studies[1]);
        const LimitOverTime &limit = settled.limits[0], &early = first.limits[0];
        fmt::print("{:6.0f}   {:17.1f}   {:14.1f} s   {:16.0f}   {}\n", on, limit.worst.spot.temperature - zero_celsius, limit.time_beyond(),
                   settled.cycle->cycles_to_settle.value_or(0.0),
                   early.first_crossing ? fmt::format("after {:.0f} s", *early.first_crossing) : "not within 15 min");
    }
}
