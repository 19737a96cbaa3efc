/// What a mesh depends on, by the descriptions of the keys.
#pragma once

#include <firnfield/model.hpp>

#include "model/keys/model.hpp"

#include <map>
#include <optional>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace firnfield {

/// Visits the keys of a thing and sets back to their defaults those that meshes do not depend on.
template <typename T>
class MeshBasis {
public:
    explicit MeshBasis(T& thing) : thing_(thing) {}

    template <typename First, typename Second>
    void either(std::string_view, bool is_given, const First& first, const Second& second) {
        is_given ? first() : second();
    }
    [[nodiscard]] static bool one_kind() { return true; }

    void text(std::string T::*member, const Key& key) { plain(member, key); }
    void texts(std::vector<std::string> T::*member, const Key& key) { plain(member, key); }
    void pair(std::array<std::string, 2> T::*member, const Key& key) { plain(member, key); }
    void optional_pair(std::optional<std::array<std::string, 2>> T::*member, const Key& key) { plain(member, key); }
    template <typename Flag>  // bool, or an optional one
    void flag(Flag T::*member, const Key& key) {
        plain(member, key);
    }
    template <typename Whole>
    void integer(Whole T::*member, const Key& key) {
        plain(member, key);
    }
    void quantity(double T::*member, const QuantityKind&, const Key& key) { plain(member, key); }
    void quantity(std::optional<double> T::*member, const QuantityKind&, const Key& key) {
        if (key.meshed == Meshed::presence && thing_.*member) {
            thing_.*member = 1.0;
        } else {
            plain(member, key);
        }
    }
    void threshold(std::optional<Threshold> T::*member, bool, const Key& key) { plain(member, key); }
    void quantities(std::vector<double> T::*member, const QuantityKind&, const Key& key) { plain(member, key); }
    void curve(Curve T::*member, const QuantityKind&, const QuantityKind&, const Key& key) { plain(member, key); }
    template <typename Point>
    void point(Point T::*member, const Key& key) {
        plain(member, key);
    }
    template <typename Choice, std::size_t N>
    void word(Choice T::*member, const Words<N>&, const Key& key) {
        plain(member, key);
    }
    template <typename Direction>  // a Vec3, or an optional one
    void direction(Direction T::*member, const Key& key) {
        plain(member, key);
    }
    void directions(std::vector<Vec3> T::*member, const Key& key) { plain(member, key); }
    template <typename Inner>
    void table(Inner T::*member, const Key& key) {
        if (key.meshed == Meshed::no) return plain(member, key);
        reduce(thing_.*member);
    }
    template <typename Inner>
    void tables(std::vector<Inner> T::*member, const Key& key) {
        if (key.meshed == Meshed::no) return plain(member, key);
        for (Inner& inner : thing_.*member) reduce(inner);
    }
    template <typename Inner>
    void inside(Inner T::*member) {
        reduce(thing_.*member);
    }
    void shape(Shape T::*member, const Key& key) { plain(member, key); }
    void shapes(std::vector<Shape> T::*member, const Key& key) { plain(member, key); }
    void region(std::optional<Shape> T::*member, const Key& key) { plain(member, key); }
    void planes(std::array<std::vector<double>, 3> T::*member, const Key& key) { plain(member, key); }
    /// Of a rule its region is drawn onto surfaces, and of the parts that it names faces are marked by what they are like; nothing else of it matters.
    template <typename Rule>
    void on(Rule T::*member, const Key&) {
        reduce(thing_.*member);
    }
    void value_or_curve(std::optional<double> T::*member, Curve T::*, const QuantityKind&, std::string_view, std::string_view, const Key& key) {
        plain(member, key);
    }
    void film(std::optional<double> T::*constant, Curve T::*curve, std::optional<ConvectionLaw> T::*law, const Key&) {
        thing_.*constant = {};
        thing_.*curve = {};
        thing_.*law = {};
    }
    void emissivity(const Key&) {
        thing_.emissivity.reset();
        thing_.material_emissivity = false;
        thing_.emissivity_curve = {};
    }
    void units() {}
    // In tables that meshes do not depend on at all.
    void conductivity(const Key&) {}
    void property(Curve T::*, const QuantityKind&, const Key&) {}
    void range(std::optional<double> T::*, std::optional<double> T::*, const Key&) {}
    void ends(std::optional<std::array<double, 2>> T::*, const QuantityKind&, const Key&) {}
    template <std::size_t N>
    void course(const std::array<Key, N>&) {}
    void factors(std::map<std::string, double> T::*, const Key&) {}
    void start(const Key&) {}

private:
    template <typename Member>
    void plain(Member T::*member, const Key& key) {
        if (key.meshed == Meshed::no) thing_.*member = T{}.*member;
    }
    template <typename Inner>
    static void reduce(Inner& inner) {
        MeshBasis<Inner> basis(inner);
        if constexpr (std::is_same_v<Inner, Selection>) {
            std::vector<std::string> parts = inner.faces.empty() ? std::vector<std::string>() : std::move(inner.parts);
            describe(basis, inner);
            inner.parts = std::move(parts);
            inner.rest = false;
        } else {
            describe(basis, inner);
        }
    }
    template <typename Inner>
    static void reduce(std::optional<Inner>& inner) {
        if (inner) reduce(*inner);
    }

    T& thing_;
};

/// The model without all that its mesh does not depend on.
[[nodiscard]] inline Model mesh_basis(Model model) {
    MeshBasis<Model> basis(model);
    describe(basis, std::as_const(model));
    return model;
}

}  // namespace firnfield
