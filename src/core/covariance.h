// Means and covariances of the complete rows of a matrix of answers.
#pragma once
#include "types.h"

namespace scalewort {

struct Moments {
  Status status;
  Eigen::Index n;     // complete rows used
  Vector mean;        // p
  Matrix covariance;  // p x p, divisor n - 1
};

// x: n x p, missing cells NaN. Rows with any missing cell are left out.
// One pass in blocks of rows: each block is shifted by a provisional mean
// (the mean of the first complete rows), which keeps the cancellation in
// sum(xy) - n * mean(x) * mean(y) harmless; Chan, Golub & LeVeque (1983).
// status: ok, or too_few_cases when fewer than two rows are complete.
Moments complete_moments(const MatrixRef& x);

}  // namespace scalewort
