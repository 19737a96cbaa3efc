// An assembly out of a STEP file, from the bytes to a solution: a case with ribs and vents, boards with chips, connectors, heat sinks, and screws with
// threads, about 300 solids and 5000 faces. What reading, dividing into cells and everything else takes is told beside the solve.
// Usage: cad_bench [CELL_IN_MM] [STEP_TO_KEEP]

#include "assembly.hpp"

#include <fmt/core.h>

#include <filesystem>
#include <functional>

#include <sys/resource.h>

using namespace firnfield;
using namespace firnfield::bench;

namespace {

Outline rounded(double x, double y, double wide, double deep, double radius) {
    const double near = radius * (1.0 - std::sqrt(0.5));
    return {arc_to(x + radius, y, x + near, y + near),
            line_to(x + wide - radius, y),
            arc_to(x + wide, y + radius, x + wide - near, y + near),
            line_to(x + wide, y + deep - radius),
            arc_to(x + wide - radius, y + deep, x + wide - near, y + deep - near),
            line_to(x + radius, y + deep),
            arc_to(x, y + deep - radius, x + near, y + deep - near),
            line_to(x, y + radius)};
}

/// A screw with its thread as grooves, head on top.
Revolution screw(double radius, double length, int grooves) {
    Outline outline{line_to(0.0, 0.0), line_to(0.85 * radius, 0.0)};
    const double pitch = 0.7 * length / grooves;
    for (int g = 0; g < grooves; ++g) {
        outline.push_back(line_to(radius, (g + 0.5) * pitch));
        outline.push_back(line_to(0.85 * radius, (g + 1.0) * pitch));
    }
    for (const OutlinePoint& p :
         {line_to(0.85 * radius, length), line_to(1.8 * radius, length), line_to(1.8 * radius, length + radius), line_to(0.0, length + radius)})
        outline.push_back(p);
    return {.outline = std::move(outline)};
}

Model generated() {
    Model m{.title = "Rack unit"};
    const auto add = [&](std::string name, Shape shape, std::string material, std::vector<Repeat> repeat = {}) {
        m.add(Part{.name = std::move(name), .shape = std::move(shape), .material = std::move(material), .repeat = std::move(repeat)});
    };
    add("case floor", Prism{.outline = rounded(0.0, 0.0, 240_mm, 160_mm, 8_mm), .length = 3_mm}, "aluminium 5754");
    for (int v = 0; v < 24; ++v) {
        const double x = 30_mm + 8_mm * v;
        m.parts.back().holes.push_back(Prism{.outline = rounded(x, 20_mm, 4_mm, 30_mm, 1.9_mm), .length = 3_mm});
    }
    add("case wall",
        Prism{
            .outline = rounded(0.0, 0.0, 240_mm, 160_mm, 8_mm), .holes = {rounded(3_mm, 3_mm, 234_mm, 154_mm, 5_mm)}, .length = 50_mm, .at = {0.0, 0.0, 3_mm}},
        "aluminium 5754");
    add("lid", Prism{.outline = rounded(0.0, 0.0, 240_mm, 160_mm, 8_mm), .length = 2_mm, .at = {0.0, 0.0, 53_mm}}, "aluminium 5754");
    for (int r = 0; r < 20; ++r) {
        const double x = 12_mm + 11_mm * r;
        add(fmt::format("rib {:c}", 'a' + r),
            Prism{.outline = rounded(x, 140_mm + 0.1_mm * r, 2_mm, 14_mm - 0.1_mm * r, 0.9_mm), .length = 30_mm, .at = {0.0, 0.0, 3_mm}}, "aluminium 5754");
    }
    for (int b = 0; b < 3; ++b) {
        const double z = 10_mm + 13_mm * b;
        add(fmt::format("board {:c}", 'A' + b), Box{.size = {200_mm, 110_mm, 1.6_mm}, .at = {15_mm, 15_mm, z}}, "FR-4 board 4 layers");
        for (int c = 0; c < 55; ++c) {
            const double wide = 6_mm + 0.8_mm * (c % 7), x = 20_mm + 17_mm * (c % 11), y = 32_mm + 17_mm * (c / 11);
            add(fmt::format("chip {:c}{}", 'A' + b, c + 1), Box{.size = {wide, 8_mm, 1_mm + 0.2_mm * (c % 4)}, .at = {x, y, z + 1.6_mm}},
                "epoxy moulding compound");
        }
        for (int c = 0; c < 8; ++c) {
            Prism connector{.outline = rounded(20_mm + 24_mm * c, 18_mm, 18_mm, 7_mm, 1_mm), .length = 7_mm, .at = {0.0, 0.0, z + 1.6_mm}};
            for (int pin = 0; pin < 7; ++pin) connector.holes.push_back(rounded(21.2_mm + 24_mm * c + 2.3_mm * pin, 20_mm, 1.4_mm, 3_mm, 0.4_mm));
            add(fmt::format("connector {:c}{}", 'A' + b, c + 1), connector, "polyamide 66");
        }
        for (int c = 0; c < 6; ++c)
            add(fmt::format("capacitor {:c}{}", 'A' + b, c + 1),
                Cylinder{.radius = 3_mm + 0.2_mm * c, .length = 9_mm, .at = {25_mm + 33_mm * c, 118_mm, z + 1.6_mm}}, "aluminium 1050");
    }
    for (int s = 0; s < 6; ++s) {
        Outline fins{line_to(0.0, 0.0), line_to(30_mm, 0.0)};
        for (int f = 10; f-- > 0;) {
            for (const OutlinePoint& p :
                 {line_to(3_mm * f + 1.5_mm, 1.5_mm), line_to(3_mm * f + 1.5_mm, 7_mm), line_to(3_mm * f + 0.4_mm, 7_mm), line_to(3_mm * f + 0.4_mm, 1.5_mm)})
                fins.push_back(p);
        }
        fins[2] = line_to(30_mm, 1.5_mm);
        fins.insert(fins.begin() + 3, line_to(28.5_mm, 1.5_mm));
        add(fmt::format("heat sink {}", s + 1), Prism{.outline = fins, .length = 20_mm + 1_mm * s, .at = {20_mm + 33_mm * s, 60_mm, 45_mm}, .along = 1},
            "aluminium 6063-T5");
    }
    add("screw", Revolution{screw(2_mm, 14_mm, 14)}, "steel low carbon",
        {Repeat{.count = 8, .step = {30_mm, 0.0, 0.0}}, Repeat{.count = 2, .step = {0.0, 148_mm, 0.0}}});
    std::get<Revolution>(m.parts.back().shape).at = {15_mm, 6_mm, 41_mm};
    add("short screw", Revolution{screw(1.5_mm, 8_mm, 10)}, "steel low carbon",
        {Repeat{.count = 4, .step = {60_mm, 0.0, 0.0}}, Repeat{.count = 5, .step = {0.0, 22_mm, 0.0}}});
    std::get<Revolution>(m.parts.back().shape).at = {24_mm, 28_mm, 2_mm};
    return m;
}

double seconds_of(const std::function<void()>& work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

}  // namespace

int main(int argc, char** argv) {
    const double cell = argc > 1 ? 1e-3 * std::atof(argv[1]) : 1.8_mm;
    const std::filesystem::path file = argc > 2 ? std::filesystem::path(argv[2]) : std::filesystem::temp_directory_path() / "firnfield-cad-bench.step";
    const double write = seconds_of([&] { write_step(file, generated()); });
    StepImport import;
    const double read = seconds_of([&] { import = read_step(file); });
    std::size_t faces = 0, copies = 0;
    Model m{.title = "Rack unit"};
    m.mesh.cell = cell;
    m.mesh.max_cells = 100'000'000;
    m.mesh.through = 1;  // or grooves of threads would decide
    for (const StepSolid& solid : import.solids) {
        if (!solid.geometry) {
            fmt::print("{} cannot be used: {}\n", solid.name, solid.why_not);
            continue;
        }
        faces += solid.geometry->faces().size() * solid.copies.size();
        copies += solid.copies.size();
        m.add(Part{.name = solid.name, .shape = cad_solid(import, file.string(), solid.name), .material = solid.material.empty() ? "copper" : solid.material});
    }
    m.add(Power{.into = {"chip A1"}, .total = 5.0});
    Cooling cooling;
    cooling.on = exposed();
    cooling.convection = 12.0;
    cooling.ambient = 25_degC;
    m.add(cooling);
    m.mesh.refine = false;
    Mesh mesh;
    const double divide = seconds_of([&] { mesh = build_mesh(m); });
    SteadySolution solution;
    const double both = seconds_of([&] { solution = solve_steady(m); });
    rusage used{};
    getrusage(RUSAGE_SELF, &used);
    const double solve = both - divide;
    fmt::print("{} solids of {} products, {} faces, {:.1f} MB; {} cells\n", copies, import.solids.size(), faces,
               1e-6 * static_cast<double>(std::filesystem::file_size(file)), mesh.cells.size());
    fmt::print("write {:.2f} s, read {:.2f} s, mesh {:.2f} s, solve {:.2f} s: reading and meshing take {:.1f} times the solve; {:.0f} MB\n", write, read,
               divide, solve, (read + divide) / solve, 1e-3 * static_cast<double>(used.ru_maxrss));
    if (argc <= 2) std::filesystem::remove(file);
    return 0;
}
