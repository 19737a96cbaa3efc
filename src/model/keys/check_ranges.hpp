/// Whether every number of a model is in its range, by the descriptions of the keys. What a key may not be beside others is checked in
/// model/validate.cpp, what is wrong with a shape in model/check_shape.cpp.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/quantity.hpp>

#include "model/checks.hpp"
#include "model/keys/model.hpp"

#include <algorithm>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace firnfield {

/// Visits the keys of a thing at an address of the model and reports numbers that are out of range.
template <typename T>
class RangeChecker {
public:
    RangeChecker(const T& thing, std::string address, Checks& checks) : thing_(thing), address_(std::move(address)), checks_(checks) {}

    [[nodiscard]] static bool one_kind() { return true; }
    template <typename First, typename Second>
    void either(std::string_view, bool is_given, const First& first, const Second& second) {
        is_given ? first() : second();
    }
    void quantity(double T::*member, const QuantityKind& kind, const Key& key) { check(at(key), thing_.*member, kind, key); }
    void quantity(std::optional<double> T::*member, const QuantityKind& kind, const Key& key) {
        if (thing_.*member) check(at(key), *(thing_.*member), kind, key);
    }
    void threshold(std::optional<Threshold> T::*member, bool, const Key& key) {
        if (thing_.*member) check(at(key), (thing_.*member)->value, *(thing_.*member)->kind, key);
    }
    void quantities(std::vector<double> T::*member, const QuantityKind& kind, const Key& key) {
        for (std::size_t i = 0; i < (thing_.*member).size(); ++i) check(fmt::format("{}[{}]", at(key), i), (thing_.*member)[i], kind, key);
    }
    void curve(Curve T::*member, const QuantityKind&, const QuantityKind& value, const Key& key) { check_curve(thing_.*member, value, key); }
    void point(Vec3 T::*member, const Key& key) { check_point(thing_.*member, key); }
    void point(std::optional<Vec3> T::*member, const Key& key) {
        if (thing_.*member) check_point(*(thing_.*member), key);
    }
    void direction(Vec3 T::*member, const Key& key) { checks_.check_direction(at(key), thing_.*member); }
    void direction(std::optional<Vec3> T::*member, const Key& key) {
        if (thing_.*member) checks_.check_direction(at(key), *(thing_.*member));
    }
    void directions(std::vector<Vec3> T::*member, const Key& key) {
        for (std::size_t i = 0; i < (thing_.*member).size(); ++i) checks_.check_direction(fmt::format("{}[{}]", at(key), i), (thing_.*member)[i]);
    }
    template <typename Inner>
    void table(Inner T::*member, const Key& key) {
        go_on(thing_.*member, at(key));
    }
    template <typename Inner>
    void tables(std::vector<Inner> T::*member, const Key& key) {
        for (std::size_t i = 0; i < (thing_.*member).size(); ++i) go_on((thing_.*member)[i], fmt::format("{}[{}]", at(key), i));
    }
    template <typename Inner>
    void inside(Inner T::*member) {
        go_on(thing_.*member, address_);
    }
    template <typename Rule>
    void on(Rule T::*member, const Key& key) {
        go_on(thing_.*member, at(key));
    }
    void planes(std::array<std::vector<double>, 3> T::*member, const Key& key) {
        for (const std::vector<double>& across : thing_.*member) {
            for (const double value : across) checks_.check_finite(at(key), value);
        }
    }
    void value_or_curve(std::optional<double> T::*member, Curve T::*, const QuantityKind& kind, std::string_view, std::string_view, const Key& key) {
        quantity(member, kind, key);
    }
    void conductivity(const Key& key) {
        for (const double k : thing_.conductivity) checks_.check_positive(at(key), k, "a conductivity");
    }
    void film(std::optional<double> T::*constant, Curve T::*curve, std::optional<ConvectionLaw> T::*, const Key& key) {
        quantity(constant, kinds::heat_transfer_coefficient, key);
        check_curve(thing_.*curve, kinds::heat_transfer_coefficient, key);
    }
    void emissivity(const Key& key) {
        Key share = key;
        share.range = Range::share;
        share.what = "an emissivity";
        quantity(&T::emissivity, kinds::number, share);
        check_curve(thing_.emissivity_curve, kinds::number, share);
    }
    void range(std::optional<double> T::*from, std::optional<double> T::*to, const Key& key) {
        quantity(from, kinds::temperature, key);
        quantity(to, kinds::temperature, key);
    }
    void ends(std::optional<std::array<double, 2>> T::*member, const QuantityKind& kind, const Key& key) {
        if (!(thing_.*member)) return;
        for (std::size_t i = 0; i < 2; ++i) check(fmt::format("{}[{}]", at(key), i), (*(thing_.*member))[i], kind, key);
    }
    void factors(std::map<std::string, double> T::*member, const Key& key) {
        for (const auto& [name, value] : thing_.*member) checks_.check_finite(fmt::format("{}.{}", at(key), name), value);
    }
    // Texts and choices have no range; laws, fluids, courses, starts and shapes are checked as a whole.
    void text(std::string T::*, const Key&) {}
    void texts(std::vector<std::string> T::*, const Key&) {}
    void pair(std::array<std::string, 2> T::*, const Key&) {}
    void optional_pair(std::optional<std::array<std::string, 2>> T::*, const Key&) {}
    void flag(bool T::*, const Key&) {}
    void flag(std::optional<bool> T::*, const Key&) {}
    template <typename Whole>
    void integer(Whole T::*, const Key&) {}
    template <typename Choice, std::size_t N>
    void word(Choice T::*, const Words<N>&, const Key&) {}
    void shape(Shape T::*, const Key&) {}
    void shapes(std::vector<Shape> T::*, const Key&) {}
    void region(std::optional<Shape> T::*, const Key&) {}
    void property(Curve T::*, const QuantityKind&, const Key&) {}
    template <std::size_t N>
    void course(const std::array<Key, N>&) {}
    void start(const Key&) {}
    void units() {}

private:
    [[nodiscard]] std::string at(const Key& key) const { return address_.empty() ? std::string(key.name) : fmt::format("{}.{}", address_, key.name); }

