#include "extraction.h"
#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <cmath>
#include <limits>
#include <memory>
#include "bounded_newton.h"
#include "product.h"

namespace scalewort {

namespace {

using Solver = Eigen::SelfAdjointEigenSolver<Matrix>;

// Below, roots are split into those the factors keep and the rest; w holds vectors.
// Elementwise products of W f(T) W' over the rest recur in every Hessian.
Matrix spread(const Matrix& w, const Vector& weight) { return w * weight.asDiagonal() * w.transpose(); }

// A spectral function of the unique variances, as the sum of g over the rest of the roots.
class Spectral : public Objective {
 public:
  Spectral(const Matrix& r, Eigen::Index m) : r_(r), m_(m) {}
  double value(const Vector& x) override {
    return total(rest(Solver(scaled(x), Eigen::EigenvaluesOnly).eigenvalues()));
  }

 protected:
  virtual Matrix scaled(const Vector& x) const = 0;
  virtual Vector rest(const Vector& roots) const = 0;
  virtual double total(const Vector& rest) const = 0;
  Matrix r_;
  Eigen::Index m_;
};

// B = Psi^-1/2 R Psi^-1/2, x = ln psi; the factors keep the largest roots t.
//   f = sum t - ln t - 1,  df/dx_i = sum (1 - t_k) w_ik^2,
//   d2f = (W T W') o (W W') + sum over kept l of (w_l w_l') o (W D_l W'),
//         D_l = (1 - t_k)(t_k + t_l) / (t_l - t_k) = t_k + 2 t_l - 1 + 2 t_l (1 - t_l) / (t_l - t_k).
// With K and L the vectors and roots kept, W W' = I - K K' and W T W' = B - K L K', so that
//   df/dx = 1 - diag(B) - sum (1 - t_l) w_il^2,
//   d2f = diag(B - K L K') + (K (2 L - I) K') o (I - K K') + sum over k, l of 2 t_l (1 - t_l) / (t_l - t_k) (w_k o w_l)(w_k o w_l)'.
class MaximumLikelihood : public Spectral {
 public:
  using Spectral::Spectral;
  double derivatives(const Vector& x, Vector& gradient, Matrix& hessian) override {
    const Matrix b = scaled(x);
    const Solver solver(b);
    const Eigen::Index p = b.rows(), others = p - m_;
    const Vector t = rest(solver.eigenvalues());
    const Eigen::ArrayXd root = solver.eigenvalues().tail(m_);
    const Matrix w = solver.eigenvectors().leftCols(others), kept = solver.eigenvectors().rightCols(m_);
    const Eigen::ArrayXXd squares = kept.array().square();
    gradient = 1.0 - b.diagonal().array() - (squares.matrix() * (1.0 - root).matrix()).array();
    const Matrix around = Matrix::Identity(p, p) - kept * kept.transpose();
    hessian = spread(kept, 2.0 * root - 1.0).cwiseProduct(around);
    hessian.diagonal() += b.diagonal() - squares.matrix() * root.matrix();
    Matrix pairs(p, others * m_), weighted(p, others * m_);
    for (Eigen::Index l = 0; l < m_; ++l) {
      const Eigen::ArrayXd weight = 2.0 * root(l) * (1.0 - root(l)) / (root(l) - t.array()).max(1e-10);
      for (Eigen::Index k = 0; k < others; ++k) {
        const Eigen::Index at = l * others + k;
        pairs.col(at) = w.col(k).cwiseProduct(kept.col(l));
        weighted.col(at) = weight(k) * pairs.col(at);
      }
    }
    add_turned_product(weighted, pairs, hessian);
    return total(t);
  }

