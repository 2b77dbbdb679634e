#include "normal.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace scalewort {

namespace {

constexpr double two_pi = 6.283185307179586476925;

// Nearer to one the integral over the angle loses digits.
constexpr double by_angle_below = 0.925;

// Nodes in (-1, 1) and weights of Gauss-Legendre integration, by Newton's method on the
// Legendre polynomial.
template <int N>
struct Legendre {
  std::array<double, N> node, weight;
  Legendre() {
    for (int i = 0; i < N; ++i) {
      double x = std::cos(0.5 * two_pi * (i + 0.75) / (N + 0.5)), slope = 1.0;
      for (int round = 0; round < 100; ++round) {
        double before = 1.0, here = x;
        for (int k = 2; k <= N; ++k) {
          const double next = ((2.0 * k - 1.0) * x * here - (k - 1.0) * before) / k;
          before = here;
          here = next;
        }
        slope = N * (x * here - before) / (x * x - 1.0);
        const double step = here / slope;
        x -= step;
        if (std::abs(step) < 1e-16) break;
      }
      node[i] = x;
      weight[i] = 2.0 / ((1.0 - x * x) * slope * slope);
    }
  }
};

// The integral of the density over the correlation, from none to r, |r| away from one: at each of many points h, k, given as
// hk and half the sum of their squares.
template <int N>
Eigen::ArrayXXd integral_by_angle(const Eigen::ArrayXXd& hk, const Eigen::ArrayXXd& hs, double r) {
  static const Legendre<N> rule;
  const double half = 0.5 * std::asin(r);
  Eigen::ArrayXXd sum = Eigen::ArrayXXd::Zero(hk.rows(), hk.cols());
  for (int i = 0; i < N; ++i) {
    const double sine = std::sin(half * (1.0 + rule.node[i]));
    sum += rule.weight[i] * ((sine * hk - hs) * (1.0 / (1.0 - sine * sine))).exp();
  }
  return sum * (half / two_pi);
}

// P(X > h, Y > k).
template <int N>
double upper_by_angle(double h, double k, double r) {
  const Eigen::ArrayXXd hk = Eigen::ArrayXXd::Constant(1, 1, h * k), hs = Eigen::ArrayXXd::Constant(1, 1, 0.5 * (h * h + k * k));
  return integral_by_angle<N>(hk, hs, r)(0, 0) + normal_cdf(-h) * normal_cdf(-k);
}

// The same near |r| = 1.
double upper_near_one(double h, double k, double r) {
  static const Legendre<20> rule;
  if (r < 0.0) k = -k;
  const double hk = h * k;
  double sum = 0.0;
  if (std::abs(r) < 1.0) {
    const double as = (1.0 - r) * (1.0 + r), bs = (h - k) * (h - k);
    const double c = (4.0 - hk) / 8.0, d = (12.0 - hk) / 16.0;
    double a = std::sqrt(as);
    const double power = -0.5 * (bs / as + hk);
    if (power > -700.0)
      sum = a * std::exp(power) *
            (1.0 - c * (bs - as) * (1.0 - d * bs / 5.0) / 3.0 + c * d * as * as / 5.0);
    if (hk > -700.0) {
      const double b = std::sqrt(bs);
      sum -= std::exp(-0.5 * hk) * std::sqrt(two_pi) * normal_cdf(-b / a) * b *
             (1.0 - c * bs * (1.0 - d * bs / 5.0) / 3.0);
    }
    a *= 0.5;
    for (int i = 0; i < 20; ++i) {
      const double x = a * (1.0 + rule.node[i]), xs = x * x, rs = std::sqrt(1.0 - xs);
      const double inner = -0.5 * (bs / xs + hk);
      if (inner > -700.0)
        sum += a * rule.weight[i] * std::exp(inner) *
               (std::exp(-hk * (1.0 - rs) / (2.0 * (1.0 + rs))) / rs -
                (1.0 + c * xs * (1.0 + d * xs)));
    }
    sum = -sum / two_pi;
  }
  if (r > 0.0) return sum + normal_cdf(-std::max(h, k));
  const double apart =
      h >= k ? 0.0 : (h < 0.0 ? normal_cdf(k) - normal_cdf(h) : normal_cdf(-h) - normal_cdf(-k));
  return apart - sum;
}

double upper(double h, double k, double r) {
  if (r == 0.0) return normal_cdf(-h) * normal_cdf(-k);
  const double size = std::abs(r);
  if (size < 0.3) return upper_by_angle<8>(h, k, r);
  if (size < 0.75) return upper_by_angle<14>(h, k, r);
  if (size < by_angle_below) return upper_by_angle<20>(h, k, r);
  return upper_near_one(h, k, r);
}

}  // namespace

double normal_density(double x) { return std::exp(-0.5 * x * x) / std::sqrt(two_pi); }

double normal_cdf(double x) { return 0.5 * std::erfc(-x / std::sqrt(2.0)); }

double bivariate_normal_cdf(double h, double k, double r) {
  if (std::isinf(h)) return h < 0.0 ? 0.0 : normal_cdf(k);
  if (std::isinf(k)) return k < 0.0 ? 0.0 : normal_cdf(h);
  return std::min(1.0, std::max(0.0, upper(-h, -k, r)));
}

NormalGrid bivariate_normal_grid(const Vector& h, const Vector& k, const Vector& below_h, const Vector& below_k, double r) {
  const Eigen::ArrayXXd hk = (h * k.transpose()).array();
  const Eigen::ArrayXXd hs =
      0.5 * (h.array().square().matrix().replicate(1, k.size()) + k.array().square().matrix().transpose().replicate(h.size(), 1)).array();
  const double rest = (1.0 - r) * (1.0 + r);
  NormalGrid out{Matrix(h.size(), k.size()), ((r * hk - hs) / rest).exp() / (two_pi * std::sqrt(rest))};
  const double size = std::abs(r);
  if (size >= by_angle_below) {
    for (Eigen::Index j = 0; j < k.size(); ++j)
      for (Eigen::Index i = 0; i < h.size(); ++i) out.cdf(i, j) = bivariate_normal_cdf(h(i), k(j), r);
    return out;
  }
  const Eigen::ArrayXXd more = size < 0.3 ? integral_by_angle<8>(hk, hs, r) : size < 0.75 ? integral_by_angle<14>(hk, hs, r)
                                                                                      : integral_by_angle<20>(hk, hs, r);
  out.cdf = (more + (below_h * below_k.transpose()).array()).max(0.0).min(1.0);
  return out;
}

}  // namespace scalewort
