#include "structure.h"

namespace scalewort {

Matrices fill(const Structure& s, const VectorRef& theta) {
  Matrices out{Matrix::Zero(s.items, s.factors), Matrix::Zero(s.factors, s.factors),
               Matrix::Zero(s.items, s.items), Matrix::Zero(s.factors, s.factors),
               Vector::Zero(s.items), Vector::Zero(s.factors)};
  for (const Cell& cell : s.cells) {
    const double value = cell.free < 0 ? cell.value : theta(cell.free);
    switch (cell.part) {
      case Part::loading: out.loading(cell.row, cell.column) = value; break;
      case Part::path: out.path(cell.row, cell.column) = value; break;
      case Part::factor:
        out.factor(cell.row, cell.column) = out.factor(cell.column, cell.row) = value;
        break;
      case Part::residual:
        out.residual(cell.row, cell.column) = out.residual(cell.column, cell.row) = value;
        break;
      case Part::intercept: out.intercept(cell.row) = value; break;
      case Part::mean: out.mean(cell.row) = value; break;
    }
  }
  return out;
}

Implied imply(const Matrices& x) {
  const Eigen::Index m = x.factor.rows();
  Implied out;
  const Matrix inverse = (Matrix::Identity(m, m) - x.path).partialPivLu().inverse();
  out.reach = x.loading * inverse;
  out.spread = inverse * x.factor * inverse.transpose();
  out.pull = x.loading * out.spread;
  out.covariance = out.pull * x.loading.transpose() + x.residual;
  out.level = inverse * x.mean;
  out.mean = x.intercept + x.loading * out.level;
  return out;
}

Derivatives derivatives(const Structure& s, const Implied& implied) {
  const Eigen::Index count = static_cast<Eigen::Index>(s.cells.size());
  Derivatives out{Matrix::Zero(s.items, count), Matrix::Zero(s.items, count), Vector::Ones(count),
                  s.means ? Matrix(Matrix::Zero(s.items, count)) : Matrix()};
  for (Eigen::Index i = 0; i < count; ++i) {
    const Cell& cell = s.cells[i];
    switch (cell.part) {
      case Part::loading:
        out.u(cell.row, i) = 1.0;
        out.v.col(i) = implied.pull.col(cell.column);
        if (s.means) out.mean(cell.row, i) = implied.level(cell.column);
        break;
      case Part::path:
        out.u.col(i) = implied.reach.col(cell.row);
        out.v.col(i) = implied.pull.col(cell.column);
        if (s.means) out.mean.col(i) = implied.reach.col(cell.row) * implied.level(cell.column);
        break;
      case Part::factor:
        out.u.col(i) = implied.reach.col(cell.row);
        out.v.col(i) = implied.reach.col(cell.column);
        break;
      case Part::residual:
        out.u(cell.row, i) = 1.0;
        out.v(cell.column, i) = 1.0;
        break;
      case Part::intercept:
        out.mean(cell.row, i) = 1.0;
        out.weight(i) = 0.0;
        break;
      case Part::mean:
        out.mean.col(i) = implied.reach.col(cell.row);
        out.weight(i) = 0.0;
        break;
    }
    const bool symmetric = cell.part == Part::factor || cell.part == Part::residual;
    if (symmetric && cell.row == cell.column) out.weight(i) = 0.5;
  }
  return out;
}

Vector gradient_along(const Structure& structure, const Derivatives& d, const Matrix& along_covariance,
                      const Vector& along_mean) {
  Vector by_cell = 2.0 * d.weight.cwiseProduct(
                             (along_covariance * d.v).cwiseProduct(d.u).colwise().sum().transpose());
  if (structure.means) by_cell += d.mean.transpose() * along_mean;
  Vector out = Vector::Zero(structure.parameters);
  for (Eigen::Index i = 0; i < by_cell.size(); ++i)
    if (structure.cells[i].free >= 0) out(structure.cells[i].free) += by_cell(i);
  return out;
}

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

// tr(A (uv' + vu') B (xy' + yx')) = v'Bx y'Au + v'By x'Au + u'Bx y'Av + u'By x'Av
Matrix trace_products(const Derivatives& d, const Matrix& a, const Matrix& b) {
  const Matrix ua = d.u.transpose() * a, va = d.v.transpose() * a;
  const Matrix uau = ua * d.u, uav = ua * d.v, vav = va * d.v;
  Matrix out;
  if (&a == &b) {
    out = 2.0 * (uau.cwiseProduct(vav) + uav.cwiseProduct(uav.transpose()));
  } else {
    const Matrix ub = d.u.transpose() * b;
    const Matrix ubu = ub * d.u, ubv = ub * d.v, vbv = d.v.transpose() * b * d.v;
    out = ubv.transpose().cwiseProduct(uav) + vbv.cwiseProduct(uau) + ubu.cwiseProduct(vav) +
          ubv.cwiseProduct(uav.transpose());
  }
  return d.weight.asDiagonal() * out * d.weight.asDiagonal();
}

Matrix mean_products(const Derivatives& d, const Matrix& a) {
  return 2.0 * d.mean.transpose() * a * d.mean;
}

Matrix jacobian(const Structure& structure, const VectorRef& theta) {
  const Eigen::Index p = structure.items, first = structure.means ? p : 0;
  const Derivatives d = derivatives(structure, imply(fill(structure, theta)));
  Matrix out = Matrix::Zero(first + p * (p + 1) / 2, structure.parameters);
  for (Eigen::Index k = 0; k < d.weight.size(); ++k) {
    if (structure.cells[k].free < 0) continue;
    auto target = out.col(structure.cells[k].free);
    if (structure.means) target.head(p) += d.mean.col(k);
    double* column = target.data() + first;
    for (Eigen::Index j = 0; j < p; ++j)
      for (Eigen::Index i = j; i < p; ++i)
        *column++ += d.weight(k) * (d.u(i, k) * d.v(j, k) + d.v(i, k) * d.u(j, k));
  }
  return out;
}

Vector standardise(const Structure& s, const VectorRef& theta, bool unit_items) {
  const Matrices x = fill(s, theta);
  const Implied implied = imply(x);
  const Vector factor_sd = implied.spread.diagonal().cwiseSqrt();
  const Vector common = implied.pull.cwiseProduct(x.loading).rowwise().sum();
  const Vector residual = unit_items ? Vector(Vector::Ones(s.items) - common) : Vector(x.residual.diagonal());
  const Vector item_sd = (common + residual).cwiseSqrt();
  const Vector residual_sd = residual.cwiseSqrt();
  Vector out(static_cast<Eigen::Index>(s.cells.size()));
  for (std::size_t i = 0; i < s.cells.size(); ++i) {
    const Cell& cell = s.cells[i];
    const Eigen::Index row = cell.row, column = cell.column;
    double value = 0.0;
    switch (cell.part) {
      case Part::loading: value = x.loading(row, column) * factor_sd(column) / item_sd(row); break;
      case Part::path: value = x.path(row, column) * factor_sd(column) / factor_sd(row); break;
      case Part::factor: value = x.factor(row, column) / (factor_sd(row) * factor_sd(column)); break;
      case Part::residual:
        value = row == column ? residual(row) / (item_sd(row) * item_sd(row))
                              : x.residual(row, column) / (residual_sd(row) * residual_sd(column));
        break;
      case Part::intercept: value = x.intercept(row) / item_sd(row); break;
      case Part::mean: value = x.mean(row) / factor_sd(row); break;
    }
    out(static_cast<Eigen::Index>(i)) = value;
  }
  return out;
}

Matrix standard_jacobian(const Structure& structure, const VectorRef& theta, bool unit_items) {
  Matrix out(static_cast<Eigen::Index>(structure.cells.size()), theta.size());
  for (Eigen::Index k = 0; k < theta.size(); ++k) {
    const double step = 1e-5 * std::max(0.1, std::abs(theta(k)));
    Vector up = theta, down = theta;
    up(k) += step;
    down(k) -= step;
    out.col(k) = (standardise(structure, up, unit_items) - standardise(structure, down, unit_items)) / (2.0 * step);
  }
  return out;
}

}  // namespace scalewort
