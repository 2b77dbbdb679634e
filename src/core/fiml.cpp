#include "fiml.h"
#include <Eigen/Cholesky>
#include <cmath>
#include "parallel.h"

namespace scalewort {

namespace {

using Seen = std::vector<Eigen::Index>;

Matrix seen_part(const Matrix& whole, const Seen& seen) {
  const Eigen::Index size = static_cast<Eigen::Index>(seen.size());
  Matrix out(size, size);
  for (Eigen::Index j = 0; j < size; ++j)
    for (Eigen::Index i = 0; i < size; ++i) out(i, j) = whole(seen[i], seen[j]);
  return out;
}

Vector seen_part(const Vector& whole, const Seen& seen) {
  Vector out(seen.size());
  for (std::size_t i = 0; i < seen.size(); ++i) out(i) = whole(seen[i]);
  return out;
}

void add_seen(Matrix& whole, const Matrix& part, const Seen& seen) {
  for (Eigen::Index j = 0; j < part.cols(); ++j)
    for (Eigen::Index i = 0; i < part.rows(); ++i) whole(seen[i], seen[j]) += part(i, j);
}

void add_seen(Vector& whole, const Vector& part, const Seen& seen) {
  for (Eigen::Index i = 0; i < part.size(); ++i) whole(seen[i]) += part(i);
}

double sum_of_cases(const std::vector<Patterns>& groups) {
  double total = 0.0;
  for (const Patterns& patterns : groups)
    for (const Pattern& pattern : patterns) total += pattern.n;
  return total;
}

// Work on the patterns in at most this many batches, each with sums of its own, so that the
// result does not depend on the number of threads.
constexpr Eigen::Index batches = 16;

template <class Sums, class Work>
std::vector<Sums> by_batch(Eigen::Index count, int threads, const Sums& zero, Work work) {
  const Eigen::Index size = std::max<Eigen::Index>(1, (count + batches - 1) / batches);
  const Eigen::Index used = (count + size - 1) / size;
  std::vector<Sums> out(used, zero);
  share(used, 1, threads, [&](Eigen::Index b, Eigen::Index) {
    for (Eigen::Index g = b * size; g < std::min(count, (b + 1) * size); ++g) work(g, out[b]);
  });
  return out;
}

// tr(A D B D') for the unit directions of two covariances, (i, j) and (k, l).
inline double unit_trace(const Matrix& a, const Matrix& b, Eigen::Index i, Eigen::Index j,
                         Eigen::Index k, Eigen::Index l) {
  const double halves = (i == j ? 0.5 : 1.0) * (k == l ? 0.5 : 1.0);
  return halves * (b(j, k) * a(l, i) + b(j, l) * a(k, i) + b(i, k) * a(l, j) + b(i, l) * a(k, j));
}

}  // namespace

PatternLikelihood pattern_likelihood(const Patterns& patterns, const Matrix& covariance,
                                     const Vector& mean, int threads) {
  const Eigen::Index p = covariance.rows();
  double total = 0.0;
  for (const Pattern& pattern : patterns) total += pattern.n;
  const PatternLikelihood zero{true, 0.0, Matrix::Zero(p, p), Vector::Zero(p)};
  const auto parts = by_batch(
      static_cast<Eigen::Index>(patterns.size()), threads, zero,
      [&](Eigen::Index g, PatternLikelihood& sum) {
        const Pattern& pattern = patterns[g];
        const Eigen::LLT<Matrix> factor(seen_part(covariance, pattern.seen));
        sum.defined = sum.defined && factor.info() == Eigen::Success;
        if (!sum.defined) return;
        const Eigen::Index size = pattern.mean.size();
        const Matrix inverse = factor.solve(Matrix::Identity(size, size));
        const Vector apart = pattern.mean - seen_part(mean, pattern.seen);
        const Matrix product = inverse * (pattern.covariance + apart * apart.transpose());
        const double share = pattern.n / total;
        sum.value += share * (2.0 * factor.matrixLLT().diagonal().array().log().sum() + product.trace());
        add_seen(sum.along_covariance, share * (inverse - product * inverse), pattern.seen);
        add_seen(sum.along_mean, -2.0 * share * (inverse * apart), pattern.seen);
      });
  PatternLikelihood out = zero;
  for (const PatternLikelihood& part : parts) {
    out.defined = out.defined && part.defined;
    out.value += part.value;
    out.along_covariance += part.along_covariance;
    out.along_mean += part.along_mean;
  }
  return out;
}

PatternDiscrepancy::PatternDiscrepancy(const std::vector<Structure>& structures,
                                       const std::vector<Patterns>& groups, int threads)
    : structures_(structures), groups_(groups), total_(sum_of_cases(groups)), threads_(threads) {}

bool PatternDiscrepancy::value(const Vector& theta, double& out) {
  out = 0.0;
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Implied implied = imply(fill(structures_[g], theta));
    if (!implied.covariance.allFinite()) return false;
    const auto parts = by_batch(
        static_cast<Eigen::Index>(groups_[g].size()), threads_, 0.0, [&](Eigen::Index i, double& sum) {
          const Pattern& pattern = groups_[g][i];
          const Eigen::LLT<Matrix> factor(seen_part(implied.covariance, pattern.seen));
          if (factor.info() != Eigen::Success) {
            sum = std::nan("");
            return;
          }
          const Vector apart = pattern.mean - seen_part(implied.mean, pattern.seen);
          sum += pattern.n / total_ *
                 (2.0 * factor.matrixLLT().diagonal().array().log().sum() +
                  factor.solve(pattern.covariance).trace() + factor.matrixL().solve(apart).squaredNorm());
        });
    for (double part : parts) out += part;
  }
  return std::isfinite(out);
}

