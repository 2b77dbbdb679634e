#include "scoring.h"
#include <cmath>
#include <deque>
#include <Eigen/QR>
#include "interrupt.h"

namespace scalewort {

namespace {

constexpr double rounding = 1e-14;        // of a value of the discrepancy
constexpr double flat_decrement = 1e-11;  // what is taken for a minimum where rounding allows no better

// Parameters at a bound whose gradient pushes them beyond it.
std::vector<int> held_positions(const Vector& theta, const Vector& gradient, const ScoringOptions& o) {
  std::vector<int> out;
  if (o.low.size() == 0) return out;
  for (Eigen::Index i = 0; i < theta.size(); ++i)
    if ((theta(i) <= o.low(i) && gradient(i) > 0) || (theta(i) >= o.high(i) && gradient(i) < 0))
      out.push_back(static_cast<int>(i));
  return out;
}

Vector within(const Vector& theta, const ScoringOptions& o) {
  return o.low.size() == 0 ? theta : Vector(theta.cwiseMax(o.low).cwiseMin(o.high));
}

// Solves the scoring equations; raises the diagonal where they are singular.
Vector scoring_step(Slope at, const std::vector<int>& held) {
  for (int i : held) {
    at.gradient(i) = 0.0;
    at.expected_hessian.row(i).setZero();
    at.expected_hessian.col(i).setZero();
    at.expected_hessian(i, i) = 1.0;
  }
  const Eigen::Index q = at.gradient.size();
  const Vector scale = at.expected_hessian.diagonal().array().max(1e-300).rsqrt();
  const Matrix scaled = scale.asDiagonal() * at.expected_hessian * scale.asDiagonal();
  double ridge = 0.0;
  Eigen::LLT<Matrix> factor(scaled);
  while (factor.info() != Eigen::Success || factor.matrixLLT().diagonal().minCoeff() < 1e-7) {
    ridge = ridge == 0.0 ? 1e-8 : 10.0 * ridge;
    if (ridge > 1e8) return Vector::Zero(q);
    factor.compute(scaled + ridge * Matrix::Identity(q, q));
  }
  return -scale.cwiseProduct(factor.solve(scale.cwiseProduct(at.gradient)));
}

// Where a structure misses much, steps of scoring shrink by the same share each time: the last few tell where they lead to (Anderson, 1965).
class Extrapolation {
 public:
  // The point that the last steps lead to; the plain step where they say nothing.
  Vector next(const Vector& theta, const Vector& step) {
    if (last_theta_.size() > 0) {
      moves_.push_back(theta - last_theta_);
      changes_.push_back(step - last_step_);
      if (moves_.size() > 5) {
        moves_.pop_front();
        changes_.pop_front();
      }
    }
    last_theta_ = theta;
    last_step_ = step;
    const Eigen::Index count = static_cast<Eigen::Index>(moves_.size());
    if (count == 0) return theta + step;
    Matrix moves(theta.size(), count), changes(theta.size(), count);
    for (Eigen::Index j = 0; j < count; ++j) {
      moves.col(j) = moves_[j];
      changes.col(j) = changes_[j];
    }
    const Vector share = changes.colPivHouseholderQr().solve(step);
    const Vector out = theta + step - (moves + changes) * share;
    return out.allFinite() ? out : Vector(theta + step);
  }
  void forget() {
    moves_.clear();
    changes_.clear();
    last_theta_.resize(0);
  }

 private:
  std::deque<Vector> moves_, changes_;
  Vector last_theta_, last_step_;
};

constexpr double near_decrement = 0.05;  // from where steps are extrapolated

}  // namespace

Optimum minimise(Discrepancy& discrepancy, const VectorRef& start, const ScoringOptions& options) {
  Optimum out{Status::not_converged, within(start, options), 0.0, Slope(), 0.0, 0, {}};
  if (!discrepancy.value(out.theta, out.value)) {
    out.status = Status::not_positive_definite;
    return out;
  }
  out.slope = discrepancy.slope(out.theta);
  Extrapolation extrapolation;
  for (; out.iterations < options.max_iterations; ++out.iterations) {
    out.held = held_positions(out.theta, out.slope.gradient, options);
    stop_if_asked();
    const Vector step = scoring_step(out.slope, out.held);
    out.decrement = -out.slope.gradient.dot(step);
    if (out.decrement < options.tolerance) {
      out.status = out.decrement >= 0.0 && step.allFinite() ? Status::ok : Status::not_converged;
      break;
    }
    double fraction = 1.0, next = 0.0;
    if (out.decrement < near_decrement && out.held.empty()) {
      const Vector further = within(extrapolation.next(out.theta, step), options);
      if (discrepancy.value(further, next) && next < out.value) {
        out.theta = further;
        out.value = next;
        out.slope = discrepancy.slope(out.theta);
        continue;
      }
    } else {
      extrapolation.forget();
    }
    Vector trial = within(out.theta + step, options);
    while (fraction > 1e-8 &&
           (!discrepancy.value(trial, next) ||
            next > out.value + 1e-4 * out.slope.gradient.dot(trial - out.theta) + rounding * (1.0 + std::abs(out.value)))) {
      fraction *= 0.5;
      trial = within(out.theta + fraction * step, options);
    }
    if (fraction <= 1e-8) break;  // no descent left to machine precision
    out.theta = trial;
    out.value = next;
    out.slope = discrepancy.slope(out.theta);
  }
  if (out.status != Status::ok && out.decrement >= 0.0 && out.decrement < flat_decrement) out.status = Status::ok;
  return out;
}

}  // namespace scalewort
