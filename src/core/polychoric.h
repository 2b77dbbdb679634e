// Correlations of the normal variables behind ordered answers (polychoric; tetrachoric
// for two categories).
#pragma once
#include <cstdint>
#include <vector>
#include "types.h"

namespace scalewort {

using Codes = Eigen::Matrix<std::uint8_t, Eigen::Dynamic, Eigen::Dynamic>;

struct PolychoricOptions {
  double empty_cell = 0.5;  // what an empty cell of a 2 x 2 table counts as
  double largest = 0.9999;  // bound of a correlation's size
  double tolerance = 1e-8;  // last step, after which its square is left
  int max_iterations = 100;
  int threads = 1;
};

struct Polychoric {
  Matrix r;                            // p x p
  Matrix std_error;                    // p x p, 0 on the diagonal
  Matrix n;                            // p x p, cases behind each pair; on the diagonal those of each item
  Eigen::Matrix<Status, Eigen::Dynamic, Eigen::Dynamic> state;  // of each pair: ok, not_converged, at_bound,
                                       // empty_cell or too_few_cases
  std::vector<Vector> thresholds;      // categories - 1 per item
};

// codes: n x p, categories 1, ..., categories(j) of item j, each of them used; 0 is
// missing. Two-step maximum likelihood (Olsson, 1979): thresholds from each item's
// cumulative shares, then each correlation alone by Newton's method with analytic first
// and second derivatives, kept between points where the slope has opposite signs.
// Standard errors allow for the thresholds being estimated.
Polychoric polychoric(const Codes& codes, const IndexVector& categories,
                      const PolychoricOptions& options);

// The same from counts alone: of each item's categories, and of each pair's two-way table (categories(i) x categories(j)) for i > j in the
// order (1,0), (2,0), ..., (2,1), ...
struct OrderedCounts {
  std::vector<Vector> items;
  std::vector<Matrix> pairs;
};
OrderedCounts ordered_counts(const Codes& codes, const IndexVector& categories, int threads);
Polychoric polychoric(const OrderedCounts& counts, const PolychoricOptions& options);

// Covariance matrix, times n, of all thresholds (in order of items) followed by all
// correlations (pairs (1,0), (2,0), ..., (2,1), ... by column of the lower triangle), by
// the influence of each case (Muthen, 1984; Joreskog, 1994). A case weighs on the thresholds of
// the items and the correlations of the pairs it answered, n over the cases that did.
Matrix polychoric_covariance(const Codes& codes, const IndexVector& categories,
                             const Polychoric& estimate, int threads);

}  // namespace scalewort
