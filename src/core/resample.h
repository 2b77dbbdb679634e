// The bootstrap by weights: cases are never copied, each replicate is a vector of
// how often each case was drawn.
#pragma once
#include <cstdint>
#include <vector>
#include "types.h"

namespace scalewort {

// How often each of n cases is drawn in replicate `index` of a run: n draws with
// replacement from stream `index` of the seed.
void draw_counts(Eigen::Index n, std::uint64_t seed, Eigen::Index index,
                 std::vector<int>& counts);

// The same for `count` replicates from number `first` on: n x count.
Matrix draw_weights(Eigen::Index n, Eigen::Index first, Eigen::Index count, std::uint64_t seed);

// Mean (p) and covariance (p x p, divisor total weight - 1) of the cases of x (n x p,
// complete) under each column of weights (n x b, b at a time: all of them from one matrix
// product). x should be centred, or nearly so.
struct WeightedMoments {
  Vector mean;
  Matrix covariance;
};
std::vector<WeightedMoments> weighted_moments(const MatrixRef& x, const Matrix& weights);

// Moments of each replicate: means p x count, covariances p*p x count.
struct ReplicateMoments {
  Matrix means, covariances;
};
ReplicateMoments replicate_moments(const MatrixRef& x, Eigen::Index first, Eigen::Index count,
                                   std::uint64_t seed, int threads);

// Figures of internal consistency of each replicate, one a row: alpha, standardised
// alpha, omega (implied variance), omega (observed variance), then alpha without each
// item. NaN where a figure does not exist. seed picks the streams.
Matrix replicate_reliability(const MatrixRef& x, Eigen::Index replicates, std::uint64_t seed,
                             int threads);

// The same figures with case i left out, one a row for each of `cases`.
Matrix jackknife_reliability(const MatrixRef& x, const std::vector<Eigen::Index>& cases,
                             int threads);

// The same figures of the cases as they are.
Vector reliability_figures(const MatrixRef& x);

}  // namespace scalewort
