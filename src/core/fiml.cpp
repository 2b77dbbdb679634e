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

// The inverse of the covariances, whole, and what it becomes where items are missing: with
// root = inv(chol(P_mm)) P_m., the inverse over the items seen, filled up with zeros, is
// P - root' root, and its determinant follows from that of P_mm.
struct Whole {
  bool defined;
  Matrix inverse;
  double log_determinant;  // of the covariances
};

Whole whole_of(const Matrix& covariance) {
  const Eigen::LLT<Matrix> factor(covariance);
  Whole out{factor.info() == Eigen::Success && covariance.allFinite(), Matrix(), 0.0};
  if (!out.defined) return out;
  out.inverse = factor.solve(Matrix::Identity(covariance.rows(), covariance.cols()));
  out.log_determinant = 2.0 * factor.matrixLLT().diagonal().array().log().sum();
  return out;
}

struct PatternPart {
  Matrix root;             // missing items x p
  Vector apart;            // p: sample less implied means, 0 where missing
  Vector pulled;           // inverse times apart
  double log_determinant;  // of the covariances seen
};

PatternPart part_of(const Whole& whole, const Pattern& pattern, const Vector& mean) {
  const Eigen::Index p = whole.inverse.rows();
  std::vector<bool> there(p, false);
  PatternPart out{Matrix(), Vector::Zero(p), Vector(), whole.log_determinant};
  for (std::size_t i = 0; i < pattern.seen.size(); ++i) {
    there[pattern.seen[i]] = true;
    out.apart(pattern.seen[i]) = pattern.mean(i) - mean(pattern.seen[i]);
  }
  Seen gone;
  for (Eigen::Index j = 0; j < p; ++j)
    if (!there[j]) gone.push_back(j);
  out.pulled = whole.inverse * out.apart;
  if (gone.empty()) return out;
  const Eigen::LLT<Matrix> factor(seen_part(whole.inverse, gone));
  out.root.resize(gone.size(), p);
  for (std::size_t i = 0; i < gone.size(); ++i) out.root.row(i) = whole.inverse.row(gone[i]);
  factor.matrixL().solveInPlace(out.root);
  out.log_determinant += 2.0 * factor.matrixLLT().diagonal().array().log().sum();
  out.pulled -= out.root.transpose() * (out.root * out.apart);
  for (Eigen::Index j : gone) out.pulled(j) = 0.0;
  return out;
}

// The inverse over the items seen, filled up with zeros, for patterns of several cases.
Matrix filled_inverse(const Whole& whole, const PatternPart& part) {
  return part.root.rows() == 0 ? whole.inverse : Matrix(whole.inverse - part.root.transpose() * part.root);
}

Matrix filled_up(const Matrix& part, const Seen& seen, Eigen::Index p) {
  Matrix out = Matrix::Zero(p, p);
  add_seen(out, part, seen);
  return out;
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
  PatternLikelihood out = zero;
  const Whole whole = whole_of(covariance);
  out.defined = whole.defined;
  if (!out.defined) return out;
  const auto parts = by_batch(
      static_cast<Eigen::Index>(patterns.size()), threads, zero,
      [&](Eigen::Index g, PatternLikelihood& sum) {
        const Pattern& pattern = patterns[g];
        const PatternPart part = part_of(whole, pattern, mean);
        const double share = pattern.n / total;
        sum.value += share * (part.log_determinant + part.apart.dot(part.pulled));
        sum.along_covariance.selfadjointView<Eigen::Lower>().rankUpdate(part.pulled, -share);
        if (part.root.rows() > 0)
          sum.along_covariance.selfadjointView<Eigen::Lower>().rankUpdate(part.root.transpose(), -share);
        sum.along_mean -= 2.0 * share * part.pulled;
        if (pattern.n > 1) {
          const Matrix inverse = filled_inverse(whole, part);
          const Matrix spread = filled_up(pattern.covariance, pattern.seen, p);
          const Matrix product = inverse * spread;
          sum.value += share * product.trace();
          sum.along_covariance -= share * (product * inverse);
        }
      });
  Matrix lower = whole.inverse;
  for (const PatternLikelihood& part : parts) {
    out.value += part.value;
    lower += part.along_covariance;
    out.along_mean += part.along_mean;
  }
  out.along_covariance = lower.selfadjointView<Eigen::Lower>();
  return out;
}

PatternDiscrepancy::PatternDiscrepancy(const std::vector<Structure>& structures,
                                       const std::vector<Patterns>& groups, int threads)
    : structures_(structures), groups_(groups), total_(sum_of_cases(groups)), threads_(threads) {}

