// The normal distribution of one and of two variables.
#pragma once
#include "types.h"

namespace scalewort {

double normal_density(double x);
double normal_cdf(double x);

// P(X < h, Y < k) for standard normals with correlation r, |r| <= 1; h and k may be
// infinite. Gauss-Legendre integration over the angle of the correlation (Drezner &
// Wesolowsky, 1990), with the expansion near |r| = 1 of Genz (2004); error below 1e-14.
double bivariate_normal_cdf(double h, double k, double r);

// Probabilities and densities (which are also the derivatives of the probabilities in r) at every pair of finite h
// and k, h by row; below_h and below_k: normal_cdf() of each.
struct NormalGrid {
  Matrix cdf, density;
};
NormalGrid bivariate_normal_grid(const Vector& h, const Vector& k, const Vector& below_h, const Vector& below_k, double r);

}  // namespace scalewort
