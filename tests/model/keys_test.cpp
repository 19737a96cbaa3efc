// The descriptions of the keys: every key of every table can be written and read again, the reference is what they say, and meshes depend on
// what is marked so.

#include "models.hpp"

#include "io/read_keys.hpp"
#include "io/write_keys.hpp"
#include "model/keys/mesh_basis.hpp"

#include <catch2/catch.hpp>
#include <firnfield/keys.hpp>

#include <fstream>
#include <set>
#include <sstream>

using namespace firnfield;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// Visits the keys of a thing and gives each a value other than its default, in one of the forms that it can have.
template <typename T>
class Filler {
public:
    Filler(T& thing, int form) : thing_(thing), form_(form) {}

    [[nodiscard]] static bool one_kind() { return true; }
    template <typename First, typename Second>
    void either(std::string_view name, bool, const First& first, const Second& second) {
        if (form_ % 2 == 0) {
            first();
        } else {
            second();
        }
        names_.emplace(name);
    }
    void text(std::string T::*member, const Key& key) { thing_.*member = note(key) + " of \"it\""; }
    void texts(std::vector<std::string> T::*member, const Key& key) { thing_.*member = {note(key) + " 1", "2"}; }
    void pair(std::array<std::string, 2> T::*member, const Key& key) { thing_.*member = {note(key), "other"}; }
    void optional_pair(std::optional<std::array<std::string, 2>> T::*member, const Key& key) {
        note(key);
        thing_.*member = {"one", "other"};
    }
    void flag(bool T::*member, const Key& key) {
        note(key);
        thing_.*member = !(T{}.*member);
    }
    void flag(std::optional<bool> T::*member, const Key& key) {
        note(key);
        thing_.*member = false;
    }
    template <typename Whole>
    void integer(Whole T::*member, const Key& key) {
        note(key);
        thing_.*member = T{}.*member + 7;
    }
    template <typename Number>
    void quantity(Number T::*member, const QuantityKind&, const Key& key) {
        note(key);
        thing_.*member = next();
    }
    void threshold(std::optional<Threshold> T::*member, bool of_figure, const Key& key) {
        note(key);
        thing_.*member = Threshold(next(), of_figure ? kinds::power : kinds::temperature);
    }
    void quantities(std::vector<double> T::*member, const QuantityKind&, const Key& key) {
        note(key);
        thing_.*member = {next(), next()};
    }
    void curve(Curve T::*member, const QuantityKind&, const QuantityKind&, const Key& key) {
        note(key);
        thing_.*member = some_curve();
    }
    template <typename Point>
    void point(Point T::*member, const Key& key) {
        note(key);
        thing_.*member = Vec3{next(), next(), next()};
    }
    template <typename Choice, std::size_t N>
    void word(Choice T::*member, const Words<N>& words, const Key& key) {
        note(key);
        if constexpr (std::is_same_v<Choice, bool>) {
            thing_.*member = !(T{}.*member);
        } else if constexpr (std::is_same_v<Choice, std::optional<bool>>) {
            thing_.*member = form_ % 2 == 0;
        } else if constexpr (std::is_same_v<Choice, std::optional<int>> || std::is_same_v<Choice, int>) {
            thing_.*member = 1;
        } else {
            thing_.*member = static_cast<Choice>(static_cast<std::size_t>(form_) % words.size());
        }
    }
    template <typename Direction>  // a Vec3, or an optional one
    void direction(Direction T::*member, const Key& key) {
        note(key);
        thing_.*member = Vec3{1.0, 0.5, -0.25};
    }
    void directions(std::vector<Vec3> T::*member, const Key& key) {
        note(key);
        thing_.*member = {outward(Side::minus_y), {1.0, 1.0, 0.0}};
    }
    template <typename Inner>
    void table(Inner T::*member, const Key& key) {
        note(key);
        thing_.*member = filled<held_type<Inner>>(form_);
    }
    template <typename Inner>
    void tables(std::vector<Inner> T::*member, const Key& key) {
        note(key);
        (thing_.*member).assign(form_ % 2 == 0 ? 1 : 3, filled<Inner>(form_));
    }
    template <typename Inner>
    void inside(Inner T::*member) {
        held_type<Inner> inner{};
        Filler<held_type<Inner>> filler(inner, form_);
        describe(filler, inner);
        names_.merge(filler.names());
        thing_.*member = inner;
    }
    void shape(Shape T::*member, const Key& key) {
        note(key);
        thing_.*member = some_shape();
    }
    void shapes(std::vector<Shape> T::*member, const Key& key) {
        note(key);
        thing_.*member = {some_shape(), filled<Box>(form_)};
    }
    void region(std::optional<Shape> T::*member, const Key& key) {
        note(key);
        thing_.*member = some_shape();
    }
    void radius(double T::*member, const std::string& prefix, const Key&) {
        names_.insert(prefix + "radius");
        thing_.*member = next();
    }
    void outline(Outline T::*member, const Key& key) {
        note(key);
        thing_.*member = some_outline();
    }
    void outlines(std::vector<Outline> T::*member, const Key& key) {
        note(key);
        thing_.*member = {some_outline(), some_outline()};
    }
    void surface_file(const Words<4>&) {}
    void cad_file(const Words<4>&) {}
    void planes(std::array<std::vector<double>, 3> T::*member, const Key& key) {
        note(key);
        thing_.*member = {{{next()}, {}, {next(), next()}}};
    }
    void on(Selection T::*member, const Key& key) {
        note(key);
        thing_.*member = some_rule();
    }
    void on(std::optional<Selection> T::*member, const Key& key) {
        note(key);
        thing_.*member = some_rule();
    }
    void value_or_curve(std::optional<double> T::*member, Curve T::*, const QuantityKind& kind, std::string_view, std::string_view, const Key& key) {
        quantity(member, kind, key);
    }
    void conductivity(const Key& key) {
        note(key);
        thing_.conductivity = form_ % 2 == 0 ? isotropic(next()) : std::array{next(), next(), next()};
    }
    void property(Curve T::*member, const QuantityKind&, const Key& key) {
        note(key);
        thing_.*member = form_ % 2 == 0 ? some_curve() : Curve{{zero_celsius}, {next()}};
    }
    void film(std::optional<double> T::*constant, Curve T::*curve, std::optional<ConvectionLaw> T::*law, const Key& key) {
        note(key);
        if (form_ % 3 == 0) thing_.*constant = next();
        if (form_ % 3 == 1) thing_.*curve = some_curve();
        if (form_ % 3 == 2) thing_.*law = filled<ConvectionLaw>(form_);
    }
    void emissivity(const Key& key) {
        note(key);
        if (form_ % 3 == 0) thing_.emissivity = next();
        if (form_ % 3 == 1) thing_.material_emissivity = true;
        if (form_ % 3 == 2) thing_.emissivity_curve = some_curve();
    }
    void range(std::optional<double> T::*from, std::optional<double> T::*to, const Key& key) {
        note(key);
        thing_.*from = next();
        thing_.*to = next();
    }
    void ends(std::optional<std::array<double, 2>> T::*member, const QuantityKind&, const Key& key) {
        note(key);
        const double low = next();
        thing_.*member = {low, next()};
    }
    template <std::size_t N>
    void course(const std::array<Key, N>&) {
        thing_.gives = form_ % 2 == 1 ? CourseOf::temperature : form_ % 12 == 0 ? CourseOf::power : CourseOf::factor;
        if (form_ % 3 == 0) thing_.points = some_curve();
        if (form_ % 3 == 1) thing_.duty = Duty{.on = next(), .off = next(), .delay = next(), .ramp = next(), .cycles = 4, .high = next(), .low = next()};
        if (form_ % 3 == 2) thing_.sine = Sine{.mean = next(), .amplitude = next(), .period = next(), .delay = next()};
    }
    void factors(std::map<std::string, double> T::*member, const Key& key) {
        note(key);
        thing_.*member = {{"a b", next()}, {"c", next()}};
    }
    void start(const Key& key) {
        note(key);
        if (form_ % 4 == 0) thing_.start.temperature = next();
        if (form_ % 4 == 1) thing_.start = {.temperature = next(), .parts = {{"one", next()}, {"other", next()}}};
        if (form_ % 4 == 2) thing_.start.study = "before";
        if (form_ % 4 == 3) thing_.start = {.study = "before", .results = "some folder"};
    }

