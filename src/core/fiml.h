// Full information maximum likelihood of a factor structure from incomplete answers.
#pragma once
#include <vector>
#include "confirmation.h"

namespace scalewort {

// Cases that miss the same items: how many, which items they have, and means and
// covariances (divisor n) of those.
struct Pattern {
  double n;
  std::vector<Eigen::Index> seen;
  Vector mean;
  Matrix covariance;
};

// Minus twice the log-likelihood per case, without its constant, at a covariance matrix,
// the means being those that maximise it; with the p x p weight W for which the derivative
// in any direction D of the covariance matrix is tr(W D). defined is false where the
// covariance matrix is not positive definite.
struct PatternLikelihood {
  bool defined;
  double value;
  Vector mean;
  Matrix weight;
};
PatternLikelihood pattern_likelihood(const std::vector<Pattern>& patterns, const Matrix& covariance,
                                     int threads);

struct IncompleteFit {
  Status status;
  Vector theta, mean, gradient;
  double value;            // minus twice the log-likelihood per case, less its constant
  Matrix implied;          // p x p
  Matrix observed_hessian; // of value, in theta, the means following
  double decrement;
  int iterations;
};

// Scoring steps with the expected Hessian of complete answers, halved until the value
// falls; the observed Hessian by central differences of the exact gradient. threads: for
// the patterns.
IncompleteFit fit_incomplete(const Structure& structure, const std::vector<Pattern>& patterns,
                             const VectorRef& start, double tolerance, int max_iterations,
                             int threads);

// The value and its gradient in theta (q); public for tests.
double incomplete_value(const Structure& structure, const std::vector<Pattern>& patterns,
                        const VectorRef& theta, Vector& gradient);

// Score tests as in score_tests(), with the information that the answers seen would be
// expected to give.
ScoreTests incomplete_score_tests(const Structure& structure, const std::vector<Pattern>& patterns,
                                  const VectorRef& theta, const std::vector<Cell>& candidates);

}  // namespace scalewort