bool PatternDiscrepancy::value(const Vector& theta, double& out) {
  out = 0.0;
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Implied implied = imply(fill(structures_[g], theta));
    const Whole whole = whole_of(implied.covariance);
    if (!whole.defined) return false;
    const Eigen::Index p = implied.covariance.rows();
    const auto parts = by_batch(
        static_cast<Eigen::Index>(groups_[g].size()), threads_, 0.0, [&](Eigen::Index i, double& sum) {
          const Pattern& pattern = groups_[g][i];
          const PatternPart part = part_of(whole, pattern, implied.mean);
          double here = part.log_determinant + part.apart.dot(part.pulled);
          if (pattern.n > 1)
            here += filled_inverse(whole, part).cwiseProduct(filled_up(pattern.covariance, pattern.seen, p)).sum();
          sum += pattern.n / total_ * here;
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
    const Eigen::Index count = d.weight.size(), p = structure.items;
    const Whole whole = whole_of(implied.covariance);
    // u' P u, u' P v, v' P v and P d of the means, from which each pattern takes its own.
    const Matrix uu = d.u.transpose() * whole.inverse * d.u, uv = d.u.transpose() * whole.inverse * d.v,
                 vv = d.v.transpose() * whole.inverse * d.v, mm = d.mean.transpose() * whole.inverse * d.mean,
                 mu = d.mean.transpose() * whole.inverse * d.u, mv = d.mean.transpose() * whole.inverse * d.v;
    const auto parts = by_batch<Matrix>(
        static_cast<Eigen::Index>(groups_[g].size()), threads_, Matrix::Zero(count, count),
        [&](Eigen::Index i, Matrix& sum) {
          const Pattern& pattern = groups_[g][i];
          const PatternPart part = part_of(whole, pattern, implied.mean);
          const Matrix ru = part.root * d.u, rv = part.root * d.v, rm = part.root * d.mean;
          const bool all = part.root.rows() == 0;
          const Matrix au = all ? uu : Matrix(uu - ru.transpose() * ru), av = all ? vv : Matrix(vv - rv.transpose() * rv),
                       ac = all ? uv : Matrix(uv - ru.transpose() * rv);
          const Vector u_apart = d.u.transpose() * part.pulled, v_apart = d.v.transpose() * part.pulled;
          // B = 2 y y' - A, and 2 A S A where the pattern has several cases.
          Matrix bu = 2.0 * u_apart * u_apart.transpose() - au, bv = 2.0 * v_apart * v_apart.transpose() - av,
                 bc = 2.0 * u_apart * v_apart.transpose() - ac;
          if (pattern.n > 1) {
            const Matrix inverse = filled_inverse(whole, part);
            const Matrix middle = 2.0 * inverse * filled_up(pattern.covariance, pattern.seen, p) * inverse;
            bu += d.u.transpose() * middle * d.u;
            bv += d.v.transpose() * middle * d.v;
            bc += d.u.transpose() * middle * d.v;
          }
          Matrix here = bc.transpose().cwiseProduct(ac) + bv.cwiseProduct(au) + bu.cwiseProduct(av) +
                        bc.cwiseProduct(ac.transpose());
          here = d.weight.asDiagonal() * here * d.weight.asDiagonal();
          // Means with covariances: 2 d' A D y, both ways round.
          const Matrix am_u = all ? mu : Matrix(mu - rm.transpose() * ru), am_v = all ? mv : Matrix(mv - rm.transpose() * rv);
          const Matrix mixed = 2.0 * (am_u * d.weight.cwiseProduct(v_apart).asDiagonal()) +
                               2.0 * (am_v * d.weight.cwiseProduct(u_apart).asDiagonal());
          here += mixed + mixed.transpose() + 2.0 * (all ? mm : Matrix(mm - rm.transpose() * rm));
          sum += pattern.n / total_ * here;
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

namespace {

// What whole products become for the items of a pattern.
CellProducts seen_products(CellProducts x, const Derivatives& d, const PatternPart& part) {
  if (part.root.rows() == 0) return x;
  const Matrix ru = part.root * d.u, rv = part.root * d.v, rm = part.root * d.mean;
  x.inverse.noalias() -= part.root.transpose() * part.root;
  x.ua.noalias() -= ru.transpose() * part.root;
  x.va.noalias() -= rv.transpose() * part.root;
  x.uu.noalias() -= ru.transpose() * ru;
  x.uv.noalias() -= ru.transpose() * rv;
  x.vv.noalias() -= rv.transpose() * rv;
  x.ma.noalias() -= rm.transpose() * part.root;
  x.mm.noalias() -= rm.transpose() * rm;
  return x;
}

}  // namespace

ScoreTests incomplete_score_tests(const Structure& structure, const Patterns& patterns,
                                  const VectorRef& theta, const std::vector<Cell>& candidates, int threads) {
  const Implied implied = imply(fill(structure, theta));
  const PatternLikelihood at = pattern_likelihood(patterns, implied.covariance, implied.mean, threads);
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  if (!at.defined) return {Vector::Zero(count), Vector::Zero(count)};
  const double total = sum_of_cases({patterns});
  const Whole whole = whole_of(implied.covariance);
  const Derivatives d = derivatives(structure, implied);
  const CellProducts products = cell_products(structure, d, whole.inverse);
  const auto parts = by_batch(static_cast<Eigen::Index>(patterns.size()), threads, ScoreInformation(),
                              [&](Eigen::Index g, ScoreInformation& sum) {
                                const PatternPart part = part_of(whole, patterns[g], implied.mean);
                                sum.add(structure, implied, d, seen_products(products, d, part), patterns[g].n / total,
                                        candidates);
                              });
  ScoreInformation information = parts[0];
  for (std::size_t b = 1; b < parts.size(); ++b) information.join(parts[b]);
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