    [[nodiscard]] std::set<std::string>& names() { return names_; }

    template <typename Inner>
    static Inner filled(int form) {
        Inner inner{};
        // Which keys a thing has may hang on those before: the second time they are what they will be.
        for (int pass = 0; pass < 2; ++pass) {
            Filler<Inner> filler(inner, form);
            describe(filler, inner);
        }
        return inner;
    }

private:
    std::string note(const Key& key) { return *names_.emplace(key.name).first; }
    /// Numbers that a file has to carry to the last digit, ascending, and good for any kind of quantity.
    double next() {
        number_ += 1.0 / 3.0;
        return 300.0 + number_;
    }
    Curve some_curve() { return {{next(), next()}, {next(), next()}}; }
    Shape some_shape() {
        switch (form_ % 7) {
            case 0:
                return filled<Cylinder>(form_);
            case 1:
                return filled<Tube>(form_);
            case 2:
                return filled<Sphere>(form_);
            case 3:
                return filled<Cone>(form_);
            case 4:
                return filled<Prism>(form_);
            case 5:
                return filled<Revolution>(form_);
            default:
                return filled<Box>(form_);
        }
    }
    Outline some_outline() {
        return {{.x = next(), .y = next(), .through = std::nullopt},
                {.x = next(), .y = next(), .through = std::array{next(), next()}},
                {.x = next(), .y = next(), .through = std::nullopt}};
    }
    Selection some_rule() {
        if (form_ % 4 == 0) return exposed();
        if (form_ % 4 == 1) return surface("some surface");
        Selection pick = filled<Selection>(form_);
        pick.rest = form_ % 4 == 2;
        return pick;
    }

