// Maximum likelihood extraction of common factors.
#pragma once
#include "types.h"

namespace scalewort {

struct ExtractionOptions {
  double lower_bound = 0.005;  // smallest uniqueness
  double tolerance = 1e-9;     // largest projected gradient at the optimum
  int max_iterations = 200;
};

struct Extraction {
  Status status;
  double discrepancy;   // ln|Sigma| - ln|R| + tr(R Sigma^-1) - p
  Vector uniqueness;    // p
  Matrix loadings;      // p x m, canonical: L' Psi^-1 L diagonal, largest first
  int iterations;
  double largest_gradient;  // over unique variances that are not at a bound
};

// r: p x p correlation matrix, positive definite. m >= 0 factors, m < p.
// Minimises the ML discrepancy over x = ln(uniqueness) by Newton's method with
// the exact Hessian, bounds kept by an active set, step halved until the
// discrepancy falls; Joreskog (1967), Clarke (1970).
Extraction extract_ml(const MatrixRef& r, Eigen::Index m, const ExtractionOptions& options);

// The discrepancy with its gradient and Hessian in x = ln(uniqueness); public
// for tests. Sizes: gradient p, hessian p x p.
double ml_discrepancy(const MatrixRef& r, Eigen::Index m, const VectorRef& x,
                      Vector& gradient, Matrix& hessian);

}  // namespace scalewort
