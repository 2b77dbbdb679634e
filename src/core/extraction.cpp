#include "extraction.h"
#include <Eigen/Eigenvalues>
#include <cmath>
#include <vector>

namespace scalewort {

namespace {

// Eigenvalues (ascending) and vectors of Psi^-1/2 R Psi^-1/2.
Eigen::SelfAdjointEigenSolver<Matrix> scaled_roots(const MatrixRef& r, const VectorRef& x) {
  const Vector scale = (-0.5 * x.array()).exp();
  return Eigen::SelfAdjointEigenSolver<Matrix>(scale.asDiagonal() * r * scale.asDiagonal());
}

// With roots t and vectors w split into the m largest (kept) and the rest:
//   f        = sum over rest of t - ln t - 1
//   df/dx_i  = sum over rest of (1 - t_k) w_ik^2
//   d2f      = (W T W') o (W W') over rest
//            + sum over kept l of (w_l w_l') o (W D_l W'),
//              D_l = (1 - t_k)(t_k + t_l) / (t_l - t_k)
double evaluate(const Vector& roots, const Matrix& vectors, Eigen::Index m,
                Vector& gradient, Matrix& hessian) {
  const Eigen::Index p = roots.size(), rest = p - m;
  const Vector t = roots.head(rest);
  const Matrix w = vectors.leftCols(rest);
  gradient = w.array().square().matrix() * (1.0 - t.array()).matrix();
  hessian = (w * t.asDiagonal() * w.transpose()).cwiseProduct(w * w.transpose());
  for (Eigen::Index l = rest; l < p; ++l) {
    const Eigen::ArrayXd gap = (roots(l) - t.array()).max(1e-10);
    const Vector d = (1.0 - t.array()) * (t.array() + roots(l)) / gap;
    hessian += (w * d.asDiagonal() * w.transpose())
                   .cwiseProduct(vectors.col(l) * vectors.col(l).transpose());
  }
  return (t.array() - t.array().log() - 1.0).sum();
}

double value_only(const MatrixRef& r, Eigen::Index m, const VectorRef& x) {
  const Vector scale = (-0.5 * x.array()).exp();
  const Matrix scaled = scale.asDiagonal() * r * scale.asDiagonal();
  Eigen::SelfAdjointEigenSolver<Matrix> solver(scaled, Eigen::EigenvaluesOnly);
  const Eigen::ArrayXd t = solver.eigenvalues().head(r.rows() - m).array();
  return (t - t.log() - 1.0).sum();
}

// Unique variances at a bound whose gradient pushes further out are held there.
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

// Joreskog's (1967) starting values of the unique variances.
Vector starting_values(const MatrixRef& r, Eigen::Index m, double low) {
  const double share = 1.0 - 0.5 * static_cast<double>(m) / static_cast<double>(r.rows());
  const Matrix inverse = r.llt().solve(Matrix::Identity(r.rows(), r.rows()));
  return clamp((share / inverse.diagonal().array()).log(), low, 0.0);
}

Matrix canonical_loadings(const Vector& roots, const Matrix& vectors,
                          const Vector& uniqueness, Eigen::Index m) {
  const Eigen::Index p = roots.size();
  Matrix loadings(p, m);
  for (Eigen::Index k = 0; k < m; ++k) {
    const Eigen::Index from = p - 1 - k;
    const double size = std::sqrt(std::max(roots(from) - 1.0, 0.0));
    loadings.col(k) = size * vectors.col(from).cwiseProduct(uniqueness.cwiseSqrt());
  }
  return loadings;
}

}  // namespace

double ml_discrepancy(const MatrixRef& r, Eigen::Index m, const VectorRef& x,
                      Vector& gradient, Matrix& hessian) {
  const auto solver = scaled_roots(r, x);
  return evaluate(solver.eigenvalues(), solver.eigenvectors(), m, gradient, hessian);
}

Extraction extract_ml(const MatrixRef& r, Eigen::Index m, const ExtractionOptions& options) {
  const Eigen::Index p = r.rows();
  Extraction out{Status::not_converged, 0.0, Vector::Ones(p), Matrix::Zero(p, m), 0, 0.0};
  if (r.llt().info() != Eigen::Success) {
    out.status = Status::not_positive_definite;
    return out;
  }
  const double low = std::log(options.lower_bound), high = 0.0;
  Vector x = starting_values(r, m, low), gradient;
  Matrix hessian;

  for (; out.iterations < options.max_iterations; ++out.iterations) {
    out.discrepancy = ml_discrepancy(r, m, x, gradient, hessian);
    const auto free = free_positions(x, gradient, low, high);
    out.largest_gradient = 0.0;
    for (Eigen::Index i : free)
      out.largest_gradient = std::max(out.largest_gradient, std::abs(gradient(i)));
    if (out.largest_gradient < options.tolerance) {
      out.status = Status::ok;
      break;
    }
    const Vector step = newton_step(gradient, hessian, free);
    double fraction = 1.0;
    Vector trial = clamp(x + step, low, high);
    while (value_only(r, m, trial) > out.discrepancy + 1e-4 * gradient.dot(trial - x) + 1e-13 &&
           fraction > 1e-10) {
      fraction *= 0.5;
      trial = clamp(x + fraction * step, low, high);
    }
    if (fraction <= 1e-10) {
      // No descent left to machine precision: accept a nearly flat gradient.
      out.status = out.largest_gradient < 1e-6 ? Status::ok : Status::not_converged;
      break;
    }
    x = trial;
  }

  const auto solver = scaled_roots(r, x);
  out.uniqueness = x.array().exp();
  out.loadings = canonical_loadings(solver.eigenvalues(), solver.eigenvectors(), out.uniqueness, m);
  return out;
}

}  // namespace scalewort
