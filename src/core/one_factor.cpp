#include "one_factor.h"
#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <cmath>
#include "bounded_newton.h"

namespace scalewort {

namespace {

// Inverse of a positive definite matrix by sweeping each row in turn; for small matrices
// quicker than a factorisation.
Matrix swept_inverse(Matrix a) {
  Vector column;
  for (Eigen::Index k = 0; k < a.rows(); ++k) {
    const double pivot = 1.0 / a(k, k);
    column = a.col(k);
    a.noalias() -= (pivot * column) * column.transpose();
    column *= pivot;
    a.col(k) = column;
    a.row(k) = column.transpose();
    a(k, k) = -pivot;
  }
  return -a;
}

class OneFactorLikelihood : public Objective {
 public:
  explicit OneFactorLikelihood(const MatrixRef& r)
      : r_(r), w_(Vector::Ones(r.rows()).normalized()) {
    const Eigen::LLT<Matrix> factor(r_);
    positive_ = factor.info() == Eigen::Success;
    if (positive_) log_det_ = 2.0 * factor.matrixLLT().diagonal().array().log().sum();
  }

  bool positive() const { return positive_; }
  double root() const { return t_; }
  const Vector& vector() const { return w_; }

  double value(const Vector& x) override {
    if (at_.size() == x.size() && at_ == x) return value_;
    at_ = x;
    const Vector scale = (-0.5 * x.array()).exp();
    b_ = scale.asDiagonal() * r_ * scale.asDiagonal();
    find_root();
    const double p = static_cast<double>(r_.rows());
    const double log_det_rest = log_det_ - x.sum() - std::log(t_);
    value_ = (b_.trace() - t_) - log_det_rest - (p - 1.0);
    return value_;
  }

  double derivatives(const Vector& x, Vector& gradient, Matrix& hessian) override {
    const double f = value(x);
    const Eigen::Index p = r_.rows();
    const Matrix ww = w_ * w_.transpose();
    const Matrix apart = t_ * Matrix::Identity(p, p) - b_;  // t I - B
    gradient = 1.0 - b_.diagonal().array() - (1.0 - t_) * w_.array().square();
    const Matrix inverse = swept_inverse(apart + ww) - ww;
    const Matrix others = Matrix::Identity(p, p) - ww;
    const Matrix weighted = 2.0 * t_ * (1.0 - t_) * inverse + (3.0 * t_ - 1.0) * others - apart;
    hessian = (b_ - t_ * ww).cwiseProduct(others) + ww.cwiseProduct(weighted);
    return f;
  }

 private:
  // Largest root by powers from the last vector; an eigendecomposition where the
  // roots lie too close for that.
  void find_root() {
    for (int i = 0; i < 200; ++i) {
      Vector next = b_ * w_;
      t_ = next.norm();
      next /= t_;
      const double moved = (next - w_).squaredNorm();
      w_ = next;
      if (moved < 1e-24) return;
    }
    Eigen::SelfAdjointEigenSolver<Matrix> solver(b_);
    t_ = solver.eigenvalues()(r_.rows() - 1);
    w_ = solver.eigenvectors().col(r_.rows() - 1);
    if (w_.sum() < 0) w_ = -w_;
  }

  const Matrix r_;
  Matrix b_;
  Vector w_, at_;
  double t_ = 1.0, log_det_ = 0.0, value_ = 0.0;
  bool positive_ = false;
};

}  // namespace

OneFactor extract_one_factor(const MatrixRef& r, const Vector* start, double lower_bound,
                             double tolerance, double last_step) {
  const Eigen::Index p = r.rows();
  OneFactor out{Status::not_positive_definite, Vector::Zero(p), Vector::Ones(p)};
  OneFactorLikelihood objective(r);
  if (!objective.positive()) return out;
  Vector x;
  if (start != nullptr) {
    x = start->array().log();
  } else {
    const Matrix inverse = swept_inverse(r);
    x = ((1.0 - 0.5 / static_cast<double>(p)) / inverse.diagonal().array()).log();
  }
  const Minimum best =
      bounded_newton(objective, x, {std::log(lower_bound), 0.0, tolerance, 200, last_step});
  objective.value(best.x);
  out.status = best.status;
  out.uniqueness = best.x.array().exp();
  out.loadings = std::sqrt(std::max(objective.root() - 1.0, 0.0)) *
                 objective.vector().cwiseProduct(out.uniqueness.cwiseSqrt());
  if (out.loadings.sum() < 0.0) out.loadings = -out.loadings;
  return out;
}

}  // namespace scalewort
