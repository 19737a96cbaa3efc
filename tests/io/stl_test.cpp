// STL surfaces: clean, broken and repaired, refused.

#include <firnfield/firnfield.hpp>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <cstring>
#include <filesystem>
#include <functional>
#include <limits>

using namespace firnfield;
using Catch::Matchers::Contains;

namespace {

using Triangles = std::vector<std::array<Vec3, 3>>;

Triangles triangles_of_shape(const Shape& shape, double chord) {
    const ClosedSurface s = triangulate(shape, chord);
    Triangles out;
    for (const auto& t : s.triangles) out.push_back({s.corners[t[0]], s.corners[t[1]], s.corners[t[2]]});
    return out;
}

std::string binary(const Triangles& triangles, std::string header = "made up") {
    header.resize(80, ' ');
    std::string bytes = header;
    const auto count = static_cast<std::uint32_t>(triangles.size());
    bytes.append(reinterpret_cast<const char*>(&count), 4);
    for (const auto& t : triangles) {
        bytes.append(12, '\0');
        for (const Vec3& p : t) {
            for (int axis = 0; axis < 3; ++axis) {
                const auto number = static_cast<float>(p[axis]);
                bytes.append(reinterpret_cast<const char*>(&number), 4);
            }
        }
        bytes.append(2, '\0');
    }
    return bytes;
}

std::string text(const Triangles& triangles) {
    std::string out = "solid made up\n";
    for (const auto& t : triangles) {
        out += "facet normal 0 0 0\n outer loop\n";
        for (const Vec3& p : t) out += fmt::format("  vertex {:.9e} {:.9e} {:.9e}\n", p.x, p.y, p.z);
        out += " endloop\nendfacet\n";
    }
    return out + "endsolid made up\n";
}

const Shape cube = Box{.size = {10, 20, 30}, .at = {1, 2, 3}};
const Shape ball = Sphere{.radius = 10};

}  // namespace

TEST_CASE("clean surfaces come through, binary and text", "[io]") {
    for (const Shape& shape : {cube, ball}) {
        const Triangles t = triangles_of_shape(shape, 0.2);
        const StlImport a = read_stl_bytes(binary(t), 1e-3, "a"), b = read_stl_bytes(text(t), 1e-3, "b"),
                        c = read_stl_bytes(binary(t, "solid but binary"), 1e-3, "c");
        CHECK(a.binary);
        CHECK_FALSE(b.binary);
        CHECK(c.binary);
        for (const StlImport& i : {a, b, c}) {
            CHECK(i.clean());
            CHECK_THAT(i.text(), Contains("watertight"));
            CHECK(i.volume == Approx(1e-9 * volume(triangulate(shape, 0.2))).epsilon(1e-5));
        }
        CHECK(a.checksum == c.checksum);
        const auto file = std::filesystem::temp_directory_path() / ("firnfield-stl-" + std::to_string(std::rand()) + ".stl");
        write_stl(file, *a.surface, 1e-3);
        CHECK(read_stl(file, 1e-3).checksum == a.checksum);
        std::filesystem::remove(file);
    }
}

