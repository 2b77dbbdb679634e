#include "one_factor.h"
#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <cmath>
#include "bounded_newton.h"

namespace scalewort {

namespace {

// Inverse of a positive definite matrix by sweeping each row in turn, in its place; for small matrices
// quicker than a factorisation.
void sweep_inverse(Matrix& a, Vector& column) {
  const Eigen::Index p = a.rows();
  for (Eigen::Index k = 0; k < p; ++k) {
    const double pivot = 1.0 / a(k, k);
    column = a.col(k);
    for (Eigen::Index j = 0; j < p; ++j) {
      const double by = pivot * column(j);
      double* own = a.col(j).data();
      for (Eigen::Index i = 0; i < p; ++i) own[i] -= by * column(i);
    }
    for (Eigen::Index i = 0; i < p; ++i) a(i, k) = a(k, i) = pivot * column(i);
    a(k, k) = -pivot;
  }
  a = -a;
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
    scale_ = (-0.5 * x.array()).exp();
    b_ = r_;
    for (Eigen::Index j = 0; j < b_.cols(); ++j) b_.col(j).array() *= scale_(j) * scale_.array();
    find_root();
    const double p = static_cast<double>(r_.rows());
    const double log_det_rest = log_det_ - x.sum() - std::log(t_);
    value_ = (b_.trace() - t_) - log_det_rest - (p - 1.0);
    return value_;
  }

  double derivatives(const Vector& x, Vector& gradient, Matrix& hessian) override {
    const double f = value(x);
    const Eigen::Index p = r_.rows();
    gradient = 1.0 - b_.diagonal().array() - (1.0 - t_) * w_.array().square();
    inverse_ = -b_;  // of t I - B + w w', less w w'
    for (Eigen::Index j = 0; j < p; ++j) {
      inverse_.col(j) += w_(j) * w_;
      inverse_(j, j) += t_;
    }
    sweep_inverse(inverse_, next_);
    hessian.resize(p, p);
    const double twice = 2.0 * t_ * (1.0 - t_), thrice = 3.0 * t_ - 1.0;
    for (Eigen::Index j = 0; j < p; ++j)
      for (Eigen::Index i = 0; i < p; ++i) {
        const double ww = w_(i) * w_(j), same = i == j ? 1.0 : 0.0, others = same - ww;
        const double weighted = twice * (inverse_(i, j) - ww) + thrice * others - (t_ * same - b_(i, j));
        hessian(i, j) = (b_(i, j) - t_ * ww) * others + ww * weighted;
      }
    return f;
  }

 private:
  // Largest root by powers from the last vector; an eigendecomposition where the
  // roots lie too close for that.
  void find_root() {
    for (int i = 0; i < 200; ++i) {
      multiply();
      t_ = next_.norm();
      next_ /= t_;
      const double moved = (next_ - w_).squaredNorm();
      w_.swap(next_);
      if (moved < 1e-24) return;
    }
    Eigen::SelfAdjointEigenSolver<Matrix> solver(b_);
    t_ = solver.eigenvalues()(r_.rows() - 1);
    w_ = solver.eigenvectors().col(r_.rows() - 1);
    if (w_.sum() < 0) w_ = -w_;
  }

  // next = b w; of small matrices quicker than a general product.
  void multiply() {
    const Eigen::Index p = b_.rows();
    next_ = w_(0) * b_.col(0);
    for (Eigen::Index j = 1; j < p; ++j) {
      const double by = w_(j);
      const double* own = b_.col(j).data();
      for (Eigen::Index i = 0; i < p; ++i) next_(i) += by * own[i];
    }
  }

  const Matrix r_;
  Matrix b_, inverse_;
  Vector w_, next_, scale_, at_;
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
    Matrix inverse = r;
    Vector column;
    sweep_inverse(inverse, column);
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
