#include "polychoric.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include "normal.h"
#include "parallel.h"

namespace scalewort {

namespace {

constexpr double infinite = std::numeric_limits<double>::infinity();
constexpr double least_probability = 1e-15;

// Thresholds with minus and plus infinity at the ends.
std::vector<double> closed(const Vector& thresholds) {
  std::vector<double> out{-infinite};
  out.insert(out.end(), thresholds.data(), thresholds.data() + thresholds.size());
  out.push_back(infinite);
  return out;
}

// Quantile of the normal distribution: bisection to a bracket, then Newton.
double normal_quantile(double share) {
  double low = -40.0, high = 40.0, x = 0.0;
  for (int i = 0; i < 200; ++i) {
    const double gap = normal_cdf(x) - share;
    (gap > 0.0 ? high : low) = x;
    double next = x - gap / std::max(normal_density(x), 1e-300);
    if (!(next > low && next < high)) next = 0.5 * (low + high);
    if (std::abs(next - x) < 1e-15 * std::max(1.0, std::abs(x))) return next;
    x = next;
  }
  return x;
}

Vector item_counts(const Codes& codes, Eigen::Index item, int categories) {
  Vector count = Vector::Zero(categories + 1);
  for (Eigen::Index i = 0; i < codes.rows(); ++i) count(codes(i, item)) += 1.0;
  return count.tail(categories);
}

Vector item_thresholds(const Vector& count) {
  const double n = count.sum();
  Vector out(count.size() - 1);
  double below = 0.0;
  for (Eigen::Index k = 0; k + 1 < count.size(); ++k) {
    below += count(k);
    out(k) = normal_quantile(below / n);
  }
  return out;
}

Matrix cross_table(const Codes& codes, Eigen::Index i, Eigen::Index j, int rows, int columns) {
  Eigen::MatrixXi count = Eigen::MatrixXi::Zero(rows + 1, columns + 1);
  const std::uint8_t *a = codes.data() + i * codes.outerStride(), *b = codes.data() + j * codes.outerStride();
  for (Eigen::Index k = 0; k < codes.rows(); ++k) ++count(a[k], b[k]);
  return count.bottomRightCorner(rows, columns).cast<double>();
}

// Cell probabilities with their first and second derivatives in the correlation.
struct Cells {
  Matrix p, slope, bend;
};

Cells cells_at(const std::vector<double>& a, const std::vector<double>& b, double r, bool bend) {
  const Eigen::Index rows = a.size(), columns = b.size();
  Matrix cdf(rows, columns), density(rows, columns), change = Matrix::Zero(rows, columns);
  for (Eigen::Index j = 0; j < columns; ++j)
    for (Eigen::Index i = 0; i < rows; ++i) {
      cdf(i, j) = bivariate_normal_cdf(a[i], b[j], r);
      density(i, j) = bivariate_normal_density(a[i], b[j], r);
      if (bend) change(i, j) = bivariate_normal_density_slope(a[i], b[j], r);
    }
  auto cell = [](const Matrix& m) -> Matrix {
    const Eigen::Index x = m.rows() - 1, y = m.cols() - 1;
    return m.bottomRightCorner(x, y) - m.topRightCorner(x, y) - m.bottomLeftCorner(x, y) +
           m.topLeftCorner(x, y);
  };
  return {cell(cdf).cwiseMax(least_probability), cell(density), cell(change)};
}

struct PairFit {
  double r;
  Status state;
};

double pearson_of(const Matrix& table) {
  const double n = table.sum();
  const Vector x = Vector::LinSpaced(table.rows(), 1.0, table.rows());
  const Vector y = Vector::LinSpaced(table.cols(), 1.0, table.cols());
  const Vector px = table.rowwise().sum() / n, py = table.colwise().sum().transpose() / n;
  const double mx = px.dot(x), my = py.dot(y);
  const double vx = px.dot(x.cwiseProduct(x)) - mx * mx, vy = py.dot(y.cwiseProduct(y)) - my * my;
  const double cov = x.dot(table * y) / n - mx * my;
  return vx > 0.0 && vy > 0.0 ? cov / std::sqrt(vx * vy) : 0.0;
}

PairFit fit_pair(Matrix table, const std::vector<double>& a, const std::vector<double>& b,
                 const PolychoricOptions& options) {
  PairFit out{0.0, Status::not_converged};
  if (table.sum() < 2.0) return {std::numeric_limits<double>::quiet_NaN(), Status::too_few_cases};
  const bool half = table.size() == 4 && table.minCoeff() == 0.0;
  if (half) table = table.cwiseMax(options.empty_cell);
  const double n = table.sum();
  double low = -options.largest, high = options.largest;
  out.r = std::min(0.9, std::max(-0.9, pearson_of(table)));
  for (int i = 0; i < options.max_iterations; ++i) {
    const Cells cells = cells_at(a, b, out.r, true);
    const Matrix score = cells.slope.cwiseQuotient(cells.p);
    const double slope = table.cwiseProduct(score).sum() / n;
    const double bend =
        table.cwiseProduct(cells.bend.cwiseQuotient(cells.p) - score.cwiseProduct(score)).sum() / n;
    (slope > 0.0 ? low : high) = out.r;
    double next = bend < 0.0 ? out.r - slope / bend : 0.5 * (low + high);
    if (!(next > low && next < high)) next = 0.5 * (low + high);
    const double moved = std::abs(next - out.r);
    out.r = next;
    if (moved < options.tolerance) {
      out.state = Status::ok;
      break;
    }
  }
  if (out.state == Status::ok && half) out.state = Status::empty_cell;
  if (std::abs(out.r) > options.largest - 1e-6) out.state = Status::at_bound;
  return out;
}

// Influence of a case in each cell on the pair's correlation: its own score, and through
// the thresholds of both items, over the information.
struct Influence {
  Matrix own;           // by cell: score / information
  Vector of_a, of_b;    // what a threshold's own influence is multiplied by
  Matrix whole;         // by cell: everything together
  Matrix p;             // expected cell probabilities
};

// Influence of a case in each category on threshold k: (1[x <= k] - share) / density.
double threshold_influence(int category, int k, double threshold) {
  return ((category <= k ? 1.0 : 0.0) - normal_cdf(threshold)) / normal_density(threshold);
}

Influence influence_of_pair(const std::vector<double>& a, const std::vector<double>& b, double r) {
  const Cells cells = cells_at(a, b, r, false);
  const Matrix score = cells.slope.cwiseQuotient(cells.p);
  const double information = score.cwiseProduct(cells.slope).sum();
  const Eigen::Index rows = cells.p.rows(), columns = cells.p.cols();
  const double root = std::sqrt((1.0 - r) * (1.0 + r));
  Influence out{score / information, Vector(rows - 1), Vector(columns - 1), score / information,
                cells.p};
  // A threshold moves probability from the cells above it to those below it.
  for (Eigen::Index k = 0; k + 1 < rows; ++k) {
    double sum = 0.0;
    for (Eigen::Index j = 0; j < columns; ++j) {
      const double flow = normal_density(a[k + 1]) * (normal_cdf((b[j + 1] - r * a[k + 1]) / root) -
                                                      normal_cdf((b[j] - r * a[k + 1]) / root));
      sum += (score(k, j) - score(k + 1, j)) * flow;
    }
    out.of_a(k) = -sum / information;
  }
  for (Eigen::Index k = 0; k + 1 < columns; ++k) {
    double sum = 0.0;
    for (Eigen::Index i = 0; i < rows; ++i) {
      const double flow = normal_density(b[k + 1]) * (normal_cdf((a[i + 1] - r * b[k + 1]) / root) -
                                                      normal_cdf((a[i] - r * b[k + 1]) / root));
      sum += (score(i, k) - score(i, k + 1)) * flow;
    }
    out.of_b(k) = -sum / information;
  }
  for (Eigen::Index i = 0; i < rows; ++i)
    for (Eigen::Index j = 0; j < columns; ++j) {
      for (Eigen::Index k = 0; k + 1 < rows; ++k)
        out.whole(i, j) += out.of_a(k) * threshold_influence(i, k, a[k + 1]);
      for (Eigen::Index k = 0; k + 1 < columns; ++k)
        out.whole(i, j) += out.of_b(k) * threshold_influence(j, k, b[k + 1]);
    }
  return out;
}

template <class Work>
void for_each_pair(Eigen::Index p, int threads, Work work) {
  std::vector<std::pair<Eigen::Index, Eigen::Index>> pairs;
  for (Eigen::Index j = 0; j < p; ++j)
    for (Eigen::Index i = j + 1; i < p; ++i) pairs.emplace_back(i, j);
  share(static_cast<Eigen::Index>(pairs.size()), 1, threads,
        [&](Eigen::Index at, Eigen::Index) { work(pairs[at].first, pairs[at].second, at); });
}

}  // namespace

OrderedCounts ordered_counts(const Codes& codes, const IndexVector& categories, int threads) {
  const Eigen::Index p = codes.cols();
  OrderedCounts counts;
  for (Eigen::Index j = 0; j < p; ++j) counts.items.push_back(item_counts(codes, j, categories(j)));
  counts.pairs.resize(p * (p - 1) / 2);
  for_each_pair(p, threads, [&](Eigen::Index i, Eigen::Index j, Eigen::Index at) {
    counts.pairs[at] = cross_table(codes, i, j, categories(i), categories(j));
  });
  return counts;
}

Polychoric polychoric(const Codes& codes, const IndexVector& categories,
                      const PolychoricOptions& options) {
  return polychoric(ordered_counts(codes, categories, options.threads), options);
}

Polychoric polychoric(const OrderedCounts& counts, const PolychoricOptions& options) {
  const Eigen::Index p = static_cast<Eigen::Index>(counts.items.size());
  Polychoric out{Matrix::Identity(p, p), Matrix::Zero(p, p), Matrix::Zero(p, p),
                 decltype(Polychoric::state)::Constant(p, p, Status::ok), {}};
  std::vector<std::vector<double>> limits;
  for (Eigen::Index j = 0; j < p; ++j) {
    out.thresholds.push_back(item_thresholds(counts.items[j]));
    limits.push_back(closed(out.thresholds.back()));
    out.n(j, j) = counts.items[j].sum();
  }
  for_each_pair(p, options.threads, [&](Eigen::Index i, Eigen::Index j, Eigen::Index at) {
    const Matrix& table = counts.pairs[at];
    const PairFit fit = fit_pair(table, limits[i], limits[j], options);
    out.r(i, j) = out.r(j, i) = fit.r;
    out.state(i, j) = out.state(j, i) = fit.state;
    const double n = table.sum();
    out.n(i, j) = out.n(j, i) = n;
    double error = std::numeric_limits<double>::quiet_NaN();
    if (fit.state != Status::too_few_cases) {
      const Influence influence = influence_of_pair(limits[i], limits[j], fit.r);
      error = std::sqrt(influence.p.cwiseProduct(influence.whole.cwiseProduct(influence.whole)).sum() / n);
    }
    out.std_error(i, j) = out.std_error(j, i) = error;
  });
  return out;
}

Matrix polychoric_covariance(const Codes& codes, const IndexVector& categories,
                             const Polychoric& estimate) {
  const Eigen::Index n = codes.rows(), p = codes.cols();
  std::vector<std::vector<double>> limits;
  for (const Vector& thresholds : estimate.thresholds) limits.push_back(closed(thresholds));
  Eigen::Index columns = 0;
  for (Eigen::Index j = 0; j < p; ++j) columns += categories(j) - 1;
  const Eigen::Index first_pair = columns;
  columns += p * (p - 1) / 2;
  Matrix influence(n, columns);
  std::vector<Eigen::Index> first_of(p);
  Eigen::Index at = 0;
  for (Eigen::Index j = 0; j < p; ++j) {
    first_of[j] = at;
    const double scale = static_cast<double>(n) / estimate.n(j, j);
    for (int k = 0; k + 1 < categories(j); ++k, ++at)
      for (Eigen::Index i = 0; i < n; ++i)
        influence(i, at) = codes(i, j) == 0 ? 0.0 : scale * threshold_influence(codes(i, j) - 1, k, estimate.thresholds[j](k));
  }
  at = first_pair;
  for (Eigen::Index j = 0; j < p; ++j)
    for (Eigen::Index i = j + 1; i < p; ++i, ++at) {
      const Influence pair = influence_of_pair(limits[i], limits[j], estimate.r(i, j));
      const double both = static_cast<double>(n) / estimate.n(i, j);
      influence.col(at) = influence.middleCols(first_of[i], categories(i) - 1) * pair.of_a +
                          influence.middleCols(first_of[j], categories(j) - 1) * pair.of_b;
      for (Eigen::Index row = 0; row < n; ++row)
        if (codes(row, i) > 0 && codes(row, j) > 0)
          influence(row, at) += both * pair.own(codes(row, i) - 1, codes(row, j) - 1);
    }
  influence.rowwise() -= influence.colwise().mean().eval();
  Matrix out = Matrix::Zero(columns, columns);
  out.selfadjointView<Eigen::Lower>().rankUpdate(influence.transpose(), 1.0 / n);
  return out.selfadjointView<Eigen::Lower>();
}

}  // namespace scalewort
