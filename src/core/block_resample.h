// Sums of correlations between blocks of items over resampled cases, without the correlations
// themselves: a block's sum of standardised items has them in its covariances.
#pragma once
#include <cstdint>
#include <vector>
#include "types.h"

namespace scalewort {

// x: n x p, complete and centred; blocks: positions of items. One column a replicate: the
// k x k sums of correlations, those of items with themselves included.
Matrix replicate_block_sums(const MatrixRef& x, const std::vector<std::vector<Eigen::Index>>& blocks,
                            Eigen::Index replicates, std::uint64_t seed, int threads);

}  // namespace scalewort
