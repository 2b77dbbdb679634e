#include "refit.h"
#include <cmath>
#include "parallel.h"

namespace scalewort {

Refits refit(const Structure& structure, const MatrixRef& covariances, const VectorRef& start, double n,
             const ScoringOptions& options, int threads) {
  const Eigen::Index count = covariances.cols(), q = start.size(), p = structure.items;
  const double none = std::nan("");
  Refits out{Matrix::Constant(q, count, none), Matrix::Constant(q, count, none), Vector::Constant(count, none),
             Eigen::VectorXi::Constant(count, static_cast<int>(Status::not_positive_definite))};
  const std::vector<Structure> structures{structure};
  share(count, 4, threads, [&](Eigen::Index first, Eigen::Index last) {
    for (Eigen::Index i = first; i < last; ++i) {
      const std::vector<Moments> moments{
          {1.0, Eigen::Map<const Matrix>(covariances.col(i).data(), p, p), Vector::Zero(p)}};
      LikelihoodDiscrepancy discrepancy(structures, moments);
      if (!discrepancy.positive_definite()) continue;
      const Optimum fit = minimise(discrepancy, start, options);
      out.status(i) = static_cast<int>(fit.status);
      if (fit.status != Status::ok) continue;
      out.theta.col(i) = fit.theta;
      out.value(i) = fit.value;
      const Eigen::LLT<Matrix> factor(fit.slope.expected_hessian);
      if (factor.info() == Eigen::Success)
        out.error.col(i) = (2.0 / n * factor.solve(Matrix::Identity(q, q)).diagonal()).cwiseSqrt();
    }
  });
  return out;
}

}  // namespace scalewort
