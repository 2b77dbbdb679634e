// The normal distribution of one and of two variables.
#pragma once

namespace scalewort {

double normal_density(double x);
double normal_cdf(double x);

// P(X < h, Y < k) for standard normals with correlation r, |r| <= 1; h and k may be
// infinite. Gauss-Legendre integration over the angle of the correlation (Drezner &
// Wesolowsky, 1990), with the expansion near |r| = 1 of Genz (2004); error below 1e-14.
double bivariate_normal_cdf(double h, double k, double r);

// The density, which is also the derivative of the probability in r; 0 at infinity.
double bivariate_normal_density(double h, double k, double r);

// The derivative of the density in r.
double bivariate_normal_density_slope(double h, double k, double r);

}  // namespace scalewort
