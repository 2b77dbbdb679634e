#include <RcppEigen.h>
#include "columns-of-r.h"
#include "core/composites.h"

namespace {

// items: positions (from 1) of each composite; leads: k x k of 0 and 1.
scalewort::Blocks as_blocks(const Rcpp::List& items, const Rcpp::LogicalVector& regress, const Eigen::MatrixXi& leads, int scheme) {
  scalewort::Blocks out;
  for (R_xlen_t i = 0; i < items.size(); ++i) {
    std::vector<Eigen::Index> own;
    for (int item : Rcpp::as<std::vector<int>>(items[i])) own.push_back(item - 1);
    out.items.push_back(own);
    out.regress.push_back(regress[i]);
  }
  out.leads = leads;
  out.scheme = static_cast<scalewort::Scheme>(scheme);
  return out;
}

}  // namespace

// [[Rcpp::export(name = "kernel_composites")]]
Rcpp::List export_composites(const Eigen::Map<Eigen::MatrixXd> r, Rcpp::List items, Rcpp::LogicalVector regress,
                             const Eigen::MatrixXi& leads, int scheme, double tolerance, int max_iterations) {
  const scalewort::Composites out =
      scalewort::block_weights(r, as_blocks(items, regress, leads, scheme), tolerance, max_iterations);
  return Rcpp::List::create(Rcpp::_["converged"] = out.converged, Rcpp::_["weight"] = out.weight,
                            Rcpp::_["iterations"] = out.iterations);
}

// covariances: items^2 x count.
// [[Rcpp::export(name = "kernel_replicate_composites")]]
Eigen::MatrixXd export_replicate_composites(const Eigen::Map<Eigen::MatrixXd> covariances, int p, Rcpp::List items,
                                            Rcpp::LogicalVector regress, const Eigen::MatrixXi& leads, int scheme,
                                            double tolerance, int max_iterations, int threads) {
  return scalewort::replicate_weights(covariances, as_blocks(items, regress, leads, scheme), p, tolerance,
                                      max_iterations, threads_to_use(threads));
}
