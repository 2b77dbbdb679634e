// A factor structure as numbers: which cells of the model's matrices are
// fixed, which are free, and what they imply.
#pragma once
#include <utility>
#include <vector>
#include "types.h"

namespace scalewort {

enum class Part {
  loading = 0,    // Lambda, p items x m factors
  factor = 1,     // Phi, m x m; one entry stands for both triangles
  residual = 2,   // Theta, p x p; one entry stands for both triangles
  path = 3,       // Beta, m x m; factor `row` measured by factor `column`
  intercept = 4,  // nu, p; item `row`
  mean = 5        // alpha, m; factor `row`
};

struct Cell {
  Part part;
  Eigen::Index row, column;  // from 0
  int free;                  // index of the free parameter, -1 when fixed
  double value;              // the fixed value, or the start
};

// One group. Groups share free parameters by their numbers.
struct Structure {
  Eigen::Index items, factors;
  std::vector<Cell> cells;
  int parameters;  // number of free parameters, of all groups
  bool means;      // does it say anything about means?
};

struct Matrices {
  Matrix loading, factor, residual, path;
  Vector intercept, mean;
};

// The model's matrices at free parameters theta (q).
Matrices fill(const Structure& structure, const VectorRef& theta);

// What the matrices imply. With R = inv(I - Beta), reach = Lambda R,
// spread = R Phi R', pull = Lambda R Phi R'; covariance = pull Lambda' + Theta;
// level = R alpha, mean = nu + Lambda level.
struct Implied {
  Matrix reach, spread, pull, covariance;
  Vector level, mean;
};
Implied imply(const Matrices& matrices);

// The derivative of the covariance in any cell is weight * (u v' + v u'), that of the mean
// is `mean`. Returns u, v and mean as columns, one cell a column; mean is empty where the
// structure says nothing about means. All columns come from a few: the unit vectors, each times its entry of `unit`, and the columns of
// `rest`, pull and reach; u_at, v_at and mean_at say which (0, ..., p - 1 the unit vectors), mean_size how often that one.
struct Derivatives {
  Matrix u, v;    // p x cells
  Vector weight;  // cells; 1, 1/2 on a diagonal, 0 for intercepts and means
  Matrix mean;    // p x cells
  Vector unit;    // p
  Matrix rest;    // p x 2 factors
  std::vector<Eigen::Index> u_at, v_at, mean_at;
  Vector mean_size;  // cells
};
Derivatives derivatives(const Structure& structure, const Implied& implied);

// x'Ay, symmetric A, for every two of the few columns that all others come from.
Matrix basis_products(const Derivatives& d, const Matrix& a);

// The free cells of the covariances and of the means, by number, with their weights and sizes and where their directions stand among
// the few columns.
struct FreeCells {
  std::vector<Eigen::Index> cell, u, v;
  Vector weight;
  std::vector<Eigen::Index> mean_cell, mean_at;
  Vector mean_size;
};
FreeCells free_cells(const Structure& structure, const Derivatives& d);

// Rows of a matrix, in that order.
Matrix rows_at(const Matrix& x, const std::vector<Eigen::Index>& at);

// Gradient (q) in the free parameters of a function whose slope is tr(W D) in a direction D
// of the covariance and w'd in a direction d of the mean.
Vector gradient_along(const Structure& structure, const Derivatives& d, const Matrix& along_covariance,
                      const Vector& along_mean);

// Sums cells that share a free parameter (cells x cells to q x q); fixed cells drop out.
Matrix gather(const Structure& structure, const Matrix& by_cell);

// tr(A D_i B D_j) for every pair of cells, with symmetric A and B, and 2 d_i' A d_j of the
// means.
Matrix trace_products(const Derivatives& d, const Matrix& a, const Matrix& b);
Matrix mean_products(const Derivatives& d, const Matrix& a);

// Derivative of the implied moments in the free parameters: the means where the structure has
// them, then the covariances (lower triangle with diagonal, by column).
Matrix jacobian(const Structure& structure, const VectorRef& theta);

// One covariance after the other (lower triangle with diagonal, by column), with the free parameters that move it, few of all, and
// its slopes in them: work(row, column, moved). A parameter that stands in several cells comes several times.
using Moved = std::vector<std::pair<int, double>>;
template <class Work>
void for_each_covariance(const Structure& structure, const Derivatives& d, Work work) {
  Moved moved;
  for (Eigen::Index j = 0; j < structure.items; ++j)
    for (Eigen::Index i = j; i < structure.items; ++i) {
      moved.clear();
      for (Eigen::Index k = 0; k < d.weight.size(); ++k) {
        if (structure.cells[k].free < 0) continue;
        const double slope = d.weight(k) * (d.u(i, k) * d.v(j, k) + d.v(i, k) * d.u(j, k));
        if (slope != 0.0) moved.emplace_back(structure.cells[k].free, slope);
      }
      work(i, j, moved);
    }
}

// J'J of that derivative, without J.
Matrix jacobian_products(const Structure& structure, const VectorRef& theta);

// Standardised value of each cell (Bollen, 1989): loadings by the spread of factor and item,
// factor and residual covariances as correlations, paths by both factors; intercepts over
// the item's, means over the factor's standard deviation. Items of unit variance whatever
// the residuals are (`unit_items`) are those behind ordered answers.
Vector standardise(const Structure& structure, const VectorRef& theta, bool unit_items);

// Derivative of the standardised values in the free parameters, by central differences:
// cells x q.
Matrix standard_jacobian(const Structure& structure, const VectorRef& theta, bool unit_items);

}  // namespace scalewort
