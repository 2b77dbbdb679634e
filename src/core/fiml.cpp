#include "fiml.h"
#include <Eigen/Cholesky>
#include <cmath>
#include <limits>
#include "confirmation.h"
#include "parallel.h"

namespace scalewort {

namespace {

// What one pattern adds.
struct Solved {
  bool defined = true;
  double log_determinant = 0.0;
  Matrix inverse;  // of the covariances of the items seen
};

Matrix seen_part(const Matrix& whole, const std::vector<Eigen::Index>& seen) {
  const Eigen::Index size = static_cast<Eigen::Index>(seen.size());
  Matrix out(size, size);
  for (Eigen::Index j = 0; j < size; ++j)
    for (Eigen::Index i = 0; i < size; ++i) out(i, j) = whole(seen[i], seen[j]);
  return out;
}

void add_seen(Matrix& whole, const Matrix& part, const std::vector<Eigen::Index>& seen) {
  for (Eigen::Index j = 0; j < part.cols(); ++j)
    for (Eigen::Index i = 0; i < part.rows(); ++i) whole(seen[i], seen[j]) += part(i, j);
}

Vector gradient_of(const Structure& structure, const Implied& implied, const Matrix& weight) {
  const Derivatives d = derivatives(structure, implied);
  const Vector by_cell =
      2.0 * d.weight.cwiseProduct((weight * d.v).cwiseProduct(d.u).colwise().sum().transpose());
  Vector out = Vector::Zero(structure.parameters);
  for (Eigen::Index i = 0; i < by_cell.size(); ++i)
    if (structure.cells[i].free >= 0) out(structure.cells[i].free) += by_cell(i);
  return out;
}

}  // namespace

PatternLikelihood pattern_likelihood(const std::vector<Pattern>& patterns, const Matrix& covariance,
                                     int threads) {
  const Eigen::Index p = covariance.rows();
  const Eigen::Index count = static_cast<Eigen::Index>(patterns.size());
  std::vector<Solved> parts(count);
  share(count, 8, threads, [&](Eigen::Index from, Eigen::Index to) {
    for (Eigen::Index g = from; g < to; ++g) {
      const Matrix sigma = seen_part(covariance, patterns[g].seen);
      const Eigen::LLT<Matrix> factor(sigma);
      parts[g].defined = factor.info() == Eigen::Success;
      if (!parts[g].defined) continue;
      parts[g].log_determinant = 2.0 * factor.matrixLLT().diagonal().array().log().sum();
      parts[g].inverse = factor.solve(Matrix::Identity(sigma.rows(), sigma.rows()));
    }
  });
  PatternLikelihood out{true, 0.0, Vector::Zero(p), Matrix::Zero(p, p)};
  Matrix precision = Matrix::Zero(p, p);
  Vector pulled = Vector::Zero(p);
  double total = 0.0;
  for (Eigen::Index g = 0; g < count; ++g) {
    if (!parts[g].defined) {
      out.defined = false;
      return out;
    }
    const Pattern& pattern = patterns[g];
    total += pattern.n;
    add_seen(precision, pattern.n * parts[g].inverse, pattern.seen);
    const Vector part = pattern.n * (parts[g].inverse * pattern.mean);
    for (Eigen::Index i = 0; i < part.size(); ++i) pulled(pattern.seen[i]) += part(i);
  }
  out.mean = precision.ldlt().solve(pulled);
  for (Eigen::Index g = 0; g < count; ++g) {
    const Pattern& pattern = patterns[g];
    const Matrix& inverse = parts[g].inverse;
    Vector apart = pattern.mean;
    for (Eigen::Index i = 0; i < apart.size(); ++i) apart(i) -= out.mean(pattern.seen[i]);
    const Matrix spread = pattern.covariance + apart * apart.transpose();
    const Matrix product = inverse * spread;
    out.value += pattern.n / total * (parts[g].log_determinant + product.trace());
    add_seen(out.weight, pattern.n / total * (inverse - product * inverse), pattern.seen);
  }
  return out;
}

double incomplete_value(const Structure& structure, const std::vector<Pattern>& patterns,
                        const VectorRef& theta, Vector& gradient) {
  const Implied implied = imply(fill(structure, theta));
  const PatternLikelihood at = pattern_likelihood(patterns, implied.covariance, 1);
  gradient = Vector::Zero(structure.parameters);
  if (!at.defined) return std::numeric_limits<double>::infinity();
  gradient = gradient_of(structure, implied, at.weight);
  return at.value;
}

IncompleteFit fit_incomplete(const Structure& structure, const std::vector<Pattern>& patterns,
                             const VectorRef& start, double tolerance, int max_iterations,
                             int threads) {
  const int q = structure.parameters;
  IncompleteFit out{Status::not_converged, start, Vector(), Vector(), 0.0, Matrix(), Matrix(), 0.0, 0};
  Implied implied = imply(fill(structure, out.theta));
  PatternLikelihood at = pattern_likelihood(patterns, implied.covariance, threads);
  if (!at.defined) {
    out.status = Status::not_positive_definite;
    return out;
  }
  for (; out.iterations < max_iterations; ++out.iterations) {
    out.gradient = gradient_of(structure, implied, at.weight);
    // The expected Hessian that complete answers would have.
    const Evaluation complete = evaluate(structure, implied.covariance, 0.0, out.theta);
    Matrix metric = slope(structure, implied.covariance, complete).expected_hessian;
    metric.diagonal() *= 1.0 + 1e-10;
    const Vector step = -metric.ldlt().solve(out.gradient);
    out.decrement = -out.gradient.dot(step);
    if (out.decrement < tolerance) {
      out.status = Status::ok;
      break;
    }
    double fraction = 1.0;
    Vector trial = out.theta + step;
    Implied next = imply(fill(structure, trial));
    PatternLikelihood then = pattern_likelihood(patterns, next.covariance, threads);
    while (fraction > 1e-8 &&
           (!then.defined || then.value > at.value - 1e-4 * fraction * out.decrement + 1e-12)) {
      fraction *= 0.5;
      trial = out.theta + fraction * step;
      next = imply(fill(structure, trial));
      then = pattern_likelihood(patterns, next.covariance, threads);
    }
    if (!then.defined || fraction <= 1e-8) break;
    out.theta = trial;
    implied = next;
    at = then;
  }
  out.value = at.value;
  out.mean = at.mean;
  out.implied = implied.covariance;
  out.observed_hessian = Matrix::Zero(q, q);
  share(q, 1, threads, [&](Eigen::Index k, Eigen::Index) {
    const double size = 1e-5 * std::max(1.0, std::abs(out.theta(k)));
    Vector up = out.theta, down = out.theta, g_up(q), g_down(q);
    up(k) += size;
    down(k) -= size;
    incomplete_value(structure, patterns, up, g_up);
    incomplete_value(structure, patterns, down, g_down);
    out.observed_hessian.col(k) = (g_up - g_down) / (2.0 * size);
  });
  out.observed_hessian = (0.5 * (out.observed_hessian + out.observed_hessian.transpose())).eval();
  return out;
}

ScoreTests incomplete_score_tests(const Structure& structure, const std::vector<Pattern>& patterns,
                                  const VectorRef& theta, const std::vector<Cell>& candidates) {
  const Implied implied = imply(fill(structure, theta));
  const PatternLikelihood at = pattern_likelihood(patterns, implied.covariance, 1);
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  if (!at.defined) return {Vector::Zero(count), Vector::Zero(count)};
  double total = 0.0;
  for (const Pattern& pattern : patterns) total += pattern.n;
  ScoreInformation information;
  for (const Pattern& pattern : patterns) {
    const Matrix sigma = seen_part(implied.covariance, pattern.seen);
    Matrix inverse = Matrix::Zero(structure.items, structure.items);
    add_seen(inverse, sigma.llt().solve(Matrix::Identity(sigma.rows(), sigma.rows())), pattern.seen);
    information.add(structure, implied, inverse, pattern.n / total, candidates);
  }
  return information.tests(structure, implied, at.weight, candidates);
}

}  // namespace scalewort
