// The linear solver beside general-purpose ones on the matrix of the same assembly, in turns, each in processes of its own:
// set-up and solve to a relative residual of 1e-8 from zero, and the memory that takes.
// Usage: solver_bench [--round] [--rounds N] [CELLS_IN_THOUSANDS …]
//        solver_bench --run SOLVER FILE   (what it calls for one measurement)

#include "assembly.hpp"
#include "peers.hpp"

#include "linear/multigrid_solver.hpp"

#include <fmt/core.h>

#include <malloc.h>
#include <unistd.h>
#include <cstdio>
#include <filesystem>
#include <map>

using namespace firnfield;
using namespace firnfield::bench;

namespace {

System system_of(const Model& model) {
    const Mesh mesh = build_mesh(model);
    const Network network = build_network(model, mesh, studies_of(model).front());
    System s{.order = network.order, .excess = std::vector<double>(network.nodes, 0.0), .heat = std::vector<double>(network.nodes, 0.0)};
    for (const Family& family : network.families) {
        if (family.between_nodes()) {
            s.first.insert(s.first.end(), family.first.begin(), family.first.end());
            s.second.insert(s.second.end(), family.second.begin(), family.second.end());
            s.conductance.insert(s.conductance.end(), family.coefficient.begin(), family.coefficient.end());
        }
        for (std::size_t i = 0; family.channel == Channel::load && i < family.size(); ++i) s.heat[family.first[i]] += family.coefficient[i];
    }
    for (Index w = 0; w < network.walls.size(); ++w) s.excess[network.walls.node[w]] += wall_state(network, w, 320.0).slope;
    return s;
}

/// Calls `work` for every array of a system, in the order of the file.
template <typename AnySystem, typename Work>
void for_arrays(AnySystem& s, const Work& work) {
    work(s.first);
    work(s.second);
    work(s.order);
    work(s.conductance);
    work(s.excess);
    work(s.heat);
}

void write(const System& s, const std::string& file) {
    std::ofstream out(file, std::ios::binary);
    for_arrays(s, [&](const auto& v) {
        const std::size_t size = v.size();
        out.write(reinterpret_cast<const char*>(&size), sizeof size);
        out.write(reinterpret_cast<const char*>(v.data()), static_cast<std::streamsize>(size * sizeof v[0]));
    });
}

System read(const std::string& file) {
    System s;
    std::ifstream in(file, std::ios::binary);
    for_arrays(s, [&](auto& v) {
        std::size_t size = 0;
        in.read(reinterpret_cast<char*>(&size), sizeof size);
        v.resize(size);
        in.read(reinterpret_cast<char*>(v.data()), static_cast<std::streamsize>(size * sizeof v[0]));
    });
    return s;
}

double true_residual(const System& s, const std::vector<double>& x) {
    std::vector<double> y(x.size());
    multiply(s.matrix(), x, y);
    double error = 0.0, scale = 0.0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        error += (s.heat[i] - y[i]) * (s.heat[i] - y[i]);
        scale += s.heat[i] * s.heat[i];
    }
    return std::sqrt(error / scale);
}

Measurement run_own(const System& s, std::vector<double>& x) {
    malloc_trim(0);
    std::ofstream("/proc/self/clear_refs") << "5";  // forget the peak so far
    const double before = memory("VmRSS");
    Measurement m;
    const NetworkMatrix matrix = s.matrix();
    auto start = std::chrono::steady_clock::now();
    const auto seconds = [&] { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); };
    const auto solver = make_multigrid_solver(matrix);
    m.setup = seconds();
    start = std::chrono::steady_clock::now();
    m.iterations = solver->solve(s.heat, x, tolerance).iterations;
    m.solve = seconds();
    m.bytes = memory("VmHWM") - before;
    return m;
}

int measure(const std::string& solver, const std::string& file) {
    const System s = read(file);
    std::vector<double> x(s.rows(), 0.0);
    Measurement m = solver == "own" ? run_own(s, x) : run_peer(solver, s, x);
    m.residual = true_residual(s, x);
    fmt::print("{} {} {} {} {}\n", m.setup, m.solve, m.iterations, m.residual, m.bytes);
    std::fflush(stdout);
    std::_Exit(0);  // the peers' own ends are not what is measured
}

struct Contender {
    std::string title, solver;
    int threads, processes;
    double most_rows;
};

