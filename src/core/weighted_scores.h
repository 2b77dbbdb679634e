// What follows from moments that were fitted with weights, when gamma / n is their covariance matrix (Browne, 1984): score tests of what
// could be freed, and the spread of what is left over.
#pragma once
#include "types.h"

namespace scalewort {

// Of a fit with weights w (m) and Jacobian j (m x q): pulled = W gamma W j, bread = inverse of j'Wj, meat = j' pulled.
struct WeightedFit {
  MatrixRef j, pulled, bread, meat, gamma;
  VectorRef w;
};

// Sum of w_a w_b gamma_ab^2: the trace of (W gamma)^2.
double weighted_square(const MatrixRef& gamma, const VectorRef& w);

// Score tests of candidates, a column of slopes each, most of them zero; place: which moment a row of slopes is of, -1 for none; e: residuals
// of the moments. Slope, curvature that the free parameters leave, spread of the slope (Satorra, 1989), and the curvature before (size).
struct WeightedScores {
  Vector slope, curvature, spread, size;
};
WeightedScores weighted_scores(const WeightedFit& fit, const MatrixRef& candidates, const IndexVector& place, const VectorRef& e, int threads);

// Covariance matrix of the residuals, times n: C = gamma - j B P' - P B j' + j B M B j', P = pulled / w, without building it. Its diagonal,
// and of s C s, s the diagonal matrix of `scale`: sum of squares, and e'(s C s)e.
struct WeightedLeft {
  Vector diagonal;
  double square, form;
};
WeightedLeft weighted_left(const WeightedFit& fit, const VectorRef& scale, const VectorRef& e, int threads);

}  // namespace scalewort
