#include "bounded_newton.h"
#include <Eigen/Cholesky>
#include <cmath>
#include <vector>
#include "interrupt.h"

namespace scalewort {

namespace {

constexpr double nearly_flat = 1e-6;

// Coordinates that are free to move.
std::vector<Eigen::Index> free_positions(const Vector& x, const Vector& gradient,
                                         double low, double high) {
  std::vector<Eigen::Index> free;
  for (Eigen::Index i = 0; i < x.size(); ++i) {
    const bool held_low = x(i) <= low + 1e-12 && gradient(i) > 0;
    const bool held_high = x(i) >= high - 1e-12 && gradient(i) < 0;
    if (!held_low && !held_high) free.push_back(i);
  }
  return free;
}

// Newton direction over the free positions; where the Hessian is not positive
// definite its diagonal is raised until it is.
Vector newton_step(const Vector& gradient, const Matrix& hessian,
                   const std::vector<Eigen::Index>& free) {
  const Eigen::Index q = static_cast<Eigen::Index>(free.size());
  Vector g(q), step = Vector::Zero(gradient.size());
  Matrix h(q, q);
  for (Eigen::Index a = 0; a < q; ++a) {
    g(a) = gradient(free[a]);
    for (Eigen::Index b = 0; b < q; ++b) h(a, b) = hessian(free[a], free[b]);
  }
  const double scale = std::max(1e-8, h.diagonal().cwiseAbs().maxCoeff());
  double ridge = 0.0;
  Eigen::LLT<Matrix> factor(h);
  while (factor.info() != Eigen::Success) {
    ridge = ridge == 0.0 ? 1e-4 * scale : 10.0 * ridge;
    factor.compute(h + ridge * Matrix::Identity(q, q));
  }
  const Vector solved = factor.solve(g);
  for (Eigen::Index a = 0; a < q; ++a) step(free[a]) = -solved(a);
  return step;
}

Vector clamp(const Vector& x, double low, double high) {
  return x.array().max(low).min(high);
}

}  // namespace

Minimum bounded_newton(Objective& objective, Vector start, const NewtonOptions& options) {
  const double low = options.low, high = options.high;
  Minimum out{Status::not_converged, clamp(start, low, high), 0.0, 0, 0.0};
  Vector gradient, next_gradient;
  Matrix hessian, next_hessian;
  out.value = objective.derivatives(out.x, gradient, hessian);
  for (; out.iterations < options.max_iterations; ++out.iterations) {
    stop_if_asked();
    const auto free = free_positions(out.x, gradient, low, high);
    out.largest_gradient = 0.0;
    for (Eigen::Index i : free)
      out.largest_gradient = std::max(out.largest_gradient, std::abs(gradient(i)));
    if (out.largest_gradient < options.tolerance) {
      out.status = Status::ok;
      return out;
    }
    const Vector step = newton_step(gradient, hessian, free);
    if (step.cwiseAbs().maxCoeff() < options.last_step) {
      out.x = clamp(out.x + step, low, high);
      out.status = Status::ok;
      return out;
    }
    // The whole step is nearly always good, so that its derivatives come with its value.
    double fraction = 1.0;
    Vector trial = clamp(out.x + step, low, high);
    const auto enough = [&](double value) {
      return value <= out.value + 1e-4 * gradient.dot(trial - out.x) + 1e-13;
    };
    double reached = objective.derivatives(trial, next_gradient, next_hessian);
    const bool whole = enough(reached);
    while (!enough(reached) && fraction > 1e-10) {
      fraction *= 0.5;
      trial = clamp(out.x + fraction * step, low, high);
      reached = objective.value(trial);
    }
    if (fraction <= 1e-10) {
      // No descent left to machine precision: accept a nearly flat gradient.
      if (out.largest_gradient < nearly_flat) out.status = Status::ok;
      return out;
    }
    out.x = trial;
    out.value = whole ? reached : objective.derivatives(trial, next_gradient, next_hessian);
    gradient.swap(next_gradient);
    hessian.swap(next_hessian);
  }
  return out;
}

}  // namespace scalewort
