// Eigenvalues of correlation matrices of unrelated normal items.
#pragma once
#include <cstdint>
#include "types.h"

namespace scalewort {

// Draws `replicates` sample correlation matrices of p independent normal items
// with n cases and returns their eigenvalues, one replicate a row, largest
// first. The matrices come from the Wishart distribution with n - 1 degrees of
// freedom through its Bartlett decomposition (Bartlett, 1933), which needs
// p(p + 1)/2 draws in place of n * p.
// reduced: eigenvalues of the matrix with squared multiple correlations in its diagonal,
// 1 - 1 / (R^-1)_ii, in place of ones. Needs n > p.
Matrix random_eigenvalues(Eigen::Index n, Eigen::Index p, Eigen::Index replicates,
                          std::uint64_t seed, bool reduced);

}  // namespace scalewort
