// The greatest lower bound to reliability.
#pragma once
#include "types.h"

namespace scalewort {

// max sum(weight t) with r - diag(t) positive semidefinite and t >= 0 (Jackson & Agunwamba, 1977), by Newton's method on the
// logarithmic barrier, whose distance from the optimum is at most `gap` in the end. r: p x p correlations with least root
// `smallest`; NaN where r is so near to singular that rounding decides.
double greatest_bound(const MatrixRef& r, const Vector& weight, double smallest, double gap);

}  // namespace scalewort
