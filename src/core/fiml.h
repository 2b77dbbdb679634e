// Full information maximum likelihood of factor structures from incomplete answers.
#pragma once
#include <vector>
#include "confirmation.h"
#include "patterns.h"

namespace scalewort {

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

// Score tests as in score_tests(), with the information that the answers seen would be
// expected to give.
ScoreTests incomplete_score_tests(const Structure& structure, const Patterns& patterns,
                                  const VectorRef& theta, const std::vector<Cell>& candidates, int threads);

}  // namespace scalewort