TEST_CASE("broken surfaces are repaired and the repair is told", "[io]") {
    struct Broken {
        const char* what;
        std::function<void(Triangles&)> damage;
        const char* told;
        double error;  // of the volume, relative
    };
    const float tiny = 4e-5F;
    const std::vector<Broken> corpus{
        {"one triangle missing", [](Triangles& t) { t.pop_back(); }, "1 hole closed", 1e-3},
        {"two neighbours missing", [](Triangles& t) { t.erase(t.begin() + 5, t.begin() + 7); }, "hole", 3e-3},
        {"twelve missing here and there",
         [](Triangles& t) {
             for (std::ptrdiff_t i = 0; i < 12; ++i) t.erase(t.begin() + 11 * i);
         },
         "holes closed", 5e-2},
        {"one flipped", [](Triangles& t) { std::swap(t[3][0], t[3][1]); }, "1 triangle turned", 1e-5},
        {"a third flipped",
         [](Triangles& t) {
             for (std::size_t i = 0; i < t.size(); i += 3) std::swap(t[i][0], t[i][1]);
         },
         "triangles turned", 1e-5},
        {"inside out",
         [](Triangles& t) {
             for (auto& f : t) std::swap(f[0], f[1]);
         },
         "triangles turned", 1e-5},
        {"one given twice", [](Triangles& t) { t.push_back(t[7]); }, "1 triangle given twice", 1e-5},
        {"all given twice",
         [](Triangles& t) {
             const Triangles copy = t;
             t.insert(t.end(), copy.begin(), copy.end());
         },
         "triangles given twice", 1e-5},
        {"twice, once flipped",
         [](Triangles& t) {
             t.push_back({t[7][1], t[7][0], t[7][2]});
         },
         "1 triangle given twice", 1e-5},
        {"without area: a point",
         [](Triangles& t) {
             t.push_back({t[0][0], t[0][0], t[0][0]});
         },
         "1 triangle without area", 1e-5},
        {"without area: an edge",
         [](Triangles& t) {
             t.push_back({t[0][0], t[0][1], t[0][0]});
         },
         "1 triangle without area", 1e-5},
        {"cracks below the tolerance",
         [=](Triangles& t) {
             for (std::size_t i = 0; i < t.size(); i += 2) t[i][0].x += static_cast<double>(tiny);
         },
         "watertight", 1e-4},
        {"missing and flipped",
         [](Triangles& t) {
             std::swap(t[3][0], t[3][1]);
             t.pop_back();
         },
         "hole closed", 1e-3},
        {"an open lid", [](Triangles& t) { std::erase_if(t, [](const auto& f) { return f[0].z > 8.5 && f[1].z > 8.5 && f[2].z > 8.5; }); }, "hole closed",
         2e-2},
        {"a second ball inside",
         [](Triangles& t) {
             for (auto f : triangles_of_shape(Sphere{.radius = 4}, 0.2)) t.push_back({f[1], f[0], f[2]});
         },
         "watertight", 0.07},
        {"a ball through the wall",
         [](Triangles& t) {
             for (const auto& f : triangles_of_shape(Sphere{.radius = 4, .at = {9, 0, 0}}, 0.2)) t.push_back(f);
         },
         "run through each other", 0.07},
    };
    const Triangles whole = triangles_of_shape(ball, 0.2);
    const double expected = 1e-9 * volume(triangulate(ball, 0.2));
    CHECK(corpus.size() >= 15);
    for (const Broken& broken : corpus) {
        INFO(broken.what);
        Triangles damaged = whole;
        broken.damage(damaged);
        for (const std::string& bytes : {binary(damaged), text(damaged)}) {
            const StlImport import = read_stl_bytes(bytes, 1e-3, "broken");
            CHECK_THAT(import.text(), Contains(broken.told));
            CHECK(import.volume == Approx(expected).epsilon(broken.error));
            CHECK(import.open_edges == 0);
            // What closing may have changed is bounded.
            if (import.holes_closed > 0) CHECK(std::abs(import.volume - expected) < import.volume_error);
        }
    }
}

TEST_CASE("what is no surface is refused with a reason", "[io]") {
    const Triangles whole = triangles_of_shape(cube, 0.2);
    const std::string good = binary(whole);
    Triangles bad = whole;
    bad[2][1].y = std::numeric_limits<double>::quiet_NaN();
    Triangles flat{{Vec3{0, 0, 0}, Vec3{1, 0, 0}, Vec3{0, 1, 0}}, {Vec3{1, 0, 0}, Vec3{1, 1, 0}, Vec3{0, 1, 0}}};
    const std::vector<std::pair<std::string, std::string>> refused{
        {"", "it is empty"},
        {"solid\nendsolid\n", "it holds no triangle"},
        {binary({}), "it holds no triangle"},
        {good.substr(0, good.size() - 70), "it is cut off"},
        {good.substr(0, 60), "a binary file starts with 84"},
        {text(whole).substr(0, 500), "cut off"},
        {binary(bad), "not a finite number"},
        {"solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 zero\n", "line 4: a vertex takes three numbers, found \"zero\""},
        {"solid x\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nendloop\nendsolid\n", "2 corners instead of three"},
        {binary({whole[0]}), "enclose nothing"},
        {binary({whole[0], {whole[0][1], whole[0][0], whole[0][2]}}), "enclose nothing"},
        {binary(flat), "enclose no volume"},
        {binary({{Vec3{1, 1, 1}, Vec3{1, 1, 1}, Vec3{1, 1, 1}}}), "the same point"},
        {"<html>not found</html>", "a binary file starts with 84"},
    };
    for (const auto& [bytes, why] : refused) {
        INFO(why);
        CHECK_THROWS_WITH(read_stl_bytes(bytes, 1e-3, "bad.stl"), Contains(why) && Contains("bad.stl"));
    }
    CHECK_THROWS_WITH(read_stl("/nonexistent.stl", 1e-3), Contains("does the file exist?"));
    CHECK_THROWS_WITH(read_stl("/", 1e-3), Contains("is a folder"));
}

