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
  const Eigen::Index count = static_cast<Eigen::Index>(s.cells.size()), p = s.items, m = s.factors;
  Derivatives out;
  out.u = out.v = Matrix::Zero(p, count);
  out.weight = Vector::Ones(count);
  if (s.means) out.mean = Matrix::Zero(p, count);
  out.unit = Vector::Ones(p);
  out.rest.resize(p, 2 * m);
  out.rest << implied.pull, implied.reach;
  out.u_at.assign(count, 0);
  out.v_at.assign(count, 0);
  out.mean_at.assign(count, 0);
  out.mean_size = Vector::Zero(count);
  for (Eigen::Index i = 0; i < count; ++i) {
    const Cell& cell = s.cells[i];
    const Eigen::Index pull_of_column = p + cell.column, reach_of_row = p + m + cell.row, reach_of_column = p + m + cell.column;
    switch (cell.part) {
      case Part::loading:
        out.u(cell.row, i) = 1.0;
        out.v.col(i) = implied.pull.col(cell.column);
        out.u_at[i] = cell.row;
        out.v_at[i] = pull_of_column;
        out.mean_at[i] = cell.row;
        out.mean_size(i) = implied.level(cell.column);
        break;
      case Part::path:
        out.u.col(i) = implied.reach.col(cell.row);
        out.v.col(i) = implied.pull.col(cell.column);
        out.u_at[i] = reach_of_row;
        out.v_at[i] = pull_of_column;
        out.mean_at[i] = reach_of_row;
        out.mean_size(i) = implied.level(cell.column);
        break;
      case Part::factor:
        out.u.col(i) = implied.reach.col(cell.row);
        out.v.col(i) = implied.reach.col(cell.column);
        out.u_at[i] = reach_of_row;
        out.v_at[i] = reach_of_column;
        break;
      case Part::residual:
        out.u(cell.row, i) = 1.0;
        out.v(cell.column, i) = 1.0;
        out.u_at[i] = cell.row;
        out.v_at[i] = cell.column;
        break;
      case Part::intercept:
        out.weight(i) = 0.0;
        out.mean_at[i] = cell.row;
        out.mean_size(i) = 1.0;
        break;
      case Part::mean:
        out.weight(i) = 0.0;
        out.mean_at[i] = reach_of_row;
        out.mean_size(i) = 1.0;
        break;
    }
    if (s.means && out.mean_at[i] < p)
      out.mean(out.mean_at[i], i) = out.mean_size(i);
    else if (s.means)
      out.mean.col(i) = out.mean_size(i) * out.rest.col(out.mean_at[i] - p);
    const bool symmetric = cell.part == Part::factor || cell.part == Part::residual;
    if (symmetric && cell.row == cell.column) out.weight(i) = 0.5;
  }
  return out;
}

Matrix basis_products(const Derivatives& d, const Matrix& a) {
  const Eigen::Index p = a.rows(), k = d.rest.cols();
  const Matrix through = a * d.rest;
  Matrix out(p + k, p + k);
  out.topLeftCorner(p, p) = d.unit.asDiagonal() * a * d.unit.asDiagonal();
  out.topRightCorner(p, k) = d.unit.asDiagonal() * through;
  out.bottomLeftCorner(k, p) = out.topRightCorner(p, k).transpose();
  out.bottomRightCorner(k, k) = d.rest.transpose() * through;
  return out;
}

FreeCells free_cells(const Structure& structure, const Derivatives& d) {
  FreeCells out;
  std::vector<double> weight, size;
  for (Eigen::Index i = 0; i < d.weight.size(); ++i) {
    if (structure.cells[i].free < 0) continue;
    if (d.weight(i) != 0.0) {
      out.cell.push_back(i);
      out.u.push_back(d.u_at[i]);
      out.v.push_back(d.v_at[i]);
      weight.push_back(d.weight(i));
    }
    if (structure.means && d.mean_size(i) != 0.0) {
      out.mean_cell.push_back(i);
      out.mean_at.push_back(d.mean_at[i]);
      size.push_back(d.mean_size(i));
    }
  }
  out.weight = Eigen::Map<const Vector>(weight.data(), static_cast<Eigen::Index>(weight.size()));
  out.mean_size = Eigen::Map<const Vector>(size.data(), static_cast<Eigen::Index>(size.size()));
  return out;
}

Matrix rows_at(const Matrix& x, const std::vector<Eigen::Index>& at) {
  Matrix out(static_cast<Eigen::Index>(at.size()), x.cols());
  for (Eigen::Index j = 0; j < out.cols(); ++j)
    for (Eigen::Index i = 0; i < out.rows(); ++i) out(i, j) = x(at[i], j);
  return out;
}

