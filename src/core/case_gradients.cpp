#include "case_gradients.h"
#include <cmath>
#include "patterns.h"

namespace scalewort {

namespace {

// Items each case answered, and per pattern of them the inverse of their covariances.
struct CaseParts {
  Matrix solved;               // n x p: inv(Sigma)(x - mu) of the items answered, else 0
  std::vector<Eigen::Index> pattern;  // of each case
  std::vector<Matrix> inverses;       // p x p, filled up with zeros
};

CaseParts case_parts(const MatrixRef& x, const Matrix& covariance, const Vector& mean) {
  const Eigen::Index n = x.rows(), p = x.cols();
  CaseParts out{Matrix::Zero(n, p), std::vector<Eigen::Index>(n), {}};
  std::vector<Seen> known;
  for (Eigen::Index i = 0; i < n; ++i) {
    Seen seen;
    for (Eigen::Index j = 0; j < p; ++j)
      if (!std::isnan(x(i, j))) seen.push_back(j);
    std::size_t g = 0;
    while (g < known.size() && known[g] != seen) ++g;
    if (g == known.size()) {
      known.push_back(seen);
      const Eigen::Index size = static_cast<Eigen::Index>(seen.size());
      Matrix inverse = Matrix::Zero(p, p);
      add_seen(inverse, seen_part(covariance, seen).llt().solve(Matrix::Identity(size, size)), seen);
      out.inverses.push_back(inverse);
    }
    Vector apart = Vector::Zero(p);
    for (Eigen::Index j : seen) apart(j) = x(i, j) - mean(j);
    out.solved.row(i) = (out.inverses[g] * apart).transpose();
    out.pattern[i] = static_cast<Eigen::Index>(g);
  }
  return out;
}

}  // namespace

Matrix case_gradients(const Structure& structure, const MatrixRef& x, const VectorRef& theta) {
  const Implied implied = imply(fill(structure, theta));
  const Derivatives d = derivatives(structure, implied);
  const CaseParts parts = case_parts(x, implied.covariance, implied.mean);
  const Matrix yu = parts.solved * d.u, yv = parts.solved * d.v;
  Matrix expected(d.weight.size(), static_cast<Eigen::Index>(parts.inverses.size()));
  for (std::size_t g = 0; g < parts.inverses.size(); ++g)
    expected.col(static_cast<Eigen::Index>(g)) = (parts.inverses[g] * d.v).cwiseProduct(d.u).colwise().sum().transpose();
  Matrix out = Matrix::Zero(x.rows(), structure.parameters);
  for (Eigen::Index k = 0; k < d.weight.size(); ++k) {
    const int free = structure.cells[k].free;
    if (free < 0) continue;
    for (Eigen::Index i = 0; i < x.rows(); ++i)
      out(i, free) += 2.0 * d.weight(k) * (expected(k, parts.pattern[i]) - yu(i, k) * yv(i, k));
    if (structure.means) out.col(free) -= 2.0 * parts.solved * d.mean.col(k);
  }
  return out;
}

Matrix saturated_case_gradients(const MatrixRef& x, const Matrix& covariance, const Vector& mean) {
  const Eigen::Index n = x.rows(), p = x.cols();
  const CaseParts parts = case_parts(x, covariance, mean);
  Matrix out(n, p + p * (p + 1) / 2);
  out.leftCols(p) = -2.0 * parts.solved;
  Eigen::Index k = p;
  for (Eigen::Index a = 0; a < p; ++a)
    for (Eigen::Index b = a; b < p; ++b, ++k)
      for (Eigen::Index i = 0; i < n; ++i)
        out(i, k) = (a == b ? 1.0 : 2.0) *
                    (parts.inverses[parts.pattern[i]](b, a) - parts.solved(i, a) * parts.solved(i, b));
  return out;
}

}  // namespace scalewort
