#include "refit.h"
#include <cmath>
#include "parallel.h"

namespace scalewort {

namespace {

// Exact values and gradients, the metric held.
class HeldMetric : public Discrepancy {
 public:
  HeldMetric(LikelihoodDiscrepancy& inner, const Structure& structure, const GroupMoments& moments, const Matrix& metric)
      : inner_(inner), structure_(structure), moments_(moments), metric_(metric) {}
  bool value(const Vector& theta, double& out) override { return inner_.value(theta, out); }
  Slope slope(const Vector& theta) override {
    const Implied implied = imply(fill(structure_, theta));
    const Along slopes = along(structure_, implied, moments_);
    return {gradient_along(structure_, derivatives(structure_, implied), slopes.covariance, slopes.mean), metric_};
  }

 private:
  LikelihoodDiscrepancy& inner_;
  const Structure& structure_;
  const GroupMoments& moments_;
  const Matrix& metric_;
};

// The expected Hessian at theta, which needs no sample.
Matrix metric_at(const Structure& structure, const VectorRef& theta) {
  const Implied implied = imply(fill(structure, theta));
  const Matrix inverse = implied.covariance.llt().solve(Matrix::Identity(structure.items, structure.items));
  const Derivatives d = derivatives(structure, implied);
  return gather(structure, trace_products(d, inverse, inverse));
}

}  // namespace

Refits refit(const Structure& structure, const MatrixRef& covariances, const VectorRef& start, double n,
             const ScoringOptions& options, bool errors, int threads) {
  const Eigen::Index count = covariances.cols(), q = start.size(), p = structure.items;
  const double none = std::nan("");
  Refits out{Matrix::Constant(q, count, none), Matrix::Constant(q, count, none), Vector::Constant(count, none),
             std::vector<Status>(count, Status::not_positive_definite)};
  const std::vector<Structure> structures{structure};
  const Matrix metric = metric_at(structure, start);
  share(count, 4, threads, [&](Eigen::Index first, Eigen::Index last) {
    for (Eigen::Index i = first; i < last; ++i) {
      const std::vector<GroupMoments> moments{
          {1.0, Eigen::Map<const Matrix>(covariances.col(i).data(), p, p), Vector::Zero(p)}};
      LikelihoodDiscrepancy discrepancy(structures, moments);
      if (!discrepancy.positive_definite()) continue;
      HeldMetric held(discrepancy, structure, moments[0], metric);
      const Optimum fit = minimise(held, start, options);
      out.status[i] = fit.status;
      if (fit.status != Status::ok) continue;
      out.theta.col(i) = fit.theta;
      out.value(i) = fit.value;
      if (!errors) continue;
      const Eigen::LLT<Matrix> factor(metric_at(structure, fit.theta));
      if (factor.info() == Eigen::Success)
        out.error.col(i) = (2.0 / n * factor.solve(Matrix::Identity(q, q)).diagonal()).cwiseSqrt();
    }
  });
  return out;
}

}  // namespace scalewort
