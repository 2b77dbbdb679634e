// Maximum likelihood fit of factor structures to the moments of one or more groups.
#pragma once
#include <vector>
#include "scoring.h"
#include "structure.h"

namespace scalewort {

// Moments of one group. mean is read where the structure says something about means.
struct GroupMoments {
  double share;       // of all cases
  Matrix covariance;  // p x p, divisor n
  Vector mean;        // p
};

// Sum over groups of share * (ln|Sigma| + tr(S inv(Sigma)) - ln|S| - p + d' inv(Sigma) d),
// d the difference of sample and implied means.
class LikelihoodDiscrepancy : public Discrepancy {
 public:
  LikelihoodDiscrepancy(const std::vector<Structure>& structures, const std::vector<GroupMoments>& moments);
  bool value(const Vector& theta, double& out) override;
  Slope slope(const Vector& theta) override;
  bool positive_definite() const { return positive_; }  // the sample's covariances

 private:
  const std::vector<Structure>& structures_;
  const std::vector<GroupMoments>& moments_;
  Vector log_determinants_;  // of the sample's covariances
  bool positive_ = true;
};

// What the discrepancy's slope is along directions of the implied moments: tr(W D), w'd.
struct Along {
  bool defined;
  Matrix inverse;     // of Sigma
  Matrix covariance;  // W
  Vector mean;        // w
};
Along along(const Structure& structure, const Implied& implied, const GroupMoments& moments);

// What freeing each of some fixed cells (loadings or residuals) of one group would do, to
// first order: the slope of the discrepancy in the cell, and its curvature once the free
// parameters have adjusted, h_cc - h_c inv(H) h_c' (expected Hessian). The score test of a
// cell is n/2 slope^2 / curvature, its expected change -slope / curvature. Curvature 0
// where the cell cannot be told from the free parameters.
struct ScoreTests {
  Vector slope, curvature;
};
ScoreTests score_tests(const Structure& structure, const GroupMoments& moments, const VectorRef& theta,
                       const std::vector<Cell>& candidates, int threads);

// The same in steps, for answers whose information comes in shares: add() for each share with the basis_products() of the inverse of
// the covariances seen there (zero elsewhere), then tests() with the slopes along the implied moments.
struct ScoreInformation {
  Vector own;       // h_cc of each candidate, but for what means add
  Matrix cross;     // free cells of the covariances x candidates
  Matrix hessian;   // free cells of the covariances, both ways
  Matrix products;  // the shares' sum of products, from which all that means add follows
  void add(const FreeCells& cells, const Matrix& products, double share, const std::vector<Cell>& candidates, Eigen::Index items);
  void join(const ScoreInformation& other);
  ScoreTests tests(const Structure& structure, const FreeCells& cells, const Implied& implied, const Along& along,
                   const std::vector<Cell>& candidates, int threads) const;
};

}  // namespace scalewort