    /// The number in words.
    static std::string what(const QuantityKind& kind, const Key& key) {
        if (!key.what.empty()) return std::string(key.what);
        return fmt::format("{} {}", std::string_view("aeiou").find(kind.name.front()) != std::string_view::npos ? "an" : "a", kind.name);
    }
    void check(const std::string& where, double value, const QuantityKind& kind, const Key& key) {
        if (kind.absolute_temperature) return checks_.check_temperature(where, value);
        switch (key.range) {
            case Range::any:
                checks_.check_finite(where, value);
                break;
            case Range::positive:
                checks_.check_positive(where, value, what(kind, key));
                break;
            case Range::not_negative:
                checks_.check_not_negative(where, value, what(kind, key));
                break;
            case Range::share:
                checks_.check_share(where, value, what(kind, key));
                break;
        }
    }
    void check_curve(const Curve& curve, const QuantityKind& kind, const Key& key) {
        if (curve.empty() && curve.value.empty()) return;
        const bool positive = key.range == Range::positive;
        if (const std::string problem = problem_of(curve); !problem.empty()) {
            checks_.report(at(key), problem);
        } else if (std::any_of(curve.value.begin(), curve.value.end(), [&](double v) { return positive ? !(v > 0.0) : v < 0.0; })) {
            checks_.report(at(key), fmt::format("{} must {} everywhere", what(kind, key), positive ? "be positive" : "not be negative"));
        } else if (key.range == Range::share && std::any_of(curve.value.begin(), curve.value.end(), [](double v) { return v > 1.0; })) {
            checks_.report(at(key), fmt::format("{} must be at most 1 everywhere", what(kind, key)));
        }
    }
    void check_point(Vec3 point, const Key& key) {
        for (int axis = 0; axis < 3; ++axis) check(fmt::format("{}[{}]", at(key), axis), point[axis], kinds::length, key);
    }
    template <typename Inner>
    void go_on(const Inner& inner, const std::string& address) {
        RangeChecker<Inner> checker(inner, address, checks_);
        describe(checker, inner);
    }
    template <typename Inner>
    void go_on(const std::optional<Inner>& inner, const std::string& address) {
        if (inner) go_on(*inner, address);
    }

    const T& thing_;
    std::string address_;
    Checks& checks_;
};

/// Every number of the model that is out of its range.
inline void check_ranges(const Model& model, Checks& checks) {
    RangeChecker<Model> checker(model, "", checks);
    describe(checker, model);
}

}  // namespace firnfield
