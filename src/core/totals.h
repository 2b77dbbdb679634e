// How the sum of a subscale's answers is distributed.
#pragma once
#include <map>
#include "columns.h"

namespace scalewort {

// Of the cases with one total: how many, and the sum and sum of squares of the mean
// of their odd answers less the mean of their even ones.
struct TotalCell {
  double n = 0.0, gap = 0.0, gap_squared = 0.0;
};

// One entry per total that occurs among complete rows (see complete_moments() for
// columns, rows and keep), lowest first; the same for any number of threads.
std::map<double, TotalCell> tally_totals(const std::vector<Column>& columns, Eigen::Index rows,
                                         const int* keep, int threads);

}  // namespace scalewort
