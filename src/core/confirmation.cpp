#include "confirmation.h"
#include <algorithm>
#include <cmath>
#include "parallel.h"

namespace scalewort {

namespace {

double log_determinant(const Eigen::LLT<Matrix>& factor) {
  return 2.0 * factor.matrixLLT().diagonal().array().log().sum();
}

}  // namespace

LikelihoodDiscrepancy::LikelihoodDiscrepancy(const std::vector<Structure>& structures,
                                             const std::vector<GroupMoments>& moments)
    : structures_(structures), moments_(moments), log_determinants_(moments.size()) {
  for (std::size_t g = 0; g < moments.size(); ++g) {
    const Eigen::LLT<Matrix> factor(moments[g].covariance);
    positive_ = positive_ && factor.info() == Eigen::Success;
    log_determinants_(g) = positive_ ? log_determinant(factor) : 0.0;
  }
}

bool LikelihoodDiscrepancy::value(const Vector& theta, double& out) {
  out = 0.0;
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Implied implied = imply(fill(structures_[g], theta));
    if (!implied.covariance.allFinite()) return false;
    const Eigen::LLT<Matrix> factor(implied.covariance);
    if (factor.info() != Eigen::Success) return false;
    double here = log_determinant(factor) + factor.solve(moments_[g].covariance).trace() -
                  log_determinants_(g) - static_cast<double>(implied.covariance.rows());
    if (structures_[g].means)
      here += factor.matrixL().solve(moments_[g].mean - implied.mean).squaredNorm();
    out += moments_[g].share * here;
  }
  return std::isfinite(out);
}

Slope LikelihoodDiscrepancy::slope(const Vector& theta) {
  const Eigen::Index q = theta.size();
  Slope out{Vector::Zero(q), Matrix::Zero(q, q)};
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Structure& structure = structures_[g];
    const Implied implied = imply(fill(structure, theta));
    const Derivatives d = derivatives(structure, implied);
    const Along slopes = along(structure, implied, moments_[g]);
    Matrix cells = trace_products(d, slopes.inverse, slopes.inverse);
    if (structure.means) cells += mean_products(d, slopes.inverse);
    out.gradient += moments_[g].share * gradient_along(structure, d, slopes.covariance, slopes.mean);
    out.expected_hessian += moments_[g].share * gather(structure, cells);
  }
  return out;
}

Along along(const Structure& structure, const Implied& implied, const GroupMoments& moments) {
  const Eigen::Index p = implied.covariance.rows();
  const Eigen::LLT<Matrix> factor(implied.covariance);
  Along out{factor.info() == Eigen::Success, Matrix(), Matrix(), Vector()};
  if (!out.defined) return out;
  out.inverse = factor.solve(Matrix::Identity(p, p));
  Matrix spread = moments.covariance;
  if (structure.means) {
    const Vector apart = moments.mean - implied.mean;
    spread += apart * apart.transpose();
    out.mean = -2.0 * out.inverse * apart;
  }
  out.covariance = out.inverse - out.inverse * spread * out.inverse;
  return out;
}

// A candidate's u is a unit vector, its v one, too, or a column of pull, which follow the unit vectors.
void ScoreInformation::add(const FreeCells& cells, const Matrix& here, double share, const std::vector<Cell>& candidates, Eigen::Index items) {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size()), free = cells.weight.size();
  if (own.size() == 0) {
    own = Vector::Zero(count);
    cross = Matrix::Zero(free, count);
    hessian = Matrix::Zero(free, free);
    products = Matrix::Zero(here.rows(), here.cols());
  }
  products += share * here;
  const Matrix u = (2.0 * share * cells.weight).asDiagonal() * rows_at(here, cells.u), v = rows_at(here, cells.v);
  for (Eigen::Index i = 0; i < count; ++i) {
    const bool loading = candidates[i].part == Part::loading;
    const Eigen::Index row = candidates[i].row, other = candidates[i].column + (loading ? items : 0);
    const double half = row == other ? 0.5 : 1.0;
    cross.col(i) += half * (u.col(row).cwiseProduct(v.col(other)) + v.col(row).cwiseProduct(u.col(other)));
    own(i) += 2.0 * share * half * half * (here(row, row) * here(other, other) + here(row, other) * here(row, other));
  }
  for (Eigen::Index j = 0; j < free; ++j)
    hessian.col(j).tail(free - j) += cells.weight(j) * (u.col(cells.u[j]).cwiseProduct(v.col(cells.v[j])) +
                                                        v.col(cells.u[j]).cwiseProduct(u.col(cells.v[j]))).tail(free - j);
}

