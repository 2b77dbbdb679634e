// Sums of products in the processor's wide registers (AVX2 with fused multiply-add), where it has them: about three times as
// fast as what is compiled for any processor.
#pragma once
#include "types.h"

namespace scalewort {

// A matrix as it lies in memory: its first number, and how far apart rows and columns are.
struct Lying {
  const double* first;
  Eigen::Index row, column;
};

inline Lying lying(const MatrixRef& x) { return {x.data(), 1, x.outerStride()}; }
inline Lying turned(const Lying& x) { return {x.first, x.column, x.row}; }

bool has_wide_registers();

// Adds a b (a: rows x inner, b: inner x columns) to c, whose columns are `stride` apart.
void add_wide_product(Eigen::Index rows, Eigen::Index columns, Eigen::Index inner, Lying a, Lying b, double* c, Eigen::Index stride);

}  // namespace scalewort
