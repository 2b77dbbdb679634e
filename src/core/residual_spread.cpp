#include "residual_spread.h"

namespace scalewort {

namespace {

// J C J' of one moment after the other: few parameters move each.
Vector explained_moments(const Structure& structure, const Derivatives& d, const Matrix& covariance) {
  Vector out(structure.items * (structure.items + 1) / 2);
  Eigen::Index at = 0;
  for_each_covariance(structure, d, [&](Eigen::Index, Eigen::Index, const Moved& moved) {
    double sum = 0.0;
    for (const std::pair<int, double>& a : moved)
      for (const std::pair<int, double>& b : moved) sum += a.second * b.second * covariance(a.first, b.first);
    out(at++) = sum;
  });
  return out;
}

}  // namespace

// A moment's weight in a sum over the lower triangle is half that over all cells, with as much again on the diagonal: hence the terms
// with the diagonals D of the derivatives.
ResidualSpread residual_spread(const Structure& structure, const VectorRef& theta, const Matrix& covariance, const Matrix& sigma,
                               const Vector& scale, const Matrix& e) {
  Derivatives d = derivatives(structure, imply(fill(structure, theta)));
  ResidualSpread out;
  out.explained = explained_moments(structure, d, covariance);
  d.u = scale.asDiagonal() * d.u;
  d.v = scale.asDiagonal() * d.v;
  d.unit = scale;
  d.rest = scale.asDiagonal() * d.rest;
  const Matrix scaled = scale.asDiagonal() * sigma * scale.asDiagonal();
  const Matrix one = Matrix::Identity(structure.items, structure.items);
  const Matrix diagonal = 2.0 * d.u.cwiseProduct(d.v) * d.weight.asDiagonal();
  const Matrix inner = covariance * gather(structure, 0.5 * (trace_products(d, one, one) + diagonal.transpose() * diagonal));
  out.squares = inner.cwiseProduct(inner.transpose()).sum();
  const Matrix through = 2.0 * (scaled * d.u).cwiseProduct(scaled * d.v) * d.weight.asDiagonal();
  const Matrix crossed = through.transpose() * diagonal;
  const Matrix forms = trace_products(d, scaled, scaled) + crossed + crossed.transpose() +
                       diagonal.transpose() * scaled.cwiseProduct(scaled) * diagonal;
  out.forms = covariance.cwiseProduct(gather(structure, 0.5 * forms)).sum();
  Matrix doubled = e;
  doubled.diagonal() *= 2.0;
  const Vector slope = 0.5 * gradient_along(structure, d, doubled, Vector::Zero(structure.items));
  out.along = slope.dot(covariance * slope);
  return out;
}

}  // namespace scalewort