TEST_CASE("a model with a surface file can be written and read again", "[io]") {
    const auto folder = std::filesystem::temp_directory_path() / ("firnfield-solid-" + std::to_string(std::rand()));
    std::filesystem::create_directories(folder);
    write_stl(folder / "ball.stl", triangulate(ball, 0.2), 1.0);
    const std::string model =
        "firnfield = 1\n[units]\nlength = \"mm\"\n[[part]]\nname = \"ball\"\nshape = \"stl\"\nfile = \"ball.stl\"\nunit = \"mm\"\nmaterial = \"copper\"\n";
    write_file(folder / "model.toml", model);
    const Model first = read_model(folder / "model.toml");
    write_file(folder / "again.toml", write_model(first));
    CHECK(read_model(folder / "again.toml") == first);
    // Another file under the same name is noticed.
    write_stl(folder / "ball.stl", triangulate(cube, 0.2), 1.0);
    CHECK_THROWS_WITH(read_model(folder / "again.toml"), Contains("is not the file that this model was written with"));
    std::filesystem::remove_all(folder);
}

namespace {

Triangles box_of(Vec3 size, Vec3 at) { return triangles_of_shape(Box{.size = size, .at = at}, 0.1); }
Triangles turned(Triangles list) {
    for (auto& t : list) std::swap(t[1], t[2]);
    return list;
}
Triangles together(std::initializer_list<Triangles> lists) {
    Triangles out;
    for (const Triangles& list : lists) out.insert(out.end(), list.begin(), list.end());
    return out;
}
std::string named(std::initializer_list<std::pair<std::string, Triangles>> solids) {
    std::string out;
    for (const auto& [name, triangles] : solids) {
        std::string one = text(triangles);
        out += "solid " + name + one.substr(one.find('\n'), one.rfind("endsolid") - one.find('\n')) + "endsolid " + name + "\n";
    }
    return out;
}
std::vector<double> volumes(const std::string& bytes) {
    std::vector<double> out;
    for (const StlImport::Body& body : read_stl_bytes(bytes, 1.0, "t").bodies) out.push_back(body.volume);
    return out;
}

}  // namespace

TEST_CASE("the bodies of a file are told apart", "[io]") {
    const Triangles left = box_of({1, 1, 1}, {0, 0, 0}), right = box_of({2, 1, 1}, {1, 0, 0}), apart = box_of({1, 2, 1}, {5, 0, 0});
    // Two that share a face, triangle by triangle, and one that lies apart.
    const StlImport three = read_stl_bytes(binary(together({left, right, apart})), 1.0, "t");
    REQUIRE(three.bodies.size() == 3);
    CHECK(three.bodies[0].volume == Approx(1.0));
    CHECK(three.bodies[1].volume == Approx(2.0));
    CHECK(three.bodies[2].volume == Approx(2.0));
    CHECK(three.volume == Approx(5.0));
    CHECK(three.clean());
    CHECK(three.surface->triangles.size() == 36);
    CHECK_THAT(three.text(), Contains("3 bodies") && Contains("watertight"));
    CHECK(volumes(binary(left)).size() == 1);

    // A cavity belongs to the body around it; what fills the cavity is a body of its own.
    const Triangles outer = box_of({4, 4, 4}, {0, 0, 0}), inner = box_of({2, 2, 2}, {1, 1, 1});
    const std::vector<double> hollow = volumes(binary(together({outer, turned(inner)})));
    REQUIRE(hollow.size() == 1);
    CHECK(hollow[0] == Approx(56.0));
    const std::vector<double> filled = volumes(binary(together({outer, turned(inner), inner})));
    REQUIRE(filled.size() == 2);
    CHECK(filled[0] == Approx(56.0));
    CHECK(filled[1] == Approx(8.0));

    // Where something is open nothing is told apart.
    Triangles broken = together({left, apart});
    broken.pop_back();
    CHECK(read_stl_bytes(binary(broken), 1.0, "t").bodies.size() == 1);

    const StlImport names = read_stl_bytes(named({{"frame", left}, {"cap screw", right}}), 1.0, "t");
    REQUIRE(names.bodies.size() == 2);
    CHECK(names.bodies[1].name == "cap screw");
    CHECK(body_of(names, "cap screw").volume == Approx(2.0));
    CHECK(body_of(names, "1").volume == Approx(1.0));
    CHECK_THROWS_WITH(body_of(names, "3"), Contains("no body \"3\"; it has 2 bodies: \"frame\" and \"cap screw\""));
    CHECK_THROWS_WITH(body_of(three, "lid"), Contains("it has 3 bodies"));
}

