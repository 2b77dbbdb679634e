#include "rotation.h"
#include <boost/random/normal_distribution.hpp>
#include <cmath>
#include "interrupt.h"
#include "parallel.h"
#include "random.h"

namespace scalewort {

namespace {

constexpr double flat_gradient = 1e-5;

// One start's search. T is the current transformation.
struct Search {
  const MatrixRef& a;
  const RotationOptions& options;

  Matrix pattern(const Matrix& t) const {
    if (!options.oblique) return a * t;
    return t.partialPivLu().solve(a.transpose()).transpose();
  }

  // Gradient of the criterion in T, given its gradient in the pattern.
  Matrix in_transform(const Matrix& t, const Matrix& loadings, const Matrix& gradient) const {
    if (!options.oblique) return a.transpose() * gradient;
    return -t.transpose().partialPivLu().solve((loadings.transpose() * gradient).transpose());
  }

  // The part of g along which T may move.
  Matrix project(const Matrix& t, const Matrix& g) const {
    if (options.oblique)
      return g - t * (t.cwiseProduct(g)).colwise().sum().asDiagonal();
    const Matrix inner = t.transpose() * g;
    return g - t * (0.5 * (inner + inner.transpose()));
  }

  // Back onto the allowed matrices.
  Matrix retract(const Matrix& moved) const {
    if (options.oblique) return moved.colwise().normalized();
    Eigen::JacobiSVD<Matrix> svd(moved, Eigen::ComputeFullU | Eigen::ComputeFullV);
    return svd.matrixU() * svd.matrixV().transpose();
  }

  Rotation run(Matrix t) const {
    Rotation out;
    out.status = Status::not_converged;
    double step = 1.0;
    Matrix gradient;
    out.loadings = pattern(t);
    out.value = options.simplicity(out.loadings, gradient);
    for (out.iterations = 0; out.iterations <= options.max_iterations; ++out.iterations) {
      stop_if_asked();
      const Matrix direction = project(t, in_transform(t, out.loadings, gradient));
      out.gradient_norm = direction.norm();
      if (out.gradient_norm < options.tolerance) {
        out.status = Status::ok;
        break;
      }
      step *= 2.0;
      const double slope = out.gradient_norm * out.gradient_norm;
      Matrix trial, trial_loadings, trial_gradient;
      double trial_value = 0.0;
      bool lower = false;
      for (int halving = 0; halving < 40 && !lower; ++halving) {
        trial = retract(t - step * direction);
        trial_loadings = pattern(trial);
        trial_value = options.simplicity(trial_loadings, trial_gradient);
        lower = trial_value < out.value - 0.5 * step * slope;
        if (!lower) step *= 0.5;
      }
      if (!lower) {
        // No descent left to machine precision: accept a nearly flat gradient.
        if (out.gradient_norm < flat_gradient) out.status = Status::ok;
        break;
      }
      t = trial;
      out.loadings = trial_loadings;
      out.value = trial_value;
      gradient = trial_gradient;
    }
    out.transform = t;
    out.correlations = t.transpose() * t;
    return out;
  }
};

Matrix random_orthogonal(Generator generator, Eigen::Index m) {
  boost::random::normal_distribution<double> normal;
  Matrix draws(m, m);
  for (Eigen::Index j = 0; j < m; ++j)
    for (Eigen::Index i = 0; i < m; ++i) draws(i, j) = normal(generator);
  return Eigen::HouseholderQR<Matrix>(draws).householderQ();
}

}  // namespace

std::vector<Rotation> rotate(const MatrixRef& a, const RotationOptions& options) {
  const Eigen::Index m = a.cols();
  Streams streams(options.seed);
  std::vector<Generator> generators;
  for (int i = 0; i < options.starts; ++i) generators.push_back(streams.take());
  std::vector<Rotation> found(options.starts);
  share(options.starts, 1, options.threads, [&](Eigen::Index i, Eigen::Index) {
    const Search search{a, options};
    found[i] = search.run(i == 0 ? Matrix::Identity(m, m) : random_orthogonal(generators[i], m));
  });
  return found;
}

Vector rotation_constraints(const Simplicity& simplicity, Matrix pattern, const Matrix& correlations, bool oblique, bool normalised) {
  if (normalised) {
    const Vector common = (pattern * correlations).cwiseProduct(pattern).rowwise().sum();
    pattern = common.cwiseSqrt().cwiseInverse().asDiagonal() * pattern;
  }
  Matrix gradient;
  simplicity(pattern, gradient);
  const Eigen::Index m = pattern.cols();
  Matrix inner = pattern.transpose() * gradient;
  if (oblique) inner = inner * correlations.partialPivLu().inverse();
  Vector out(oblique ? m * (m - 1) : m * (m - 1) / 2);
  Eigen::Index at = 0;
  for (Eigen::Index j = 0; j < m; ++j)
    for (Eigen::Index i = oblique ? 0 : j + 1; i < m; ++i)
      if (i != j) out(at++) = oblique ? inner(i, j) : inner(i, j) - inner(j, i);
  return out;
}

Matrix constraint_slopes(const Simplicity& simplicity, const MatrixRef& pattern, const MatrixRef& correlations, bool oblique,
                         bool free_correlations, bool normalised, int threads) {
  const Eigen::Index p = pattern.rows(), m = pattern.cols(), links = free_correlations ? m * (m - 1) / 2 : 0;
  std::vector<std::pair<Eigen::Index, Eigen::Index>> link;
  for (Eigen::Index j = 0; j < m; ++j)
    for (Eigen::Index i = j + 1; i < m; ++i) link.emplace_back(i, j);
  constexpr double step = 1e-5;
  Matrix out(oblique ? m * (m - 1) : m * (m - 1) / 2, p * m + links);
  share(out.cols(), 16, threads, [&](Eigen::Index first, Eigen::Index last) {
    Matrix l = pattern, phi = correlations;
    const auto moved = [&](Eigen::Index k, double by) {
      if (k < p * m) {
        l(k % p, k / p) += by;
      } else {
        const auto& at = link[k - p * m];
        phi(at.first, at.second) += by;
        phi(at.second, at.first) += by;
      }
      const Vector found = rotation_constraints(simplicity, l, phi, oblique, normalised);
      l = pattern;
      phi = correlations;
      return found;
    };
    for (Eigen::Index k = first; k < last; ++k) out.col(k) = (moved(k, step) - moved(k, -step)) / (2.0 * step);
  });
  return out;
}

std::size_t best_start(const std::vector<Rotation>& found) {
  std::size_t best = 0;
  for (std::size_t i = 1; i < found.size(); ++i) {
    if (found[i].status != Status::ok) continue;
    if (found[best].status != Status::ok || found[i].value < found[best].value - 1e-12) best = i;
  }
  return best;
}

}  // namespace scalewort
