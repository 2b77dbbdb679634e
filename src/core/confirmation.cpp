#include "confirmation.h"
#include <cmath>

namespace scalewort {

namespace {

double log_determinant(const Eigen::LLT<Matrix>& factor) {
  return 2.0 * factor.matrixLLT().diagonal().array().log().sum();
}

// Sums cells that share a free parameter; fixed cells drop out.
Matrix gather(const Structure& structure, const Matrix& by_cell) {
  Matrix out = Matrix::Zero(structure.parameters, structure.parameters);
  const Eigen::Index count = by_cell.rows();
  for (Eigen::Index j = 0; j < count; ++j) {
    const int column = structure.cells[j].free;
    if (column < 0) continue;
    for (Eigen::Index i = 0; i < count; ++i) {
      const int row = structure.cells[i].free;
      if (row >= 0) out(row, column) += by_cell(i, j);
    }
  }
  return out;
}

// Solves the scoring equations; raises the diagonal where they are singular.
Vector scoring_step(const Slope& at) {
  const Eigen::Index q = at.gradient.size();
  const Vector scale = at.expected_hessian.diagonal().array().max(1e-300).rsqrt();
  const Matrix scaled = scale.asDiagonal() * at.expected_hessian * scale.asDiagonal();
  double ridge = 0.0;
  Eigen::LLT<Matrix> factor(scaled);
  while (factor.info() != Eigen::Success || factor.matrixLLT().diagonal().minCoeff() < 1e-7) {
    ridge = ridge == 0.0 ? 1e-8 : 10.0 * ridge;
    factor.compute(scaled + ridge * Matrix::Identity(q, q));
  }
  return -scale.cwiseProduct(factor.solve(scale.cwiseProduct(at.gradient)));
}

}  // namespace

Evaluation evaluate(const Structure& structure, const MatrixRef& s, double log_det_s,
                    const VectorRef& theta) {
  Evaluation out;
  out.implied = imply(fill(structure, theta));
  const Eigen::Index p = s.rows();
  Eigen::LLT<Matrix> factor(out.implied.covariance);
  out.defined = factor.info() == Eigen::Success && out.implied.covariance.allFinite();
  if (!out.defined) return out;
  out.inverse = factor.solve(Matrix::Identity(p, p));
  out.discrepancy = log_determinant(factor) + s.cwiseProduct(out.inverse).sum() - log_det_s -
                    static_cast<double>(p);
  return out;
}

Slope slope(const Structure& structure, const MatrixRef& s, const Evaluation& at) {
  const Derivatives d = derivatives(structure, at.implied);
  const Matrix weight = at.inverse - at.inverse * s * at.inverse;
  const Vector by_cell =
      2.0 * d.weight.cwiseProduct((weight * d.v).cwiseProduct(d.u).colwise().sum().transpose());
  Slope out{Vector::Zero(structure.parameters), Matrix()};
  for (Eigen::Index i = 0; i < by_cell.size(); ++i) {
    const int free = structure.cells[i].free;
    if (free >= 0) out.gradient(free) += by_cell(i);
  }
  // tr(A (uv' + vu') A (xy' + yx')) = 2 (u'Ax v'Ay + u'Ay v'Ax)
  const Matrix au = at.inverse * d.u, av = at.inverse * d.v;
  const Matrix uu = d.u.transpose() * au, vv = d.v.transpose() * av;
  const Matrix uv = d.u.transpose() * av;
  Matrix cells = 2.0 * (uu.cwiseProduct(vv) + uv.cwiseProduct(uv.transpose()));
  cells = d.weight.asDiagonal() * cells * d.weight.asDiagonal();
  out.expected_hessian = gather(structure, cells);
  return out;
}

Fit fit_structure(const Structure& structure, const MatrixRef& s, const VectorRef& start,
                  const FitOptions& options) {
  Fit out{Status::not_converged, start, 0.0, Matrix(), Matrix(), Vector(), 0.0, 0};
  Eigen::LLT<Matrix> factor(s);
  if (factor.info() != Eigen::Success) {
    out.status = Status::not_positive_definite;
    return out;
  }
  const double log_det_s = log_determinant(factor);
  Evaluation at = evaluate(structure, s, log_det_s, out.theta);
  if (!at.defined) {
    out.status = Status::not_positive_definite;
    return out;
  }

  Slope here = slope(structure, s, at);
  for (; out.iterations < options.max_iterations; ++out.iterations) {
    const Vector step = scoring_step(here);
    out.decrement = -here.gradient.dot(step);
    if (out.decrement < options.tolerance) {
      out.status = Status::ok;
      break;
    }
    double fraction = 1.0;
    Vector trial = out.theta + step;
    Evaluation next = evaluate(structure, s, log_det_s, trial);
    while (fraction > 1e-8 &&
           (!next.defined ||
            next.discrepancy > at.discrepancy - 1e-4 * fraction * out.decrement + 1e-12)) {
      fraction *= 0.5;
      trial = out.theta + fraction * step;
      next = evaluate(structure, s, log_det_s, trial);
    }
    if (!next.defined || fraction <= 1e-8) break;
    out.theta = trial;
    at = std::move(next);
    here = slope(structure, s, at);
  }
  out.discrepancy = at.discrepancy;
  out.implied = at.implied.covariance;
  out.expected_hessian = here.expected_hessian;
  out.gradient = here.gradient;
  return out;
}

void ScoreInformation::add(const Structure& structure, const Implied& implied,
                           const Matrix& inverse, double share,
                           const std::vector<Cell>& candidates) {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  if (own.size() == 0) {
    own = Vector::Zero(count);
    cross = Matrix::Zero(structure.parameters, count);
    hessian = Matrix::Zero(structure.parameters, structure.parameters);
  }
  // A candidate's u is a unit vector, its v one, too, or a column of pull; so products with
  // them are columns of what follows. Cells are gathered by free parameter.
  const Derivatives f = derivatives(structure, implied);
  const Matrix a_pull = inverse * implied.pull;
  const Matrix pull_pull = implied.pull.transpose() * a_pull;
  const Matrix ua = f.u.transpose() * inverse, va = f.v.transpose() * inverse;
  const Matrix ua_pull = f.u.transpose() * a_pull, va_pull = f.v.transpose() * a_pull;
  for (Eigen::Index i = 0; i < count; ++i) {
    const Eigen::Index row = candidates[i].row, column = candidates[i].column;
    const bool loading = candidates[i].part == Part::loading;
    const double half = share * (!loading && row == column ? 0.5 : 1.0);
    const auto u_with_v = loading ? ua_pull.col(column) : ua.col(column);
    const auto v_with_v = loading ? va_pull.col(column) : va.col(column);
    for (Eigen::Index j = 0; j < f.weight.size(); ++j)
      if (structure.cells[j].free >= 0)
        cross(structure.cells[j].free, i) +=
            2.0 * half * f.weight(j) * (ua(j, row) * v_with_v(j) + va(j, row) * u_with_v(j));
    const double vv = loading ? pull_pull(column, column) : inverse(column, column);
    const double uv = loading ? a_pull(row, column) : inverse(row, column);
    own(i) += 2.0 * half * half / share * (inverse(row, row) * vv + uv * uv);
  }
  const Matrix uu = ua * f.u, vv = va * f.v, uv = ua * f.v;
  Matrix cells = 2.0 * (uu.cwiseProduct(vv) + uv.cwiseProduct(uv.transpose()));
  cells = f.weight.asDiagonal() * cells * f.weight.asDiagonal();
  hessian += share * gather(structure, cells);
}

ScoreTests ScoreInformation::tests(const Structure& structure, const Implied& implied,
                                   const Matrix& weight,
                                   const std::vector<Cell>& candidates) const {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  ScoreTests out{Vector::Zero(count), Vector::Zero(count)};
  const Matrix weight_pull = weight * implied.pull;
  for (Eigen::Index i = 0; i < count; ++i) {
    const Eigen::Index row = candidates[i].row, column = candidates[i].column;
    const bool loading = candidates[i].part == Part::loading;
    const double half = !loading && row == column ? 0.5 : 1.0;
    out.slope(i) = 2.0 * half * (loading ? weight_pull(row, column) : weight(row, column));
  }
  const Vector scale = hessian.diagonal().array().max(1e-300).rsqrt();
  Eigen::LLT<Matrix> factor(scale.asDiagonal() * hessian * scale.asDiagonal());
  if (factor.info() != Eigen::Success) return out;
  const Matrix scaled = scale.asDiagonal() * cross;
  const Vector shared = factor.matrixL().solve(scaled).colwise().squaredNorm().transpose();
  out.curvature = ((own - shared).array() > 1e-8 * own.array()).select(own - shared, 0.0);
  return out;
}

ScoreTests score_tests(const Structure& structure, const MatrixRef& s, const VectorRef& theta,
                       const std::vector<Cell>& candidates) {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  Eigen::LLT<Matrix> of_s(s);
  const Evaluation at = evaluate(structure, s, log_determinant(of_s), theta);
  if (!at.defined) return {Vector::Zero(count), Vector::Zero(count)};
  ScoreInformation information;
  information.add(structure, at.implied, at.inverse, 1.0, candidates);
  return information.tests(structure, at.implied, at.inverse - at.inverse * s * at.inverse,
                           candidates);
}

Matrix jacobian(const Structure& structure, const VectorRef& theta) {
  const Eigen::Index p = structure.items;
  const Derivatives d = derivatives(structure, imply(fill(structure, theta)));
  Matrix out = Matrix::Zero(p * (p + 1) / 2, structure.parameters);
  for (Eigen::Index k = 0; k < d.weight.size(); ++k) {
    if (structure.cells[k].free < 0) continue;
    double* column = out.col(structure.cells[k].free).data();
    for (Eigen::Index j = 0; j < p; ++j)
      for (Eigen::Index i = j; i < p; ++i)
        *column++ += d.weight(k) * (d.u(i, k) * d.v(j, k) + d.v(i, k) * d.u(j, k));
  }
  return out;
}

}  // namespace scalewort
