#include <RcppEigen.h>
#include "columns-of-r.h"
#include "core/block_resample.h"
#include "core/person_resample.h"
#include "core/resample.h"

namespace {

std::vector<std::uint64_t> numbers_of(const Rcpp::CharacterVector& people) {
  std::vector<std::uint64_t> out;
  out.reserve(people.size());
  for (R_xlen_t i = 0; i < people.size(); ++i) out.push_back(scalewort::number_of_text(Rcpp::as<std::string>(people[i])));
  return out;
}

}  // namespace

// x: n x p, complete and centred. Counts of draws, n x count.
// [[Rcpp::export(name = "kernel_draw_counts")]]
Rcpp::IntegerMatrix export_draw_counts(int n, double seed, int first, int count) {
  Rcpp::IntegerMatrix out(n, count);
  std::vector<int> counts;
  for (int i = 0; i < count; ++i) {
    scalewort::draw_counts(n, static_cast<std::uint64_t>(seed), first + i, counts);
    std::copy(counts.begin(), counts.end(), out.begin() + static_cast<R_xlen_t>(i) * n);
  }
  return out;
}

// [[Rcpp::export(name = "kernel_replicate_moments")]]
Rcpp::List export_replicate_moments(const Eigen::Map<Eigen::MatrixXd> x, int first, int count,
                                    double seed, int threads) {
  const scalewort::ReplicateMoments out = scalewort::replicate_moments(
      x, first, count, static_cast<std::uint64_t>(seed), threads_to_use(threads));
  return Rcpp::List::create(Rcpp::_["means"] = out.means,
                            Rcpp::_["covariances"] = out.covariances);
}

// [[Rcpp::export(name = "kernel_replicate_reliability")]]
Eigen::MatrixXd export_replicate_reliability(const Eigen::Map<Eigen::MatrixXd> x, int replicates,
                                             double seed, int threads) {
  return scalewort::replicate_reliability(x, replicates, static_cast<std::uint64_t>(seed),
                                          threads_to_use(threads));
}

// blocks: list of column numbers from 1. k^2 x replicates.
// [[Rcpp::export(name = "kernel_replicate_block_sums")]]
Eigen::MatrixXd export_replicate_block_sums(const Eigen::Map<Eigen::MatrixXd> x, const Rcpp::List& blocks,
                                            int replicates, double seed, bool logarithms, int threads) {
  std::vector<std::vector<Eigen::Index>> places;
  for (R_xlen_t b = 0; b < blocks.size(); ++b) {
    places.emplace_back();
    for (int j : Rcpp::as<std::vector<int>>(blocks[b])) places.back().push_back(j - 1);
  }
  return scalewort::replicate_block_sums(x, places, replicates, static_cast<std::uint64_t>(seed), logarithms,
                                         threads_to_use(threads));
}

// cases: row numbers from 1.
// [[Rcpp::export(name = "kernel_jackknife_reliability")]]
Eigen::MatrixXd export_jackknife_reliability(const Eigen::Map<Eigen::MatrixXd> x,
                                             const Rcpp::IntegerVector& cases, int threads) {
  std::vector<Eigen::Index> rows;
  for (int i : cases) rows.push_back(i - 1);
  return scalewort::jackknife_reliability(x, rows, threads_to_use(threads));
}

// [[Rcpp::export(name = "kernel_reliability_figures")]]
Eigen::RowVectorXd export_reliability_figures(const Eigen::Map<Eigen::MatrixXd> x) {
  return scalewort::reliability_figures(x).transpose();
}

// Which group, from 1, each of these people falls into.
// [[Rcpp::export(name = "kernel_person_groups")]]
Rcpp::IntegerVector export_person_groups(const Rcpp::CharacterVector& people, double seed, int groups) {
  return Rcpp::wrap(Eigen::VectorXi(scalewort::person_groups(numbers_of(people), static_cast<std::uint64_t>(seed), groups).array() + 1));
}

// x: people x items, complete; people: texts that identify them. sums: what this function returned for the people before, NULL to begin with.
// [[Rcpp::export(name = "kernel_add_person_resamples")]]
Eigen::MatrixXd export_add_person_resamples(const Eigen::Map<Eigen::MatrixXd> x, const Rcpp::CharacterVector& people, double seed,
                                            int replicates, int groups, Rcpp::Nullable<Rcpp::NumericMatrix> sums) {
  const std::vector<std::uint64_t> numbers = numbers_of(people);
  const Eigen::Index p = x.cols();
  Eigen::MatrixXd out = sums.isNotNull() ? Rcpp::as<Eigen::MatrixXd>(sums.get())
                                         : Eigen::MatrixXd(Eigen::MatrixXd::Zero(1 + p + p * (p + 1) / 2, replicates + groups));
  scalewort::add_person_resamples(x, numbers, static_cast<std::uint64_t>(seed), replicates, groups, out, threads_to_use());
  return out;
}
