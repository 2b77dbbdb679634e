// Products of large matrices, their columns shared out among threads. The blocks follow from the sizes alone, so that the digits do
// not depend on the number of threads.
#pragma once
#include "types.h"

namespace scalewort {

Matrix shared_product(const MatrixRef& a, const MatrixRef& b, int threads);

// x' x.
Matrix shared_crossproduct(const MatrixRef& x, int threads);

}  // namespace scalewort
