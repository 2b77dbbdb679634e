// What a fit explains of the sample's moments when answers are normal: how much of the spread of each moment, and of all together.
#pragma once
#include "structure.h"

namespace scalewort {

// J: derivative of the covariances (lower triangle with diagonal, by column) in the free parameters; C: n times the covariance matrix of
// the estimates. With scale: items' factors by which moments are standardised, G their normal covariance matrix, J scaled likewise.
struct ResidualSpread {
  Vector explained;  // diagonal of J C J', not scaled
  double squares;    // tr (J C J')^2
  double forms;      // tr G J C J'
  double along;      // e' J C J' e of scaled residuals e, given as a symmetric matrix
};
ResidualSpread residual_spread(const Structure& structure, const VectorRef& theta, const Matrix& covariance, const Matrix& sigma,
                               const Vector& scale, const Matrix& e);

}  // namespace scalewort
