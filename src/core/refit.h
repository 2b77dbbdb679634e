// The same structure fitted to many covariance matrices.
#pragma once
#include <vector>
#include "confirmation.h"

namespace scalewort {

struct Refits {
  Matrix theta, error;    // q x count; error: sqrt of the diagonal of inv(n / 2 H)
  Vector value;           // of the discrepancy
  std::vector<Status> status;
};

// covariances: p*p x count, divisor n. Maximum likelihood from a common start; a column whose
// matrix is not positive definite or whose search fails keeps NaN. The metric of the steps is
// that of the start, since all optima are near it. error only with `errors`.
Refits refit(const Structure& structure, const MatrixRef& covariances, const VectorRef& start, double n,
             const ScoringOptions& options, bool errors, int threads);

}  // namespace scalewort
