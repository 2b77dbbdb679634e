#include "covariance.h"
#include <cmath>
#include <limits>
#include <vector>

namespace scalewort {

namespace {

constexpr Eigen::Index rows_per_block = 512;

// Copies rows [first, first + size) of x, transposed (an item a row), and
// moves the complete ones to the front. Returns how many are complete.
Eigen::Index gather_complete(const MatrixRef& x, Eigen::Index first,
                             Eigen::Index size, Matrix& block) {
  const Eigen::Index p = x.cols();
  Vector total = Vector::Zero(size);
  for (Eigen::Index j = 0; j < p; ++j) total += x.col(j).segment(first, size);
  block.resize(size, p);
  if (total.array().isFinite().all()) {
    block = x.middleRows(first, size);
    return size;
  }
  Eigen::Index kept = 0;
  std::vector<Eigen::Index> rows;
  for (Eigen::Index i = 0; i < size; ++i)
    if (std::isfinite(total(i))) rows.push_back(first + i);
  for (Eigen::Index j = 0; j < p; ++j) {
    kept = 0;
    for (Eigen::Index row : rows) block(kept++, j) = x(row, j);
  }
  return static_cast<Eigen::Index>(rows.size());
}

}  // namespace

Moments complete_moments(const MatrixRef& x) {
  const Eigen::Index n = x.rows(), p = x.cols();
  Moments out{Status::ok, 0, Vector::Zero(p), Matrix::Zero(p, p)};
  Vector shift = Vector::Zero(p), sum = Vector::Zero(p);
  Matrix block, products = Matrix::Zero(p, p);

  for (Eigen::Index first = 0; first < n; first += rows_per_block) {
    const Eigen::Index size = std::min(rows_per_block, n - first);
    const Eigen::Index kept = gather_complete(x, first, size, block);
    if (kept == 0) continue;
    auto rows = block.topRows(kept);
    if (out.n == 0) shift = rows.colwise().mean().transpose();
    rows.rowwise() -= shift.transpose();
    sum += rows.colwise().sum().transpose();
    products.selfadjointView<Eigen::Lower>().rankUpdate(rows.transpose());
    out.n += kept;
  }

  if (out.n < 2) {
    out.status = Status::too_few_cases;
    out.mean.setConstant(std::numeric_limits<double>::quiet_NaN());
    out.covariance.setConstant(std::numeric_limits<double>::quiet_NaN());
    return out;
  }
  const double count = static_cast<double>(out.n);
  const Vector offset = sum / count;
  out.mean = shift + offset;
  out.covariance = products.selfadjointView<Eigen::Lower>();
  out.covariance -= count * offset * offset.transpose();
  out.covariance /= count - 1.0;
  return out;
}

}  // namespace scalewort
