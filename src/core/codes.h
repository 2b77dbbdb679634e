// Answers as category numbers.
#pragma once
#include "columns.h"
#include "polychoric.h"

namespace scalewort {

struct Coded {
  Status status;               // too_many_categories where an item has more than `most`
  Codes codes;                 // rows kept x items; 1, 2, ... in order of the answer, 0 missing
  std::vector<Vector> values;  // the answers that occur, ascending, per item
  Eigen::Index cases() const;  // rows with any answer
  IndexVector categories() const;
};

// columns: whole numbers (see Column); most: at most 255. complete: keep only rows without a missing cell.
Coded code_columns(const std::vector<Column>& columns, Eigen::Index rows, const int* keep,
                   bool complete, int most, int threads);

}  // namespace scalewort
