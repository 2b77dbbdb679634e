// What single cases add to the gradient of the likelihood.
#pragma once
#include "structure.h"

namespace scalewort {

// The share of each case (rows of x, NaN for missing) in the gradient of minus twice the
// log-likelihood in theta: n x q.
Matrix case_gradients(const Structure& structure, const MatrixRef& x, const VectorRef& theta);

// The same in the means and covariances themselves: n x p(p + 3)/2.
Matrix saturated_case_gradients(const MatrixRef& x, const Matrix& covariance, const Vector& mean);

}  // namespace scalewort
