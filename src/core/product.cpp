#include "product.h"
#include <algorithm>
#include <vector>
#include "wide_product.h"

namespace scalewort {

namespace {

constexpr Eigen::Index columns_at_once = 96, few_columns = 256, tall_rows = 4096, piece_rows = 512;

// Below this many multiplications a thread costs more than it saves.
constexpr double worth_sharing = 2e6;

// The lower triangle above the diagonal, too; in its place, since large matrices are slow to make.
Matrix& mirrored(Matrix& x) {
  for (Eigen::Index j = 1; j < x.cols(); ++j)
    for (Eigen::Index i = 0; i < j; ++i) x(i, j) = x(j, i);
  return x;
}

// c += a b.
void add_product(const Lying& a, const Lying& b, Eigen::Index inner, Eigen::Ref<Matrix> c) {
  add_wide_product(c.rows(), c.cols(), inner, a, b, c.data(), c.outerStride());
}

}  // namespace

Matrix shared_product(const MatrixRef& a, const MatrixRef& b, int threads) {
  Matrix out(a.rows(), b.cols());
  if (static_cast<double>(a.size()) * static_cast<double>(b.cols()) < worth_sharing) {
    out.noalias() = a * b;
    return out;
  }
  const bool wide = has_wide_registers();
  if (wide) out.setZero();
  share(b.cols(), columns_at_once, threads, [&](Eigen::Index first, Eigen::Index last) {
    const MatrixRef columns = b.middleCols(first, last - first);
    if (wide)
      add_product(lying(a), lying(columns), a.cols(), out.middleCols(first, last - first));
    else
      out.middleCols(first, last - first).noalias() = a * columns;
  });
  return out;
}

void add_turned_product(const MatrixRef& a, const MatrixRef& b, Eigen::Ref<Matrix> c) {
  if (has_wide_registers())
    add_product(lying(a), turned(lying(b)), a.cols(), c);
  else
    c.noalias() += a * b.transpose();
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
    return mirrored(out);
  }
  const bool wide = has_wide_registers();
  if (p <= few_columns && x.rows() > tall_rows) {
    const Eigen::Index chunks = (x.rows() + tall_rows - 1) / tall_rows;
    std::vector<Matrix> parts(chunks, out);
    share(chunks, 1, threads, [&](Eigen::Index i, Eigen::Index) {
      const Eigen::Index first = i * tall_rows;
      const MatrixRef rows = x.middleRows(first, std::min(tall_rows, x.rows() - first));
      if (wide)
        add_product(turned(lying(rows)), lying(rows), rows.rows(), parts[i]);
      else
        parts[i].selfadjointView<Eigen::Lower>().rankUpdate(rows.transpose());
    });
    for (const Matrix& part : parts) out += part;
    return mirrored(out);
  }
  add_crossproduct(x, out, threads);
  return mirrored(out);
}

void add_crossproduct(const MatrixRef& x, Eigen::Ref<Matrix> sums, int threads) {
  const Eigen::Index p = x.cols();
  const bool wide = has_wide_registers();
  share(p, columns_at_once, threads, [&](Eigen::Index first, Eigen::Index last) {
    const MatrixRef left = x.rightCols(p - first), right = x.middleCols(first, last - first);
    auto own = sums.block(first, first, p - first, last - first);
    if (wide)
      add_product(turned(lying(left)), lying(right), x.rows(), own);
    else
      own.noalias() += left.transpose() * right;
  });
}

void add_fourth_products(const MatrixRef& x, const Vector& mean, Eigen::Ref<Matrix> sums, int threads) {
  const Eigen::Index p = x.cols();
  for (Eigen::Index first = 0; first < x.rows(); first += piece_rows) {
    const Matrix apart = x.middleRows(first, std::min(piece_rows, x.rows() - first)).rowwise() - mean.transpose();
    Matrix pairs(apart.rows(), sums.cols());
    Eigen::Index at = 0;
    for (Eigen::Index j = 0; j < p; ++j)
      for (Eigen::Index k = j; k < p; ++k, ++at) pairs.col(at) = apart.col(j).cwiseProduct(apart.col(k));
    add_crossproduct(pairs, sums, threads);
  }
}

}  // namespace scalewort