 protected:
  Matrix scaled(const Vector& x) const override {
    const Vector scale = (-0.5 * x.array()).exp();
    return scale.asDiagonal() * r_ * scale.asDiagonal();
  }
  Vector rest(const Vector& roots) const override { return roots.head(r_.rows() - m_); }
  double total(const Vector& t) const override {
    return (t.array() - t.array().log() - 1.0).sum();
  }
};

// C = Psi^1/2 R^-1 Psi^1/2, x = ln psi; the factors keep the smallest roots s.
//   f = half sum (s - 1)^2,  df/dx_i = sum s_k (s_k - 1) w_ik^2,
//   d2f = (W (S^2 - S) W') o (W W') + (W S W') o (W S W')
//         + sum over kept l of (w_l w_l') o (W D_l W'),
//         D_l = s_k (s_k - 1)(s_k + s_l) / (s_k - s_l)
class GeneralisedLeastSquares : public Spectral {
 public:
  GeneralisedLeastSquares(const Matrix& r, Eigen::Index m)
      : Spectral(r.llt().solve(Matrix::Identity(r.rows(), r.rows())), m) {}
  double derivatives(const Vector& x, Vector& gradient, Matrix& hessian) override {
    const Solver solver(scaled(x));
    const Vector s = rest(solver.eigenvalues());
    const Matrix w = solver.eigenvectors().rightCols(s.size());
    const Vector slope = s.array() * (s.array() - 1.0);
    gradient = w.array().square().matrix() * slope;
    const Matrix plain = spread(w, s);
    hessian = spread(w, slope).cwiseProduct(w * w.transpose()) + plain.cwiseProduct(plain);
    for (Eigen::Index l = 0; l < m_; ++l) {
      const double root = solver.eigenvalues()(l);
      const Eigen::ArrayXd gap = (s.array() - root).max(1e-10);
      const Vector kept = solver.eigenvectors().col(l);
      hessian += spread(w, slope.array() * (s.array() + root) / gap)
                     .cwiseProduct(kept * kept.transpose());
    }
    return total(s);
  }

 protected:
  Matrix scaled(const Vector& x) const override {
    const Vector scale = (0.5 * x.array()).exp();
    return scale.asDiagonal() * r_ * scale.asDiagonal();
  }
  Vector rest(const Vector& roots) const override { return roots.tail(r_.rows() - m_); }
  double total(const Vector& s) const override { return 0.5 * (s.array() - 1.0).square().sum(); }
};

// R - Psi, x = psi; the factors keep the largest roots t (those above 0).
//   f = half sum t^2,  df/dx_i = - sum t_k v_ik^2,
//   d2f = (V V') o (V V') + 2 sum over kept l of (v_l v_l') o (V D_l V'),
//         D_l = t_k / (t_k - t_l)
class LeastSquares : public Spectral {
 public:
  using Spectral::Spectral;
  double derivatives(const Vector& x, Vector& gradient, Matrix& hessian) override {
    const Solver solver(scaled(x));
    const Vector t = rest(solver.eigenvalues());
    const Matrix v = solver.eigenvectors().leftCols(t.size());
    gradient = -(v.array().square().matrix() * t);
    const Matrix plain = v * v.transpose();
    hessian = plain.cwiseProduct(plain);
    for (Eigen::Index l = t.size(); l < r_.rows(); ++l) {
      const double root = solver.eigenvalues()(l);
      const Eigen::ArrayXd gap = (t.array() - root).min(-1e-10);
      const Vector kept = solver.eigenvectors().col(l);
      hessian += 2.0 * spread(v, t.array() / gap).cwiseProduct(kept * kept.transpose());
    }
    return total(t);
  }