void ScoreInformation::join(const ScoreInformation& other) {
  own += other.own;
  cross += other.cross;
  hessian += other.hessian;
  products += other.products;
}

ScoreTests ScoreInformation::tests(const Structure& structure, const FreeCells& cells, const Implied& implied, const Along& slopes,
                                   const std::vector<Cell>& candidates, int threads) const {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  ScoreTests out{Vector::Zero(count), Vector::Zero(count)};
  const Matrix weight_pull = slopes.covariance * implied.pull;
  const auto shift_of = [&](Eigen::Index i) {
    return candidates[i].part == Part::loading && structure.means ? implied.level(candidates[i].column) : 0.0;
  };
  for (Eigen::Index i = 0; i < count; ++i) {
    const Eigen::Index row = candidates[i].row, column = candidates[i].column;
    const bool loading = candidates[i].part == Part::loading;
    const double half = !loading && row == column ? 0.5 : 1.0;
    out.slope(i) = 2.0 * half * (loading ? weight_pull(row, column) : slopes.covariance(row, column));
    if (shift_of(i) != 0.0) out.slope(i) += slopes.mean(row) * shift_of(i);
  }
  const auto free_of = [&](Eigen::Index cell) { return structure.cells[cell].free; };
  const Eigen::Index free = cells.weight.size(), means = cells.mean_size.size();
  Matrix whole = Matrix::Zero(structure.parameters, structure.parameters);
  for (Eigen::Index j = 0; j < free; ++j)
    for (Eigen::Index i = 0; i < free; ++i) whole(free_of(cells.cell[i]), free_of(cells.cell[j])) += hessian(std::max(i, j), std::min(i, j));
  for (Eigen::Index j = 0; j < means; ++j)
    for (Eigen::Index i = 0; i < means; ++i)
      whole(free_of(cells.mean_cell[i]), free_of(cells.mean_cell[j])) +=
          2.0 * cells.mean_size(i) * cells.mean_size(j) * products(cells.mean_at[i], cells.mean_at[j]);
  const Vector scale = whole.diagonal().array().max(1e-300).rsqrt();
  const Eigen::LLT<Matrix> factor(scale.asDiagonal() * whole * scale.asDiagonal());
  if (factor.info() != Eigen::Success) return out;
  share(count, 128, threads, [&](Eigen::Index first, Eigen::Index last) {
    Matrix scaled = Matrix::Zero(structure.parameters, last - first);
    Vector all(last - first);
    for (Eigen::Index i = first; i < last; ++i) {
      const double shift = shift_of(i);
      const Eigen::Index row = candidates[i].row;
      for (Eigen::Index k = 0; k < free; ++k) scaled(free_of(cells.cell[k]), i - first) += cross(k, i);
      all(i - first) = own(i) + 2.0 * shift * shift * products(row, row);
      if (shift == 0.0) continue;
      for (Eigen::Index k = 0; k < means; ++k)
        scaled(free_of(cells.mean_cell[k]), i - first) += 2.0 * shift * cells.mean_size(k) * products(cells.mean_at[k], row);
    }
    const Vector shared = factor.matrixL().solve(scale.asDiagonal() * scaled).colwise().squaredNorm().transpose();
    out.curvature.segment(first, last - first) = ((all - shared).array() > 1e-8 * all.array()).select(all - shared, 0.0);
  });
  return out;
}

ScoreTests score_tests(const Structure& structure, const GroupMoments& moments, const VectorRef& theta,
                       const std::vector<Cell>& candidates, int threads) {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  const Implied implied = imply(fill(structure, theta));
  const Along slopes = along(structure, implied, moments);
  if (!slopes.defined) return {Vector::Zero(count), Vector::Zero(count)};
  const Derivatives d = derivatives(structure, implied);
  const FreeCells cells = free_cells(structure, d);
  ScoreInformation information;
  information.add(cells, basis_products(d, slopes.inverse), 1.0, candidates, structure.items);
  return information.tests(structure, cells, implied, slopes, candidates, threads);
}

}  // namespace scalewort
