// Weighted composites of blocks of items by iterative partial least squares.
#pragma once
#include <vector>
#include "types.h"

namespace scalewort {

enum class Scheme { centroid, factor, path };

inline Scheme scheme_named(const std::string& name) { return kind_named<Scheme>(name, {"centroid", "factor", "path"}); }

struct Blocks {
  std::vector<std::vector<Eigen::Index>> items;  // of each composite
  std::vector<bool> regress;                     // mode B in place of mode A
  Eigen::MatrixXi leads;                         // leads(j, i) = 1: composite j leads to i
  Scheme scheme;
};

struct Composites {
  bool converged;
  Matrix weight;  // p x k, each composite of variance one
  int iterations;
};

// r: correlations of the items, p x p. Wold (1982), Lohmoeller (1989). A composite without any
// connection is connected with itself, which gives its first principal component in mode A.
// Signs make the loadings of each composite sum to a positive number.
Composites block_weights(const MatrixRef& r, const Blocks& blocks, double tolerance, int max_iterations);

// Figures from each of many covariance matrices (p*p x count), a column each: the weight and the correlation with its own composite of
// every item in the order of the blocks, the correlations of the composites (k x k; corrected for rho_a of Dijkstra & Henseler, 2015, where
// `consistent`), and the regression coefficients of each on those that lead to it (k x k, column to row's effect on column's). NaN where the
// algorithm did not converge. The signs of composites follow `reference`, p x k weights.
Matrix replicate_figures(const MatrixRef& covariances, const Blocks& blocks, const MatrixRef& reference, bool consistent,
                         double tolerance, int max_iterations, int threads);

}  // namespace scalewort
