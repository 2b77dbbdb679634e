#include "structure.h"

namespace scalewort {

Matrices fill(const Structure& s, const VectorRef& theta) {
  Matrices out{Matrix::Zero(s.items, s.factors), Matrix::Zero(s.factors, s.factors),
               Matrix::Zero(s.items, s.items), Matrix::Zero(s.factors, s.factors)};
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
  return out;
}

Derivatives derivatives(const Structure& s, const Implied& implied) {
  const Eigen::Index count = static_cast<Eigen::Index>(s.cells.size());
  Derivatives out{Matrix::Zero(s.items, count), Matrix::Zero(s.items, count),
                  Vector::Ones(count)};
  for (Eigen::Index i = 0; i < count; ++i) {
    const Cell& cell = s.cells[i];
    switch (cell.part) {
      case Part::loading:
        out.u(cell.row, i) = 1.0;
        out.v.col(i) = implied.pull.col(cell.column);
        break;
      case Part::path:
        out.u.col(i) = implied.reach.col(cell.row);
        out.v.col(i) = implied.pull.col(cell.column);
        break;
      case Part::factor:
        out.u.col(i) = implied.reach.col(cell.row);
        out.v.col(i) = implied.reach.col(cell.column);
        break;
      case Part::residual:
        out.u(cell.row, i) = 1.0;
        out.v(cell.column, i) = 1.0;
        break;
    }
    const bool symmetric = cell.part == Part::factor || cell.part == Part::residual;
    if (symmetric && cell.row == cell.column) out.weight(i) = 0.5;
  }
  return out;
}

}  // namespace scalewort
