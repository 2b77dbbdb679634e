#include "resample.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include "one_factor.h"
#include "parallel.h"
#include "random.h"
#include "wide_product.h"

namespace scalewort {

namespace {

constexpr double not_there = std::numeric_limits<double>::quiet_NaN();

// Replicates worked out together: many, so that products of cases serve them all, but of many cases few, so that their weights stay small.
constexpr Eigen::Index most_at_once = 96, weights_at_once = 1 << 18;

Eigen::Index replicates_at_once(Eigen::Index n) {
  return std::max<Eigen::Index>(4, std::min(most_at_once, weights_at_once / std::max<Eigen::Index>(n, 1)));
}

// Adds to `counts`, n of them, how often each case is drawn.
template <class Count>
void count_draws(Generator& generator, Eigen::Index n, Count* counts) {
  const double size = static_cast<double>(n);
  for (Eigen::Index i = 0; i < n; ++i) {
    const double u = static_cast<double>(generator() >> 11) / 9007199254740992.0;  // 2^53
    ++counts[static_cast<std::size_t>(u * size)];
  }
}

// Generators of all replicates of a run, in order.
std::vector<Generator> generators(std::uint64_t seed, Eigen::Index first, Eigen::Index count) {
  Streams streams(seed);
  for (Eigen::Index i = 0; i < first; ++i) streams.take();
  std::vector<Generator> out;
  out.reserve(count);
  for (Eigen::Index i = 0; i < count; ++i) out.push_back(streams.take());
  return out;
}

double alpha_of(double k, double variances, double total) {
  return total > 0.0 && k > 1 ? k / (k - 1.0) * (1.0 - variances / total) : not_there;
}

}  // namespace

void draw_counts(Eigen::Index n, std::uint64_t seed, Eigen::Index index,
                 std::vector<int>& counts) {
  Generator generator = generators(seed, index, 1)[0];
  counts.assign(n, 0);
  count_draws(generator, n, counts.data());
}

Matrix draw_weights(Eigen::Index n, Eigen::Index first, Eigen::Index count, std::uint64_t seed) {
  std::vector<Generator> streams = generators(seed, first, count);
  Matrix out = Matrix::Zero(n, count);
  for (Eigen::Index i = 0; i < count; ++i) count_draws(streams[i], n, out.col(i).data());
  return out;
}

std::vector<WeightedMoments> weighted_moments(const MatrixRef& x, const Matrix& weights) {
  constexpr Eigen::Index block_rows = 256;
  const bool wide = has_wide_registers();
  const Eigen::Index n = x.rows(), p = x.cols(), figures = p + p * (p + 1) / 2;
  Matrix terms(figures, block_rows), sums = Matrix::Zero(figures, weights.cols());
  Vector own(p);
  for (Eigen::Index first = 0; first < n; first += block_rows) {
    const Eigen::Index size = std::min(block_rows, n - first);
    for (Eigen::Index i = 0; i < size; ++i) {
      own = x.row(first + i);
      double* term = std::copy(own.data(), own.data() + p, terms.col(i).data());
      for (Eigen::Index j = 0; j < p; ++j)
        for (Eigen::Index k = j; k < p; ++k) *term++ = own(j) * own(k);
    }
    const MatrixRef used = terms.leftCols(size), drawn = weights.middleRows(first, size);
    if (wide)
      add_wide_product(figures, weights.cols(), size, lying(used), lying(drawn), sums.data(), sums.outerStride());
    else
      sums.noalias() += used * drawn;
  }
  std::vector<WeightedMoments> out(weights.cols());
  for (Eigen::Index i = 0; i < weights.cols(); ++i) {
    const double total = weights.col(i).sum();
    out[i].mean = sums.col(i).head(p) / total;
    out[i].covariance.resize(p, p);
    Eigen::Index at = p;
    for (Eigen::Index j = 0; j < p; ++j)
      for (Eigen::Index k = j; k < p; ++k, ++at)
        out[i].covariance(j, k) = out[i].covariance(k, j) =
            (sums(at, i) - total * out[i].mean(j) * out[i].mean(k)) / (total - 1.0);
  }
  return out;
}

namespace {

// Calls work(i, mean, covariance) for replicates first, ..., first + count - 1, counted
// from 0, each with its own moments; work may write to place i only.
template <class Work>
void resample_moments(const MatrixRef& x, Eigen::Index first, Eigen::Index count,
                      std::uint64_t seed, int threads, Work work) {
  std::vector<Generator> streams = generators(seed, first, count);
  share(count, replicates_at_once(x.rows()), threads, [&](Eigen::Index from, Eigen::Index to) {
    Matrix weights = Matrix::Zero(x.rows(), to - from);
    for (Eigen::Index i = from; i < to; ++i) count_draws(streams[i], x.rows(), weights.col(i - from).data());
    const std::vector<WeightedMoments> found = weighted_moments(x, weights);
    for (Eigen::Index i = from; i < to; ++i)
      work(i, found[i - from].mean, found[i - from].covariance);
  });
}

}  // namespace

ReplicateMoments replicate_moments(const MatrixRef& x, Eigen::Index first, Eigen::Index count,
                                   std::uint64_t seed, int threads) {
  const Eigen::Index p = x.cols();
  ReplicateMoments out{Matrix(p, count), Matrix(p * p, count)};
  resample_moments(x, first, count, seed, threads,
                   [&](Eigen::Index i, const Vector& mean, const Matrix& covariance) {
                     out.means.col(i) = mean;
                     out.covariances.col(i) =
                         Eigen::Map<const Vector>(covariance.data(), covariance.size());
                   });
  return out;
}

namespace {

// The figures of one covariance matrix. start: unique variances for the factor, or
// empty.
Vector figures_of(const Matrix& covariance, const Vector& start) {
  const Eigen::Index p = covariance.cols();
  const double k = static_cast<double>(p);
  Vector out = Vector::Constant(4 + p, not_there);
  const Vector variance = covariance.diagonal();
  const double total = covariance.sum();
  out(0) = alpha_of(k, variance.sum(), total);
  for (Eigen::Index j = 0; j < p && p > 2; ++j)
    out(4 + j) = alpha_of(k - 1.0, variance.sum() - variance(j),
                          total - 2.0 * covariance.col(j).sum() + variance(j));
  if (variance.minCoeff() <= 0.0) return out;
  const Vector scale = variance.cwiseSqrt();
  const Matrix r =
      scale.cwiseInverse().asDiagonal() * covariance * scale.cwiseInverse().asDiagonal();
  out(1) = alpha_of(k, k, r.sum());
  if (p < 3) return out;
  const OneFactor fit = extract_one_factor(r, start.size() == p ? &start : nullptr);
  if (fit.status != Status::ok) return out;
  const double root = fit.loadings.dot(scale);
  const double unique = fit.uniqueness.dot(variance);
  out(2) = root * root / (root * root + unique);
  out(3) = root * root / total;
  return out;
}

// Unique variances of the whole sample: where every replicate's search begins.
Vector common_start(const Matrix& covariance) {
  const Vector scale = covariance.diagonal().cwiseSqrt();
  if (covariance.cols() < 3 || scale.minCoeff() <= 0.0) return Vector();
  const Vector inverse = scale.cwiseInverse();
  const OneFactor fit =
      extract_one_factor(inverse.asDiagonal() * covariance * inverse.asDiagonal(), nullptr);
  return fit.status == Status::ok ? fit.uniqueness : Vector();
}

Matrix sample_covariance(const MatrixRef& x) {
  return weighted_moments(x, Matrix::Ones(x.rows(), 1))[0].covariance;
}

}  // namespace

Vector reliability_figures(const MatrixRef& x) { return figures_of(sample_covariance(x), Vector()); }

Matrix replicate_reliability(const MatrixRef& x, Eigen::Index replicates, std::uint64_t seed,
                             int threads) {
  const Vector start = common_start(sample_covariance(x));
  Matrix out(replicates, 4 + x.cols());
  resample_moments(x, 0, replicates, seed, threads,
                   [&](Eigen::Index i, const Vector&, const Matrix& covariance) {
                     out.row(i) = figures_of(covariance, start).transpose();
                   });
  return out;
}

Matrix jackknife_reliability(const MatrixRef& x, const std::vector<Eigen::Index>& cases,
                             int threads) {
  const double n = static_cast<double>(x.rows());
  const Matrix whole = sample_covariance(x);
  const Vector mean = x.colwise().mean(), start = common_start(whole);
  constexpr Eigen::Index piece = 32;
  Matrix out(cases.size(), 4 + x.cols());
  share(static_cast<Eigen::Index>(cases.size()), piece, threads, [&](Eigen::Index from, Eigen::Index to) {
    for (Eigen::Index i = from; i < to; ++i) {
      const Vector apart = x.row(cases[i]).transpose() - mean;
      const Matrix without =
          ((n - 1.0) * whole - n / (n - 1.0) * apart * apart.transpose()) / (n - 2.0);
      out.row(i) = figures_of(without, start).transpose();
    }
  });
  return out;
}

}  // namespace scalewort
