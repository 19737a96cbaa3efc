// The linear solver beside general-purpose ones on the matrix of the same assembly, in turns, each in a process of its own:
// set-up and solve to a relative residual of 1e-8 from zero, and the memory that takes.
// Usage: solver_bench [--round] [--rounds N] [CELLS_IN_THOUSANDS …]
//        solver_bench --run SOLVER FILE   (what it calls for one measurement)

#include "assembly.hpp"

#include "linear/multigrid_solver.hpp"

#include <Eigen/IterativeLinearSolvers>
#include <Eigen/SparseCore>
#include <fmt/core.h>

#include <array>
#include <cstdio>
#include <filesystem>
#include <map>
#include <malloc.h>
#include <unistd.h>

#ifdef FIRNFIELD_WITH_HYPRE
#include <HYPRE.h>
#include <HYPRE_parcsr_ls.h>
#include <mpi.h>
#endif
#ifdef FIRNFIELD_WITH_PETSC
#include <petscksp.h>
#endif
#ifdef FIRNFIELD_WITH_CHOLMOD
#include <cholmod.h>
#endif

using namespace firnfield;
using namespace firnfield::bench;

namespace {

constexpr double tolerance = 1e-8;

/// A system as it is written to a file: the network's edges, and the same as compressed rows for the others.
struct System {
    std::vector<std::uint32_t> first, second, order;
    std::vector<double> conductance, excess, heat;

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
    [[nodiscard]] NetworkMatrix matrix() const { return {.nodes = rows(), .edges = {{first, second, conductance}}, .excess = excess, .order = order}; }
};

using Sparse = Eigen::SparseMatrix<double, Eigen::RowMajor, int>;

Sparse compressed(const System& s) {
    std::vector<Eigen::Triplet<double>> entries;
    entries.reserve(4 * s.first.size() + s.rows());
    for (std::size_t e = 0; e < s.first.size(); ++e) {
        const int i = static_cast<int>(s.first[e]), j = static_cast<int>(s.second[e]);
        const double g = s.conductance[e];
        entries.insert(entries.end(), {{i, i, g}, {j, j, g}, {i, j, -g}, {j, i, -g}});
    }
    for (std::size_t i = 0; i < s.rows(); ++i) entries.emplace_back(static_cast<int>(i), static_cast<int>(i), s.excess[i]);
    Sparse out(static_cast<Eigen::Index>(s.rows()), static_cast<Eigen::Index>(s.rows()));
    out.setFromTriplets(entries.begin(), entries.end());
    return out;
}

System system_of(const Model& model) {
    const Mesh mesh = build_mesh(model);
    const Network network = build_network(model, mesh, studies_of(model).front());
    System s{network.links.first, network.links.second, network.order, network.links.conductance, std::vector<double>(network.nodes, 0.0), std::vector<double>(network.nodes, 0.0)};
    for (std::size_t w = 0; w < network.walls.size(); ++w) s.excess[network.walls.node[w]] += wall_state(network.walls.resistance[w], network.walls.of(w), 320.0).slope;
    for (std::size_t q = 0; q < network.sources.size(); ++q) s.heat[network.sources.node[q]] += network.sources.heat[q];
    return s;
}

template <typename T>
void put(std::ofstream& out, const std::vector<T>& v) {
    const std::size_t size = v.size();
    out.write(reinterpret_cast<const char*>(&size), sizeof size);
    out.write(reinterpret_cast<const char*>(v.data()), static_cast<std::streamsize>(size * sizeof(T)));
}

template <typename T>
void get(std::ifstream& in, std::vector<T>& v) {
    std::size_t size = 0;
    in.read(reinterpret_cast<char*>(&size), sizeof size);
    v.resize(size);
    in.read(reinterpret_cast<char*>(v.data()), static_cast<std::streamsize>(size * sizeof(T)));
}

/// One measurement: "setup solve iterations residual bytes".
struct Measurement {
    double setup = 0.0, solve = 0.0, iterations = 0.0, residual = 0.0, bytes = 0.0;
};

double seconds_since(std::chrono::steady_clock::time_point start) { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count(); }

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
    Measurement m;
    const NetworkMatrix matrix = s.matrix();
    auto start = std::chrono::steady_clock::now();
    const auto solver = make_multigrid_solver(matrix);
    m.setup = seconds_since(start);
    start = std::chrono::steady_clock::now();
    m.iterations = solver->solve(s.heat, x, tolerance).iterations;
    m.solve = seconds_since(start);
    return m;
}