    T& thing_;
    int form_;
    double number_ = 0.0;
    std::set<std::string> names_;
};

/// A thing of a model read from the text of its keys alone, and what was wrong in it.
template <typename T>
T read_alone(const Entries& entries) {
    std::string text;
    for (const auto& [key, value] : entries) text += key + " = " + value + "\n";
    INFO(text);
    const toml::table table = parse_toml(text, "keys.toml");
    Reading reading("keys.toml");
    reading.length_unit = "mm";
    reading.temperature_unit = "degC";
    Fields fields(table, "entry", "the entry", reading);
    T thing = read_keys<T>(fields);
    fields.finish();
    CHECK_NOTHROW(reading.throw_if_any());
    return thing;
}

template <typename T>
void comes_back(const std::string& table) {
    const auto described = std::find_if(key_tables().begin(), key_tables().end(), [&](const KeyTable& t) { return t.name == table; });
    REQUIRE(described != key_tables().end());
    std::set<std::string> missing;
    for (const KeyRow& row : described->rows) {
        if (row.name.find('.') == std::string::npos) missing.insert(row.name);
    }
    for (int form = 0; form < 84; ++form) {
        INFO(table << ", form " << form);
        const T thing = Filler<T>::template filled<T>(form);
        const Entries entries = written_keys(thing);
        CHECK(read_alone<T>(entries) == thing);
        for (const auto& entry : entries) missing.erase(entry.first);
    }
    // What the file says in another way: diameters as radii, a CSV as its points.
    std::erase_if(missing,
                  [](const std::string& name) { return name.ends_with("diameter") || name == "csv" || name == "rest"; });  // `rest` is the rule's in place
    for (const std::string& name : missing) UNSCOPED_INFO(name);
    INFO(table);
    CHECK(missing.empty());
}

}  // namespace