Slope PatternDiscrepancy::slope(const Vector& theta) {
  const Eigen::Index q = theta.size();
  Slope out{Vector::Zero(q), Matrix::Zero(q, q)};
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Implied implied = imply(fill(structures_[g], theta));
    const Derivatives d = derivatives(structures_[g], implied);
    const PatternLikelihood at = pattern_likelihood(groups_[g], implied.covariance, implied.mean, threads_);
    const double share = sum_of_cases({groups_[g]}) / total_;
    const Eigen::Index p = structures_[g].items;
    const Matrix inverse = implied.covariance.llt().solve(Matrix::Identity(p, p));
    out.gradient += share * gradient_along(structures_[g], d, at.along_covariance, at.along_mean);
    out.expected_hessian += share * gather(structures_[g], trace_products(d, inverse, inverse) + mean_products(d, inverse));
  }
  return out;
}

Matrix PatternDiscrepancy::observed_hessian(const Vector& theta) {
  const Eigen::Index q = theta.size();
  Matrix out = Matrix::Zero(q, q);
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Structure& structure = structures_[g];
    const Implied implied = imply(fill(structure, theta));
    const Derivatives d = derivatives(structure, implied);
    const Eigen::Index count = d.weight.size();
    const auto parts = by_batch<Matrix>(
        static_cast<Eigen::Index>(groups_[g].size()), threads_, Matrix::Zero(count, count),
        [&](Eigen::Index i, Matrix& sum) {
          const Pattern& pattern = groups_[g][i];
          const Eigen::Index size = pattern.mean.size();
          Derivatives seen{Matrix(size, count), Matrix(size, count), d.weight, Matrix(size, count)};
          for (Eigen::Index r = 0; r < size; ++r) {
            seen.u.row(r) = d.u.row(pattern.seen[r]);
            seen.v.row(r) = d.v.row(pattern.seen[r]);
            seen.mean.row(r) = d.mean.row(pattern.seen[r]);
          }
          const Matrix inverse = seen_part(implied.covariance, pattern.seen).llt().solve(Matrix::Identity(size, size));
          const Vector apart = inverse * (pattern.mean - seen_part(implied.mean, pattern.seen));
          const Matrix b = 2.0 * (inverse * pattern.covariance * inverse + apart * apart.transpose()) - inverse;
          // Means with covariances: 2 d' A D A (m - mu), both ways round.
          const Matrix a_mean = inverse * seen.mean;
          const Vector u_apart = seen.u.transpose() * apart, v_apart = seen.v.transpose() * apart;
          const Matrix mixed =
              2.0 * (a_mean.transpose() * (seen.u * d.weight.cwiseProduct(v_apart).asDiagonal() +
                                           seen.v * d.weight.cwiseProduct(u_apart).asDiagonal()));
          sum += pattern.n / total_ *
                 (trace_products(seen, inverse, b) + mean_products(seen, inverse) + mixed + mixed.transpose());
        });
    Matrix cells = Matrix::Zero(count, count);
    for (const Matrix& part : parts) cells += part;
    out += gather(structure, cells);
    // The structure's own curvature, along fixed slopes of the likelihood.
    const PatternLikelihood at = pattern_likelihood(groups_[g], implied.covariance, implied.mean, threads_);
    const double share = sum_of_cases({groups_[g]}) / total_;
    Matrix curved(q, q);
    for (Eigen::Index k = 0; k < q; ++k) {
      const double step = 1e-4 * std::max(1.0, std::abs(theta(k)));
      Vector up = theta, down = theta;
      up(k) += step;
      down(k) -= step;
      const Derivatives above = derivatives(structure, imply(fill(structure, up)));
      const Derivatives below = derivatives(structure, imply(fill(structure, down)));
      curved.col(k) = (gradient_along(structure, above, at.along_covariance, at.along_mean) -
                       gradient_along(structure, below, at.along_covariance, at.along_mean)) /
                      (2.0 * step);
    }
    out += share * curved;
  }
  return 0.5 * (out + out.transpose());
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

