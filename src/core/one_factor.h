// Maximum likelihood extraction of a single common factor, fast enough to be done
// thousands of times.
#pragma once
#include "types.h"

namespace scalewort {

struct OneFactor {
  Status status;
  Vector loadings;    // p, summing to a positive number
  Vector uniqueness;  // p, at least the lower bound
};

// r: p x p correlation matrix, p >= 3. start: unique variances to start from, or
// null. The optimum of extract_ml() with m = 1; since only the largest root of
// Psi^-1/2 R Psi^-1/2 is needed, each Newton step costs one Cholesky factor in place
// of an eigendecomposition: with the root t, its vector w and B = Psi^-1/2 R Psi^-1/2,
//   sum over the other roots s of (1 - s)(s + t) / (t - s) v v'
//     = 2 t (1 - t) (t I - B)^+ + (3 t - 1)(I - w w') - (t I - B)
// is what the Hessian of extract_ml() needs. last_step: see NewtonOptions.
OneFactor extract_one_factor(const MatrixRef& r, const Vector* start, double lower_bound = 0.005,
                             double tolerance = 1e-9, double last_step = 1e-5);

}  // namespace scalewort
