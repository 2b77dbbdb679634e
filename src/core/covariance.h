// Means and covariances of the complete rows of some columns of answers.
#pragma once
#include "columns.h"

namespace scalewort {

struct SampleMoments {
  Status status;
  Eigen::Index n;     // complete rows used
  Vector mean;        // p
  Matrix covariance;  // p x p, divisor n - 1
};

// columns: p of them, each `rows` long. keep: null, or `rows` flags; a row with
// flag 0 is left out, and so is a row with any missing cell.
// One pass in chunks of rows, shared by up to `threads` threads and added up in
// order, so that the result is the same for any number of threads. Values are
// shifted by a provisional mean (of the first complete rows), which keeps the
// cancellation in sum(xy) - n mean(x) mean(y) harmless; Chan, Golub & LeVeque
// (1983).
// status: ok, or too_few_cases when fewer than two rows are complete.
SampleMoments complete_moments(const std::vector<Column>& columns, Eigen::Index rows, const int* keep,
                         int threads);

// What complete_moments() adds up, so that rows can come a part at a time: the same digits when each part but the last has a whole number of
// `moment_rows` rows.
struct MomentSums {
  Eigen::Index n;   // complete rows
  Vector sum;       // about a provisional mean
  Matrix products;  // lower triangle
};
constexpr Eigen::Index moment_rows = 64 * rows_per_block;

// The mean of the first rows_per_block rows' complete ones, or of the next that have some; empty where none has.
Vector provisional_mean(const std::vector<Column>& columns, Eigen::Index rows, const int* keep);
void add_rows(const std::vector<Column>& columns, Eigen::Index rows, const int* keep, const Vector& centre,
              int threads, MomentSums& total);
SampleMoments moments_of(const MomentSums& total, const Vector& centre);

// Moments of the complete rows without those of each part in turn. part: 1, ..., parts for each row; a row with another number is in none and
// counts nowhere. Again the same for any number of threads.
std::vector<SampleMoments> moments_without_parts(const std::vector<Column>& columns, Eigen::Index rows, const int* part, int parts, int threads);

// How often each of low, low + 1, ..., high stands in x (whole numbers). `missing`
// counts missing cells, `outside` those beyond the range.
struct Tally {
  std::vector<double> counts;
  double missing, outside;
};
Tally tally(const int* x, Eigen::Index rows, const int* keep, int low, int high);

// The same of reals, of which NaN is missing and what is no whole number outside.
Tally tally(const double* x, Eigen::Index rows, const int* keep, int low, int high);

}  // namespace scalewort
