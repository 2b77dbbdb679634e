#include "rotation.h"
#include <boost/random/normal_distribution.hpp>
#include <cmath>
#include <limits>
#include "random.h"

namespace scalewort {

namespace {

constexpr double nearly_flat = 1e-5;

// Row sums of `squares` less each element: what the other factors hold.
Matrix other_factors(const Matrix& squares) {
  return squares.rowwise().sum().replicate(1, squares.cols()) - squares;
}

// Column sums less each element: what the other items hold.
Matrix other_items(const Matrix& squares) {
  return squares.colwise().sum().replicate(squares.rows(), 1) - squares;
}

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
    out.value = criterion_value(out.loadings, options.criterion, options.parameter, gradient);
    for (out.iterations = 0; out.iterations <= options.max_iterations; ++out.iterations) {
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
        trial_value = criterion_value(trial_loadings, options.criterion, options.parameter,
                                      trial_gradient);
        lower = trial_value < out.value - 0.5 * step * slope;
        if (!lower) step *= 0.5;
      }
      if (!lower) {
        // No descent left to machine precision: accept a nearly flat gradient.
        if (out.gradient_norm < nearly_flat) out.status = Status::ok;
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

double criterion_value(const MatrixRef& pattern, Criterion criterion, double parameter,
                       Matrix& gradient) {
  const Matrix squares = pattern.array().square();
  Matrix weight;
  if (criterion == Criterion::crawford_ferguson) {
    weight = (1.0 - parameter) * other_factors(squares) + parameter * other_items(squares);
  } else {
    weight = other_factors(squares);
    weight.rowwise() -= parameter * weight.colwise().mean().eval();
  }
  gradient = pattern.cwiseProduct(weight);
  return squares.cwiseProduct(weight).sum() / 4.0;
}

Rotation rotate(const MatrixRef& a, const RotationOptions& options) {
  const Eigen::Index m = a.cols();
  const Search search{a, options};
  Streams streams(options.seed);
  Rotation best;
  Vector values(options.starts);
  for (int i = 0; i < options.starts; ++i) {
    const Generator generator = streams.take();
    const Matrix start = i == 0 ? Matrix::Identity(m, m) : random_orthogonal(generator, m);
    Rotation found = search.run(start);
    const bool converged = found.status == Status::ok;
    values(i) = converged ? found.value : std::numeric_limits<double>::quiet_NaN();
    const bool better = i == 0 || (converged && best.status != Status::ok) ||
                        (converged && found.value < best.value - 1e-12);
    if (better) best = std::move(found);
  }
  best.values = values;
  return best;
}

}  // namespace scalewort
