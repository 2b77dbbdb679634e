#include "patterns.h"
#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace scalewort {

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

Whole whole_of(const Matrix& covariance) {
  const Eigen::LLT<Matrix> factor(covariance);
  Whole out{factor.info() == Eigen::Success && covariance.allFinite(), Matrix(), 0.0};
  if (!out.defined) return out;
  out.inverse = factor.solve(Matrix::Identity(covariance.rows(), covariance.cols()));
  out.log_determinant = 2.0 * factor.matrixLLT().diagonal().array().log().sum();
  return out;
}

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
        if (pattern.spread) {
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

Gathered gather_patterns(const MatrixRef& x, const double* weight, int threads) {
  const Eigen::Index n = x.rows(), p = x.cols();
  std::vector<std::vector<bool>> missing(n, std::vector<bool>(p));
  for (Eigen::Index j = 0; j < p; ++j)
    for (Eigen::Index i = 0; i < n; ++i) missing[i][j] = std::isnan(x(i, j));
  std::unordered_map<std::vector<bool>, std::size_t> known;
  std::vector<std::vector<Eigen::Index>> rows;
  for (Eigen::Index i = 0; i < n; ++i) {
    const auto place = known.emplace(missing[i], rows.size());
    if (place.second) rows.emplace_back();
    rows[place.first->second].push_back(i);
  }
  const auto gaps = [&](const std::vector<Eigen::Index>& of) { return std::count(missing[of[0]].begin(), missing[of[0]].end(), true); };
  std::sort(rows.begin(), rows.end(), [&](const auto& a, const auto& b) {
    if (a.size() != b.size()) return a.size() > b.size();
    if (gaps(a) != gaps(b)) return gaps(a) < gaps(b);
    return missing[a[0]] < missing[b[0]];
  });
  Gathered out{Patterns(rows.size()), {}};
  for (const auto& mine : rows) out.cases.push_back(static_cast<Eigen::Index>(mine.size()));
  share(static_cast<Eigen::Index>(rows.size()), 4, threads, [&](Eigen::Index first, Eigen::Index last) {
    for (Eigen::Index g = first; g < last; ++g) {
      const std::vector<Eigen::Index>& mine = rows[g];
      Pattern& pattern = out.patterns[g];
      for (Eigen::Index j = 0; j < p; ++j)
        if (!missing[mine[0]][j]) pattern.seen.push_back(j);
      const Eigen::Index size = static_cast<Eigen::Index>(mine.size()), seen = static_cast<Eigen::Index>(pattern.seen.size());
      Matrix own(size, seen);
      Vector share_of(size);
      for (Eigen::Index i = 0; i < size; ++i) share_of(i) = weight == nullptr ? 1.0 : weight[mine[i]];
      for (Eigen::Index j = 0; j < seen; ++j)
        for (Eigen::Index i = 0; i < size; ++i) own(i, j) = x(mine[i], pattern.seen[j]);
      pattern.n = share_of.sum();
      pattern.mean = own.transpose() * share_of / pattern.n;
      pattern.covariance = Matrix::Zero(seen, seen);
      pattern.spread = size > 1;
      if (size == 1) continue;
      own.rowwise() -= pattern.mean.transpose();
      own = share_of.cwiseSqrt().asDiagonal() * own;
      pattern.covariance.noalias() = own.transpose() * own / pattern.n;
    }
  });
  return out;
}

}  // namespace scalewort
