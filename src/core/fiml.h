// Full information maximum likelihood of factor structures from incomplete answers.
#pragma once
#include <vector>
#include "confirmation.h"

namespace scalewort {

// Cases of one group that miss the same items: how many, which items they have, and means
// and covariances (divisor n) of those.
struct Pattern {
  double n;
  std::vector<Eigen::Index> seen;
  Vector mean;
  Matrix covariance;
};

using Patterns = std::vector<Pattern>;

// Sum over groups and patterns of n / N (ln|Sigma| + tr(inv(Sigma) T)), T the spread of the
// answers seen around the implied means: minus twice the log-likelihood per case, without
// its constant. Structures must have means.
class PatternDiscrepancy : public Discrepancy {
 public:
  PatternDiscrepancy(const std::vector<Structure>& structures, const std::vector<Patterns>& groups,
                     int threads);
  bool value(const Vector& theta, double& out) override;
  // The expected Hessian is that of complete answers.
  Slope slope(const Vector& theta) override;
  // The exact Hessian: the patterns' part in closed form, the structures' own curvature by
  // central differences of their gradient.
  Matrix observed_hessian(const Vector& theta);

 private:
  const std::vector<Structure>& structures_;
  const std::vector<Patterns>& groups_;
  double total_;
  int threads_;
};

// The same at any moments of one group, with slopes tr(W D) and w'd along them.
struct PatternLikelihood {
  bool defined;
  double value;
  Matrix along_covariance;
  Vector along_mean;
};
PatternLikelihood pattern_likelihood(const Patterns& patterns, const Matrix& covariance,
                                     const Vector& mean, int threads);

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

// Observed Hessian of the value in the means and covariances themselves (lower triangle with
// diagonal, by column), per case: p(p + 3)/2 square.
Matrix saturated_hessian(const Patterns& patterns, const Matrix& covariance, const Vector& mean,
                         int threads);

// Score tests as in score_tests(), with the information that the answers seen would be
// expected to give.
ScoreTests incomplete_score_tests(const Structure& structure, const Patterns& patterns,
                                  const VectorRef& theta, const std::vector<Cell>& candidates, int threads);

// The share of each case (rows of x, NaN for missing) in the gradient of minus twice the
// log-likelihood in theta: n x q.
Matrix case_gradients(const Structure& structure, const MatrixRef& x, const VectorRef& theta);

// The same in the means and covariances themselves: n x p(p + 3)/2.
Matrix saturated_case_gradients(const MatrixRef& x, const Matrix& covariance, const Vector& mean);

}  // namespace scalewort
