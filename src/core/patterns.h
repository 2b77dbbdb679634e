// Incomplete answers by pattern: what is seen of a covariance matrix, and the likelihood.
#pragma once
#include <vector>
#include "parallel.h"
#include "types.h"

namespace scalewort {

// Cases of one group that miss the same items: how many (or the sum of their weights), which
// items they have, means and covariances (divisor n) of those, and whether there are several cases.
struct Pattern {
  double n;
  std::vector<Eigen::Index> seen;
  Vector mean;
  Matrix covariance;
  bool spread;
};

using Patterns = std::vector<Pattern>;

// The patterns of x (cases x items, NaN where missing, each case with an answer), most frequent first, of equally frequent ones those
// that miss less, then those that miss later items; weight: of the cases, or null for one each. `cases`: how many each stands for.
struct Gathered {
  Patterns patterns;
  std::vector<Eigen::Index> cases;
};
Gathered gather_patterns(const MatrixRef& x, const double* weight, int threads);

// Minus twice the log-likelihood per case, without its constant, at any moments of one group, with slopes tr(W D) and w'd along them.
struct PatternLikelihood {
  bool defined;
  double value;
  Matrix along_covariance;
  Vector along_mean;
};
PatternLikelihood pattern_likelihood(const Patterns& patterns, const Matrix& covariance,
                                     const Vector& mean, int threads);

using Seen = std::vector<Eigen::Index>;

Matrix seen_part(const Matrix& whole, const Seen& seen);
Vector seen_part(const Vector& whole, const Seen& seen);
void add_seen(Matrix& whole, const Matrix& part, const Seen& seen);
void add_seen(Vector& whole, const Vector& part, const Seen& seen);
double sum_of_cases(const std::vector<Patterns>& groups);

// The inverse of the covariances, whole, and what it becomes where items are missing: with
// root = inv(chol(P_mm)) P_m., the inverse over the items seen, filled up with zeros, is
// P - root' root, and its determinant follows from that of P_mm.
struct Whole {
  bool defined;
  Matrix inverse;
  double log_determinant;  // of the covariances
};

Whole whole_of(const Matrix& covariance);

struct PatternPart {
  Matrix root;             // missing items x p
  Vector apart;            // p: sample less implied means, 0 where missing
  Vector pulled;           // inverse times apart
  double log_determinant;  // of the covariances seen
};

PatternPart part_of(const Whole& whole, const Pattern& pattern, const Vector& mean);

// The inverse over the items seen, filled up with zeros, for patterns of several cases.
Matrix filled_inverse(const Whole& whole, const PatternPart& part);
Matrix filled_up(const Matrix& part, const Seen& seen, Eigen::Index p);

// Work on the patterns in at most this many batches, each with sums of its own, so that the
// result does not depend on the number of threads.
constexpr Eigen::Index batches = 16;

template <class Sums, class Work>
std::vector<Sums> by_batch(Eigen::Index count, int threads, const Sums& zero, Work work) {
  const Eigen::Index size = std::max<Eigen::Index>(1, (count + batches - 1) / batches);
  const Eigen::Index used = (count + size - 1) / size;
  std::vector<Sums> out(used, zero);
  share(used, 1, threads, [&](Eigen::Index b, Eigen::Index) {
    for (Eigen::Index g = b * size; g < std::min(count, (b + 1) * size); ++g) work(g, out[b]);
  });
  return out;
}

}  // namespace scalewort
