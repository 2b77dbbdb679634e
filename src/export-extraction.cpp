#include <RcppEigen.h>
#include "core/extraction.h"
#include "core/greatest_bound.h"

// start: p unique variances, or none. search: method (number of Method), lower_bound, tolerance, max_iterations.
// [[Rcpp::export(name = "kernel_extract")]]
Rcpp::List export_extract(const Eigen::Map<Eigen::MatrixXd> r, int m, Rcpp::NumericVector start, Rcpp::List search) {
  scalewort::ExtractionOptions options;
  options.method = static_cast<scalewort::Method>(Rcpp::as<int>(search["method"]));
  options.lower_bound = search["lower_bound"];
  options.tolerance = search["tolerance"];
  options.max_iterations = search["max_iterations"];
  const Eigen::VectorXd first = Rcpp::as<Eigen::VectorXd>(start);
  const scalewort::Extraction out =
      scalewort::extract(r, m, first.size() == r.rows() ? &first : nullptr, options);
  return Rcpp::List::create(
      Rcpp::_["status"] = scalewort::name_of(out.status),
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

// [[Rcpp::export(name = "kernel_greatest_bound")]]
double export_greatest_bound(const Eigen::Map<Eigen::MatrixXd> r, const Eigen::Map<Eigen::VectorXd> weight, double smallest, double gap) {
  return scalewort::greatest_bound(r, weight, smallest, gap);
}
