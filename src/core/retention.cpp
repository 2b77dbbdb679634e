#include "retention.h"
#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <cmath>
#include <limits>
#include <vector>
#include "parallel.h"
#include "random.h"

namespace scalewort {

namespace {

// Lower triangular factor A of a Wishart draw A A' (Bartlett, 1933): normals
// below the diagonal, roots of chi-squares on it.
void draw_factor(Generator& generator, Eigen::Index df, Matrix& factor) {
  boost::random::normal_distribution<double> normal;
  for (Eigen::Index j = 0; j < factor.cols(); ++j) {
    boost::random::gamma_distribution<double> half_chi_square(0.5 * (df - j), 2.0);
    factor(j, j) = std::sqrt(half_chi_square(generator));
    for (Eigen::Index i = j + 1; i < factor.rows(); ++i)
      factor(i, j) = normal(generator);
  }
}

Vector largest_first(const Matrix& symmetric) {
  const Eigen::SelfAdjointEigenSolver<Matrix> solver(symmetric, Eigen::EigenvaluesOnly);
  return solver.eigenvalues().reverse();
}

// With squared multiple correlations in the diagonal.
Matrix with_communalities(Matrix correlation) {
  const Eigen::Index p = correlation.rows();
  const Matrix inverse = correlation.selfadjointView<Eigen::Lower>().llt().solve(Matrix::Identity(p, p));
  correlation.diagonal() = 1.0 - inverse.diagonal().array().inverse();
  return correlation;
}

// Covariances as correlations.
Matrix as_correlations(const Matrix& covariance) {
  const Vector root = covariance.diagonal().cwiseSqrt().cwiseInverse();
  return root.asDiagonal() * covariance * root.asDiagonal();
}

Matrix raised(const Matrix& correlation, double least) {
  const Eigen::SelfAdjointEigenSolver<Matrix> solver(correlation);
  const Vector values = solver.eigenvalues().cwiseMax(least);
  return as_correlations(solver.eigenvectors() * values.asDiagonal() * solver.eigenvectors().transpose());
}

std::vector<Generator> generators(std::uint64_t seed, Eigen::Index count) {
  Streams streams(seed);
  std::vector<Generator> out;
  for (Eigen::Index i = 0; i < count; ++i) out.push_back(streams.take());
  return out;
}

Matrix unknown_values(Eigen::Index replicates, Eigen::Index p) {
  return Matrix::Constant(replicates, p, std::numeric_limits<double>::quiet_NaN());
}

// Correlations of independent normal items, each pair from the cases that have both.
Matrix gapped_correlations(Generator& generator, const MatrixRef& seen, const Matrix& counts) {
  boost::random::normal_distribution<double> normal;
  Matrix x(seen.rows(), seen.cols());
  for (Eigen::Index k = 0; k < x.size(); ++k) x.data()[k] = seen.data()[k] == 0.0 ? 0.0 : normal(generator);
  const Matrix sums = x.transpose() * seen;
  const Matrix products = x.transpose() * x;
  return as_correlations((products.array() - sums.array() * sums.transpose().array() / counts.array()) / counts.array());
}

}  // namespace

Matrix random_eigenvalues(Eigen::Index n, Eigen::Index p, Eigen::Index replicates,
                          std::uint64_t seed, bool reduced, int threads) {
  Matrix values = unknown_values(replicates, p);
  std::vector<Generator> own = generators(seed, replicates);
  share(replicates, 1, threads, [&](Eigen::Index i, Eigen::Index) {
    Matrix factor = Matrix::Zero(p, p), correlation = Matrix::Zero(p, p);
    draw_factor(own[i], n - 1, factor);
    factor.rowwise().normalize();
    correlation.selfadjointView<Eigen::Lower>().rankUpdate(factor);
    values.row(i) = largest_first(reduced ? with_communalities(correlation) : correlation).transpose();
  });
  return values;
}

GappedEigenvalues gapped_eigenvalues(const MatrixRef& seen, Eigen::Index replicates, std::uint64_t seed, int threads) {
  const Matrix counts = seen.transpose() * seen;
  GappedEigenvalues out{unknown_values(replicates, seen.cols()), unknown_values(replicates, seen.cols())};
  std::vector<Generator> own = generators(seed, replicates);
  share(replicates, 1, threads, [&](Eigen::Index i, Eigen::Index) {
    Matrix r = gapped_correlations(own[i], seen, counts);
    Vector values = largest_first(r);
    if (values(values.size() - 1) < 1e-6 * values(0)) {
      r = raised(r, 1e-4);
      values = largest_first(r);
    }
    out.plain.row(i) = values.transpose();
    out.reduced.row(i) = largest_first(with_communalities(r)).transpose();
  });
  return out;
}

}  // namespace scalewort
