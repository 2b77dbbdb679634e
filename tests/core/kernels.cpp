// Each kernel against values worked out by hand.
#define DOCTEST_CONFIG_IMPLEMENT_WITH_MAIN
#include <doctest/doctest.h>
#include <cmath>
#include <limits>
#include "core/block_resample.h"
#include "core/bounded_newton.h"
#include "core/case_gradients.h"
#include "core/codes.h"
#include "core/composites.h"
#include "core/covariance.h"
#include "core/extraction.h"
#include "core/fiml.h"
#include "core/least_squares.h"
#include "core/normal.h"
#include "core/one_factor.h"
#include "core/person_indices.h"
#include "core/refit.h"
#include "core/resample.h"
#include "core/retention.h"
#include "core/rotation.h"
#include "core/saturated.h"
#include "core/totals.h"

using namespace scalewort;
using doctest::Approx;

namespace {

const double missing = std::numeric_limits<double>::quiet_NaN();

Column real_column(const double* x, double shift = 0.0, double sign = 1.0) { return {nullptr, x, shift, sign}; }

// Loadings .8, .7, .6, .5 of one factor, item variances one.
const double loading[4] = {.8, .7, .6, .5};
Matrix one_factor_r() {
  Matrix r = Matrix::Identity(4, 4);
  for (int i = 0; i < 4; ++i)
    for (int j = 0; j < 4; ++j)
      if (i != j) r(i, j) = loading[i] * loading[j];
  return r;
}

Structure one_factor_structure(bool means = false) {
  Structure s{4, 1, {}, means ? 12 : 8, means};
  for (int i = 0; i < 4; ++i) s.cells.push_back({Part::loading, i, 0, i, 0.0});
  s.cells.push_back({Part::factor, 0, 0, -1, 1.0});
  for (int i = 0; i < 4; ++i) s.cells.push_back({Part::residual, i, i, 4 + i, 0.0});
  if (means)
    for (int i = 0; i < 4; ++i) s.cells.push_back({Part::intercept, i, 0, 8 + i, 0.0});
  return s;
}

Vector true_theta(bool means = false) {
  Vector theta = Vector::Zero(means ? 12 : 8);
  for (int i = 0; i < 4; ++i) {
    theta(i) = loading[i];
    theta(4 + i) = 1.0 - loading[i] * loading[i];
  }
  return theta;
}

}  // namespace

TEST_CASE("moments of complete rows, one column reversed where it lies") {
  const double a[4] = {1, 2, 3, missing}, b[4] = {5, 3, 4, 1};
  const SampleMoments out = complete_moments({real_column(a), real_column(b, 6.0, -1.0)}, 4, nullptr, 2);
  CHECK(out.n == 3);
  CHECK(out.mean(1) == Approx(2.0));                // 1, 3, 2
  CHECK(out.covariance(0, 0) == Approx(1.0));
  CHECK(out.covariance(1, 0) == Approx(0.5));       // (-1)(-1) + 0 * 1 + 1 * 0, over 2
  const int keep[4] = {1, 0, 0, 0};
  CHECK(complete_moments({real_column(a)}, 4, keep, 1).status == Status::too_few_cases);
}

TEST_CASE("totals and their halves' gap; codes in order of the answer") {
  const double a[3] = {1, 2, 1}, b[3] = {3, 2, 3};
  const auto totals = tally_totals({real_column(a), real_column(b)}, 3, nullptr, 1);
  CHECK(totals.size() == 1);
  CHECK(totals.at(4.0).n == 3.0);
  CHECK(totals.at(4.0).gap == Approx(-4.0));
  CHECK(totals.at(4.0).gap_squared == Approx(8.0));
  const int c[4] = {7, 2, missing_whole, 7};
  const Coded coded = code_columns({{c, nullptr, 0.0, 1.0}}, 4, nullptr, false, 10, 1);
  CHECK(coded.codes(0, 0) == 2);
  CHECK(coded.codes(1, 0) == 1);
  CHECK(coded.codes(2, 0) == 0);
}

TEST_CASE("the normal distribution of two variables") {
  CHECK(bivariate_normal_cdf(0.3, -0.7, 0.0) == Approx(normal_cdf(0.3) * normal_cdf(-0.7)).epsilon(1e-12));
  CHECK(bivariate_normal_cdf(0.0, 0.0, 0.5) == Approx(1.0 / 3.0).epsilon(1e-12));  // 1/4 + asin(r) / (2 pi)
  CHECK(bivariate_normal_cdf(0.4, 1.0, 1.0) == Approx(normal_cdf(0.4)).epsilon(1e-12));
}

TEST_CASE("a tetrachoric correlation of equal halves is a sine") {
  // 30, 10, 10, 30: thresholds 0, both-high share 3/8 = 1/4 + asin(r) / (2 pi), so that r = sin(pi / 4).
  Codes codes(80, 2);
  for (int i = 0; i < 80; ++i) {
    codes(i, 0) = i < 40 ? 1 : 2;
    codes(i, 1) = i < 30 || (i >= 40 && i < 50) ? 1 : 2;
  }
  const Polychoric out = polychoric(codes, IndexVector::Constant(2, 2), PolychoricOptions());
  CHECK(out.r(1, 0) == Approx(std::sqrt(0.5)).epsilon(1e-8));
  CHECK(out.thresholds[0](0) == Approx(0.0));
}

