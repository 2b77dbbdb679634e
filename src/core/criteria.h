// Criteria of simple structure: a value and its gradient in the pattern.
#pragma once
#include "types.h"

namespace scalewort {

enum class Criterion {
  crawford_ferguson = 0,  // parameter kappa (Crawford & Ferguson, 1970)
  oblimin = 1,            // parameter gamma (Jennrich & Sampson, 1966)
  geomin = 2,             // parameter epsilon (Yates, 1987)
  infomax = 3,            // McKeon's, after Browne (2001)
  target = 4,             // squared distance from the target's cells that are not free
  bigeomin = 5            // geomin over all columns but the first (Jennrich & Bentler, 2012)
};

// A criterion with all it needs. target: p x m, NaN where a cell is free.
struct Simplicity {
  Criterion criterion = Criterion::crawford_ferguson;
  double parameter = 0.0;
  Matrix target = Matrix();

  // Value at a pattern (p x m); gradient is p x m.
  double operator()(const Matrix& pattern, Matrix& gradient) const;
};

}  // namespace scalewort
