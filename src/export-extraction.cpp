#include <RcppEigen.h>
#include "core/extraction.h"

// method: 0 ml, 1 minres, 2 gls, 3 paf, 4 alpha. start: p unique variances, or none.
// [[Rcpp::export(name = "kernel_extract")]]
Rcpp::List export_extract(const Eigen::Map<Eigen::MatrixXd> r, int m, int method,
                          Rcpp::NumericVector start, double lower_bound, double tolerance,
                          int max_iterations) {
  scalewort::ExtractionOptions options;
  options.method = static_cast<scalewort::Method>(method);
  options.lower_bound = lower_bound;
  options.tolerance = tolerance;
  options.max_iterations = max_iterations;
  const Eigen::VectorXd first = Rcpp::as<Eigen::VectorXd>(start);
  const scalewort::Extraction out =
      scalewort::extract(r, m, first.size() == r.rows() ? &first : nullptr, options);
  return Rcpp::List::create(
      Rcpp::_["status"] = static_cast<int>(out.status),
      Rcpp::_["discrepancy"] = out.discrepancy,
      Rcpp::_["uniqueness"] = Rcpp::NumericVector(Rcpp::wrap(out.uniqueness)),
      Rcpp::_["loadings"] = out.loadings, Rcpp::_["iterations"] = out.iterations,
      Rcpp::_["largest_gradient"] = out.largest_gradient);
}

// [[Rcpp::export(name = "kernel_discrepancy")]]
Rcpp::List export_discrepancy(const Eigen::Map<Eigen::MatrixXd> r, int m, int method,
                              const Eigen::Map<Eigen::VectorXd> x) {
  Eigen::VectorXd gradient;
  Eigen::MatrixXd hessian;
  const double value = scalewort::discrepancy(r, m, static_cast<scalewort::Method>(method), x,
                                              gradient, hessian);
  return Rcpp::List::create(Rcpp::_["value"] = value,
                            Rcpp::_["gradient"] = Rcpp::NumericVector(Rcpp::wrap(gradient)),
                            Rcpp::_["hessian"] = hessian);
}
