#include "fiml.h"
#include <cmath>

namespace scalewort {

PatternDiscrepancy::PatternDiscrepancy(const std::vector<Structure>& structures,
                                       const std::vector<Patterns>& groups, int threads)
    : structures_(structures), groups_(groups), total_(sum_of_cases(groups)), threads_(threads) {}

bool PatternDiscrepancy::value(const Vector& theta, double& out) {
  out = 0.0;
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Implied implied = imply(fill(structures_[g], theta));
    const Whole whole = whole_of(implied.covariance);
    if (!whole.defined) return false;
    const Eigen::Index p = implied.covariance.rows();
    const auto parts = by_batch(
        static_cast<Eigen::Index>(groups_[g].size()), threads_, 0.0, [&](Eigen::Index i, double& sum) {
          const Pattern& pattern = groups_[g][i];
          const PatternPart part = part_of(whole, pattern, implied.mean);
          double here = part.log_determinant + part.apart.dot(part.pulled);
          if (pattern.spread)
            here += filled_inverse(whole, part).cwiseProduct(filled_up(pattern.covariance, pattern.seen, p)).sum();
          sum += pattern.n / total_ * here;
        });
    for (double part : parts) out += part;
  }
  return std::isfinite(out);
}

Slope PatternDiscrepancy::slope(const Vector& theta) {
  const Eigen::Index q = theta.size();
  Slope out{Vector::Zero(q), Matrix::Zero(q, q)};
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Implied implied = imply(fill(structures_[g], theta));
    const Derivatives d = derivatives(structures_[g], implied);
    const PatternLikelihood at = pattern_likelihood(groups_[g], implied.covariance, implied.mean, threads_);
    const double share = sum_of_cases({groups_[g]}) / total_;
    const Eigen::Index p = structures_[g].items;
    const Matrix inverse = implied.covariance.llt().solve(Matrix::Identity(p, p));
    out.gradient += share * gradient_along(structures_[g], d, at.along_covariance, at.along_mean);
    out.expected_hessian += share * gather(structures_[g], trace_products(d, inverse, inverse) + mean_products(d, inverse));
  }
  return out;
}

