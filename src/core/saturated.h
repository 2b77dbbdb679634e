// Free means and covariances of incomplete answers.
#pragma once
#include "patterns.h"

namespace scalewort {

// Free means and covariances (divisor n) by the EM algorithm (Dempster, Laird & Rubin, 1977): a
// step is mean - Sigma w / 2 and Sigma - Sigma W Sigma - d d', d the step of the mean and W, w
// the slopes of pattern_likelihood(). Every third step is stretched by the last two
// (Varadhan & Roland, 2008) unless the likelihood falls. Stops when no moment changes by more
// than tolerance in units of the items' standard deviations at the start.
struct EmFit {
  bool converged;
  Matrix covariance;
  Vector mean;
  int iterations;
};
EmFit em_moments(const Patterns& patterns, Matrix covariance, Vector mean, double tolerance, int max_iterations,
                 int threads);

// The same of the cases of x (with weights, or null) that are not in group g, for each g from 0 on; of: everybody's group.
std::vector<EmFit> em_without_each(const MatrixRef& x, const double* weight, const Eigen::VectorXi& of, int groups, const Matrix& covariance,
                                   const Vector& mean, double tolerance, int max_iterations, int threads);

// Observed Hessian of the value in the means and covariances themselves (lower triangle with
// diagonal, by column), per case: p(p + 3)/2 square.
Matrix saturated_hessian(const Patterns& patterns, const Matrix& covariance, const Vector& mean,
                         int threads);

}  // namespace scalewort
