#include <RcppEigen.h>
#include "core/extraction.h"

// [[Rcpp::export(name = "kernel_extract_ml")]]
Rcpp::List export_extract_ml(const Eigen::Map<Eigen::MatrixXd> r, int m, double lower_bound,
                             double tolerance, int max_iterations) {
  scalewort::ExtractionOptions options;
  options.lower_bound = lower_bound;
  options.tolerance = tolerance;
  options.max_iterations = max_iterations;
  const scalewort::Extraction out = scalewort::extract_ml(r, m, options);
  return Rcpp::List::create(
      Rcpp::_["status"] = static_cast<int>(out.status),
      Rcpp::_["discrepancy"] = out.discrepancy,
      Rcpp::_["uniqueness"] = Rcpp::NumericVector(Rcpp::wrap(out.uniqueness)),
      Rcpp::_["loadings"] = out.loadings, Rcpp::_["iterations"] = out.iterations,
      Rcpp::_["largest_gradient"] = out.largest_gradient);
}

// [[Rcpp::export(name = "kernel_ml_discrepancy")]]
Rcpp::List export_ml_discrepancy(const Eigen::Map<Eigen::MatrixXd> r, int m,
                                 const Eigen::Map<Eigen::VectorXd> x) {
  Eigen::VectorXd gradient;
  Eigen::MatrixXd hessian;
  const double value = scalewort::ml_discrepancy(r, m, x, gradient, hessian);
  return Rcpp::List::create(Rcpp::_["value"] = value,
                            Rcpp::_["gradient"] = Rcpp::NumericVector(Rcpp::wrap(gradient)),
                            Rcpp::_["hessian"] = hessian);
}
