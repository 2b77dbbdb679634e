#include "least_squares.h"
#include <cmath>

namespace scalewort {

namespace {

double weighed(const Matrix& apart, const Matrix& weight, Weighing weighing) {
  if (weighing == Weighing::quadratic) {
    const Matrix product = weight * apart;
    return 0.5 * product.cwiseProduct(product.transpose()).sum();
  }
  const Matrix each = weight.cwiseProduct(apart.cwiseAbs2());
  return 0.5 * (each.sum() + each.diagonal().sum());
}

// W of the slope tr(W D) in a direction D of the covariance, which counts each pair twice.
Matrix slope_along(const Matrix& apart, const Matrix& weight, Weighing weighing) {
  if (weighing == Weighing::quadratic) return -weight * apart * weight;
  Matrix out = -weight.cwiseProduct(apart);
  out.diagonal() *= 2.0;
  return out;
}

Matrix curvature(const Structure& structure, const Derivatives& d, const Matrix& weight, Weighing weighing) {
  if (weighing == Weighing::quadratic) return gather(structure, trace_products(d, weight, weight));
  Matrix out = Matrix::Zero(structure.parameters, structure.parameters);
  for_each_covariance(structure, d, [&](Eigen::Index i, Eigen::Index j, const Moved& moved) {
    for (const std::pair<int, double>& a : moved)
      for (const std::pair<int, double>& b : moved) out(a.first, b.first) += 2.0 * weight(i, j) * a.second * b.second;
  });
  return out;
}

}  // namespace

bool SquaresDiscrepancy::value(const Vector& theta, double& out) {
  out = 0.0;
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Matrix apart = targets_[g].s - imply(fill(structures_[g], theta)).covariance;
    out += targets_[g].share * weighed(apart, targets_[g].weight, weighing_);
  }
  return std::isfinite(out);
}

Slope SquaresDiscrepancy::slope(const Vector& theta) {
  Slope out{Vector::Zero(theta.size()), Matrix::Zero(theta.size(), theta.size())};
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Structure& structure = structures_[g];
    const Target& target = targets_[g];
    const Implied implied = imply(fill(structure, theta));
    const Derivatives d = derivatives(structure, implied);
    const Matrix along = slope_along(target.s - implied.covariance, target.weight, weighing_);
    out.gradient += target.share * gradient_along(structure, d, along, Vector::Zero(structure.items));
    out.expected_hessian += target.share * curvature(structure, d, target.weight, weighing_);
  }
  return out;
}

}  // namespace scalewort
