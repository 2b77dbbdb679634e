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

}  // namespace

Eigen::Index gather_complete(const std::vector<Column>& columns, const int* keep,
                             Eigen::Index first, Eigen::Index size, Matrix& block,
                             std::vector<Eigen::Index>& rows) {
  const Eigen::Index p = static_cast<Eigen::Index>(columns.size());
  Eigen::ArrayXd total = Eigen::ArrayXd::Zero(size);
  for (Eigen::Index j = 0; j < p; ++j) {
    copy_column(columns[j], first, size, block.col(j).data());
    total += block.col(j).head(size).array();
  }
  rows.clear();
  for (Eigen::Index i = 0; i < size; ++i)
    if (std::isfinite(total(i)) && (keep == nullptr || keep[first + i] == 1)) rows.push_back(i);
  const Eigen::Index kept = static_cast<Eigen::Index>(rows.size());
  if (kept < size) {
    for (Eigen::Index j = 0; j < p; ++j) {
      double* column = block.col(j).data();
      for (Eigen::Index i = 0; i < kept; ++i) column[i] = column[rows[i]];
    }
  }
  return kept;
}

}  // namespace scalewort
