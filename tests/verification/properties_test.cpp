// What must hold for any assembly, without a reference: symmetry, reciprocity, superposition, bounds, bookkeeping.

#include "models.hpp"

#include <rapidcheck/catch.h>
#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <random>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// A random tower of blocks of very different conductivity, offset against each other, with joints, heat and cooling.
/// Everything follows from the seed.
Model tower(unsigned seed, bool radiates) {
    std::mt19937 random(seed);
    const auto pick = [&](int from, int to) { return std::uniform_int_distribution<int>(from, to)(random); };
    Model m;
    m.mesh.cell = 5_mm;
    const int count = pick(2, 4);
    double z = 0.0;
    for (int i = 0; i < count; ++i) {
        const std::string name = "block " + std::string(1, static_cast<char>('a' + i)), material = "material " + std::to_string(i);
        m.materials.push_back(plain(material, std::pow(10.0, 0.1 * pick(-10, 28))));
        const double high = 1e-3 * pick(2, 9);
        const Vec3 size{1e-3 * pick(20, 40), 1e-3 * pick(20, 40), high}, at{1e-3 * pick(0, 9), 1e-3 * pick(0, 9), z};
        m.add(block(name, size, at, material));
        z += high;
        m.add(heat(name, 0.1 * pick(0, 50)));
        if (i > 0 && pick(0, 2) > 0) {
            m.add(Joint{.between = {m.parts[static_cast<std::size_t>(i) - 1].name, name}, .resistance = std::pow(10.0, 0.1 * pick(-60, -30))});
        }
    }
    const int coefficient = pick(2, 60);
    Cooling cooling = convection(exposed(), coefficient, celsius(pick(-40, 60)));
    if (radiates) cooling.emissivity = 0.01 * pick(5, 100);
    m.add(cooling);
    if (pick(0, 1) == 1) m.add(Hold{.on = side("block a", Side::minus_z), .temperature = celsius(pick(-40, 60))});
    return m;
}

std::vector<double> means(const Model& model) {
    std::vector<double> list;
    for (const PartFinding& p : findings(model, solve_steady(model), {.errors = false}).parts) list.push_back(p.mean);
    return list;
}

bool close(const std::vector<double>& a, const std::vector<double>& b, double kelvin) {
    if (a.size() != b.size()) return false;
    for (std::size_t i = 0; i < a.size(); ++i) {
        if (std::abs(a[i] - b[i]) > kelvin) return false;
    }
    return true;
}

void run(const char* what, bool radiates, const auto& property) {
    rc::prop(what, [&] { property(tower(static_cast<unsigned>(*rc::gen::inRange(1, 1000000)), radiates)); });
}

/// Rewrites every coordinate and direction of the model.
void transform(Model& m, const auto& box, const auto& direction) {
    for (Part& part : m.parts) part.shape = box(std::get<Box>(part.shape));
    for (Hold& hold : m.holds) {
        for (std::string& name : hold.on.sides) {
            const auto side = std::find_if(all_sides.begin(), all_sides.end(), [&](Side s) { return name_of(s) == name; });
            name = name_of(direction(*side));
        }
    }
}

}  // namespace

TEST_CASE("the ledger closes and temperatures stay in bounds", "[property]") {
    run("any tower", true, [](const Model& m) {
        const SteadySolution s = solve_steady(m);
        const Findings f = findings(m, s);
        RC_ASSERT(std::abs(f.ledger.relative_residual()) <= 1e-9);
        RC_ASSERT(s.summary.residual <= 1e-10 || s.summary.rounding_limited);
        // Heat only comes in, so nothing is colder than the coldest known temperature.
        const double lowest = s.network->lowest_known;
        for (const PartFinding& p : f.parts) RC_ASSERT(p.coldest.temperature >= lowest - 1e-6);
        // The hottest place is where heat is put in, unless a known temperature is hotter.
        Model cold = m;
        cold.powers.clear();
        const SteadySolution still = solve_steady(cold);
        const auto [low, high] = std::minmax_element(still.temperature.begin(), still.temperature.end());
        RC_ASSERT(*low >= still.network->lowest_known - 1e-6);
        RC_ASSERT(*high <= still.network->highest_known + 1e-6);
    });
}