TEST_CASE("an exact one-factor matrix gives its factor by every method") {
  const Matrix r = one_factor_r();
  for (Method method : {Method::ml, Method::minres, Method::gls}) {
    ExtractionOptions options;
    options.method = method;
    const Extraction out = extract(r, 1, nullptr, options);
    CHECK(out.status == Status::ok);
    CHECK(out.discrepancy == Approx(0.0));
    for (int i = 0; i < 4; ++i) CHECK(std::abs(out.loadings(i, 0)) == Approx(loading[i]).epsilon(1e-5));
  }
  const OneFactor one = extract_one_factor(r, nullptr);
  for (int i = 0; i < 4; ++i) CHECK(one.loadings(i) == Approx(loading[i]).epsilon(1e-5));
}

TEST_CASE("a rotated simple structure is found again, and communalities stay") {
  Matrix simple = Matrix::Zero(6, 2);
  for (int i = 0; i < 6; ++i) simple(i, i < 3 ? 0 : 1) = .5 + .1 * (i % 3);
  Matrix turn(2, 2);
  turn << std::cos(.6), -std::sin(.6), std::sin(.6), std::cos(.6);
  RotationOptions options;
  options.simplicity.parameter = 1.0 / 6.0;  // varimax
  options.oblique = false;
  options.starts = 4;
  options.seed = 1;
  const auto found = rotate(simple * turn, options);
  const Rotation& best = found[best_start(found)];
  for (int i = 0; i < 6; ++i) CHECK(best.loadings.row(i).cwiseAbs().minCoeff() == Approx(0.0));
  for (int i = 0; i < 6; ++i) CHECK(best.loadings.row(i).squaredNorm() == Approx(simple.row(i).squaredNorm()));
}

TEST_CASE("what a structure implies, its slope at the truth, and the search from afar") {
  const Structure s = one_factor_structure();
  const Implied at = imply(fill(s, true_theta()));
  CHECK((at.covariance - one_factor_r()).cwiseAbs().maxCoeff() == Approx(0.0));
  const std::vector<Structure> structures{s};
  const std::vector<GroupMoments> groups{{1.0, one_factor_r(), Vector::Zero(4)}};
  LikelihoodDiscrepancy likelihood(structures, groups);
  double value = 1.0;
  CHECK(likelihood.value(true_theta(), value));
  CHECK(value == Approx(0.0));
  CHECK(likelihood.slope(true_theta()).gradient.cwiseAbs().maxCoeff() < 1e-12);
  const std::vector<Target> targets{{1.0, one_factor_r(), Matrix::Ones(4, 4)}};
  SquaresDiscrepancy squares(structures, targets, Weighing::elements);
  Vector start(8);
  start << .5, .5, .5, .5, .5, .5, .5, .5;
  for (Discrepancy* d : {static_cast<Discrepancy*>(&likelihood), static_cast<Discrepancy*>(&squares)}) {
    const Optimum end = minimise(*d, start, ScoringOptions());
    CHECK(end.status == Status::ok);
    CHECK((end.theta - true_theta()).cwiseAbs().maxCoeff() < 1e-6);
  }
}

TEST_CASE("bounds are kept, and said") {
  const std::vector<Structure> structures{one_factor_structure()};
  const std::vector<GroupMoments> groups{{1.0, one_factor_r(), Vector::Zero(4)}};
  LikelihoodDiscrepancy likelihood(structures, groups);
  ScoringOptions options;
  options.low = Vector::Constant(8, -1e9);
  options.high = Vector::Constant(8, 1e9);
  options.high(0) = .6;
  const Optimum end = minimise(likelihood, Vector::Constant(8, .5), options);
  CHECK(end.status == Status::ok);
  CHECK(end.theta(0) == Approx(.6));
  CHECK(end.held == std::vector<int>{0});
}

TEST_CASE("without gaps the likelihood of patterns is that of the moments, and cases add up to its slope") {
  Matrix x(5, 4);
  x << 1, 2, 0, 1, -1, 0, 1, 2, 0, -2, -1, 0, 2, 1, 1, -1, -2, -1, -1, -2;
  const Vector mean = x.colwise().mean();
  const Matrix d = x.rowwise() - mean.transpose();
  const Patterns one{{5.0, {0, 1, 2, 3}, mean, d.transpose() * d / 5.0, true}};
  const std::vector<Structure> structures{one_factor_structure(true)};
  const std::vector<Patterns> groups{one};
  PatternDiscrepancy patterns(structures, groups, 1);
  Vector theta = true_theta(true);
  theta.tail(4) << .1, .2, -.1, .3;
  double value = 0.0;
  CHECK(patterns.value(theta, value));
  const Implied at = imply(fill(structures[0], theta));
  const Matrix inverse = at.covariance.inverse();
  double by_hand = std::log(at.covariance.determinant());
  for (int i = 0; i < 5; ++i) {
    const Vector apart = x.row(i).transpose() - at.mean;
    by_hand += apart.dot(inverse * apart) / 5.0;
  }
  CHECK(value == Approx(by_hand));
  const Vector summed = case_gradients(structures[0], x, theta).colwise().mean();
  CHECK((summed - patterns.slope(theta).gradient).cwiseAbs().maxCoeff() < 1e-10);
  const EmFit em = em_moments(one, Matrix::Identity(4, 4), Vector::Zero(4), 1e-10, 500, 1);
  CHECK(em.converged);
  CHECK((em.mean - mean).cwiseAbs().maxCoeff() < 1e-8);
}

