// A factor structure as numbers: which cells of the model's matrices are
// fixed, which are free, and what they imply.
#pragma once
#include <vector>
#include "types.h"

namespace scalewort {

enum class Part {
  loading = 0,   // Lambda, p items x m factors
  factor = 1,    // Phi, m x m; one entry stands for both triangles
  residual = 2,  // Theta, p x p; one entry stands for both triangles
  path = 3       // Beta, m x m; factor `row` measured by factor `column`
};

struct Cell {
  Part part;
  Eigen::Index row, column;  // from 0
  int free;                  // index of the free parameter, -1 when fixed
  double value;              // the fixed value, or the start
};

struct Structure {
  Eigen::Index items, factors;
  std::vector<Cell> cells;
  int parameters;  // number of free parameters
};

struct Matrices {
  Matrix loading, factor, residual, path;
};

// The model's matrices at free parameters theta (q).
Matrices fill(const Structure& structure, const VectorRef& theta);

// What the matrices imply. With R = inv(I - Beta), reach = Lambda R,
// spread = R Phi R', pull = Lambda R Phi R'; covariance = pull Lambda' + Theta.
struct Implied {
  Matrix reach, spread, pull, covariance;
};
Implied imply(const Matrices& matrices);

// The derivative of the covariance in any cell is weight * (u v' + v u').
// Returns u and v as columns, one cell a column.
struct Derivatives {
  Matrix u, v;    // p x cells
  Vector weight;  // cells; 1, or 1/2 on a diagonal
};
Derivatives derivatives(const Structure& structure, const Implied& implied);

}  // namespace scalewort