TEST_CASE("bodies of one file that touch conduct like parts, and one can be taken alone", "[io]") {
    const std::filesystem::path folder =
        std::filesystem::temp_directory_path() / fmt::format("firnfield-bodies-{}", std::hash<std::string>{}("bodies of a file"));
    std::filesystem::create_directories(folder);
    write_file(folder / "bar.stl", named({{"near", box_of({10, 10, 10}, {0, 0, 0})}, {"far", box_of({30, 10, 10}, {10, 0, 0})}}));
    const auto model = [&](const std::string& more) {
        return R"toml(firnfield = 1
title = "bar of two bodies"
[units]
length = "mm"
temperature = "degC"
[mesh]
cell = 2
refine = false
[[material]]
name = "metal"
conductivity = "50 W/(m K)"
[[part]]
name = "bar"
shape = "stl"
file = "bar.stl"
unit = "mm"
material = "metal"
)toml" + more;
    };
    const std::string ends = R"toml(
[[power]]
on = { parts = ["bar*"], facing = "-x", region = { size = [1, 20, 20], at = [-0.5, -5, -5] } }
total = "5 W"
[[hold]]
on = { parts = ["bar*"], facing = "+x" , region = { size = [1, 20, 20], at = [39.5, -5, -5] } }
temperature = 20
)toml";
    const auto solved = [&](const std::string& text) {
        write_file(folder / "m.toml", text);
        const Model m = read_model(folder / "m.toml");
        write_file(folder / "again.toml", write_model(m));
        CHECK(read_model(folder / "again.toml") == m);
        return findings(m, solve_steady(m));
    };
    const double rise = 5.0 * 0.04 / (50.0 * 1e-4), wide = 5.0 * 2e-4 / 1e-4;
    const Findings whole = solved(model(ends));
    REQUIRE(whole.parts.size() == 1);
    CHECK(whole.parts[0].copies == 2);
    CHECK(whole.parts[0].hottest.temperature == Approx(celsius(20.0 + rise)).margin(0.02));
    REQUIRE(whole.joints.size() == 1);
    CHECK(whole.joints[0].area == Approx(1e-4).epsilon(1e-6));
    CHECK_THAT(to_text(whole), Contains("holds 2 bodies") && Contains("\"bar body 1\" touches \"bar body 2\""));
    const Findings glued = solved(model(ends + "[[joint]]\nbetween = [\"bar\", \"bar\"]\nresistance = \"2 K cm^2/W\"\n"));
    CHECK(glued.parts[0].hottest.temperature == Approx(celsius(20.0 + rise + wide)).margin(0.02));
    const Findings one = solved(
        model("body = \"near\"\n[[power]]\ninto = [\"bar\"]\ntotal = \"1 W\"\n[[hold]]\non = { parts = [\"bar\"], facing = \"-x\" }\ntemperature = 20\n"));
    CHECK(one.parts[0].volume == Approx(1e-6));
    CHECK(one.parts[0].copies == 1);
    write_file(folder / "m.toml", model("body = 3\n"));
    CHECK_THROWS_WITH(read_model(folder / "m.toml"), Contains("no body \"3\""));
    write_file(folder / "m.toml", model("also = { size = [1, 1, 1] }\n"));
    CHECK_THROWS_WITH(read_model(folder / "m.toml"), Contains("the file has 2 bodies"));
    std::filesystem::remove_all(folder);
}
