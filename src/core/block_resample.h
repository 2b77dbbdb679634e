// Sums of absolute correlations between blocks of items over resampled cases.
#pragma once
#include <cstdint>
#include <vector>
#include "types.h"

namespace scalewort {

// x: n x p, complete and centred; blocks: positions of items. One column a replicate: the
// k x k sums of absolute correlations (or of their logarithms), those of items with themselves
// included.
Matrix replicate_block_sums(const MatrixRef& x, const std::vector<std::vector<Eigen::Index>>& blocks,
                            Eigen::Index replicates, std::uint64_t seed, bool logarithms, int threads);

}  // namespace scalewort