Matrix PatternDiscrepancy::observed_hessian(const Vector& theta) {
  const Eigen::Index q = theta.size();
  Matrix out = Matrix::Zero(q, q);
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Structure& structure = structures_[g];
    const Implied implied = imply(fill(structure, theta));
    const Derivatives d = derivatives(structure, implied);
    const Eigen::Index count = d.weight.size(), p = structure.items;
    const Whole whole = whole_of(implied.covariance);
    // u' P u, u' P v, v' P v and P d of the means, from which each pattern takes its own.
    const Matrix uu = d.u.transpose() * whole.inverse * d.u, uv = d.u.transpose() * whole.inverse * d.v,
                 vv = d.v.transpose() * whole.inverse * d.v, mm = d.mean.transpose() * whole.inverse * d.mean,
                 mu = d.mean.transpose() * whole.inverse * d.u, mv = d.mean.transpose() * whole.inverse * d.v;
    const auto parts = by_batch<Matrix>(
        static_cast<Eigen::Index>(groups_[g].size()), threads_, Matrix::Zero(count, count),
        [&](Eigen::Index i, Matrix& sum) {
          const Pattern& pattern = groups_[g][i];
          const PatternPart part = part_of(whole, pattern, implied.mean);
          const Matrix ru = part.root * d.u, rv = part.root * d.v, rm = part.root * d.mean;
          const bool all = part.root.rows() == 0;
          const Matrix au = all ? uu : Matrix(uu - ru.transpose() * ru), av = all ? vv : Matrix(vv - rv.transpose() * rv),
                       ac = all ? uv : Matrix(uv - ru.transpose() * rv);
          const Vector u_apart = d.u.transpose() * part.pulled, v_apart = d.v.transpose() * part.pulled;
          // B = 2 y y' - A, and 2 A S A where the pattern has several cases.
          Matrix bu = 2.0 * u_apart * u_apart.transpose() - au, bv = 2.0 * v_apart * v_apart.transpose() - av,
                 bc = 2.0 * u_apart * v_apart.transpose() - ac;
          if (pattern.spread) {
            const Matrix inverse = filled_inverse(whole, part);
            const Matrix middle = 2.0 * inverse * filled_up(pattern.covariance, pattern.seen, p) * inverse;
            bu += d.u.transpose() * middle * d.u;
            bv += d.v.transpose() * middle * d.v;
            bc += d.u.transpose() * middle * d.v;
          }
          Matrix here = bc.transpose().cwiseProduct(ac) + bv.cwiseProduct(au) + bu.cwiseProduct(av) +
                        bc.cwiseProduct(ac.transpose());
          here = d.weight.asDiagonal() * here * d.weight.asDiagonal();
          // Means with covariances: 2 d' A D y, both ways round.
          const Matrix am_u = all ? mu : Matrix(mu - rm.transpose() * ru), am_v = all ? mv : Matrix(mv - rm.transpose() * rv);
          const Matrix mixed = 2.0 * (am_u * d.weight.cwiseProduct(v_apart).asDiagonal()) +
                               2.0 * (am_v * d.weight.cwiseProduct(u_apart).asDiagonal());
          here += mixed + mixed.transpose() + 2.0 * (all ? mm : Matrix(mm - rm.transpose() * rm));
          sum += pattern.n / total_ * here;
        });
    Matrix cells = Matrix::Zero(count, count);
    for (const Matrix& part : parts) cells += part;
    out += gather(structure, cells);
    // The structure's own curvature, along fixed slopes of the likelihood.
    const PatternLikelihood at = pattern_likelihood(groups_[g], implied.covariance, implied.mean, threads_);
    const double share = sum_of_cases({groups_[g]}) / total_;
    Matrix curved(q, q);
    for (Eigen::Index k = 0; k < q; ++k) {
      const double step = 1e-4 * std::max(1.0, std::abs(theta(k)));
      Vector up = theta, down = theta;
      up(k) += step;
      down(k) -= step;
      const Derivatives above = derivatives(structure, imply(fill(structure, up)));
      const Derivatives below = derivatives(structure, imply(fill(structure, down)));
      curved.col(k) = (gradient_along(structure, above, at.along_covariance, at.along_mean) -
                       gradient_along(structure, below, at.along_covariance, at.along_mean)) /
                      (2.0 * step);
    }
    out += share * curved;
  }
  return 0.5 * (out + out.transpose());
}

namespace {

// What whole products become for the items of a pattern.
CellProducts seen_products(CellProducts x, const Derivatives& d, const PatternPart& part) {
  if (part.root.rows() == 0) return x;
  const Matrix ru = part.root * d.u, rv = part.root * d.v, rm = part.root * d.mean;
  x.inverse.noalias() -= part.root.transpose() * part.root;
  x.ua.noalias() -= ru.transpose() * part.root;
  x.va.noalias() -= rv.transpose() * part.root;
  x.uu.noalias() -= ru.transpose() * ru;
  x.uv.noalias() -= ru.transpose() * rv;
  x.vv.noalias() -= rv.transpose() * rv;
  x.ma.noalias() -= rm.transpose() * part.root;
  x.mm.noalias() -= rm.transpose() * rm;
  return x;
}

}  // namespace

ScoreTests incomplete_score_tests(const Structure& structure, const Patterns& patterns,
                                  const VectorRef& theta, const std::vector<Cell>& candidates, int threads) {
  const Implied implied = imply(fill(structure, theta));
  const PatternLikelihood at = pattern_likelihood(patterns, implied.covariance, implied.mean, threads);
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  if (!at.defined) return {Vector::Zero(count), Vector::Zero(count)};
  const double total = sum_of_cases({patterns});
  const Whole whole = whole_of(implied.covariance);
  const Derivatives d = derivatives(structure, implied);
  const CellProducts products = cell_products(structure, d, whole.inverse);
  const auto parts = by_batch(static_cast<Eigen::Index>(patterns.size()), threads, ScoreInformation(),
                              [&](Eigen::Index g, ScoreInformation& sum) {
                                const PatternPart part = part_of(whole, patterns[g], implied.mean);
                                sum.add(structure, implied, d, seen_products(products, d, part), patterns[g].n / total,
                                        candidates);
                              });
  ScoreInformation information = parts[0];
  for (std::size_t b = 1; b < parts.size(); ++b) information.join(parts[b]);
  return information.tests(structure, implied, {true, Matrix(), at.along_covariance, at.along_mean}, candidates, threads);
}

}  // namespace scalewort