TEST_CASE("moving the assembly changes nothing", "[property]") {
    run("translated", true, [](const Model& m) {
        Model moved = m;
        transform(
            moved,
            [](Box b) {
                return Box{.size = b.size, .at = b.at + Vec3{0.123, -0.456, 7.0}};
            },
            [](Side s) { return s; });
        RC_ASSERT(close(means(moved), means(m), 1e-6));
    });
}

TEST_CASE("the mirror image has the same temperatures", "[property]") {
    run("mirrored in x", true, [](const Model& m) {
        Model image = m;
        transform(
            image,
            [](Box b) {
                return Box{.size = b.size, .at = {-b.at.x - b.size.x, b.at.y, b.at.z}};
            },
            [](Side s) { return axis_of(s) == 0 ? make_side(0, !is_plus(s)) : s; });
        RC_ASSERT(close(means(image), means(m), 1e-6));
    });
}

TEST_CASE("exchanging x and y changes nothing, conductivities included", "[property]") {
    run("axes exchanged", true, [](Model m) {
        for (Material& k : m.materials) k.conductivity[1] *= 3.0;
        Model turned = m;
        transform(
            turned,
            [](Box b) {
                return Box{.size = {b.size.y, b.size.x, b.size.z}, .at = {b.at.y, b.at.x, b.at.z}};
            },
            [](Side s) { return s; });
        for (Material& k : turned.materials) std::swap(k.conductivity[0], k.conductivity[1]);
        RC_ASSERT(close(means(turned), means(m), 1e-6));
    });
}

TEST_CASE("half of a symmetric assembly tells the same as all of it", "[property]") {
    run("centred towers", true, [](Model m) {
        for (Part& part : m.parts) {
            Box& box = std::get<Box>(part.shape);
            box.at.x = -0.5 * box.size.x;
        }
        // A region ending in the plane puts a grid line there, so that the whole is computed on twice the grid of the half.
        m.add(Surface{.name = "right of the plane", .pick = Selection{.region = Box{.size = {1.0, 2.0, 2.0}, .at = {0.0, -1.0, -1.0}}}});
        const Findings whole = findings(m, solve_steady(m));
        m.add(Mirror{.axis = 0, .at = 0.0, .keep_plus = true});
        const Findings half = findings(m, solve_steady(m));
        const double rise = std::max(1.0, whole.hottest.temperature - whole.parts[0].coldest.temperature);
        for (std::size_t p = 0; p < whole.parts.size(); ++p) RC_ASSERT(std::abs(whole.parts[p].mean - half.parts[p].mean) < 1e-3 * rise);
        RC_ASSERT(std::abs(whole.ledger.loads - half.ledger.loads) < 1e-9);
        RC_ASSERT(std::abs(whole.coolings[0].area - half.coolings[0].area) < 1e-12);
        RC_ASSERT(whole.joints.size() == half.joints.size());
        for (std::size_t j = 0; j < whole.joints.size(); ++j) RC_ASSERT(std::abs(whole.joints[j].area - half.joints[j].area) < 1e-12);
    });
}