std::vector<Contender> contenders() {
    std::vector<Contender> list{{"Firnfield, 1 thread", "own", 1, 1, 1e9}, {"Firnfield, 2 threads", "own", 2, 1, 1e9}};
    for (const Peer& p : peers()) list.push_back({p.title, p.solver, 1, p.processes, p.most_rows});
    return list;
}

Measurement in_own_processes(const std::string& program, const Contender& c, const std::string& file) {
    const std::string launcher = c.processes > 1 ? fmt::format("mpirun --allow-run-as-root --oversubscribe -n {} ", c.processes) : std::string();
    const std::string command = fmt::format("OMP_NUM_THREADS={} {}'{}' --run '{}' '{}' 2>/dev/null", c.threads, launcher, program, c.solver, file);
    Measurement m;
    if (FILE* pipe = popen(command.c_str(), "r")) {
        if (std::fscanf(pipe, "%lf %lf %lf %lf %lf", &m.setup, &m.solve, &m.iterations, &m.residual, &m.bytes) != 5) m = {};
        pclose(pipe);
    }
    return m;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc == 4 && std::string(argv[1]) == "--run") return measure(argv[2], argv[3]);
    std::vector<double> thousands;
    bool round = false;
    int rounds = 3;
    for (int i = 1; i < argc; ++i) {
        const std::string word = argv[i];
        if (word == "--round") {
            round = true;
        } else if (word == "--rounds" && i + 1 < argc) {
            rounds = std::atoi(argv[++i]);
        } else {
            thousands.push_back(std::atof(argv[i]));
        }
    }
    if (thousands.empty()) thousands = {100, 1000};
    const std::string file = (std::filesystem::temp_directory_path() / fmt::format("firnfield-solver-bench-{}.bin", static_cast<long>(getpid()))).string();
    for (const double target : thousands) {
        std::size_t rows = 0, links = 0;
        {
            const System s = system_of(assembly_of(1000.0 * target, round));
            rows = s.rows();
            links = s.first.size();
            write(s, file);
        }
        const double csr = 12.0 * (2.0 * static_cast<double>(links) + static_cast<double>(rows)) + 4.0 * static_cast<double>(rows);
        std::vector<double> triads;
        std::map<std::string, std::vector<Measurement>> all;
        for (int r = 0; r < rounds; ++r) {
            triads.push_back(triad_bandwidth());
            for (const Contender& c : contenders()) {
                if (static_cast<double>(rows) <= c.most_rows) all[c.title].push_back(in_own_processes(argv[0], c, file));
            }
        }
        std::sort(triads.begin(), triads.end());
        const double triad = triads[triads.size() / 2];
        fmt::print("{} unknowns, triad {:.1f} GB/s, medians of {} in turns; a pass is one reading of the matrix as compressed rows\n\n", rows, 1e-9 * triad,
                   rounds);
        fmt::print("| {:<36} | set-up s | solve s | total s | iterations | residual | passes | bytes a row |\n|---|---|---|---|---|---|---|---|\n", "solver");
        for (const Contender& c : contenders()) {
            std::vector<Measurement> runs = all[c.title];
            if (runs.empty()) continue;
            std::sort(runs.begin(), runs.end(), [](const Measurement& a, const Measurement& b) { return a.setup + a.solve < b.setup + b.solve; });
            const Measurement& m = runs[runs.size() / 2];
            fmt::print("| {:<36} | {:.2f} | {:.2f} | {:.2f} | {:.0f} | {:.1e} | {:.0f} | {:.0f} |\n", c.title, m.setup, m.solve, m.setup + m.solve,
                       m.iterations, m.residual, (m.setup + m.solve) * triad / csr, m.bytes / static_cast<double>(rows));
            std::fflush(stdout);
        }
        // Round by round, since a machine's speed may change from one to the next.
        fmt::print("\nTime of Firnfield over that of the peer, as many threads as it has processes, median of the rounds:\n");
        for (const Contender& c : contenders()) {
            if (c.solver == "own" || all[c.title].empty()) continue;
            const std::vector<Measurement>& own = all[contenders()[c.processes > 1 ? 1 : 0].title];
            std::vector<double> ratios;
            for (std::size_t r = 0; r < own.size(); ++r) ratios.push_back((own[r].setup + own[r].solve) / (all[c.title][r].setup + all[c.title][r].solve));
            std::sort(ratios.begin(), ratios.end());
            fmt::print("- {}: {:.2f} ({:.2f} to {:.2f})\n", c.title, ratios[ratios.size() / 2], ratios.front(), ratios.back());
        }
        fmt::print("\n");
    }
    std::filesystem::remove(file);
}
