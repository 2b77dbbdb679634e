// Extraction of common factors.
#pragma once
#include "types.h"

namespace scalewort {

enum class Method {
  ml,      // maximum likelihood: ln|Sigma| - ln|R| + tr(R Sigma^-1) - p
  minres,  // least squares: half the sum of squared residuals, each counted twice
  gls,     // generalised least squares: half tr((I - R^-1 Sigma)^2)
  paf,     // principal axes, iterated
  alpha    // Kaiser & Caffrey (1965), iterated
};

inline Method method_named(const std::string& name) {
  return kind_named<Method>(name, {"ml", "minres", "gls", "paf", "alpha"});
}

struct ExtractionOptions {
  Method method = Method::ml;
  double lower_bound = 0.005;  // smallest uniqueness
  double tolerance = 1e-9;     // largest projected gradient; for paf and alpha the
                               // largest change of a communality
  int max_iterations = 200;
  double last_step = 0.0;      // see NewtonOptions
};

struct Extraction {
  Status status;
  double discrepancy;   // the method's own
  Vector uniqueness;    // p
  Matrix loadings;      // p x m, largest factor first; ml and gls: L' Psi^-1 L diagonal,
                        // minres and paf: L' L diagonal
  int iterations;
  double largest_gradient;  // over unique variances that are not at a bound; for paf and
                            // alpha the last change
};

// r: p x p correlation matrix; ml and gls need it positive definite. m >= 0 factors,
// m < p. start: p unique variances, or null for the usual ones. ml, minres and gls are
// minimised over the unique variances by Newton's method with exact Hessians (Joreskog,
// 1967; Harman & Jones, 1966; Joreskog & Goldberger, 1972), loadings following from
// eigenvectors; ml and gls work with ln(uniqueness).
Extraction extract(const MatrixRef& r, Eigen::Index m, const Vector* start,
                   const ExtractionOptions& options);

// A method's discrepancy with gradient and Hessian, in ln(uniqueness) for ml and gls, in
// uniqueness for minres; public for tests.
double discrepancy(const MatrixRef& r, Eigen::Index m, Method method, const Vector& x,
                   Vector& gradient, Matrix& hessian);

}  // namespace scalewort