TEST_CASE("a solid split in two with perfect contact is still one solid", "[property]") {
    int compared = 0;
    for (unsigned seed = 11; compared < 6; seed += 11) {
        INFO("seed " << seed);
        REQUIRE(seed < 300);
        Model whole = tower(seed, true);
        whole.mesh.cell = 1_mm;
        whole.mesh.through = 1;
        Model split = whole;
        Box& left = std::get<Box>(split.parts[0].shape);
        Part right = split.parts[0];
        right.name = "right half";
        left.size.x = 11_mm;
        std::get<Box>(right.shape).at.x += 11_mm;
        std::get<Box>(right.shape).size.x -= 11_mm;
        split.parts.push_back(right);
        for (std::size_t j = 0, count = split.joints.size(); j < count; ++j) {
            if (split.joints[j].between[0] != "block a") continue;
            Joint other = split.joints[j];
            other.between[0] = "right half";
            split.add(other);
        }
        for (Power& power : split.powers) {
            if (power.into[0] == "block a") power.into.push_back("right half");
        }
        for (Hold& hold : split.holds) hold.on.parts.push_back("right half");
        if (plan_grid(whole).boxes() != plan_grid(split).boxes()) continue;  // a half has a narrower footprint, and finer cells at it
        ++compared;
        const std::vector<double> a = means(whole), b = means(split);
        for (std::size_t p = 1; p < a.size(); ++p) CHECK(a[p] == Approx(b[p]).margin(1e-6));
        const double all = std::get<Box>(whole.parts[0].shape).size.x;
        CHECK(a[0] == Approx((0.011 * b[0] + (all - 0.011) * b.back()) / all).margin(1e-6));
    }
}

TEST_CASE("heat in A observed at B is heat in B observed at A", "[property]") {
    run("reciprocity", false, [](Model m) {
        for (Cooling& cooling : m.coolings) cooling.ambient = 300.0;
        for (Hold& hold : m.holds) hold.temperature = 300.0;
        m.powers = {heat("block a", 1_W)};
        const double at_b = means(m)[1] - 300.0;
        m.powers = {heat("block b", 1_W)};
        const double at_a = means(m)[0] - 300.0;
        RC_ASSERT(std::abs(at_a - at_b) <= 1e-7 * std::abs(at_a) + 1e-9);
    });
}

TEST_CASE("rises of linear models add up", "[property]") {
    run("superposition", false, [](const Model& m) {
        const std::vector<double> together = means(m);
        Model none = m;
        none.powers.clear();
        const std::vector<double> base = means(none);
        std::vector<double> sum = base;
        for (const Power& power : m.powers) {
            Model one = none;
            one.add(power);
            const std::vector<double> alone = means(one);
            for (std::size_t p = 0; p < sum.size(); ++p) sum[p] += alone[p] - base[p];
        }
        RC_ASSERT(close(together, sum, 1e-5));
    });
}

TEST_CASE("twice the size with half the film and twice the joint resistance behaves alike", "[property]") {
    // k ΔT/L scales as 1/2 with the lengths: powers double, films halve, area resistances double.
    run("scaled", false, [](const Model& m) {
        Model large = m;
        transform(
            large, [](Box b) { return Box{.size = 2.0 * b.size, .at = 2.0 * b.at}; }, [](Side s) { return s; });
        large.mesh.cell = 2.0 * *m.mesh.cell;
        for (Power& power : large.powers) *power.total *= 2.0;
        for (Cooling& cooling : large.coolings) *cooling.convection *= 0.5;
        for (Joint& joint : large.joints) *joint.resistance *= 2.0;
        RC_ASSERT(close(means(large), means(m), 1e-5));
    });
}

TEST_CASE("the order of parts that do not overlap makes no difference", "[property]") {
    run("reversed", true, [](const Model& m) {
        Model reversed = m;
        std::reverse(reversed.parts.begin(), reversed.parts.end());
        std::vector<double> back = means(reversed);
        std::reverse(back.begin(), back.end());
        RC_ASSERT(close(back, means(m), 1e-6));
    });
}

TEST_CASE("the units of the file make no difference", "[property]") {
    run("through a file", true, [](const Model& m) { RC_ASSERT(close(means(through_file(m)), means(m), 0.0)); });
}

TEST_CASE("the same model gives the same digits twice", "[property]") {
    run("repeated", true, [](const Model& m) { RC_ASSERT(solve_steady(m).temperature == solve_steady(m).temperature); });
}
