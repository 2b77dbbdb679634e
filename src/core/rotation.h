// Rotation of a loading matrix by gradient projection.
#pragma once
#include <cstdint>
#include "types.h"

namespace scalewort {

enum class Criterion {
  crawford_ferguson = 0,  // parameter kappa; varimax is kappa = 1 / p
  oblimin = 1             // parameter gamma; direct quartimin is gamma = 0
};

struct RotationOptions {
  Criterion criterion;
  double parameter;
  bool oblique;
  int starts;           // the first start is the matrix as it stands
  std::uint64_t seed;   // for the random starts
  double tolerance = 1e-8;  // norm of the projected gradient
  int max_iterations = 2000;
};

struct Rotation {
  Status status;
  Matrix loadings;      // p x m pattern
  Matrix correlations;  // m x m, the identity when orthogonal
  Matrix transform;     // m x m, T: loadings = A inv(T)' (A T when orthogonal)
  double value;         // criterion at the minimum kept
  Vector values;        // criterion each start ended in, NaN where it did not converge
  int iterations;       // of the start that was kept
  double gradient_norm;
};

// a: p x m with m >= 2. Minimises the criterion over orthogonal matrices, or
// over matrices with columns of length one (oblique), from `starts` random
// orthogonal starts, and keeps the lowest minimum. Gradient projection after
// Jennrich (2001, orthogonal; 2002, oblique); criteria as in Crawford &
// Ferguson (1970) and Jennrich & Sampson (1966).
Rotation rotate(const MatrixRef& a, const RotationOptions& options);

// Value of the criterion at a pattern, and its gradient in the pattern (p x m).
double criterion_value(const MatrixRef& pattern, Criterion criterion, double parameter,
                       Matrix& gradient);

}  // namespace scalewort