TEST_CASE("refits of the matrix itself are the fit itself") {
  const Matrix r = one_factor_r();
  Matrix two(16, 2);
  two.col(0) = Eigen::Map<const Vector>(r.data(), 16);
  two.col(1) = Vector::Zero(16);  // not positive definite
  const Refits out = refit(one_factor_structure(), two, Vector::Constant(8, .5), 100, ScoringOptions(), false, 2);
  CHECK((out.theta.col(0) - true_theta()).cwiseAbs().maxCoeff() < 1e-5);
  CHECK(std::isnan(out.theta(0, 1)));
}

TEST_CASE("resamples draw as many cases as there are, and are the same in any order") {
  const Matrix weights = draw_weights(50, 0, 3, 7);
  for (int i = 0; i < 3; ++i) CHECK(weights.col(i).sum() == Approx(50.0));
  CHECK((draw_weights(50, 2, 1, 7) - weights.rightCols(1)).cwiseAbs().maxCoeff() == 0.0);
  Matrix x = Matrix::Random(50, 4);
  x.rowwise() -= x.colwise().mean().eval();
  const Matrix sums = replicate_block_sums(x, {{0, 1}, {2, 3}}, 3, 7, false, 2);
  const auto moments = weighted_moments(x, weights);
  const Vector sd = moments[1].covariance.diagonal().cwiseSqrt();
  double between = 0.0;
  for (int a : {0, 1})
    for (int b : {2, 3}) between += std::abs(moments[1].covariance(a, b) / (sd(a) * sd(b)));
  CHECK(sums(1, 1) == Approx(between));
}

TEST_CASE("alpha of a resample's figures is the textbook's") {
  Matrix x(4, 2);
  x << -1.5, -1, -.5, -1, .5, 1, 1.5, 1;
  // Variances 5/3 and 4/3, covariance 4/3: alpha = 2 (1 - 3 / (3 + 8/3)) = 16/17.
  CHECK(reliability_figures(x)(0) == Approx(16.0 / 17.0));
}

TEST_CASE("eigenvalues of random correlations sum to the number of items") {
  const Matrix values = random_eigenvalues(30, 5, 4, 3, false, 2);
  for (int i = 0; i < 4; ++i) CHECK(values.row(i).sum() == Approx(5.0));
}

TEST_CASE("gaps leave eigenvalues that sum to the number of items, for any number of threads") {
  Matrix seen = Matrix::Ones(40, 4);
  seen.topLeftCorner(15, 2).setZero();
  const GappedEigenvalues one = gapped_eigenvalues(seen, 6, 3, 1), two = gapped_eigenvalues(seen, 6, 3, 2);
  for (int i = 0; i < 6; ++i) CHECK(one.plain.row(i).sum() == Approx(4.0));
  CHECK(one.reduced == two.reduced);
}

TEST_CASE("people are gone through by the answers that are there") {
  Matrix x(3, 4);
  x << 2, 2, 2, 2, 1, 1, missing, 1, missing, missing, missing, missing;
  const IndexVector runs = longest_runs(x, 2), left = left_at_end(x, 2);
  CHECK(runs(0) == 4);
  CHECK(runs(1) == 2);
  CHECK(runs(2) == 0);
  CHECK(left(1) == 0);
  CHECK(left(2) == 0);
  const Vector spread = person_spreads(x, 2), far = distances(x, Vector::Ones(4), Matrix::Identity(4, 4), 2);
  CHECK(spread(0) == 0.0);
  CHECK(std::isnan(spread(2)));
  CHECK(far(0) == Approx(4.0));
  CHECK(far(1) == Approx(0.0));
  CHECK(std::isnan(far(2)));
}

TEST_CASE("two composites of alike items weigh them alike") {
  Matrix r = Matrix::Constant(4, 4, .3);
  r.topLeftCorner(2, 2).setConstant(.6);
  r.bottomRightCorner(2, 2).setConstant(.6);
  r.diagonal().setOnes();
  Blocks blocks{{{0, 1}, {2, 3}}, {false, false}, Eigen::MatrixXi::Zero(2, 2), Scheme::factor};
  blocks.leads << 0, 1, 1, 0;
  const Composites out = block_weights(r, blocks, 1e-10, 100);
  CHECK(out.converged);
  CHECK(out.weight(0, 0) == Approx(1.0 / std::sqrt(3.2)));
  CHECK(out.weight(1, 0) == Approx(out.weight(0, 0)));
}
