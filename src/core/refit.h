// The same structure fitted to many covariance matrices.
#pragma once
#include "confirmation.h"

namespace scalewort {

struct Refits {
  Matrix theta, error;    // q x count; error: sqrt of the diagonal of inv(n / 2 H)
  Vector value;           // of the discrepancy
  Eigen::VectorXi status; // as Status
};

// covariances: p*p x count, divisor n. Maximum likelihood from a common start; a column whose
// matrix is not positive definite or whose search fails keeps NaN.
Refits refit(const Structure& structure, const MatrixRef& covariances, const VectorRef& start, double n,
             const ScoringOptions& options, int threads);

}  // namespace scalewort
