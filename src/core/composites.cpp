#include "composites.h"
#include <cmath>
#include "parallel.h"

namespace scalewort {

namespace {

// Inner weights: what each composite's neighbours count for its next proxy.
Matrix inner_weights(const Matrix& c, const Blocks& blocks) {
  const Eigen::Index k = c.rows();
  Matrix out = Matrix::Zero(k, k);
  for (Eigen::Index i = 0; i < k; ++i) {
    std::vector<Eigen::Index> before;
    bool alone = true;
    for (Eigen::Index j = 0; j < k; ++j) {
      if (j == i || (blocks.leads(j, i) == 0 && blocks.leads(i, j) == 0)) continue;
      alone = false;
      if (blocks.leads(j, i) != 0) before.push_back(j);
      out(j, i) = blocks.scheme == Scheme::centroid ? (c(j, i) < 0.0 ? -1.0 : 1.0) : c(j, i);
    }
    if (alone) out(i, i) = 1.0;
    if (blocks.scheme != Scheme::path || before.empty()) continue;
    const Eigen::Index m = static_cast<Eigen::Index>(before.size());
    Matrix among(m, m);
    Vector with(m);
    for (Eigen::Index a = 0; a < m; ++a) {
      with(a) = c(before[a], i);
      for (Eigen::Index b = 0; b < m; ++b) among(a, b) = c(before[a], before[b]);
    }
    const Vector slope = among.ldlt().solve(with);
    for (Eigen::Index a = 0; a < m; ++a) out(before[a], i) = slope(a);
  }
  return out;
}

Matrix block_part(const MatrixRef& r, const std::vector<Eigen::Index>& items) {
  const Eigen::Index size = static_cast<Eigen::Index>(items.size());
  Matrix out(size, size);
  for (Eigen::Index a = 0; a < size; ++a)
    for (Eigen::Index b = 0; b < size; ++b) out(a, b) = r(items[a], items[b]);
  return out;
}

}  // namespace

Composites block_weights(const MatrixRef& r, const Blocks& blocks, double tolerance, int max_iterations) {
  const Eigen::Index p = r.rows(), k = static_cast<Eigen::Index>(blocks.items.size());
  std::vector<Matrix> own;
  std::vector<Eigen::LDLT<Matrix>> solver;
  Composites out{false, Matrix::Zero(p, k), 0};
  for (Eigen::Index i = 0; i < k; ++i) {
    own.push_back(block_part(r, blocks.items[i]));
    solver.emplace_back(own.back());
    for (Eigen::Index item : blocks.items[i]) out.weight(item, i) = 1.0 / std::sqrt(own.back().sum());
  }
  while (!out.converged && out.iterations < max_iterations) {
    ++out.iterations;
    const Matrix rw = r * out.weight;
    const Matrix proxy = rw * inner_weights(out.weight.transpose() * rw, blocks);
    Matrix next = Matrix::Zero(p, k);
    for (Eigen::Index i = 0; i < k; ++i) {
      const std::vector<Eigen::Index>& items = blocks.items[i];
      Vector w(items.size());
      for (std::size_t a = 0; a < items.size(); ++a) w(a) = proxy(items[a], i);
      if (blocks.regress[i]) w = solver[i].solve(w).eval();
      const double size = std::sqrt(w.dot(own[i] * w));
      if (!(size > 0.0)) return out;
      const double sign = (own[i] * w).sum() < 0.0 ? -1.0 : 1.0;
      for (std::size_t a = 0; a < items.size(); ++a) next(items[a], i) = sign * w(a) / size;
    }
    out.converged = (next - out.weight).cwiseAbs().maxCoeff() < tolerance;
    out.weight = next;
  }
  return out;
}

namespace {

double rho_a(const Matrix& r, const std::vector<Eigen::Index>& items, const Vector& weight) {
  double square = 0.0, fourth = 0.0, within = 0.0;
  for (Eigen::Index a : items) {
    const double own = weight(a) * weight(a);
    square += own;
    fourth += own * own;
    for (Eigen::Index b : items)
      if (a != b) within += weight(a) * r(a, b) * weight(b);
  }
  return square * square * within / (square * square - fourth);
}

Matrix consistent_correlations(Matrix c, const Matrix& r, const Matrix& weight, const Blocks& blocks) {
  Vector scale = Vector::Ones(c.rows());
  for (std::size_t k = 0; k < blocks.items.size(); ++k) {
    if (blocks.regress[k] || blocks.items[k].size() < 2) continue;
    const double rho = rho_a(r, blocks.items[k], weight.col(k));
    if (!std::isnan(rho)) scale(k) = rho;
  }
  for (Eigen::Index j = 0; j < c.cols(); ++j)
    for (Eigen::Index i = 0; i < c.rows(); ++i) c(i, j) = i == j ? 1.0 : c(i, j) / std::sqrt(scale(i) * scale(j));
  return c;
}

Matrix paths_between(const Matrix& c, const Eigen::MatrixXi& leads) {
  Matrix out = Matrix::Zero(c.rows(), c.cols());
  for (Eigen::Index i = 0; i < c.cols(); ++i) {
    std::vector<Eigen::Index> before;
    for (Eigen::Index j = 0; j < c.rows(); ++j)
      if (leads(j, i) == 1) before.push_back(j);
    if (before.empty()) continue;
    Vector with(before.size());
    for (std::size_t a = 0; a < before.size(); ++a) with(a) = c(before[a], i);
    const Vector slope = block_part(c, before).partialPivLu().solve(with);
    for (std::size_t a = 0; a < before.size(); ++a) out(before[a], i) = slope(a);
  }
  return out;
}

}  // namespace

Matrix replicate_figures(const MatrixRef& covariances, const Blocks& blocks, const MatrixRef& reference, bool consistent,
                         double tolerance, int max_iterations, int threads) {
  const Eigen::Index count = covariances.cols(), p = reference.rows(), k = static_cast<Eigen::Index>(blocks.items.size());
  Eigen::Index items = 0;
  for (const auto& own : blocks.items) items += static_cast<Eigen::Index>(own.size());
  Matrix out = Matrix::Constant(2 * items + 2 * k * k, count, std::nan(""));
  share(count, 8, threads, [&](Eigen::Index first, Eigen::Index last) {
    for (Eigen::Index i = first; i < last; ++i) {
      Matrix r = Eigen::Map<const Matrix>(covariances.col(i).data(), p, p);
      const Vector scale = r.diagonal().cwiseSqrt().cwiseInverse();
      if (!scale.allFinite()) continue;
      r = scale.asDiagonal() * r * scale.asDiagonal();
      Composites found = block_weights(r, blocks, tolerance, max_iterations);
      if (!found.converged) continue;
      for (Eigen::Index j = 0; j < k; ++j)
        if (found.weight.col(j).dot(reference.col(j)) < 0.0) found.weight.col(j) *= -1.0;
      const Matrix cross = r * found.weight;
      Matrix correlations = found.weight.transpose() * cross;
      if (consistent) correlations = consistent_correlations(correlations, r, found.weight, blocks);
      const Matrix paths = paths_between(correlations, blocks.leads);
      Eigen::Index at = 0;
      for (Eigen::Index j = 0; j < k; ++j)
        for (Eigen::Index item : blocks.items[j]) {
          out(at, i) = found.weight(item, j);
          out(items + at++, i) = cross(item, j);
        }
      out.col(i).segment(2 * items, k * k) = Eigen::Map<const Vector>(correlations.data(), k * k);
      out.col(i).tail(k * k) = Eigen::Map<const Vector>(paths.data(), k * k);
    }
  });
  return out;
}

}  // namespace scalewort
