// Rotation of a loading matrix by gradient projection.
#pragma once
#include <cstdint>
#include <vector>
#include "criteria.h"

namespace scalewort {

struct RotationOptions {
  Simplicity simplicity;
  bool oblique;
  int starts;          // the first start is the matrix as it stands
  std::uint64_t seed;  // for the random starts
  int threads = 1;
  double tolerance = 1e-8;  // norm of the projected gradient
  int max_iterations = 2000;
};

// Where one start ended.
struct Rotation {
  Status status;
  Matrix loadings;      // p x m pattern
  Matrix correlations;  // m x m, the identity when orthogonal
  Matrix transform;     // m x m, T: loadings = A inv(T)' (A T when orthogonal)
  double value;         // of the criterion
  int iterations;
  double gradient_norm;
};

// a: p x m with m >= 2. Minimises the criterion over orthogonal matrices, or over
// matrices with columns of length one (oblique), from `starts` random orthogonal starts;
// gradient projection after Jennrich (2001, orthogonal; 2002, oblique). One element per
// start, in order; the same for any number of threads.
std::vector<Rotation> rotate(const MatrixRef& a, const RotationOptions& options);

// What is zero where a criterion is least at a pattern (p x m, rows of communality one where `normalised`) with factor correlations: the
// cells of L'G inv(Phi) off the diagonal (oblique), by column, or those of L'G - G'L below it, G being the criterion's gradient.
Vector rotation_constraints(const Simplicity& simplicity, Matrix pattern, const Matrix& correlations, bool oblique, bool normalised);

// Their derivative in all loadings (by column), then, where `free_correlations`, in the correlations (lower triangle by column), by central
// differences.
Matrix constraint_slopes(const Simplicity& simplicity, const MatrixRef& pattern, const MatrixRef& correlations, bool oblique,
                         bool free_correlations, bool normalised, int threads);

// The place of the lowest minimum among starts that converged; 0 when none did.
std::size_t best_start(const std::vector<Rotation>& found);

}  // namespace scalewort
