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
                          std::uint64_t seed, bool reduced, int threads);

struct GappedEigenvalues {
  Matrix plain, reduced;  // of the same draws, a replicate a row
};

// The same of draws with gaps, as `seen` says (cases x items, 1 where there is an answer): each correlation from the cases that have both
// items. A matrix that is all but singular, which such correlations may be, has its eigenvalues raised to 1e-4 first.
GappedEigenvalues gapped_eigenvalues(const MatrixRef& seen, Eigen::Index replicates, std::uint64_t seed, int threads);

}  // namespace scalewort
