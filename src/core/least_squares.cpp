#include "least_squares.h"
#include <cmath>

namespace scalewort {

bool ElementDiscrepancy::value(const Vector& theta, double& out) {
  out = 0.0;
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Target& target = targets_[g];
    const Matrix apart = target.s - imply(fill(structures_[g], theta)).covariance;
    const Matrix each = target.weight.cwiseProduct(apart.cwiseAbs2());
    out += target.share * 0.5 * (each.sum() + each.diagonal().sum());
  }
  return std::isfinite(out);
}

Slope ElementDiscrepancy::slope(const Vector& theta) {
  const Eigen::Index q = theta.size();
  Slope out{Vector::Zero(q), Matrix::Zero(q, q)};
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Structure& structure = structures_[g];
    const Target& target = targets_[g];
    const Implied implied = imply(fill(structure, theta));
    // tr(M D) with M off the diagonal half of -2 w e, since D counts each pair twice.
    Matrix along = -target.weight.cwiseProduct(target.s - implied.covariance);
    along.diagonal() *= 2.0;
    out.gradient += target.share * gradient_along(structure, derivatives(structure, implied), along, Vector::Zero(structure.items));
    const Matrix j = jacobian(structure, theta).bottomRows(structure.items * (structure.items + 1) / 2);
    Vector weight(j.rows());
    Eigen::Index k = 0;
    for (Eigen::Index b = 0; b < structure.items; ++b)
      for (Eigen::Index a = b; a < structure.items; ++a) weight(k++) = target.weight(a, b);
    out.expected_hessian += 2.0 * target.share * j.transpose() * weight.asDiagonal() * j;
  }
  return out;
}

bool QuadraticDiscrepancy::value(const Vector& theta, double& out) {
  out = 0.0;
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Target& target = targets_[g];
    const Matrix product = target.weight * (target.s - imply(fill(structures_[g], theta)).covariance);
    out += target.share * 0.5 * product.cwiseProduct(product.transpose()).sum();
  }
  return std::isfinite(out);
}

Slope QuadraticDiscrepancy::slope(const Vector& theta) {
  const Eigen::Index q = theta.size();
  Slope out{Vector::Zero(q), Matrix::Zero(q, q)};
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Structure& structure = structures_[g];
    const Target& target = targets_[g];
    const Implied implied = imply(fill(structure, theta));
    const Derivatives d = derivatives(structure, implied);
    const Matrix along = -target.weight * (target.s - implied.covariance) * target.weight;
    out.gradient += target.share * gradient_along(structure, d, along, Vector::Zero(structure.items));
    out.expected_hessian += target.share * gather(structure, trace_products(d, target.weight, target.weight));
  }
  return out;
}

}  // namespace scalewort
