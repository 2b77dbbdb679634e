#include <RcppEigen.h>
#include "core/extraction.h"
#include "core/greatest_bound.h"
#include "core/parallel.h"

namespace {

scalewort::ExtractionOptions extraction_options(const Rcpp::List& search) {
  scalewort::ExtractionOptions options;
  options.method = scalewort::method_named(Rcpp::as<std::string>(search["method"]));
  options.lower_bound = search["lower_bound"];
  options.tolerance = search["tolerance"];
  options.max_iterations = search["max_iterations"];
  if (search.containsElementNamed("last_step")) options.last_step = search["last_step"];
  return options;
}

Rcpp::List list_of_extraction(const scalewort::Extraction& out) {
  return Rcpp::List::create(
      Rcpp::_["status"] = scalewort::name_of(out.status),
      Rcpp::_["discrepancy"] = out.discrepancy,
      Rcpp::_["uniqueness"] = Rcpp::NumericVector(Rcpp::wrap(out.uniqueness)),
      Rcpp::_["loadings"] = out.loadings, Rcpp::_["iterations"] = out.iterations,
      Rcpp::_["largest_gradient"] = out.largest_gradient);
}

}  // namespace

// start: p unique variances, or none. search: method (its name), lower_bound, tolerance, max_iterations; last_step or not.
// [[Rcpp::export(name = "kernel_extract")]]
Rcpp::List export_extract(const Eigen::Map<Eigen::MatrixXd> r, int m, Rcpp::NumericVector start, Rcpp::List search) {
  const Eigen::VectorXd first = Rcpp::as<Eigen::VectorXd>(start);
  return list_of_extraction(scalewort::extract(r, m, first.size() == r.rows() ? &first : nullptr, extraction_options(search)));
}

// The same of several matrices from one start, shared among threads.
// [[Rcpp::export(name = "kernel_extract_each")]]
Rcpp::List export_extract_each(const Rcpp::List matrices, int m, const Eigen::VectorXd start, Rcpp::List search) {
  const scalewort::ExtractionOptions options = extraction_options(search);
  std::vector<Eigen::MatrixXd> r;
  for (R_xlen_t i = 0; i < matrices.size(); ++i) r.push_back(Rcpp::as<Eigen::MatrixXd>(matrices[i]));
  std::vector<scalewort::Extraction> found(r.size());
  scalewort::share(static_cast<Eigen::Index>(r.size()), 1, threads_to_use(), [&](Eigen::Index i, Eigen::Index) {
    found[i] = scalewort::extract(r[i], m, start.size() == r[i].rows() ? &start : nullptr, options);
  });
  Rcpp::List out(r.size());
  for (std::size_t i = 0; i < found.size(); ++i) out[i] = list_of_extraction(found[i]);
  return out;
}

// [[Rcpp::export(name = "kernel_discrepancy")]]
Rcpp::List export_discrepancy(const Eigen::Map<Eigen::MatrixXd> r, int m, const std::string& method,
                              const Eigen::Map<Eigen::VectorXd> x) {
  Eigen::VectorXd gradient;
  Eigen::MatrixXd hessian;
  const double value = scalewort::discrepancy(r, m, scalewort::method_named(method), x,
                                              gradient, hessian);
  return Rcpp::List::create(Rcpp::_["value"] = value,
                            Rcpp::_["gradient"] = Rcpp::NumericVector(Rcpp::wrap(gradient)),
                            Rcpp::_["hessian"] = hessian);
}

// [[Rcpp::export(name = "kernel_greatest_bound")]]
double export_greatest_bound(const Eigen::Map<Eigen::MatrixXd> r, const Eigen::Map<Eigen::VectorXd> weight, double smallest, double gap) {
  return scalewort::greatest_bound(r, weight, smallest, gap);
}
