#include "polychoric.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include "normal.h"
#include "parallel.h"
#include "product.h"

namespace scalewort {

namespace {

constexpr double least_probability = 1e-15;

// Ends of an interval as near as this are one point.
constexpr double closest = 1e-12;

// Thresholds of an item with the normal probability below each and the density at it.
struct Limits {
  Vector at, below, density;
  Eigen::Index categories() const { return at.size() + 1; }
};

Limits limits_of(const Vector& thresholds) {
  return {thresholds, thresholds.unaryExpr([](double x) { return normal_cdf(x); }),
          thresholds.unaryExpr([](double x) { return normal_density(x); })};
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

// What lies in each cell, from what lies below its corners; of the outer corners, in whose place there is nothing below the first
// threshold, `last_row`, `last_column` and `all` lie below the last.
Matrix between(const Matrix& below, const Vector& last_row, const Vector& last_column, double all) {
  const Eigen::Index x = below.rows() + 1, y = below.cols() + 1;
  Matrix whole = Matrix::Zero(x + 1, y + 1);
  whole.block(1, 1, x - 1, y - 1) = below;
  whole.row(x).segment(1, y - 1) = last_row.transpose();
  whole.col(y).segment(1, x - 1) = last_column;
  whole(x, y) = all;
  return whole.bottomRightCorner(x, y) - whole.topRightCorner(x, y) - whole.bottomLeftCorner(x, y) + whole.topLeftCorner(x, y);
}

Cells cells_at(const Limits& a, const Limits& b, double r, bool bend) {
  const NormalGrid grid = bivariate_normal_grid(a.at, b.at, a.below, b.below, r);
  const Vector no_a = Vector::Zero(a.at.size()), no_b = Vector::Zero(b.at.size());
  Cells out{between(grid.cdf, b.below, a.below, 1.0).cwiseMax(least_probability), between(grid.density, no_b, no_a, 0.0), {}};
  if (bend) {
    const double rest = (1.0 - r) * (1.0 + r);
    const Eigen::ArrayXXd hk = (a.at * b.at.transpose()).array();
    const Eigen::ArrayXXd squares = (a.at.array().square().matrix().replicate(1, b.at.size()) +
                                     b.at.array().square().matrix().transpose().replicate(a.at.size(), 1)).array();
    const Matrix change = (r / rest + ((1.0 + r * r) * hk - r * squares) / (rest * rest)) * grid.density.array();
    out.bend = between(change, no_b, no_a, 0.0);
  }
  return out;
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

PairFit fit_pair(Matrix table, const Limits& a, const Limits& b,
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
    if (bend < 0.0 && std::abs(slope / bend) < options.tolerance) {
      out.r -= slope / bend;
      out.state = Status::ok;
      break;
    }
    const double next = bend < 0.0 ? out.r - slope / bend : 0.5 * (low + high);
    out.r = next > low && next < high ? next : 0.5 * (low + high);
    if (high - low < closest) {
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

// Influence of a case in each category (row) on each threshold: (1[x <= k] - share) / density.
Matrix threshold_influence(const Limits& limits) {
  Matrix out(limits.categories(), limits.at.size());
  for (Eigen::Index k = 0; k < out.cols(); ++k)
    for (Eigen::Index c = 0; c < out.rows(); ++c) out(c, k) = ((c <= k ? 1.0 : 0.0) - limits.below(k)) / limits.density(k);
  return out;
}

// Probability that each threshold of one item (row) moves from the cells above it to those below it, by category of the other (column).
Matrix threshold_flow(const Limits& one, const Limits& other, double r) {
  const double root = std::sqrt((1.0 - r) * (1.0 + r));
  Matrix below = Matrix::Zero(one.at.size(), other.categories() + 1);
  below.col(other.categories()).setOnes();
  for (Eigen::Index k = 0; k < one.at.size(); ++k)
    for (Eigen::Index j = 0; j < other.at.size(); ++j) below(k, j + 1) = normal_cdf((other.at(j) - r * one.at(k)) / root);
  return one.density.asDiagonal() * (below.rightCols(other.categories()) - below.leftCols(other.categories()));
}

Influence influence_of_pair(const Limits& a, const Limits& b, double r) {
  const Cells cells = cells_at(a, b, r, false);
  const Matrix score = cells.slope.cwiseQuotient(cells.p);
  const double information = score.cwiseProduct(cells.slope).sum();
  Influence out{score / information, {}, {}, {}, cells.p};
  const Matrix down = score.topRows(a.at.size()) - score.bottomRows(a.at.size());
  const Matrix across = score.leftCols(b.at.size()) - score.rightCols(b.at.size());
  out.of_a = -down.cwiseProduct(threshold_flow(a, b, r)).rowwise().sum() / information;
  out.of_b = -across.transpose().cwiseProduct(threshold_flow(b, a, r)).rowwise().sum() / information;
  out.whole = out.own;
  out.whole.colwise() += threshold_influence(a) * out.of_a;
  out.whole.rowwise() += (threshold_influence(b) * out.of_b).transpose();
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
  std::vector<Limits> limits;
  for (Eigen::Index j = 0; j < p; ++j) {
    out.thresholds.push_back(item_thresholds(counts.items[j]));
    limits.push_back(limits_of(out.thresholds.back()));
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

OrderedInfluence::OrderedInfluence(const IndexVector& categories, const Polychoric& estimate, double n, int threads)
    : categories_(categories), threads_(threads) {
  const Eigen::Index p = categories.size();
  std::vector<Limits> limits;
  for (const Vector& thresholds : estimate.thresholds) limits.push_back(limits_of(thresholds));
  for (Eigen::Index j = 0; j < p; ++j) {
    first_of_.push_back(thresholds_);
    thresholds_ += categories(j) - 1;
    of_thresholds_.push_back(n / estimate.n(j, j) * threshold_influence(limits[j]));
  }
  of_pairs_.resize(p * (p - 1) / 2);
  for_each_pair(p, threads, [&](Eigen::Index i, Eigen::Index j, Eigen::Index at) {
    const Influence pair = influence_of_pair(limits[i], limits[j], estimate.r(i, j));
    of_pairs_[at] = {n / estimate.n(i, j) * pair.own, pair.of_a, pair.of_b};
  });
}

Eigen::Index OrderedInfluence::size() const { return thresholds_ + static_cast<Eigen::Index>(of_pairs_.size()); }

Matrix OrderedInfluence::of(const CodesRef& codes) const {
  const Eigen::Index n = codes.rows(), p = codes.cols();
  Matrix out(n, size());
  for (Eigen::Index j = 0; j < p; ++j)
    for (Eigen::Index k = 0; k < categories_(j) - 1; ++k)
      for (Eigen::Index i = 0; i < n; ++i)
        out(i, first_of_[j] + k) = codes(i, j) == 0 ? 0.0 : of_thresholds_[j](codes(i, j) - 1, k);
  for_each_pair(p, threads_, [&](Eigen::Index i, Eigen::Index j, Eigen::Index at) {
    const OfPair& pair = of_pairs_[at];
    auto column = out.col(thresholds_ + at);
    column = out.middleCols(first_of_[i], categories_(i) - 1) * pair.of_a + out.middleCols(first_of_[j], categories_(j) - 1) * pair.of_b;
    for (Eigen::Index row = 0; row < n; ++row)
      if (codes(row, i) > 0 && codes(row, j) > 0) column(row) += pair.own(codes(row, i) - 1, codes(row, j) - 1);
  });
  return out;
}

void OrderedInfluence::add(const Codes& codes, Vector& sum, Matrix& products) const {
  constexpr Eigen::Index at_once = 4096;
  for (Eigen::Index first = 0; first < codes.rows(); first += at_once) {
    const Matrix rows = of(codes.middleRows(first, std::min(at_once, codes.rows() - first)));
    sum += rows.colwise().sum().transpose();
    products += shared_crossproduct(rows, threads_);
  }
}

Matrix polychoric_covariance(const Codes& codes, const IndexVector& categories,
                             const Polychoric& estimate, double n, int threads) {
  const OrderedInfluence influence(categories, estimate, n, threads);
  Vector sum = Vector::Zero(influence.size());
  Matrix products = Matrix::Zero(influence.size(), influence.size());
  influence.add(codes, sum, products);
  products /= n;
  products.noalias() -= (sum / n) * (sum / n).transpose();
  return products;
}

}  // namespace scalewort
