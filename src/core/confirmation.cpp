#include "confirmation.h"
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

CellProducts cell_products(const Structure& structure, const Derivatives& d, const Matrix& inverse) {
  const Eigen::Index count = d.weight.size(), p = inverse.rows();
  const Matrix products = basis_products(d, inverse), through = d.rest.transpose() * inverse;
  CellProducts out{inverse, Matrix(count, p), Matrix(count, p), Matrix(count, count), Matrix(count, count), Matrix(count, count),
                   Matrix(), Matrix()};
  const auto row_of = [&](Eigen::Index at) -> Vector {
    return at < p ? Vector(d.unit(at) * inverse.row(at).transpose()) : Vector(through.row(at - p).transpose());
  };
  for (Eigen::Index i = 0; i < count; ++i) {
    out.ua.row(i) = row_of(d.u_at[i]).transpose();
    out.va.row(i) = row_of(d.v_at[i]).transpose();
    for (Eigen::Index j = 0; j < count; ++j) {
      out.uu(i, j) = products(d.u_at[i], d.u_at[j]);
      out.uv(i, j) = products(d.u_at[i], d.v_at[j]);
      out.vv(i, j) = products(d.v_at[i], d.v_at[j]);
    }
  }
  if (structure.means) {
    out.ma = d.mean.transpose() * inverse;
    out.mm = 0.5 * mean_products(d, inverse);
  }
  return out;
}

void ScoreInformation::add(const Structure& structure, const Implied& implied, const Derivatives& f,
                           const CellProducts& products, double share,
                           const std::vector<Cell>& candidates) {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  if (own.size() == 0) {
    own = Vector::Zero(count);
    cross = Matrix::Zero(static_cast<Eigen::Index>(structure.cells.size()), count);
    hessian = Matrix::Zero(structure.parameters, structure.parameters);
  }
  // A candidate's u is a unit vector, its v one, too, or a column of pull; so products with
  // them are columns of what follows. tests() gathers cells by free parameter.
  const Matrix &inverse = products.inverse, &ua = products.ua, &va = products.va;
  const Matrix a_pull = inverse * implied.pull;
  const Matrix pull_pull = implied.pull.transpose() * a_pull;
  const Matrix ua_pull = ua * implied.pull, va_pull = va * implied.pull;
  for (Eigen::Index i = 0; i < count; ++i) {
    const Eigen::Index row = candidates[i].row, column = candidates[i].column;
    const bool loading = candidates[i].part == Part::loading;
    const double half = share * (!loading && row == column ? 0.5 : 1.0);
    const double shift = loading && structure.means ? implied.level(column) : 0.0;
    const auto u_with_v = loading ? ua_pull.col(column) : ua.col(column);
    const auto v_with_v = loading ? va_pull.col(column) : va.col(column);
    cross.col(i) += 2.0 * half *
                    f.weight.cwiseProduct(ua.col(row).cwiseProduct(v_with_v) + va.col(row).cwiseProduct(u_with_v));
    if (shift != 0.0) cross.col(i) += 2.0 * share * shift * products.ma.col(row);
    const double vv = loading ? pull_pull(column, column) : inverse(column, column);
    const double uv = loading ? a_pull(row, column) : inverse(row, column);
    own(i) += 2.0 * half * half / share * (inverse(row, row) * vv + uv * uv) +
              2.0 * share * shift * shift * inverse(row, row);
  }
  Matrix cells = 2.0 * (products.uu.cwiseProduct(products.vv) + products.uv.cwiseProduct(products.uv.transpose()));
  cells = f.weight.asDiagonal() * cells * f.weight.asDiagonal();
  if (structure.means) cells += 2.0 * products.mm;
  hessian += share * gather(structure, cells);
}

void ScoreInformation::join(const ScoreInformation& other) {
  own += other.own;
  cross += other.cross;
  hessian += other.hessian;
}

ScoreTests ScoreInformation::tests(const Structure& structure, const Implied& implied,
                                   const Along& slopes, const std::vector<Cell>& candidates, int threads) const {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  ScoreTests out{Vector::Zero(count), Vector::Zero(count)};
  const Matrix weight_pull = slopes.covariance * implied.pull;
  for (Eigen::Index i = 0; i < count; ++i) {
    const Eigen::Index row = candidates[i].row, column = candidates[i].column;
    const bool loading = candidates[i].part == Part::loading;
    const double half = !loading && row == column ? 0.5 : 1.0;
    out.slope(i) = 2.0 * half * (loading ? weight_pull(row, column) : slopes.covariance(row, column));
    if (loading && structure.means) out.slope(i) += slopes.mean(row) * implied.level(column);
  }
  const Vector scale = hessian.diagonal().array().max(1e-300).rsqrt();
  const Eigen::LLT<Matrix> factor(scale.asDiagonal() * hessian * scale.asDiagonal());
  if (factor.info() != Eigen::Success) return out;
  Matrix scaled = Matrix::Zero(structure.parameters, count);
  for (std::size_t j = 0; j < structure.cells.size(); ++j)
    if (structure.cells[j].free >= 0)
      scaled.row(structure.cells[j].free) += scale(structure.cells[j].free) * cross.row(static_cast<Eigen::Index>(j));
  Vector shared(count);
  share(count, 128, threads, [&](Eigen::Index first, Eigen::Index last) {
    shared.segment(first, last - first) =
        factor.matrixL().solve(scaled.middleCols(first, last - first)).colwise().squaredNorm().transpose();
  });
  out.curvature = ((own - shared).array() > 1e-8 * own.array()).select(own - shared, 0.0);
  return out;
}

ScoreTests score_tests(const Structure& structure, const GroupMoments& moments, const VectorRef& theta,
                       const std::vector<Cell>& candidates, int threads) {
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  const Implied implied = imply(fill(structure, theta));
  const Along slopes = along(structure, implied, moments);
  if (!slopes.defined) return {Vector::Zero(count), Vector::Zero(count)};
  ScoreInformation information;
  const Derivatives d = derivatives(structure, implied);
  information.add(structure, implied, d, cell_products(structure, d, slopes.inverse), 1.0, candidates);
  return information.tests(structure, implied, slopes, candidates, threads);
}

}  // namespace scalewort