 protected:
  Matrix scaled(const Vector& x) const override {
    Matrix out = r_;
    out.diagonal() -= x;
    return out;
  }
  Vector rest(const Vector& roots) const override { return roots.head(r_.rows() - m_); }
  double total(const Vector& t) const override { return 0.5 * t.squaredNorm(); }
};

std::unique_ptr<Objective> objective_for(const MatrixRef& r, Eigen::Index m, Method method) {
  if (method == Method::ml) return std::make_unique<MaximumLikelihood>(r, m);
  if (method == Method::gls) return std::make_unique<GeneralisedLeastSquares>(r, m);
  return std::make_unique<LeastSquares>(r, m);
}

// Joreskog's (1967) starting values: a share of 1 / (R^-1)_ii. Where R is singular, a
// half for every item.
Vector usual_start(const MatrixRef& r, Eigen::Index m) {
  const Eigen::LLT<Matrix> factor(r);
  if (factor.info() != Eigen::Success) return Vector::Constant(r.rows(), 0.5);
  const double share = 1.0 - 0.5 * static_cast<double>(m) / static_cast<double>(r.rows());
  const Matrix inverse = factor.solve(Matrix::Identity(r.rows(), r.rows()));
  return share / inverse.diagonal().array();
}

// Loadings from the m largest roots of diag(s)^-1 (R - Psi) diag(s)^-1.
Matrix loadings_from(const MatrixRef& r, const Vector& uniqueness, const Vector& s, Eigen::Index m) {
  Matrix reduced = r;
  reduced.diagonal() -= uniqueness;
  const Vector inverse = s.cwiseInverse();
  const Solver solver(inverse.asDiagonal() * reduced * inverse.asDiagonal());
  const Eigen::Index p = r.rows();
  Matrix loadings(p, m);
  for (Eigen::Index k = 0; k < m; ++k) {
    const double root = std::max(solver.eigenvalues()(p - 1 - k), 0.0);
    loadings.col(k) = std::sqrt(root) * s.cwiseProduct(solver.eigenvectors().col(p - 1 - k));
  }
  return loadings;
}

// Communalities that reproduce themselves: principal axes of R - Psi, or (alpha) of that
// matrix with every common part scaled to one.
void iterate_communalities(const MatrixRef& r, Eigen::Index m, const ExtractionOptions& options,
                           Vector psi, Extraction& out) {
  const double most = 1.0 - options.lower_bound;
  const Vector ones = Vector::Ones(r.rows());
  Vector common = (1.0 - psi.array()).max(0.01).min(most);
  for (out.iterations = 1; out.iterations <= options.max_iterations; ++out.iterations) {
    const Vector scale = options.method == Method::alpha ? Vector(common.cwiseSqrt()) : ones;
    out.loadings = loadings_from(r, ones - common, scale, m);
    const Vector next = out.loadings.rowwise().squaredNorm().array().max(1e-4).min(most);
    out.largest_gradient = (next - common).cwiseAbs().maxCoeff();
    // Alpha's own steps may swing to and fro; half a step settles.
    common = options.method == Method::alpha ? Vector(0.5 * (common + next)) : next;
    if (out.largest_gradient < options.tolerance) {
      out.status = Status::ok;
      break;
    }
  }
  out.iterations = std::min(out.iterations, options.max_iterations);
  out.uniqueness = ones - common;
  Matrix residual = r - out.loadings * out.loadings.transpose();
  residual.diagonal().setZero();
  out.discrepancy = 0.5 * residual.squaredNorm();
}

}  // namespace

double discrepancy(const MatrixRef& r, Eigen::Index m, Method method, const Vector& x,
                   Vector& gradient, Matrix& hessian) {
  return objective_for(r, m, method)->derivatives(x, gradient, hessian);
}

Extraction extract(const MatrixRef& r, Eigen::Index m, const Vector* start,
                   const ExtractionOptions& options) {
  const Eigen::Index p = r.rows();
  const Method method = options.method;
  Extraction out{Status::not_converged, 0.0, Vector::Ones(p), Matrix::Zero(p, m), 0, 0.0};
  const bool by_logarithm = method == Method::ml || method == Method::gls;
  if (by_logarithm && r.llt().info() != Eigen::Success) {
    out.status = Status::not_positive_definite;
    return out;
  }
  const Vector psi = start != nullptr ? *start : usual_start(r, m);
  if (method == Method::paf || method == Method::alpha) {
    iterate_communalities(r, m, options, psi, out);
    return out;
  }
  const double low = by_logarithm ? std::log(options.lower_bound) : options.lower_bound;
  const Vector x = by_logarithm ? Vector(psi.array().log()) : psi;
  const auto objective = objective_for(r, m, method);
  const Minimum best = bounded_newton(
      *objective, x, {low, by_logarithm ? 0.0 : 1.0, options.tolerance, options.max_iterations, options.last_step});
  out.status = best.status;
  out.discrepancy = best.value;
  out.iterations = best.iterations;
  out.largest_gradient = best.largest_gradient;
  out.uniqueness = by_logarithm ? Vector(best.x.array().exp()) : best.x;
  const Vector scale = by_logarithm ? Vector(out.uniqueness.cwiseSqrt()) : Vector(Vector::Ones(p));
  out.loadings = loadings_from(r, out.uniqueness, scale, m);
  return out;
}

}  // namespace scalewort
