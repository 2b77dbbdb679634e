// Maximum likelihood fit of a factor structure to a covariance matrix.
#pragma once
#include "structure.h"

namespace scalewort {

struct FitOptions {
  double tolerance = 1e-15;  // Newton decrement g' inv(I) g at the optimum
  int max_iterations = 300;
};

// The discrepancy ln|Sigma| + tr(S inv(Sigma)) - ln|S| - p at one theta.
struct Evaluation {
  bool defined;  // false where Sigma is not positive definite
  double discrepancy;
  Implied implied;
  Matrix inverse;  // of Sigma
};
Evaluation evaluate(const Structure& structure, const MatrixRef& s, double log_det_s,
                    const VectorRef& theta);

// Gradient of the discrepancy (q) and its expected Hessian (q x q),
// tr(inv(Sigma) Sigma_i inv(Sigma) Sigma_j); half of it times n is the
// information.
struct Slope {
  Vector gradient;
  Matrix expected_hessian;
};
Slope slope(const Structure& structure, const MatrixRef& s, const Evaluation& at);

struct Fit {
  Status status;
  Vector theta;
  double discrepancy;
  Matrix implied;           // p x p
  Matrix expected_hessian;  // q x q
  Vector gradient;          // q
  double decrement;
  int iterations;
};

// s: p x p positive definite. start: q values at which Sigma is positive
// definite. Fisher scoring with step halving; where the expected Hessian is
// singular its diagonal is raised. status: ok, not_converged, or
// not_positive_definite (s, or Sigma at the start).
Fit fit_structure(const Structure& structure, const MatrixRef& s, const VectorRef& start,
                  const FitOptions& options);

// What freeing each of some fixed cells (loadings or residuals) would do, to first order: the slope of the
// discrepancy in the cell at `value`, and its curvature once the free parameters have
// adjusted, h_cc - h_c inv(H) h_c' (expected Hessian). The score test of a cell is
// n/2 slope^2 / curvature, its expected change -slope / curvature. Curvature 0 where the
// cell cannot be told from the free parameters.
struct ScoreTests {
  Vector slope, curvature;
};
ScoreTests score_tests(const Structure& structure, const MatrixRef& s, const VectorRef& theta,
                       const std::vector<Cell>& candidates);

// The same in steps, for answers whose information comes in shares: add() for each share
// with the inverse of the covariances seen there (zero elsewhere), then tests() with the
// weight W for which the slope in a direction D of the covariances is tr(W D).
struct ScoreInformation {
  Vector own;      // h_cc of each candidate
  Matrix cross;    // q x candidates
  Matrix hessian;  // q x q
  void add(const Structure& structure, const Implied& implied, const Matrix& inverse, double share,
           const std::vector<Cell>& candidates);
  ScoreTests tests(const Structure& structure, const Implied& implied, const Matrix& weight,
                   const std::vector<Cell>& candidates) const;
};

// Derivative of the implied covariances (lower triangle with diagonal, by column) in the
// free parameters: p(p + 1)/2 x q.
Matrix jacobian(const Structure& structure, const VectorRef& theta);

}  // namespace scalewort
