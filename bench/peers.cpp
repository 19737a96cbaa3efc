// Packaged solvers beside our own, each in a process of its own, on the same systems.

#include "peers.hpp"

#include "assembly.hpp"

#include <Eigen/IterativeLinearSolvers>
#include <Eigen/SparseCore>

#include <malloc.h>

#if defined(FIRNFIELD_WITH_HYPRE) || defined(FIRNFIELD_WITH_PETSC)
#include <mpi.h>
#endif
#ifdef FIRNFIELD_WITH_HYPRE
#include <HYPRE.h>
#include <HYPRE_parcsr_ls.h>
#endif
#ifdef FIRNFIELD_WITH_PETSC
#include <petscksp.h>
#endif
#ifdef FIRNFIELD_WITH_CHOLMOD
#include <cholmod.h>
#endif

namespace firnfield::bench {
namespace {

using Sparse = Eigen::SparseMatrix<double, Eigen::RowMajor, int>;
using Vector = Eigen::Map<Eigen::VectorXd>;

/// Compressed rows in the order of the system, and its heat likewise.
struct Compressed {
    Sparse matrix{};
    std::vector<double> heat{};
};

Compressed compressed(const System& s) {
    std::vector<int> place(s.rows());
    for (std::size_t n = 0; n < s.rows(); ++n) place[s.order[n]] = static_cast<int>(n);
    std::vector<Eigen::Triplet<double>> entries;
    entries.reserve(4 * s.first.size() + s.rows());
    for (std::size_t e = 0; e < s.first.size(); ++e) {
        const int i = place[s.first[e]], j = place[s.second[e]];
        const double g = s.conductance[e];
        entries.insert(entries.end(), {{i, i, g}, {j, j, g}, {i, j, -g}, {j, i, -g}});
    }
    Compressed out;
    for (std::size_t n = 0; n < s.rows(); ++n) {
        entries.emplace_back(static_cast<int>(n), static_cast<int>(n), s.excess[s.order[n]]);
        out.heat.push_back(s.heat[s.order[n]]);
    }
    out.matrix.resize(static_cast<Eigen::Index>(s.rows()), static_cast<Eigen::Index>(s.rows()));
    out.matrix.setFromTriplets(entries.begin(), entries.end());
    return out;
}

/// Seconds since it was made.
class Clock {
public:
    [[nodiscard]] double seconds() const { return std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count(); }

private:
    std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
};

Measurement run_eigen(const Compressed& a, std::vector<double>& x) {
    Measurement m;
    const Clock setup;
    Eigen::ConjugateGradient<Sparse, Eigen::Lower | Eigen::Upper, Eigen::IncompleteCholesky<double>> cg;
    cg.setTolerance(tolerance);
    cg.setMaxIterations(100000);
    cg.compute(a.matrix);
    m.setup = setup.seconds();
    const Clock solve;
    Vector(x.data(), a.matrix.rows()) = cg.solve(Eigen::Map<const Eigen::VectorXd>(a.heat.data(), a.matrix.rows()));
    m.solve = solve.seconds();
    m.iterations = static_cast<double>(cg.iterations());
    return m;
}

#ifdef FIRNFIELD_WITH_HYPRE
/// Conjugate gradients with BoomerAMG, every process with its share of the rows; `tuned` is the best setting found for these matrices.
Measurement run_hypre(Compressed a, std::vector<double>& x, bool tuned) {
    MPI_Init(nullptr, nullptr);
    int rank = 0, processes = 1;
    MPI_Comm_rank(MPI_COMM_WORLD, &rank);
    MPI_Comm_size(MPI_COMM_WORLD, &processes);
    const auto rows = static_cast<long>(a.matrix.rows());
    std::vector<int> count, first;
    for (long p = 0; p < processes; ++p) {
        first.push_back(static_cast<int>(rows * p / processes));
        count.push_back(static_cast<int>(rows * (p + 1) / processes) - first.back());
    }
    const int from = first[static_cast<std::size_t>(rank)], own = count[static_cast<std::size_t>(rank)];
    if (processes > 1) {
        // A process begins with its own rows only.
        a.matrix = Sparse(a.matrix.middleRows(from, own));
        a.heat = std::vector<double>(a.heat.begin() + from, a.heat.begin() + from + own);
        malloc_trim(0);
    }
    std::ofstream("/proc/self/clear_refs") << "5";  // forget the peak so far
    const double before = memory("VmRSS");
    HYPRE_Init();
    Measurement m;
    MPI_Barrier(MPI_COMM_WORLD);
    const Clock setup;
    HYPRE_IJMatrix ij = nullptr;
    HYPRE_IJMatrixCreate(MPI_COMM_WORLD, from, from + own - 1, from, from + own - 1, &ij);
    HYPRE_IJMatrixSetObjectType(ij, HYPRE_PARCSR);
    std::vector<int> sizes, numbers;
    for (int i = 0; i < own; ++i) {
        sizes.push_back(a.matrix.outerIndexPtr()[i + 1] - a.matrix.outerIndexPtr()[i]);
        numbers.push_back(from + i);
    }
    HYPRE_IJMatrixSetRowSizes(ij, sizes.data());
    HYPRE_IJMatrixInitialize(ij);
    HYPRE_IJMatrixSetValues(ij, own, sizes.data(), numbers.data(), a.matrix.innerIndexPtr(), a.matrix.valuePtr());
    HYPRE_IJMatrixAssemble(ij);
    HYPRE_ParCSRMatrix matrix = nullptr;
    HYPRE_IJMatrixGetObject(ij, reinterpret_cast<void**>(&matrix));
    const auto vector = [&](const double* values) {
        HYPRE_IJVector v = nullptr;
        HYPRE_IJVectorCreate(MPI_COMM_WORLD, from, from + own - 1, &v);
        HYPRE_IJVectorSetObjectType(v, HYPRE_PARCSR);
        HYPRE_IJVectorInitialize(v);
        HYPRE_IJVectorSetValues(v, own, numbers.data(), values);
        HYPRE_IJVectorAssemble(v);
        return v;
    };
    std::vector<double> part(static_cast<std::size_t>(own), 0.0);
    HYPRE_IJVector b_ij = vector(a.heat.data()), x_ij = vector(part.data());
    HYPRE_ParVector b = nullptr, solution = nullptr;
    HYPRE_IJVectorGetObject(b_ij, reinterpret_cast<void**>(&b));
    HYPRE_IJVectorGetObject(x_ij, reinterpret_cast<void**>(&solution));
    HYPRE_Solver cg = nullptr, amg = nullptr;
    HYPRE_ParCSRPCGCreate(MPI_COMM_WORLD, &cg);
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
    m.setup = setup.seconds();
    MPI_Barrier(MPI_COMM_WORLD);
    const Clock solve;
    HYPRE_ParCSRPCGSolve(cg, matrix, b, solution);
    MPI_Barrier(MPI_COMM_WORLD);
    m.solve = solve.seconds();
    int iterations = 0;
    HYPRE_PCGGetNumIterations(cg, &iterations);
    m.iterations = iterations;
    HYPRE_IJVectorGetValues(x_ij, own, numbers.data(), part.data());
    const double bytes = memory("VmHWM") - before;
    MPI_Gatherv(part.data(), own, MPI_DOUBLE, x.data(), count.data(), first.data(), MPI_DOUBLE, 0, MPI_COMM_WORLD);
    MPI_Reduce(&bytes, &m.bytes, 1, MPI_DOUBLE, MPI_SUM, 0, MPI_COMM_WORLD);
    MPI_Finalize();
    if (rank > 0) std::_Exit(0);
    return m;
}
#endif

#ifdef FIRNFIELD_WITH_PETSC
Measurement run_petsc(const Compressed& a, std::vector<double>& x) {
    static_cast<void>(PetscInitializeNoArguments());
    Measurement m;
    const auto rows = static_cast<PetscInt>(a.matrix.rows());
    const Clock setup;
    Mat matrix = nullptr;
    static_cast<void>(MatCreateSeqAIJWithArrays(PETSC_COMM_SELF, rows, rows, const_cast<PetscInt*>(a.matrix.outerIndexPtr()),
                                                const_cast<PetscInt*>(a.matrix.innerIndexPtr()), const_cast<double*>(a.matrix.valuePtr()), &matrix));
    static_cast<void>(MatSetOption(matrix, MAT_SPD, PETSC_TRUE));
    Vec b = nullptr, solution = nullptr;
    static_cast<void>(VecCreateSeqWithArray(PETSC_COMM_SELF, 1, rows, a.heat.data(), &b));
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
    m.setup = setup.seconds();
    const Clock solve;
    static_cast<void>(KSPSolve(ksp, b, solution));
    m.solve = solve.seconds();
    PetscInt iterations = 0;
    static_cast<void>(KSPGetIterationNumber(ksp, &iterations));
    m.iterations = static_cast<double>(iterations);
    return m;
}
#endif

#ifdef FIRNFIELD_WITH_CHOLMOD
Measurement run_cholmod(const Compressed& a, std::vector<double>& x) {
    Measurement m;
    const Clock setup;
    cholmod_common common;
    cholmod_start(&common);
    common.supernodal = CHOLMOD_SUPERNODAL;
    cholmod_sparse matrix{};
    matrix.nrow = matrix.ncol = static_cast<std::size_t>(a.matrix.rows());
    matrix.nzmax = static_cast<std::size_t>(a.matrix.nonZeros());
    matrix.p = const_cast<int*>(a.matrix.outerIndexPtr());
    matrix.i = const_cast<int*>(a.matrix.innerIndexPtr());
    matrix.x = const_cast<double*>(a.matrix.valuePtr());
    matrix.stype = -1;
    matrix.itype = CHOLMOD_INT;
    matrix.xtype = CHOLMOD_REAL;
    matrix.dtype = CHOLMOD_DOUBLE;
    matrix.sorted = matrix.packed = 1;
    cholmod_factor* factor = cholmod_analyze(&matrix, &common);
    cholmod_factorize(&matrix, factor, &common);
    m.setup = setup.seconds();
    const Clock solve;
    cholmod_dense b{};
    b.nrow = b.nzmax = b.d = x.size();
    b.ncol = 1;
    b.x = const_cast<double*>(a.heat.data());
    b.xtype = CHOLMOD_REAL;
    b.dtype = CHOLMOD_DOUBLE;
    cholmod_dense* solution = cholmod_solve(CHOLMOD_A, factor, &b, &common);
    m.solve = solve.seconds();
    m.iterations = 1;
    std::copy_n(static_cast<const double*>(solution->x), x.size(), x.begin());
    return m;
}
#endif

}  // namespace

std::vector<Peer> peers() {
    std::vector<Peer> list;
#ifdef FIRNFIELD_WITH_HYPRE
    list.push_back({"CG + BoomerAMG, best setting found", "hypre tuned"});
    list.push_back({"the same, 2 processes", "hypre tuned", 2});
    list.push_back({"CG + BoomerAMG, default", "hypre default", 1, 2e6});
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

Measurement run_peer(const std::string& solver, const System& system, std::vector<double>& x) {
    Compressed a = compressed(system);
    std::vector<double> ordered(system.rows(), 0.0);
    malloc_trim(0);
    std::ofstream("/proc/self/clear_refs") << "5";  // forget the peak so far
    const double before = memory("VmRSS");
    Measurement m;
    if (solver == "eigen") m = run_eigen(a, ordered);
#ifdef FIRNFIELD_WITH_HYPRE
    if (solver == "hypre tuned") m = run_hypre(std::move(a), ordered, true);
    if (solver == "hypre default") m = run_hypre(std::move(a), ordered, false);
#endif
#ifdef FIRNFIELD_WITH_PETSC
    if (solver == "petsc") m = run_petsc(a, ordered);
#endif
#ifdef FIRNFIELD_WITH_CHOLMOD
    if (solver == "cholmod") m = run_cholmod(a, ordered);
#endif
    if (m.bytes == 0.0) m.bytes = memory("VmHWM") - before;
    for (std::size_t n = 0; n < x.size(); ++n) x[system.order[n]] = ordered[n];
    return m;
}

}  // namespace firnfield::bench
