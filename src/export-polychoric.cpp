#include <RcppEigen.h>
#include "columns-of-r.h"
#include "core/codes.h"
#include "core/normal.h"
#include "core/polychoric.h"

namespace {

Rcpp::List list_of(const std::vector<Eigen::VectorXd>& vectors) {
  Rcpp::List out;
  for (const Eigen::VectorXd& x : vectors)
    out.push_back(Rcpp::NumericVector(x.data(), x.data() + x.size()));
  return out;
}

}  // namespace

// columns: list of integer vectors, keyed by shift and sign; keep: NULL or logical.
// status too_few_cases or too_many_categories ends early, without correlations.
// [[Rcpp::export(name = "kernel_polychoric")]]
Rcpp::List export_polychoric(Rcpp::List columns, Rcpp::NumericVector shift,
                             Rcpp::NumericVector sign, Rcpp::RObject keep, bool complete, int most,
                             double empty_cell, int threads, bool with_covariance) {
  R_xlen_t rows = 0;
  const std::vector<scalewort::Column> cells = as_columns(columns, shift, sign, rows);
  const int workers = threads_to_use(threads);
  const scalewort::Coded coded =
      scalewort::code_columns(cells, rows, flags_or_null(keep), complete, most, workers);
  Rcpp::List list = Rcpp::List::create(
      Rcpp::_["status"] = static_cast<int>(coded.status), Rcpp::_["values"] = list_of(coded.values));
  if (coded.status != scalewort::Status::ok) return list;
  list["cases"] = static_cast<double>(coded.cases());
  if (coded.categories().minCoeff() < 2) return list;
  scalewort::PolychoricOptions options;
  options.empty_cell = empty_cell;
  options.threads = workers;
  const scalewort::Polychoric out =
      scalewort::polychoric(coded.codes, coded.categories(), options);
  list["r"] = out.r;
  list["std_error"] = out.std_error;
  list["n"] = out.n;
  list["state"] = out.state;
  list["thresholds"] = list_of(out.thresholds);
  if (with_covariance)
    list["covariance"] = scalewort::polychoric_covariance(coded.codes, coded.categories(), out);
  return list;
}

// P(X < h, Y < k), vectorised.
// [[Rcpp::export(name = "kernel_bivariate_normal")]]
Rcpp::NumericVector export_bivariate_normal(Rcpp::NumericVector h, Rcpp::NumericVector k,
                                            Rcpp::NumericVector r) {
  Rcpp::NumericVector out(h.size());
  for (R_xlen_t i = 0; i < h.size(); ++i)
    out[i] = scalewort::bivariate_normal_cdf(h[i], k[i], r[i]);
  return out;
}
