#include <RcppEigen.h>
#include "columns-of-r.h"
#include "core/composites.h"

namespace {

// blocks: items (positions from 1 of each composite), regress (mode B?), leads (k x k of 0 and 1), scheme (its
// name).
scalewort::Blocks as_blocks(const Rcpp::List& blocks) {
  const Rcpp::LogicalVector regress = blocks["regress"];
  scalewort::Blocks out;
  out.items = column_lists(blocks["items"]);
  out.regress.assign(regress.begin(), regress.end());
  out.leads = Rcpp::as<Eigen::MatrixXi>(blocks["leads"]);
  out.scheme = scalewort::scheme_named(Rcpp::as<std::string>(blocks["scheme"]));
  return out;
}

}  // namespace

// [[Rcpp::export(name = "kernel_composites")]]
Rcpp::List export_composites(const Eigen::Map<Eigen::MatrixXd> r, Rcpp::List blocks, Rcpp::List search) {
  const scalewort::Composites out =
      scalewort::block_weights(r, as_blocks(blocks), search["tolerance"], search["max_iterations"]);
  return Rcpp::List::create(Rcpp::_["converged"] = out.converged, Rcpp::_["weight"] = out.weight,
                            Rcpp::_["iterations"] = out.iterations);
}

// covariances: items^2 x count.
// [[Rcpp::export(name = "kernel_replicate_composites")]]
Eigen::MatrixXd export_replicate_composites(const Eigen::Map<Eigen::MatrixXd> covariances, Rcpp::List blocks,
                                            const Eigen::Map<Eigen::MatrixXd> reference, bool consistent, Rcpp::List search, int threads) {
  return scalewort::replicate_figures(covariances, as_blocks(blocks), reference, consistent, search["tolerance"],
                                      search["max_iterations"], threads_to_use(threads));
}
