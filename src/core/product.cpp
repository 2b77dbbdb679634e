#include "product.h"
#include <algorithm>
#include <vector>

namespace scalewort {

namespace {

constexpr Eigen::Index columns_at_once = 96, few_columns = 256, tall_rows = 4096;

// Below this many multiplications a thread costs more than it saves.
constexpr double worth_sharing = 2e6;

}  // namespace

Matrix shared_product(const MatrixRef& a, const MatrixRef& b, int threads) {
  Matrix out(a.rows(), b.cols());
  if (static_cast<double>(a.size()) * static_cast<double>(b.cols()) < worth_sharing) {
    out.noalias() = a * b;
    return out;
  }
  share(b.cols(), columns_at_once, threads, [&](Eigen::Index first, Eigen::Index last) {
    out.middleCols(first, last - first).noalias() = a * b.middleCols(first, last - first);
  });
  return out;
}

Vector row_forms(const MatrixRef& x, const MatrixRef& m, int threads) {
  Vector out(x.rows());
  share(x.rows(), 512, threads, [&](Eigen::Index first, Eigen::Index last) {
    const auto rows = x.middleRows(first, last - first);
    out.segment(first, last - first) = (rows * m).cwiseProduct(rows).rowwise().sum();
  });
  return out;
}

Matrix shared_crossproduct(const MatrixRef& x, int threads) {
  const Eigen::Index p = x.cols();
  Matrix out = Matrix::Zero(p, p);
  if (static_cast<double>(x.size()) * static_cast<double>(p) < worth_sharing) {
    out.selfadjointView<Eigen::Lower>().rankUpdate(x.transpose());
    return out.selfadjointView<Eigen::Lower>();
  }
  if (p <= few_columns && x.rows() > tall_rows) {
    const Eigen::Index chunks = (x.rows() + tall_rows - 1) / tall_rows;
    std::vector<Matrix> parts(chunks, out);
    share(chunks, 1, threads, [&](Eigen::Index i, Eigen::Index) {
      const Eigen::Index first = i * tall_rows;
      parts[i].selfadjointView<Eigen::Lower>().rankUpdate(x.middleRows(first, std::min(tall_rows, x.rows() - first)).transpose());
    });
    for (const Matrix& part : parts) out += part;
    return out.selfadjointView<Eigen::Lower>();
  }
  share(p, columns_at_once, threads, [&](Eigen::Index first, Eigen::Index last) {
    out.block(first, first, p - first, last - first).noalias() =
        x.rightCols(p - first).transpose() * x.middleCols(first, last - first);
  });
  return out.selfadjointView<Eigen::Lower>();
}

}  // namespace scalewort
