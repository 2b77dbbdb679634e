#include "weighted_scores.h"
#include <utility>
#include <vector>
#include "parallel.h"
#include "product.h"

namespace scalewort {

double weighted_square(const MatrixRef& gamma, const VectorRef& w) {
  double out = 0.0;
  for (Eigen::Index j = 0; j < gamma.cols(); ++j) out += w(j) * gamma.col(j).cwiseAbs2().dot(w);
  return out;
}

WeightedScores weighted_scores(const WeightedFit& fit, const MatrixRef& candidates, const IndexVector& place, const VectorRef& e, int threads) {
  const Matrix j = fit.j.transpose(), pulled = fit.pulled.transpose();
  const Eigen::Index count = candidates.cols(), q = j.rows();
  WeightedScores out{Vector::Zero(count), Vector(count), Vector(count), Vector::Zero(count)};
  share(count, 16, threads, [&](Eigen::Index first, Eigen::Index last) {
    std::vector<std::pair<Eigen::Index, double>> moved;
    for (Eigen::Index k = first; k < last; ++k) {
      moved.clear();
      for (Eigen::Index row = 0; row < candidates.rows(); ++row)
        if (candidates(row, k) != 0.0 && place(row) >= 0) moved.emplace_back(place(row), candidates(row, k));
      Vector with_j = Vector::Zero(q), with_pulled = Vector::Zero(q);
      double own = 0.0;
      for (const auto& one : moved) {
        const Eigen::Index at = one.first;
        const double weighted = fit.w(at) * one.second;
        out.slope(k) += weighted * e(at);
        out.size(k) += weighted * one.second;
        with_j += weighted * j.col(at);
        with_pulled += one.second * pulled.col(at);
        for (const auto& other : moved) own += weighted * fit.w(other.first) * other.second * fit.gamma(other.first, at);
      }
      const Vector through = fit.bread * with_j;
      out.curvature(k) = out.size(k) - through.dot(with_j);
      out.spread(k) = own - 2.0 * through.dot(with_pulled) + through.dot(fit.meat * through);
    }
  });
  return out;
}

// C = gamma - A Q' - Q A' with A = j B, Q = P - A M / 2.
WeightedLeft weighted_left(const WeightedFit& fit, const VectorRef& scale, const VectorRef& e, int threads) {
  constexpr Eigen::Index at_once = 64;
  const Eigen::Index m = fit.j.rows(), q = fit.j.cols();
  const Matrix a = fit.j * fit.bread;
  Matrix q_of = fit.w.cwiseInverse().asDiagonal() * fit.pulled;
  q_of.noalias() -= 0.5 * a * fit.meat;
  Matrix left(m, 2 * q), right(m, 2 * q);
  left << a, q_of;
  right << q_of, a;
  WeightedLeft out{Vector(m), 0.0, 0.0};
  const Vector along = scale.cwiseProduct(e);
  Vector squares((m + at_once - 1) / at_once), forms(squares.size());
  share(m, at_once, threads, [&](Eigen::Index first, Eigen::Index last) {
    const Eigen::Index count = last - first;
    const Matrix turned = right.middleRows(first, count).transpose();
    Matrix block = fit.gamma.middleCols(first, count) - shared_product(left, turned, 1);
    for (Eigen::Index k = 0; k < count; ++k) out.diagonal(first + k) = block(first + k, k);
    forms(first / at_once) = along.dot(block * along.segment(first, count));
    squares(first / at_once) = (scale.asDiagonal() * block * scale.segment(first, count).asDiagonal()).squaredNorm();
  });
  out.square = squares.sum();
  out.form = forms.sum();
  return out;
}

}  // namespace scalewort
