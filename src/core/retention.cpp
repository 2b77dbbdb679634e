#include "retention.h"
#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <cmath>
#include <limits>
#include "interrupt.h"
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

}  // namespace

Matrix random_eigenvalues(Eigen::Index n, Eigen::Index p, Eigen::Index replicates,
                          std::uint64_t seed, bool reduced) {
  Matrix values = Matrix::Constant(replicates, p, std::numeric_limits<double>::quiet_NaN());
  Matrix factor = Matrix::Zero(p, p), correlation(p, p);
  Eigen::SelfAdjointEigenSolver<Matrix> solver(p);
  Streams streams(seed);

  for (Eigen::Index i = 0; i < replicates; ++i) {
    Generator generator = streams.take();
    draw_factor(generator, n - 1, factor);
    factor.rowwise().normalize();
    correlation.setZero();
    correlation.selfadjointView<Eigen::Lower>().rankUpdate(factor);
    if (reduced) {
      const Matrix inverse =
          correlation.selfadjointView<Eigen::Lower>().llt().solve(Matrix::Identity(p, p));
      correlation.diagonal() = 1.0 - inverse.diagonal().array().inverse();
    }
    solver.compute(correlation, Eigen::EigenvaluesOnly);
    values.row(i) = solver.eigenvalues().reverse().transpose();
    stop_if_asked();
  }
  return values;
}

}  // namespace scalewort