TEST_CASE("every key of every table, in every form, comes back from a file", "[model]") {
    comes_back<MeshOptions>("mesh");
    comes_back<Space>("space");
    comes_back<Sector>("sector");
    comes_back<Mirror>("mirror");
    comes_back<Material>("material");
    comes_back<Fluid>("fluid");
    comes_back<Part>("part");
    comes_back<Surface>("surface");
    comes_back<Joint>("joint");
    comes_back<Power>("power");
    comes_back<Cooling>("cooling");
    comes_back<Hold>("hold");
    comes_back<Sensor>("sensor");
    comes_back<Limit>("limit");
    comes_back<Profile>("profile");
    comes_back<Thermostat>("thermostat");
    comes_back<Study>("study");
    comes_back<Picture>("picture");
    comes_back<Selection>("rule");
    comes_back<ConvectionLaw>("law");
}

TEST_CASE("the reference page is what the descriptions say", "[model]") {
    std::ifstream stream(std::string(FIRNFIELD_SOURCE_DIR) + "/docs/model-file.md");
    std::stringstream text;
    text << stream.rdbuf();
    const std::string page = text.str();
    for (const KeyTable& table : key_tables()) {
        const std::string mark = "<!-- keys " + table.name + " -->\n";
        const std::size_t at = page.find(mark);
        if (table.head.empty() && at == std::string::npos) continue;  // shapes stand in one table
        INFO(table.name << ": scripts/reference renews it");
        if (table.name == "parameters") continue;  // told in prose
        REQUIRE(at != std::string::npos);
        CHECK(page.substr(at + mark.size(), page.find("<!-- end -->", at) - at - mark.size()) == to_markdown(table));
    }
    CHECK(key_tables().size() > 25);
    for (const KeyTable& table : key_tables()) {
        std::set<std::string> names;
        for (const KeyRow& row : table.rows) {
            INFO(table.name << " " << row.name);
            CHECK(names.insert(row.name).second);
            CHECK_FALSE(row.takes.empty());
            CHECK_THAT(to_text(table), Contains(row.name));
        }
    }
}

TEST_CASE("meshes differ by what is marked so, and by nothing else", "[model]") {
    const Model model = block_on_plate();
    const auto same = [&](const std::function<void(Model&)>& change) {
        Model other = model;
        change(other);
        return mesh_basis(other) == mesh_basis(model);
    };
    CHECK(same([](Model& m) { m.title = "other"; }));
    CHECK(same([](Model& m) { m.parts[0].material = "copper"; }));
    CHECK(same([](Model& m) { m.joints[0].resistance = 1.0; }));
    CHECK(same([](Model& m) { m.powers[0].total = 1.0; }));
    CHECK(same([](Model& m) { m.coolings[0].convection = 1.0; }));
    CHECK(same([](Model& m) { m.coolings[0].emissivity.reset(); }));
    CHECK(same([](Model& m) { m.limits.clear(); }));
    CHECK(same([](Model& m) { m.mesh.error_target = 1.0; }));
    CHECK(same([](Model& m) { m.add(plain("new", 1.0)); }));
    CHECK(same([](Model& m) { m.add(Study{.name = "another"}); }));
    CHECK_FALSE(same([](Model& m) { m.parts[0].name = "other"; }));
    CHECK_FALSE(same([](Model& m) { std::get<Box>(m.parts[0].shape).size.x *= 2.0; }));
    CHECK_FALSE(same([](Model& m) { m.parts[0].include = false; }));
    CHECK_FALSE(same([](Model& m) { m.joints[0].insulated = true; }));
    CHECK_FALSE(same([](Model& m) { m.joints[0].reach = 1e-3; }));
    CHECK_FALSE(same([](Model& m) { m.mesh.cell = 1e-3; }));
    CHECK_FALSE(same([](Model& m) { m.mesh.coarsening = 2.0; }));
    CHECK_FALSE(same([](Model& m) { m.coolings[0].on.region = Box{.size = {1.0, 1.0, 1.0}}; }));
    CHECK_FALSE(same([](Model& m) { m.add(Mirror{}); }));
    // By being given, whatever its value.
    CHECK_FALSE(same([](Model& m) { m.joints[0].exchange_factor = 0.3; }));
    Model one = model, two = model;
    one.joints[0].exchange_factor = 0.3;
    two.joints[0].exchange_factor = 0.7;
    CHECK(mesh_basis(one) == mesh_basis(two));
}