Vector gradient_along(const Structure& structure, const Derivatives& d, const Matrix& along_covariance,
                      const Vector& along_mean) {
  const Matrix products = basis_products(d, along_covariance);
  Vector out = Vector::Zero(structure.parameters);
  for (Eigen::Index i = 0; i < d.weight.size(); ++i) {
    const int free = structure.cells[i].free;
    if (free < 0) continue;
    out(free) += 2.0 * d.weight(i) * products(d.u_at[i], d.v_at[i]);
    if (structure.means) out(free) += d.mean.col(i).dot(along_mean);
  }
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
  const Eigen::Index count = d.weight.size();
  const Matrix by_a = basis_products(d, a);
  const Matrix by_b = &a == &b ? Matrix() : basis_products(d, b);
  const Matrix& other = &a == &b ? by_a : by_b;
  Matrix out(count, count);
  for (Eigen::Index j = 0; j < count; ++j) {
    const Eigen::Index x = d.u_at[j], y = d.v_at[j];
    for (Eigen::Index i = j; i < count; ++i) {
      const Eigen::Index u = d.u_at[i], v = d.v_at[i];
      out(i, j) = out(j, i) = d.weight(i) * d.weight(j) * (other(v, x) * by_a(u, y) + other(v, y) * by_a(u, x) +
                                                           other(u, x) * by_a(v, y) + other(u, y) * by_a(v, x));
    }
  }
  return out;
}

Matrix mean_products(const Derivatives& d, const Matrix& a) {
  const Eigen::Index count = d.weight.size();
  const Matrix products = basis_products(d, a);
  Matrix out(count, count);
  for (Eigen::Index j = 0; j < count; ++j)
    for (Eigen::Index i = j; i < count; ++i)
      out(i, j) = out(j, i) = 2.0 * d.mean_size(i) * d.mean_size(j) * products(d.mean_at[i], d.mean_at[j]);
  return out;
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

// A sum over the lower triangle is half that over all cells and half that over the diagonal.
Matrix jacobian_products(const Structure& structure, const VectorRef& theta) {
  const Derivatives d = derivatives(structure, imply(fill(structure, theta)));
  const Matrix one = Matrix::Identity(structure.items, structure.items);
  const Matrix diagonal = 2.0 * d.u.cwiseProduct(d.v) * d.weight.asDiagonal();
  Matrix cells = 0.5 * trace_products(d, one, one);
  cells.noalias() += 0.5 * diagonal.transpose() * diagonal;
  if (structure.means) cells += 0.5 * mean_products(d, one);
  return gather(structure, cells);
}

// The implied covariances are not needed, which are most of the work of fill() and imply().
Vector standardise(const Structure& s, const VectorRef& theta, bool unit_items) {
  const Eigen::Index m = s.factors;
  const auto value_of = [&](const Cell& cell) { return cell.free < 0 ? cell.value : theta(cell.free); };
  Matrix loading = Matrix::Zero(s.items, m), factor = Matrix::Zero(m, m), path = Matrix::Identity(m, m);
  Vector residual = Vector::Zero(s.items);
  bool paths = false;
  for (const Cell& cell : s.cells) {
    if (cell.part == Part::loading) loading(cell.row, cell.column) = value_of(cell);
    if (cell.part == Part::factor) factor(cell.row, cell.column) = factor(cell.column, cell.row) = value_of(cell);
    if (cell.part == Part::residual && cell.row == cell.column) residual(cell.row) = value_of(cell);
    if (cell.part != Part::path) continue;
    path(cell.row, cell.column) -= value_of(cell);
    paths = true;
  }
  Matrix spread = factor;
  if (paths) {
    const Matrix inverse = path.partialPivLu().inverse();
    spread = inverse * factor * inverse.transpose();
  }
  const Vector factor_sd = spread.diagonal().cwiseSqrt();
  const Vector common = (loading * spread).cwiseProduct(loading).rowwise().sum();
  if (unit_items) residual = Vector::Ones(s.items) - common;
  const Vector item_sd = (common + residual).cwiseSqrt();
  const Vector residual_sd = residual.cwiseSqrt();
  Vector out(static_cast<Eigen::Index>(s.cells.size()));
  for (std::size_t i = 0; i < s.cells.size(); ++i) {
    const Cell& cell = s.cells[i];
    const Eigen::Index row = cell.row, column = cell.column;
    double value = value_of(cell);
    switch (cell.part) {
      case Part::loading: value *= factor_sd(column) / item_sd(row); break;
      case Part::path: value *= factor_sd(column) / factor_sd(row); break;
      case Part::factor: value /= factor_sd(row) * factor_sd(column); break;
      case Part::residual:
        value = row == column ? residual(row) / (item_sd(row) * item_sd(row)) : value / (residual_sd(row) * residual_sd(column));
        break;
      case Part::intercept: value /= item_sd(row); break;
      case Part::mean: value /= factor_sd(row); break;
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
