// Newton's method within bounds, for smooth functions with an exact Hessian.
#pragma once
#include "types.h"

namespace scalewort {

class Objective {
 public:
  virtual ~Objective() = default;
  virtual double value(const Vector& x) = 0;
  // Value at x, with gradient and Hessian there.
  virtual double derivatives(const Vector& x, Vector& gradient, Matrix& hessian) = 0;
};

struct NewtonOptions {
  double low, high;   // bounds, the same for every coordinate
  double tolerance;   // largest gradient over coordinates not held at a bound
  int max_iterations;
  // A Newton step no longer than this is the last one, taken on trust: what is left is
  // its square. 0: go on until the gradient itself is small.
  double last_step = 0.0;
};

struct Minimum {
  Status status;
  Vector x;
  double value;
  int iterations;
  double largest_gradient;
};

// Coordinates at a bound whose gradient pushes outwards are held there; the step is
// halved until the value falls; a Hessian that is not positive definite gets its
// diagonal raised until it is.
Minimum bounded_newton(Objective& objective, Vector start, const NewtonOptions& options);

}  // namespace scalewort
