#include "saturated.h"
#include <cmath>

namespace scalewort {

namespace {

// tr(A D B D') for the unit directions of two covariances, (i, j) and (k, l).
inline double unit_trace(const Matrix& a, const Matrix& b, Eigen::Index i, Eigen::Index j,
                         Eigen::Index k, Eigen::Index l) {
  const double halves = (i == j ? 0.5 : 1.0) * (k == l ? 0.5 : 1.0);
  return halves * (b(j, k) * a(l, i) + b(j, l) * a(k, i) + b(i, k) * a(l, j) + b(i, l) * a(k, j));
}

}  // namespace

namespace {

struct EmPoint {
  Matrix covariance;
  Vector mean;
};

// The next point, and the value at this one.
EmPoint em_step(const Patterns& patterns, const EmPoint& at, int threads, double& value) {
  const PatternLikelihood here = pattern_likelihood(patterns, at.covariance, at.mean, threads);
  value = here.defined ? here.value : std::nan("");
  const Vector step = -0.5 * at.covariance * here.along_mean;
  return {at.covariance - at.covariance * here.along_covariance * at.covariance - step * step.transpose(), at.mean + step};
}

double em_distance(const EmPoint& a, const EmPoint& b, const Vector& sd) {
  const Matrix scale = (sd * sd.transpose()).cwiseInverse();
  return std::max((a.mean - b.mean).cwiseQuotient(sd).cwiseAbs().maxCoeff(),
                  (a.covariance - b.covariance).cwiseProduct(scale).cwiseAbs().maxCoeff());
}

}  // namespace

EmFit em_moments(const Patterns& patterns, Matrix covariance, Vector mean, double tolerance, int max_iterations,
                 int threads) {
  const Vector sd = covariance.diagonal().cwiseSqrt();
  EmPoint at{covariance, mean};
  EmFit out{false, covariance, mean, 0};
  double value = 0.0;
  while (out.iterations < max_iterations && !out.converged) {
    const EmPoint first = em_step(patterns, at, threads, value);
    double later = 0.0;
    const EmPoint second = em_step(patterns, first, threads, later);
    out.iterations += 2;
    if (!std::isfinite(value) || !std::isfinite(later)) break;
    out.converged = em_distance(second, first, sd) < tolerance;
    const Matrix r = first.covariance - at.covariance, v = second.covariance - first.covariance - r;
    const Vector rm = first.mean - at.mean, vm = second.mean - first.mean - rm;
    const double bend = std::sqrt(v.squaredNorm() + vm.squaredNorm());
    const double stretch = bend > 0.0 ? std::sqrt(r.squaredNorm() + rm.squaredNorm()) / bend : 1.0;
    EmPoint next = second;
    if (!out.converged && stretch > 1.0) {
      const EmPoint far{at.covariance + 2.0 * stretch * r + stretch * stretch * v,
                        at.mean + 2.0 * stretch * rm + stretch * stretch * vm};
      double reached = 0.0;
      if (far.covariance.allFinite()) {
        const EmPoint settled = em_step(patterns, far, threads, reached);
        ++out.iterations;
        if (std::isfinite(reached) && reached <= later) next = settled;
      }
    }
    at = next;
  }
  out.covariance = at.covariance;
  out.mean = at.mean;
  return out;
}

std::vector<EmFit> em_without_each(const MatrixRef& x, const double* weight, const Eigen::VectorXi& of, int groups, const Matrix& covariance,
                                   const Vector& mean, double tolerance, int max_iterations, int threads) {
  std::vector<EmFit> out(groups);
  share(groups, 1, threads, [&](Eigen::Index g, Eigen::Index) {
    const Eigen::Index left = (of.array() != static_cast<int>(g)).count();
    Matrix own(left, x.cols());
    std::vector<double> own_weight;
    for (Eigen::Index i = 0, at = 0; i < x.rows(); ++i) {
      if (of(i) == static_cast<int>(g)) continue;
      own.row(at++) = x.row(i);
      if (weight != nullptr) own_weight.push_back(weight[i]);
    }
    const Gathered found = gather_patterns(own, weight == nullptr ? nullptr : own_weight.data(), 1);
    out[g] = em_moments(found.patterns, covariance, mean, tolerance, max_iterations, 1);
  });
  return out;
}

Matrix saturated_hessian(const Patterns& patterns, const Matrix& covariance, const Vector& mean,
                         int threads) {
  const Eigen::Index p = covariance.rows(), pairs = p * (p + 1) / 2;
  std::vector<Eigen::Index> row, column;
  for (Eigen::Index j = 0; j < p; ++j)
    for (Eigen::Index i = j; i < p; ++i) {
      row.push_back(i);
      column.push_back(j);
    }
  const double total = sum_of_cases({patterns});
  Matrix out = Matrix::Zero(p + pairs, p + pairs);
  // Inverses of all patterns first, filled up with zeros; then the columns, shared out.
  std::vector<Matrix> inverses(patterns.size()), spreads(patterns.size());
  std::vector<Vector> aparts(patterns.size());
  share(static_cast<Eigen::Index>(patterns.size()), 1, threads, [&](Eigen::Index g, Eigen::Index) {
    const Pattern& pattern = patterns[g];
    const Eigen::Index size = pattern.mean.size();
    const Matrix inverse = seen_part(covariance, pattern.seen).llt().solve(Matrix::Identity(size, size));
    const Vector apart = inverse * (pattern.mean - seen_part(mean, pattern.seen));
    inverses[g] = Matrix::Zero(p, p);
    spreads[g] = Matrix::Zero(p, p);
    aparts[g] = Vector::Zero(p);
    add_seen(inverses[g], inverse, pattern.seen);
    add_seen(spreads[g], 2.0 * (inverse * pattern.covariance * inverse + apart * apart.transpose()) - inverse, pattern.seen);
    add_seen(aparts[g], apart, pattern.seen);
  });
  share(pairs, 8, threads, [&](Eigen::Index first, Eigen::Index last) {
    for (std::size_t g = 0; g < patterns.size(); ++g) {
      const double weight = patterns[g].n / total;
      const Matrix &a = inverses[g], &b = spreads[g];
      for (Eigen::Index y = first; y < last; ++y) {
        const Eigen::Index k = row[y], l = column[y];
        if (a(k, k) == 0.0 || a(l, l) == 0.0) continue;
        for (Eigen::Index x = y; x < pairs; ++x)
          out(p + x, p + y) += weight * 0.5 * (unit_trace(a, b, row[x], column[x], k, l) +
                                               unit_trace(b, a, row[x], column[x], k, l));
        const double half = k == l ? 0.5 : 1.0;
        for (Eigen::Index i = 0; i < p; ++i)
          out(p + y, i) += weight * 2.0 * half * (a(i, k) * aparts[g](l) + a(i, l) * aparts[g](k));
      }
    }
  });
  for (std::size_t g = 0; g < patterns.size(); ++g)
    out.topLeftCorner(p, p) += 2.0 * patterns[g].n / total * inverses[g];
  return out.selfadjointView<Eigen::Lower>();
}

}  // namespace scalewort
