#include "fiml.h"
#include <algorithm>
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

namespace {

// Whole products of the few columns as they are for the items of a pattern.
Matrix seen_products(const Matrix& whole, const Derivatives& d, const PatternPart& part) {
  if (part.root.rows() == 0) return whole;
  Matrix through(part.root.rows(), whole.cols());
  through << part.root, part.root * d.rest;
  Matrix out = whole;
  out.noalias() -= through.transpose() * through;
  return out;
}

// What patterns add to the observed information, summed.
struct ObservedSums {
  Matrix covariances;  // free cells of the covariances, lower triangle
  Matrix mixed;        // free cells of the means x those of the covariances
  Matrix products;     // from which that of the means follows
};

}  // namespace

Matrix PatternDiscrepancy::observed_hessian(const Vector& theta) {
  const Eigen::Index q = theta.size();
  Matrix out = Matrix::Zero(q, q);
  for (std::size_t g = 0; g < structures_.size(); ++g) {
    const Structure& structure = structures_[g];
    const Implied implied = imply(fill(structure, theta));
    const Derivatives d = derivatives(structure, implied);
    const FreeCells cells = free_cells(structure, d);
    const Eigen::Index p = structure.items, free = cells.weight.size(), means = cells.mean_size.size();
    const Whole whole = whole_of(implied.covariance);
    const Matrix products = basis_products(d, whole.inverse);
    const auto parts = by_batch<ObservedSums>(
        static_cast<Eigen::Index>(groups_[g].size()), threads_,
        {Matrix::Zero(free, free), Matrix::Zero(means, free), Matrix::Zero(products.rows(), products.cols())},
        [&](Eigen::Index i, ObservedSums& sum) {
          const Pattern& pattern = groups_[g][i];
          const PatternPart part = part_of(whole, pattern, implied.mean);
          const double share = pattern.n / total_;
          // A, and B = 2 y y' - A, with 2 A S A where the pattern has several cases.
          const Matrix a = seen_products(products, d, part);
          Vector y(a.rows());
          y << part.pulled, d.rest.transpose() * part.pulled;
          Matrix b = 2.0 * y * y.transpose() - a;
          if (pattern.spread) {
            const Matrix inverse = filled_inverse(whole, part);
            b += basis_products(d, 2.0 * inverse * filled_up(pattern.covariance, pattern.seen, p) * inverse);
          }
          const Matrix au = rows_at(a, cells.u), av = rows_at(a, cells.v);
          const Matrix bu = (share * cells.weight).asDiagonal() * rows_at(b, cells.u), bv = (share * cells.weight).asDiagonal() * rows_at(b, cells.v);
          for (Eigen::Index j = 0; j < free; ++j) {
            const Eigen::Index u = cells.u[j], v = cells.v[j];
            sum.covariances.col(j).tail(free - j) +=
                cells.weight(j) * (bv.col(u).cwiseProduct(au.col(v)) + bv.col(v).cwiseProduct(au.col(u)) + bu.col(u).cwiseProduct(av.col(v)) +
                                   bu.col(v).cwiseProduct(av.col(u))).tail(free - j);
            // Means with covariances: 2 d' A D y.
            for (Eigen::Index k = 0; k < means; ++k)
              sum.mixed(k, j) += 2.0 * share * cells.mean_size(k) * cells.weight(j) *
                                 (a(cells.mean_at[k], u) * y(v) + a(cells.mean_at[k], v) * y(u));
          }
          sum.products += share * a;
        });
    ObservedSums all = parts[0];
    for (std::size_t k = 1; k < parts.size(); ++k) {
      all.covariances += parts[k].covariances;
      all.mixed += parts[k].mixed;
      all.products += parts[k].products;
    }
    const auto free_of = [&](Eigen::Index cell) { return structure.cells[cell].free; };
    for (Eigen::Index j = 0; j < free; ++j) {
      const int column = free_of(cells.cell[j]);
      for (Eigen::Index i = 0; i < free; ++i) out(free_of(cells.cell[i]), column) += all.covariances(std::max(i, j), std::min(i, j));
      for (Eigen::Index k = 0; k < means; ++k) {
        const int row = free_of(cells.mean_cell[k]);
        out(row, column) += all.mixed(k, j);
        out(column, row) += all.mixed(k, j);
      }
    }
    for (Eigen::Index j = 0; j < means; ++j)
      for (Eigen::Index i = 0; i < means; ++i)
        out(free_of(cells.mean_cell[i]), free_of(cells.mean_cell[j])) +=
            2.0 * cells.mean_size(i) * cells.mean_size(j) * all.products(cells.mean_at[i], cells.mean_at[j]);
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

ScoreTests incomplete_score_tests(const Structure& structure, const Patterns& patterns,
                                  const VectorRef& theta, const std::vector<Cell>& candidates, int threads) {
  const Implied implied = imply(fill(structure, theta));
  const PatternLikelihood at = pattern_likelihood(patterns, implied.covariance, implied.mean, threads);
  const Eigen::Index count = static_cast<Eigen::Index>(candidates.size());
  if (!at.defined) return {Vector::Zero(count), Vector::Zero(count)};
  const double total = sum_of_cases({patterns});
  const Whole whole = whole_of(implied.covariance);
  const Derivatives d = derivatives(structure, implied);
  const FreeCells cells = free_cells(structure, d);
  const Matrix products = basis_products(d, whole.inverse);
  const auto parts = by_batch(static_cast<Eigen::Index>(patterns.size()), threads, ScoreInformation(),
                              [&](Eigen::Index g, ScoreInformation& sum) {
                                const PatternPart part = part_of(whole, patterns[g], implied.mean);
                                sum.add(cells, seen_products(products, d, part), patterns[g].n / total, candidates, structure.items);
                              });
  ScoreInformation information = parts[0];
  for (std::size_t b = 1; b < parts.size(); ++b) information.join(parts[b]);
  return information.tests(structure, cells, implied, {true, Matrix(), at.along_covariance, at.along_mean}, candidates, threads);
}

}  // namespace scalewort