Measurement run_eigen(const Sparse& a, const System& s, std::vector<double>& x) {
    Measurement m;
    auto start = std::chrono::steady_clock::now();
    Eigen::ConjugateGradient<Sparse, Eigen::Lower | Eigen::Upper, Eigen::IncompleteCholesky<double>> cg;
    cg.setTolerance(tolerance);
    cg.setMaxIterations(100000);
    cg.compute(a);
    m.setup = seconds_since(start);
    start = std::chrono::steady_clock::now();
    Eigen::Map<Eigen::VectorXd>(x.data(), static_cast<Eigen::Index>(x.size())) = cg.solve(Eigen::Map<const Eigen::VectorXd>(s.heat.data(), static_cast<Eigen::Index>(x.size())));
    m.iterations = static_cast<double>(cg.iterations());
    m.solve = seconds_since(start);
    return m;
}

#ifdef FIRNFIELD_WITH_HYPRE
/// Conjugate gradients with BoomerAMG; `tuned` is the best setting found for these matrices.
Measurement run_hypre(const Sparse& a, const System& s, std::vector<double>& x, bool tuned) {
    MPI_Init(nullptr, nullptr);
    HYPRE_Init();
    Measurement m;
    const int rows = static_cast<int>(a.rows());
    auto start = std::chrono::steady_clock::now();
    HYPRE_IJMatrix ij = nullptr;
    HYPRE_IJMatrixCreate(MPI_COMM_SELF, 0, rows - 1, 0, rows - 1, &ij);
    HYPRE_IJMatrixSetObjectType(ij, HYPRE_PARCSR);
    std::vector<int> sizes(static_cast<std::size_t>(rows)), numbers(static_cast<std::size_t>(rows));
    for (int i = 0; i < rows; ++i) {
        sizes[static_cast<std::size_t>(i)] = a.outerIndexPtr()[i + 1] - a.outerIndexPtr()[i];
        numbers[static_cast<std::size_t>(i)] = i;
    }
    HYPRE_IJMatrixSetRowSizes(ij, sizes.data());
    HYPRE_IJMatrixInitialize(ij);
    HYPRE_IJMatrixSetValues(ij, rows, sizes.data(), numbers.data(), a.innerIndexPtr(), a.valuePtr());
    HYPRE_IJMatrixAssemble(ij);
    HYPRE_ParCSRMatrix matrix = nullptr;
    HYPRE_IJMatrixGetObject(ij, reinterpret_cast<void**>(&matrix));
    const auto vector = [&](const double* values) {
        HYPRE_IJVector v = nullptr;
        HYPRE_IJVectorCreate(MPI_COMM_SELF, 0, rows - 1, &v);
        HYPRE_IJVectorSetObjectType(v, HYPRE_PARCSR);
        HYPRE_IJVectorInitialize(v);
        HYPRE_IJVectorSetValues(v, rows, numbers.data(), values);
        HYPRE_IJVectorAssemble(v);
        return v;
    };
    HYPRE_IJVector b_ij = vector(s.heat.data()), x_ij = vector(x.data());
    HYPRE_ParVector b = nullptr, solution = nullptr;
    HYPRE_IJVectorGetObject(b_ij, reinterpret_cast<void**>(&b));
    HYPRE_IJVectorGetObject(x_ij, reinterpret_cast<void**>(&solution));
    HYPRE_Solver cg = nullptr, amg = nullptr;
    HYPRE_ParCSRPCGCreate(MPI_COMM_SELF, &cg);
    HYPRE_PCGSetTol(cg, tolerance);
    HYPRE_PCGSetMaxIter(cg, 1000);
    HYPRE_PCGSetTwoNorm(cg, 1);
    HYPRE_BoomerAMGCreate(&amg);
    HYPRE_BoomerAMGSetTol(amg, 0.0);
    HYPRE_BoomerAMGSetMaxIter(amg, 1);
    if (tuned) {
        HYPRE_BoomerAMGSetCoarsenType(amg, 10);
        HYPRE_BoomerAMGSetInterpType(amg, 6);
        HYPRE_BoomerAMGSetPMaxElmts(amg, 4);
        HYPRE_BoomerAMGSetAggNumLevels(amg, 1);
        HYPRE_BoomerAMGSetStrongThreshold(amg, 0.25);
        HYPRE_BoomerAMGSetCycleRelaxType(amg, 13, 1);
        HYPRE_BoomerAMGSetCycleRelaxType(amg, 14, 2);
    } else {
        HYPRE_BoomerAMGSetRelaxType(amg, 6);  // symmetric, as conjugate gradients need
    }
    HYPRE_PCGSetPrecond(cg, reinterpret_cast<HYPRE_PtrToSolverFcn>(HYPRE_BoomerAMGSolve), reinterpret_cast<HYPRE_PtrToSolverFcn>(HYPRE_BoomerAMGSetup), amg);
    HYPRE_ParCSRPCGSetup(cg, matrix, b, solution);
    m.setup = seconds_since(start);
    start = std::chrono::steady_clock::now();
    HYPRE_ParCSRPCGSolve(cg, matrix, b, solution);
    m.solve = seconds_since(start);
    int iterations = 0;
    HYPRE_PCGGetNumIterations(cg, &iterations);
    m.iterations = iterations;
    HYPRE_IJVectorGetValues(x_ij, rows, numbers.data(), x.data());
    return m;
}
#endif

