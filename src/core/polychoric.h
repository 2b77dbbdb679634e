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

// What each answer weighs on the thresholds of its item, and each pair of answers on its correlation (Muthen, 1984; Joreskog, 1994), among
// n cases: columns are all thresholds (in order of items), then all correlations (pairs (1,0), (2,0), ..., (2,1), ...). A case weighs
// on the thresholds of the items and the correlations of the pairs it answered, n over the cases that did.
class OrderedInfluence {
 public:
  OrderedInfluence(const IndexVector& categories, const Polychoric& estimate, double n, int threads);
  Eigen::Index size() const;
  // Of these cases, added to the sum and the products of all: some thousand rows at a time, so that memory stays within bounds.
  void add(const Codes& codes, Vector& sum, Matrix& products) const;

 private:
  using CodesRef = Eigen::Ref<const Codes>;
  struct OfPair {
    Matrix own;          // by answers
    Vector of_a, of_b;   // what the thresholds' influence is multiplied by
  };
  Matrix of(const CodesRef& codes) const;
  IndexVector categories_;
  int threads_;
  Eigen::Index thresholds_ = 0;
  std::vector<Eigen::Index> first_of_;
  std::vector<Matrix> of_thresholds_;
  std::vector<OfPair> of_pairs_;
};

// Covariance matrix, times n, of all thresholds followed by all correlations; n: of the cases with any answer.
Matrix polychoric_covariance(const Codes& codes, const IndexVector& categories,
                             const Polychoric& estimate, double n, int threads);

}  // namespace scalewort
