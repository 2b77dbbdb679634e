// Fisher scoring within bounds: for discrepancies with a gradient and an expected Hessian.
#pragma once
#include <vector>
#include "types.h"

namespace scalewort {

struct Slope {
  Vector gradient;          // q
  Matrix expected_hessian;  // q x q, positive semidefinite
};

class Discrepancy {
 public:
  virtual ~Discrepancy() = default;
  // False where it is not defined.
  virtual bool value(const Vector& theta, double& out) = 0;
  virtual Slope slope(const Vector& theta) = 0;
};

struct ScoringOptions {
  double tolerance = 1e-15;  // of the decrement g' inv(H) g over parameters not held
  int max_iterations = 300;
  Vector low, high;  // bounds; empty for none
};

struct Optimum {
  Status status;  // ok, not_converged, or not_positive_definite (undefined at the start)
  Vector theta;
  double value;
  Slope slope;
  double decrement;
  int iterations;
  std::vector<int> held;  // parameters at a bound that the gradient pushes against
};

// The step is halved until the value falls; a singular Hessian gets its diagonal raised;
// parameters at a bound with the gradient pushing outwards are held there.
Optimum minimise(Discrepancy& discrepancy, const VectorRef& start, const ScoringOptions& options);

}  // namespace scalewort