#ifdef FIRNFIELD_WITH_PETSC
Measurement run_petsc(const Sparse& a, const System& s, std::vector<double>& x) {
    static_cast<void>(PetscInitializeNoArguments());
    Measurement m;
    const auto rows = static_cast<PetscInt>(a.rows());
    auto start = std::chrono::steady_clock::now();
    Mat matrix = nullptr;
    static_cast<void>(MatCreateSeqAIJWithArrays(PETSC_COMM_SELF, rows, rows, const_cast<PetscInt*>(a.outerIndexPtr()), const_cast<PetscInt*>(a.innerIndexPtr()),
                                                const_cast<double*>(a.valuePtr()), &matrix));
    static_cast<void>(MatSetOption(matrix, MAT_SPD, PETSC_TRUE));
    Vec b = nullptr, solution = nullptr;
    static_cast<void>(VecCreateSeqWithArray(PETSC_COMM_SELF, 1, rows, s.heat.data(), &b));
    static_cast<void>(VecCreateSeqWithArray(PETSC_COMM_SELF, 1, rows, x.data(), &solution));
    KSP ksp = nullptr;
    static_cast<void>(KSPCreate(PETSC_COMM_SELF, &ksp));
    static_cast<void>(KSPSetOperators(ksp, matrix, matrix));
    static_cast<void>(KSPSetType(ksp, KSPCG));
    static_cast<void>(KSPSetNormType(ksp, KSP_NORM_UNPRECONDITIONED));
    static_cast<void>(KSPSetTolerances(ksp, tolerance, 0.0, PETSC_DEFAULT, 2000));
    PC pc = nullptr;
    static_cast<void>(KSPGetPC(ksp, &pc));
    static_cast<void>(PCSetType(pc, PCGAMG));
    static_cast<void>(KSPSetUp(ksp));
    m.setup = seconds_since(start);
    start = std::chrono::steady_clock::now();
    static_cast<void>(KSPSolve(ksp, b, solution));
    m.solve = seconds_since(start);
    PetscInt iterations = 0;
    static_cast<void>(KSPGetIterationNumber(ksp, &iterations));
    m.iterations = static_cast<double>(iterations);
    return m;
}
#endif

#ifdef FIRNFIELD_WITH_CHOLMOD
Measurement run_cholmod(const Sparse& a, const System& s, std::vector<double>& x) {
    Measurement m;
    auto start = std::chrono::steady_clock::now();
    cholmod_common common;
    cholmod_start(&common);
    common.supernodal = CHOLMOD_SUPERNODAL;
    cholmod_sparse matrix{};
    matrix.nrow = matrix.ncol = static_cast<std::size_t>(a.rows());
    matrix.nzmax = static_cast<std::size_t>(a.nonZeros());
    matrix.p = const_cast<int*>(a.outerIndexPtr());
    matrix.i = const_cast<int*>(a.innerIndexPtr());
    matrix.x = const_cast<double*>(a.valuePtr());
    matrix.stype = -1;
    matrix.itype = CHOLMOD_INT;
    matrix.xtype = CHOLMOD_REAL;
    matrix.dtype = CHOLMOD_DOUBLE;
    matrix.sorted = matrix.packed = 1;
    cholmod_factor* factor = cholmod_analyze(&matrix, &common);
    cholmod_factorize(&matrix, factor, &common);
    m.setup = seconds_since(start);
    start = std::chrono::steady_clock::now();
    cholmod_dense b{};
    b.nrow = b.nzmax = b.d = x.size();
    b.ncol = 1;
    b.x = const_cast<double*>(s.heat.data());
    b.xtype = CHOLMOD_REAL;
    b.dtype = CHOLMOD_DOUBLE;
    cholmod_dense* solution = cholmod_solve(CHOLMOD_A, factor, &b, &common);
    m.solve = seconds_since(start);
    m.iterations = 1;
    std::copy_n(static_cast<const double*>(solution->x), x.size(), x.begin());
    return m;
}
#endif

