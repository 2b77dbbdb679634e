#include "block_resample.h"
#include "parallel.h"
#include "resample.h"

namespace scalewort {

Matrix replicate_block_sums(const MatrixRef& x, const std::vector<std::vector<Eigen::Index>>& blocks,
                            Eigen::Index replicates, std::uint64_t seed, int threads) {
  const Eigen::Index n = x.rows(), k = static_cast<Eigen::Index>(blocks.size());
  constexpr Eigen::Index piece = 16;
  const Matrix square = x.cwiseProduct(x);
  Matrix out(k * k, replicates);
  share(replicates, piece, threads, [&](Eigen::Index from, Eigen::Index to) {
    const Matrix weights = draw_weights(n, from, to - from, seed) / static_cast<double>(n);
    const Matrix mean = x.transpose() * weights, raw = square.transpose() * weights;
    Matrix sums(n, k), weighed(n, k);
    for (Eigen::Index i = 0; i < to - from; ++i) {
      const Vector variance = raw.col(i) - mean.col(i).cwiseProduct(mean.col(i));
      const Vector scale = variance.cwiseMax(0.0).cwiseSqrt().cwiseInverse();
      Vector middle = Vector::Zero(k);
      sums.setZero();
      for (Eigen::Index b = 0; b < k; ++b)
        for (const Eigen::Index j : blocks[b]) {
          sums.col(b) += scale(j) * x.col(j);
          middle(b) += scale(j) * mean(j, i);
        }
      weighed = weights.col(i).asDiagonal() * sums;
      const Matrix total = sums.transpose() * weighed - middle * middle.transpose();
      out.col(from + i) = Eigen::Map<const Vector>(total.data(), k * k);
    }
  });
  return out;
}

}  // namespace scalewort
