#include <RcppEigen.h>
#include <chrono>
#include "columns-of-r.h"
#include "core/interrupt.h"
#include "core/retention.h"

namespace {

void check_interrupt(void*) { R_CheckUserInterrupt(); }

// Asks R at most twenty times a second. R's own check would jump over C++ objects, so it is made
// where a jump ends, and Rcpp's condition thrown in its place.
bool user_asks_to_stop() {
  static auto last = std::chrono::steady_clock::now();
  const auto now = std::chrono::steady_clock::now();
  if (now - last < std::chrono::milliseconds(50)) return false;
  last = now;
  if (R_ToplevelExec(check_interrupt, nullptr) == FALSE) throw Rcpp::internal::InterruptedException();
  return false;
}

const bool question_is_set = (scalewort::set_stop_question(user_asks_to_stop), true);

}  // namespace

// [[Rcpp::export(name = "kernel_random_eigenvalues")]]
Eigen::MatrixXd export_random_eigenvalues(int n, int p, int replicates, double seed,
                                          bool reduced) {
  return scalewort::random_eigenvalues(n, p, replicates, static_cast<std::uint64_t>(seed), reduced, threads_to_use());
}

// seen: cases x items, 1 and 0. list(plain, reduced), replicates x items.
// [[Rcpp::export(name = "kernel_gapped_eigenvalues")]]
Rcpp::List export_gapped_eigenvalues(const Eigen::Map<Eigen::MatrixXd> seen, int replicates, double seed) {
  const scalewort::GappedEigenvalues out =
      scalewort::gapped_eigenvalues(seen, replicates, static_cast<std::uint64_t>(seed), threads_to_use());
  return Rcpp::List::create(Rcpp::_["plain"] = out.plain, Rcpp::_["reduced"] = out.reduced);
}