int measure(const std::string& solver, const std::string& file) {
    System s;
    {
        std::ifstream in(file, std::ios::binary);
        get(in, s.first);
        get(in, s.second);
        get(in, s.order);
        get(in, s.conductance);
        get(in, s.excess);
        get(in, s.heat);
    }
    const Sparse a = solver == "own" ? Sparse() : compressed(s);
    std::vector<double> x(s.rows(), 0.0);
    malloc_trim(0);
    std::ofstream("/proc/self/clear_refs") << "5";  // forget the peak so far
    const double before = memory("VmRSS");
    Measurement m;
    if (solver == "own") m = run_own(s, x);
    if (solver == "eigen") m = run_eigen(a, s, x);
#ifdef FIRNFIELD_WITH_HYPRE
    if (solver == "hypre tuned") m = run_hypre(a, s, x, true);
    if (solver == "hypre default") m = run_hypre(a, s, x, false);
#endif
#ifdef FIRNFIELD_WITH_PETSC
    if (solver == "petsc") m = run_petsc(a, s, x);
#endif
#ifdef FIRNFIELD_WITH_CHOLMOD
    if (solver == "cholmod") m = run_cholmod(a, s, x);
#endif
    m.bytes = memory("VmHWM") - before;
    m.residual = true_residual(s, x);
    fmt::print("{} {} {} {} {}\n", m.setup, m.solve, m.iterations, m.residual, m.bytes);
    std::fflush(stdout);
    std::_Exit(0);  // the peers' own ends are not what is measured
}

Measurement in_own_process(const std::string& program, const std::string& solver, const std::string& file, int threads) {
    const std::string command = fmt::format("OMP_NUM_THREADS={} '{}' --run '{}' '{}' 2>/dev/null", threads, program, solver, file);
    Measurement m;
    if (FILE* pipe = popen(command.c_str(), "r")) {
        if (std::fscanf(pipe, "%lf %lf %lf %lf %lf", &m.setup, &m.solve, &m.iterations, &m.residual, &m.bytes) != 5) m = {};
        pclose(pipe);
    }
    return m;
}

struct Contender {
    std::string title, solver;
    int threads;
    double most_rows;  // beyond, it would take minutes or all memory
};

std::vector<Contender> contenders() {
    std::vector<Contender> list{{"firnfield, 1 thread", "own", 1, 1e9}, {"firnfield, 2 threads", "own", 2, 1e9}};
#ifdef FIRNFIELD_WITH_HYPRE
    list.push_back({"CG + BoomerAMG, best setting found", "hypre tuned", 1, 1e9});
    list.push_back({"CG + BoomerAMG, default", "hypre default", 1, 5e6});
#endif
#ifdef FIRNFIELD_WITH_PETSC
    list.push_back({"PETSc CG + GAMG", "petsc", 1, 2e6});
#endif
#ifdef FIRNFIELD_WITH_CHOLMOD
    list.push_back({"CHOLMOD supernodal", "cholmod", 1, 3e5});
#endif
    list.push_back({"Eigen CG, incomplete Cholesky", "eigen", 1, 3e5});
    return list;
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
        const System s = system_of(assembly_of(1000.0 * target, round));
        {
            std::ofstream out(file, std::ios::binary);
            put(out, s.first);
            put(out, s.second);
            put(out, s.order);
            put(out, s.conductance);
            put(out, s.excess);
            put(out, s.heat);
        }
        const double csr = 12.0 * (2.0 * static_cast<double>(s.first.size()) + static_cast<double>(s.rows())) + 4.0 * static_cast<double>(s.rows());
        const double triad = triad_bandwidth();
        fmt::print("{} unknowns, triad {:.1f} GB/s, medians of {} in turns; a pass is one reading of the matrix as compressed rows\n\n", s.rows(), 1e-9 * triad, rounds);
        fmt::print("| {:<36} | set-up s | solve s | total s | iterations | residual | passes | bytes a row |\n|---|---|---|---|---|---|---|---|\n", "solver");
        std::map<std::string, std::vector<Measurement>> all;
        for (int r = 0; r < rounds; ++r) {
            for (const Contender& c : contenders()) {
                if (static_cast<double>(s.rows()) <= c.most_rows) all[c.title].push_back(in_own_process(argv[0], c.solver, file, c.threads));
            }
        }
        for (const Contender& c : contenders()) {
            std::vector<Measurement>& runs = all[c.title];
            if (runs.empty()) continue;
            std::sort(runs.begin(), runs.end(), [](const Measurement& a, const Measurement& b) { return a.setup + a.solve < b.setup + b.solve; });
            const Measurement& m = runs[runs.size() / 2];
            fmt::print("| {:<36} | {:.2f} | {:.2f} | {:.2f} | {:.0f} | {:.1e} | {:.0f} | {:.0f} |\n", c.title, m.setup, m.solve, m.setup + m.solve, m.iterations, m.residual,
                       (m.setup + m.solve) * triad / csr, m.bytes / static_cast<double>(s.rows()));
            std::fflush(stdout);
        }
        fmt::print("\n");
    }
    std::filesystem::remove(file);
}
