// Columns of answers, read where they lie.
#pragma once
#include <climits>
#include <vector>
#include "types.h"

namespace scalewort {

// A column as it lies in memory: whole numbers or reals. Its value in row i is
// shift + sign * x[i], so that a reversed item (shift = lowest + highest, sign =
// -1) needs no copy. Missing: `missing_whole`, or not finite.
struct Column {
  const int* whole;    // either this
  const double* real;  // or this; the other is null
  double shift, sign;
};

constexpr int missing_whole = INT_MIN;

constexpr Eigen::Index rows_per_block = 256;

// Fills the top of `block` (rows_per_block x columns) with the complete rows of
// [first, first + size) that `keep` (null, or flags) keeps; returns how many there
// are. `rows` is scratch.
Eigen::Index gather_complete(const std::vector<Column>& columns, const int* keep,
                             Eigen::Index first, Eigen::Index size, Matrix& block,
                             std::vector<Eigen::Index>& rows);

// The same of `size` rows named one by one.
Eigen::Index gather_complete(const std::vector<Column>& columns, const Eigen::Index* where, Eigen::Index size, Matrix& block,
                             std::vector<Eigen::Index>& rows);

}  // namespace scalewort
