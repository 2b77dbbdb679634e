#include "person_resample.h"
#include "product.h"

namespace scalewort {

namespace {

// Steele, Lea & Flood (2014): a sequence of numbers from any start.
std::uint64_t next_number(std::uint64_t& state) {
  std::uint64_t z = (state += 0x9e3779b97f4a7c15ULL);
  z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
  z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
  return z ^ (z >> 31);
}

// Shares of a Poisson variate of mean one that are 0, at most 1, at most 2, ..., as parts of 2^32.
struct PoissonSteps {
  std::uint32_t at[12];
  PoissonSteps() {
    double share = 0.36787944117144233, sum = 0.0;
    for (int k = 0; k < 12; ++k) {
      sum += share;
      at[k] = static_cast<std::uint32_t>(std::min(sum, 1.0) * 4294967295.0);
      share /= k + 1;
    }
  }
  int count(std::uint32_t u) const {
    int k = 0;
    while (k < 12 && u > at[k]) ++k;
    return k;
  }
};

std::uint64_t start_of(std::uint64_t person, std::uint64_t seed) {
  std::uint64_t state = person ^ (seed * 0xd1342543de82ef95ULL);
  return next_number(state);
}

}  // namespace

std::uint64_t number_of_text(const std::string& text) {
  std::uint64_t hash = 0xcbf29ce484222325ULL;
  for (unsigned char letter : text) hash = (hash ^ letter) * 0x100000001b3ULL;
  return hash;
}

Matrix person_weights(const std::vector<std::uint64_t>& people, std::uint64_t seed, Eigen::Index replicates) {
  static const PoissonSteps steps;
  Matrix out(static_cast<Eigen::Index>(people.size()), replicates);
  for (Eigen::Index i = 0; i < out.rows(); ++i) {
    std::uint64_t state = start_of(people[i], seed);
    for (Eigen::Index b = 0; b < replicates; b += 2) {
      const std::uint64_t two = next_number(state);
      out(i, b) = steps.count(static_cast<std::uint32_t>(two));
      if (b + 1 < replicates) out(i, b + 1) = steps.count(static_cast<std::uint32_t>(two >> 32));
    }
  }
  return out;
}

// Another number than the replicates begin with.
IndexVector person_groups(const std::vector<std::uint64_t>& people, std::uint64_t seed, Eigen::Index groups) {
  IndexVector out(static_cast<Eigen::Index>(people.size()));
  for (Eigen::Index i = 0; i < out.size(); ++i) {
    std::uint64_t state = ~start_of(people[i], seed);
    out(i) = static_cast<int>(next_number(state) % static_cast<std::uint64_t>(groups));
  }
  return out;
}

void add_person_resamples(const MatrixRef& x, const std::vector<std::uint64_t>& people, std::uint64_t seed, Eigen::Index replicates,
                          Eigen::Index groups, Matrix& sums, int threads) {
  constexpr Eigen::Index at_once = 1024;
  const Eigen::Index p = x.cols();
  for (Eigen::Index first = 0; first < x.rows(); first += at_once) {
    const Eigen::Index size = std::min(at_once, x.rows() - first);
    const auto block = x.middleRows(first, size);
    Matrix terms(size, 1 + p + p * (p + 1) / 2);
    terms.col(0).setOnes();
    terms.middleCols(1, p) = block;
    Eigen::Index at = p + 1;
    for (Eigen::Index j = 0; j < p; ++j)
      for (Eigen::Index k = j; k < p; ++k, ++at) terms.col(at) = block.col(j).cwiseProduct(block.col(k));
    Matrix weights = Matrix::Zero(size, replicates + groups);
    const std::vector<std::uint64_t> own(people.begin() + first, people.begin() + first + size);
    weights.leftCols(replicates) = person_weights(own, seed, replicates);
    const IndexVector group = person_groups(own, seed, groups);
    for (Eigen::Index i = 0; i < size; ++i) weights(i, replicates + group(i)) = 1.0;
    sums += shared_product(terms.transpose(), weights, threads);
  }
}

}  // namespace scalewort