ScoreTests incomplete_score_tests(const Structure& structure, const Patterns& patterns,
                                  const VectorRef& theta, const std::vector<Cell>& candidates) {
  const Implied implied = imply(fill(structure, theta));
  const PatternLikelihood at = pattern_likelihood(patterns, implied.covariance, implied.mean, 1);
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  if (!at.defined) return {Vector::Zero(count), Vector::Zero(count)};
  const double total = sum_of_cases({patterns});
  ScoreInformation information;
  for (const Pattern& pattern : patterns) {
    const Matrix sigma = seen_part(implied.covariance, pattern.seen);
    Matrix inverse = Matrix::Zero(structure.items, structure.items);
    add_seen(inverse, sigma.llt().solve(Matrix::Identity(sigma.rows(), sigma.rows())), pattern.seen);
    information.add(structure, implied, inverse, pattern.n / total, candidates);
  }
  return information.tests(structure, implied, {true, Matrix(), at.along_covariance, at.along_mean}, candidates);
}

namespace {

// Items each case answered, and per pattern of them the inverse of their covariances.
struct CaseParts {
  Matrix solved;               // n x p: inv(Sigma)(x - mu) of the items answered, else 0
  std::vector<Eigen::Index> pattern;  // of each case
  std::vector<Matrix> inverses;       // p x p, filled up with zeros
};

CaseParts case_parts(const MatrixRef& x, const Matrix& covariance, const Vector& mean) {
  const Eigen::Index n = x.rows(), p = x.cols();
  CaseParts out{Matrix::Zero(n, p), std::vector<Eigen::Index>(n), {}};
  std::vector<Seen> known;
  for (Eigen::Index i = 0; i < n; ++i) {
    Seen seen;
    for (Eigen::Index j = 0; j < p; ++j)
      if (!std::isnan(x(i, j))) seen.push_back(j);
    std::size_t g = 0;
    while (g < known.size() && known[g] != seen) ++g;
    if (g == known.size()) {
      known.push_back(seen);
      const Eigen::Index size = static_cast<Eigen::Index>(seen.size());
      Matrix inverse = Matrix::Zero(p, p);
      add_seen(inverse, seen_part(covariance, seen).llt().solve(Matrix::Identity(size, size)), seen);
      out.inverses.push_back(inverse);
    }
    Vector apart = Vector::Zero(p);
    for (Eigen::Index j : seen) apart(j) = x(i, j) - mean(j);
    out.solved.row(i) = (out.inverses[g] * apart).transpose();
    out.pattern[i] = static_cast<Eigen::Index>(g);
  }
  return out;
}

}  // namespace

Matrix case_gradients(const Structure& structure, const MatrixRef& x, const VectorRef& theta) {
  const Implied implied = imply(fill(structure, theta));
  const Derivatives d = derivatives(structure, implied);
  const CaseParts parts = case_parts(x, implied.covariance, implied.mean);
  const Matrix yu = parts.solved * d.u, yv = parts.solved * d.v;
  Matrix expected(d.weight.size(), static_cast<Eigen::Index>(parts.inverses.size()));
  for (std::size_t g = 0; g < parts.inverses.size(); ++g)
    expected.col(static_cast<Eigen::Index>(g)) = (parts.inverses[g] * d.v).cwiseProduct(d.u).colwise().sum().transpose();
  Matrix out = Matrix::Zero(x.rows(), structure.parameters);
  for (Eigen::Index k = 0; k < d.weight.size(); ++k) {
    const int free = structure.cells[k].free;
    if (free < 0) continue;
    for (Eigen::Index i = 0; i < x.rows(); ++i)
      out(i, free) += 2.0 * d.weight(k) * (expected(k, parts.pattern[i]) - yu(i, k) * yv(i, k));
    if (structure.means) out.col(free) -= 2.0 * parts.solved * d.mean.col(k);
  }
  return out;
}

Matrix saturated_case_gradients(const MatrixRef& x, const Matrix& covariance, const Vector& mean) {
  const Eigen::Index n = x.rows(), p = x.cols();
  const CaseParts parts = case_parts(x, covariance, mean);
  Matrix out(n, p + p * (p + 1) / 2);
  out.leftCols(p) = -2.0 * parts.solved;
  Eigen::Index k = p;
  for (Eigen::Index a = 0; a < p; ++a)
    for (Eigen::Index b = a; b < p; ++b, ++k)
      for (Eigen::Index i = 0; i < n; ++i)
        out(i, k) = (a == b ? 1.0 : 2.0) *
                    (parts.inverses[parts.pattern[i]](b, a) - parts.solved(i, a) * parts.solved(i, b));
  return out;
}

}  // namespace scalewort
