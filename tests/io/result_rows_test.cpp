// Every field of findings that is described goes into JSON and comes back; what is no result is refused.

#include "findings/schema/in_time.hpp"
#include "findings/schema/inspection.hpp"
#include "io/json_rows.hpp"
#include "io/schema.hpp"

#include "models.hpp"

#include <catch2/catch.hpp>

#include <set>

using namespace firnfield;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// Visits the fields of a row and gives each a value other than its default, and other than those of the fields before it.
template <typename T>
class Filler {
public:
    Filler(T& row, int& count) : row_(row), count_(count) {}
    [[nodiscard]] static bool all_kinds() { return true; }

    template <typename M>
    void text(M member, const Field&) {
        if constexpr (std::is_member_object_pointer_v<M>) row_.*member = fmt::format("text {}", ++count_);
    }
    template <typename M>
    void text_or_null(M member, const Field& field) {
        text(member, field);
    }
    template <typename M>
    void texts(M member, const Field&) {
        row_.*member = {fmt::format("line {}", ++count_), "and another"};
    }
    template <typename M>
    void flag(M member, const Field&) {
        if constexpr (std::is_member_object_pointer_v<M>) row_.*member = !(T{}.*member);
    }
    template <typename M>
    void count(M member, const Field&) {
        if constexpr (std::is_member_object_pointer_v<M>) row_.*member = static_cast<std::decay_t<decltype(row_.*member)>>(++count_);
    }
    template <typename M>
    void counts(M member, const Field&) {
        if constexpr (requires { (row_.*member).push_back({}); }) (row_.*member).resize(3);
        for (auto& one : row_.*member) one = static_cast<std::decay_t<decltype(one)>>(++count_);
    }
    template <typename M>
    void copies(M member, const Field& field) {
        count(member, field);
    }
    template <typename M>
    void number(M member, const Field&) {
        if constexpr (std::is_member_object_pointer_v<M>) row_.*member = ++count_ + 0.125;
    }
    template <typename M>
    void value(M member, const QuantityKind&, const Field& field) {
        number(member, field);
    }
    template <typename M>
    void measured(M member, const QuantityKind&, const Field& field) {
        number(member, field);
    }
    template <typename M>
    void amount(M member, const QuantityKind&, const Field& field) {
        number(member, field);
    }
    template <typename M>
    void quantity(M member, const Field&) {
        row_.*member = &kinds::power;
    }
    template <typename M>
    void figure(M member, FigureKind, const Field& field, const QuantityKind* = nullptr) {
        number(member, field);
    }
    template <typename M>
    void figure_kind(M member, const Field&) {
        row_.*member = FigureKind::first_beyond;  // of the kinds that have every field
    }
    template <typename M>
    void spot(M member, FigureKind, const Field& field, std::string_view = {}) {
        row(member, field);
    }
    template <typename M>
    void point(M member, const Field&) {
        const double at = ++count_;
        row_.*member = Vec3{at, at + 0.25, at + 0.5};
    }
    void place(Vec3 T::*member, bool T::*, const Field& field) { point(member, field); }
    template <typename M, std::size_t N>
    void word(M member, const FieldWords<N>&, const Field&) {
        if constexpr (std::is_member_object_pointer_v<M>) {
            using Choice = std::decay_t<decltype(row_.*member)>;
            row_.*member = static_cast<Choice>((static_cast<int>(T{}.*member) + 1) % static_cast<int>(N));
        }
    }
    template <typename M>
    void factors(M member, const Field&) {
        row_.*member = {{fmt::format("power {}", ++count_), 0.5}, {"other", 2.0}};
    }
    template <typename M>
    void ends(M first, M second, const Field& field) {
        text(first, field);
        text(second, field);
    }
    template <typename M, typename... Tags>
    void row(M member, const Field&, Tags... tags) {
        using Inner = std::decay_t<decltype(row_.*member)>;
        if constexpr (is_optional<Inner>) {
            row_.*member = typename Inner::value_type{};
            fill(*(row_.*member), tags...);
        } else {
            fill(row_.*member, tags...);
        }
    }
    template <typename M>
    void rows(M member, const Field&) {
        (row_.*member).resize(2);
        for (auto& inner : row_.*member) fill(inner);
    }
    template <typename M, typename... Tags>
    void inside(M member, Tags... tags) {
        fill(row_.*member, tags...);
    }

private:
    template <typename Inner, typename... Tags>
    void fill(Inner& inner, Tags... tags) {
        Filler<Inner> filler(inner, count_);
        fields(filler, std::as_const(inner), tags...);
    }

