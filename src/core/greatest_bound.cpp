#include "greatest_bound.h"
#include <Eigen/Cholesky>
#include <cmath>
#include <limits>
#include "interrupt.h"

namespace scalewort {

namespace {

Matrix without(const MatrixRef& r, const Vector& t) {
  Matrix out = r;
  out.diagonal() -= t;
  return out;
}

double barrier(const MatrixRef& r, const Vector& weight, const Vector& t, double mu) {
  if (!(t.minCoeff() > 0.0)) return -std::numeric_limits<double>::infinity();
  const Eigen::LLT<Matrix> factor(without(r, t));
  if (factor.info() != Eigen::Success) return -std::numeric_limits<double>::infinity();
  const double log_root = factor.matrixLLT().diagonal().array().log().sum();
  return weight.dot(t) + mu * (2.0 * log_root + t.array().log().sum());
}

}  // namespace

double greatest_bound(const MatrixRef& r, const Vector& weight, double smallest, double gap) {
  const Eigen::Index p = r.rows();
  const Matrix one = Matrix::Identity(p, p);
  Vector t = Vector::Constant(p, 0.5 * smallest);
  double mu = weight.maxCoeff();
  if (!std::isfinite(barrier(r, weight, t, mu))) return std::numeric_limits<double>::quiet_NaN();
  while (2.0 * p * mu > gap) {
    mu /= 5.0;
    for (int step = 0; step < 50; ++step) {
      stop_if_asked();
      const Matrix inverse = without(r, t).llt().solve(one);
      const Vector gradient = weight - mu * inverse.diagonal() + mu * t.cwiseInverse();
      Matrix curve = mu * inverse.cwiseProduct(inverse);
      curve.diagonal() += mu * t.array().square().inverse().matrix();
      const Vector direction = curve.llt().solve(gradient);
      const double decrement = gradient.dot(direction);
      if (decrement < 1e-3 * mu) break;
      const double here = barrier(r, weight, t, mu);
      double size = 1.0;
      while (barrier(r, weight, t + size * direction, mu) < here + size * 1e-4 * decrement && size > 1e-12) size /= 2.0;
      // Nothing better can be told apart from here.
      if (size <= 1e-12) break;
      t += size * direction;
    }
  }
  return weight.dot(t);
}

}  // namespace scalewort
