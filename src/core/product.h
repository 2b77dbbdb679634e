// Products of large matrices, their columns shared out among threads. The blocks follow from the sizes alone, so that the digits do
// not depend on the number of threads.
#pragma once
#include "parallel.h"
#include "types.h"

namespace scalewort {

Matrix shared_product(const MatrixRef& a, const MatrixRef& b, int threads);

// Columns turned into others, some at a time.
template <class Turn>
Matrix by_columns(const Matrix& x, int threads, Turn turn) {
  constexpr Eigen::Index at_once = 96;
  Matrix out(x.rows(), x.cols());
  share(x.cols(), at_once, threads, [&](Eigen::Index first, Eigen::Index last) {
    out.middleCols(first, last - first) = turn(x.middleCols(first, last - first));
  });
  return out;
}

// Adds a b' to c, on this thread.
void add_turned_product(const MatrixRef& a, const MatrixRef& b, Eigen::Ref<Matrix> c);

// The quadratic form of each row of x in m: diag(x m x').
Vector row_forms(const MatrixRef& x, const MatrixRef& m, int threads);

// Adds the lower triangle of x' x to that of sums, and parts of the upper one to it.
void add_crossproduct(const MatrixRef& x, Eigen::Ref<Matrix> sums, int threads);

// Adds to sums those of the products of every two products of two columns of x less a mean (pairs: lower triangle with diagonal, by
// column), over the rows of x: the lower triangle, and parts of the upper one.
void add_fourth_products(const MatrixRef& x, const Vector& mean, Eigen::Ref<Matrix> sums, int threads);

// x' x.
Matrix shared_crossproduct(const MatrixRef& x, int threads);

}  // namespace scalewort
