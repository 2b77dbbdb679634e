// Criteria of simple structure: a value and its gradient in the pattern.
#pragma once
#include "types.h"

namespace scalewort {

enum class Criterion {
  crawford_ferguson,  // parameter kappa (Crawford & Ferguson, 1970)
  oblimin,            // parameter gamma (Jennrich & Sampson, 1966)
  geomin,             // parameter epsilon (Yates, 1987)
  infomax,            // McKeon's, after Browne (2001)
  target,             // squared distance from the target's cells that are not free
  bigeomin            // geomin over all columns but the first (Jennrich & Bentler, 2012)
};

inline Criterion criterion_named(const std::string& name) {
  return kind_named<Criterion>(name, {"crawford_ferguson", "oblimin", "geomin", "infomax", "target", "bigeomin"});
}

// A criterion with all it needs. target: p x m, NaN where a cell is free.
struct Simplicity {
  Criterion criterion = Criterion::crawford_ferguson;
  double parameter = 0.0;
  Matrix target = Matrix();

  // Value at a pattern (p x m); gradient is p x m.
  double operator()(const Matrix& pattern, Matrix& gradient) const;
};

}  // namespace scalewort
