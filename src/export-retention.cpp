#include <RcppEigen.h>
#include "core/retention.h"

namespace {
// Lets the user interrupt a long run; Rcpp turns the interrupt into a condition.
bool not_interrupted() {
  Rcpp::checkUserInterrupt();
  return true;
}
}  // namespace

// [[Rcpp::export(name = "kernel_random_eigenvalues")]]
Eigen::MatrixXd export_random_eigenvalues(int n, int p, int replicates, double seed,
                                          bool reduced) {
  return scalewort::random_eigenvalues(n, p, replicates, static_cast<std::uint64_t>(seed), reduced,
                                       not_interrupted);
}
