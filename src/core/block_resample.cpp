#include "block_resample.h"
#include <cmath>
#include "parallel.h"
#include "resample.h"

namespace scalewort {

Matrix replicate_block_sums(const MatrixRef& x, const std::vector<std::vector<Eigen::Index>>& blocks,
                            Eigen::Index replicates, std::uint64_t seed, bool logarithms, int threads) {
  const Eigen::Index n = x.rows(), p = x.cols(), k = static_cast<Eigen::Index>(blocks.size());
  constexpr Eigen::Index piece = 16;
  const Matrix cases = x.transpose();
  Matrix out(k * k, replicates);
  share(replicates, piece, threads, [&](Eigen::Index from, Eigen::Index to) {
    const Matrix weights = draw_weights(n, from, to - from, seed) / static_cast<double>(n);
    const Matrix mean = cases * weights;
    Matrix weighed(p, n), r(p, p);
    for (Eigen::Index i = 0; i < to - from; ++i) {
      // More than a third of the cases are not drawn.
      Eigen::Index drawn = 0;
      for (Eigen::Index c = 0; c < n; ++c)
        if (weights(c, i) > 0.0) weighed.col(drawn++) = std::sqrt(weights(c, i)) * cases.col(c);
      r.setZero();
      r.selfadjointView<Eigen::Lower>().rankUpdate(weighed.leftCols(drawn));
      r.selfadjointView<Eigen::Lower>().rankUpdate(mean.col(i), -1.0);
      const Vector scale = r.diagonal().cwiseMax(0.0).cwiseSqrt().cwiseInverse();
      Matrix total = Matrix::Zero(k, k);
      for (Eigen::Index a = 0; a < k; ++a)
        for (Eigen::Index b = 0; b <= a; ++b)
          for (const Eigen::Index row : blocks[a])
            for (const Eigen::Index column : blocks[b]) {
              const double size = std::abs(r(std::max(row, column), std::min(row, column)) * scale(row) * scale(column));
              total(a, b) += logarithms ? std::log(size) : size;
            }
      total.triangularView<Eigen::StrictlyUpper>() = total.transpose();
      out.col(from + i) = Eigen::Map<const Vector>(total.data(), k * k);
    }
  });
  return out;
}

}  // namespace scalewort
