#include "columns.h"
#include <cmath>
#include <limits>

namespace scalewort {

namespace {

void copy_column(const Column& column, Eigen::Index first, Eigen::Index size, double* out) {
  if (column.whole != nullptr) {
    const int* x = column.whole + first;
    for (Eigen::Index i = 0; i < size; ++i)
      out[i] = x[i] == missing_whole ? std::numeric_limits<double>::quiet_NaN()
                                     : column.shift + column.sign * x[i];
  } else {
    const double* x = column.real + first;
    for (Eigen::Index i = 0; i < size; ++i) out[i] = column.shift + column.sign * x[i];
  }
}

// Cells in some rows.
void copy_cells(const Column& column, const Eigen::Index* where, Eigen::Index size, double* out) {
  if (column.whole != nullptr) {
    for (Eigen::Index i = 0; i < size; ++i) {
      const int x = column.whole[where[i]];
      out[i] = x == missing_whole ? std::numeric_limits<double>::quiet_NaN() : column.shift + column.sign * x;
    }
  } else {
    for (Eigen::Index i = 0; i < size; ++i) out[i] = column.shift + column.sign * column.real[where[i]];
  }
}

// Fills the top of a block with the complete rows of `size`; copy fills a column with its cells, counts says whether a row counts.
template <class Copy, class Counts>
Eigen::Index gather(const std::vector<Column>& columns, Eigen::Index size, Matrix& block, std::vector<Eigen::Index>& rows, Copy copy, Counts counts) {
  const Eigen::Index p = static_cast<Eigen::Index>(columns.size());
  Eigen::ArrayXd total = Eigen::ArrayXd::Zero(size);
  for (Eigen::Index j = 0; j < p; ++j) {
    copy(columns[j], block.col(j).data());
    total += block.col(j).head(size).array();
  }
  rows.clear();
  for (Eigen::Index i = 0; i < size; ++i)
    if (std::isfinite(total(i)) && counts(i)) rows.push_back(i);
  const Eigen::Index kept = static_cast<Eigen::Index>(rows.size());
  if (kept < size) {
    for (Eigen::Index j = 0; j < p; ++j) {
      double* column = block.col(j).data();
      for (Eigen::Index i = 0; i < kept; ++i) column[i] = column[rows[i]];
    }
  }
  return kept;
}

}  // namespace

Eigen::Index gather_complete(const std::vector<Column>& columns, const int* keep,
                             Eigen::Index first, Eigen::Index size, Matrix& block,
                             std::vector<Eigen::Index>& rows) {
  return gather(columns, size, block, rows, [&](const Column& column, double* out) { copy_column(column, first, size, out); },
                [&](Eigen::Index i) { return keep == nullptr || keep[first + i] == 1; });
}

Eigen::Index gather_complete(const std::vector<Column>& columns, const Eigen::Index* where, Eigen::Index size, Matrix& block,
                             std::vector<Eigen::Index>& rows) {
  return gather(columns, size, block, rows, [&](const Column& column, double* out) { copy_cells(column, where, size, out); },
                [](Eigen::Index) { return true; });
}

}  // namespace scalewort
