#include <RcppEigen.h>
#include "columns-of-r.h"
#include "core/person_indices.h"
#include "structure-of-r.h"

namespace {

// NA where the core has no figure.
Rcpp::NumericVector known_or_na(const scalewort::Vector& x) {
  Rcpp::NumericVector out = plain(x);
  for (double& value : out)
    if (std::isnan(value)) value = NA_REAL;
  return out;
}

}  // namespace

// x in all of these: people x items, NA where an answer is missing. See core/person_indices.h.
// [[Rcpp::export(name = "kernel_longest_runs")]]
Rcpp::IntegerVector export_longest_runs(const Eigen::Map<Eigen::MatrixXd> x) {
  return Rcpp::wrap(scalewort::longest_runs(x, threads_to_use()));
}

// [[Rcpp::export(name = "kernel_person_spreads")]]
Rcpp::NumericVector export_person_spreads(const Eigen::Map<Eigen::MatrixXd> x) {
  return known_or_na(scalewort::person_spreads(x, threads_to_use()));
}

// [[Rcpp::export(name = "kernel_page_variances")]]
Rcpp::NumericVector export_page_variances(const Eigen::Map<Eigen::MatrixXd> x, Rcpp::List pages, const Eigen::Map<Eigen::VectorXd> width) {
  return known_or_na(scalewort::page_variances(x, column_lists(pages), width, threads_to_use()));
}

// [[Rcpp::export(name = "kernel_even_odd")]]
Rcpp::NumericVector export_even_odd(const Eigen::Map<Eigen::MatrixXd> x, Rcpp::List scales) {
  return known_or_na(scalewort::even_odd(x, column_lists(scales), threads_to_use()));
}

// [[Rcpp::export(name = "kernel_contradictions")]]
Rcpp::NumericVector export_contradictions(const Eigen::Map<Eigen::MatrixXd> x, Rcpp::List forward, Rcpp::List reversed,
                                          const Eigen::Map<Eigen::VectorXd> width) {
  return known_or_na(scalewort::contradictions(x, column_lists(forward), column_lists(reversed), width, threads_to_use()));
}

// [[Rcpp::export(name = "kernel_left_at_end")]]
Rcpp::IntegerVector export_left_at_end(const Eigen::Map<Eigen::MatrixXd> x) {
  return Rcpp::wrap(scalewort::left_at_end(x, threads_to_use()));
}

// list(distance, df: how many answers each has).
// [[Rcpp::export(name = "kernel_distances")]]
Rcpp::List export_distances(const Eigen::Map<Eigen::MatrixXd> x, const Eigen::Map<Eigen::VectorXd> mean,
                            const Eigen::Map<Eigen::MatrixXd> covariance) {
  Rcpp::IntegerVector df(x.rows());
  for (Eigen::Index j = 0; j < x.cols(); ++j)
    for (Eigen::Index i = 0; i < x.rows(); ++i) df[i] += !std::isnan(x(i, j));
  return Rcpp::List::create(Rcpp::_["distance"] = known_or_na(scalewort::distances(x, mean, covariance, threads_to_use())), Rcpp::_["df"] = df);
}