    T& row_;
    int& count_;
};

template <typename T>
T filled() {
    T out;
    int count = 0;
    Filler<T> filler(out, count);
    fields(filler, std::as_const(out));
    return out;
}

/// Written and read back it is the same, and no field of it has the value of a fresh one.
template <typename T>
void check_both_ways(T row) {
    const OrderedJson json = json_of(row);
    CHECK(json_of(row_of<T>(json)).dump() == json.dump());
    const OrderedJson fresh = json_of(T{});
    for (const auto& [key, value] : fresh.items()) {
        INFO(key);
        REQUIRE(json.contains(key));
        const std::set<std::string> derived{"kept", "time_beyond", "relative_residual", "verdict", "coverage"};
        if (!derived.contains(key)) CHECK(json[key] != value);
    }
}

}  // namespace

TEST_CASE("every field of findings goes into JSON and comes back", "[io]") {
    auto steady = filled<Findings>();
    steady.study.kind = StudyKind::steady;
    check_both_ways(steady);
    auto in_time = filled<TimeFindings>();
    in_time.study.kind = StudyKind::transient;
    check_both_ways(in_time);
    check_both_ways(filled<Inspection>());
    check_both_ways(filled<Outcome>());
}

TEST_CASE("a summary is read back as it was written, its studies with their types", "[io]") {
    Model model = block_on_plate();
    model.add(Study{.name = "rest"});
    model.add(Study{.name = "warm up", .ambient = 300.0, .kind = StudyKind::transient, .lasts = 60.0});
    std::vector<StudyFindings> all{findings(model, solve_steady(model, model.studies[0])), solve_over_time(model, model.studies[1])};
    std::get<Findings>(all[0]).why = explain(model, solve_steady(model, model.studies[0]));
    const Summary written = summarise(model, all,
                                      {
                                          .file = "m.toml",
                                          .design = "thin",
                                          .changes = {{"part.block.material", "copper"}},
                                      },
                                      {{{"third", "it froze"}}});
    const Summary read = parse_summary(to_json(written));
    CHECK(to_json(read) == to_json(written));
    const Findings &before = std::get<Findings>(all[0]), &after = std::get<Findings>(read.studies[0]);
    CHECK(after.hottest.temperature == Approx(before.hottest.temperature).epsilon(1e-15));
    REQUIRE(after.figures.size() == before.figures.size());
    for (std::size_t i = 0; i < after.figures.size(); ++i) CHECK(same(after.figures[i], before.figures[i]));
    // What people read of it is the same but for what the summary does not hold: the study's further words.
    CHECK_THAT(to_text(after), Contains("ALL LIMITS KEPT"));
    CHECK(std::get<TimeFindings>(read.studies[1]).end.parts.size() == 2);
    CHECK(outcome(read.studies[1]).verdict == outcome(all[1]).verdict);
}

TEST_CASE("what is no summary is refused, whatever is wrong with it", "[io]") {
    const Model model = block_on_plate();
    const std::vector<StudyFindings> all{findings(model, solve_steady(model))};
    const OrderedJson good = OrderedJson::parse(to_json(summarise(model, all)));
    CHECK_NOTHROW(parse_summary(good.dump()));
    for (const char* text : {"", "[]", "{", "null", "{\"format\": 2}", "{\"format\": \"2\", \"studies\": []}"}) {
        INFO(text);
        CHECK_THROWS_AS(parse_summary(text), FileError);
    }
    // Every value in turn becomes something else, or goes.
    const OrderedJson flat = good.flatten();
    int refused = 0, read = 0;
    for (const auto& [path, value] : flat.items()) {
        for (const OrderedJson& other : {OrderedJson(nullptr), OrderedJson("x"), OrderedJson(-1.5), OrderedJson(1e300), OrderedJson(OrderedJson::array())}) {
            OrderedJson bad = good;
            bad[OrderedJson::json_pointer(path)] = other;
            try {
                static_cast<void>(to_json(parse_summary(bad.dump())));
                ++read;
            } catch (const FileError&) {
                ++refused;
            }
        }
    }
    CHECK(refused > read);
}
