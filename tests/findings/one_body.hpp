// A body that warms and cools as an exponential: what is told of a run in time is known exactly.
#pragma once

#include "verification/in_time.hpp"

namespace firnfield::test {

// A body of 50 J/K that loses 0.1 W/K to 20 °C and takes up 6 W: it tends to 80 °C with a time constant of 500 s.
constexpr double capacity = 50.0, loss = 0.1, watt = 6.0, tau = capacity / loss, final_rise = watt / loss;

inline Model body() {
    Model m;
    add_lump(m, "body", capacity, 0);
    m.add(heat("body", watt));
    m.powers[0].name = "heater";
    cool_lump(m, "body", loss, 20.0, "air");
    return m;
}

inline double warming(double t) { return 20.0 + final_rise * (1.0 - std::exp(-t / tau)); }
inline double when_warm(double celsius_) { return -tau * std::log(1.0 - (celsius_ - 20.0) / final_rise); }

}  // namespace firnfield::test
