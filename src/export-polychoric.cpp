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
// options: complete (only complete cases?), most (different answers), empty_cell (what one counts as), covariance
// (of the estimates?), threads. Another status than ok ends early, without correlations.
// [[Rcpp::export(name = "kernel_polychoric")]]
Rcpp::List export_polychoric(Rcpp::List columns, Rcpp::NumericVector shift,
                             Rcpp::NumericVector sign, Rcpp::RObject keep, Rcpp::List options) {
  R_xlen_t rows = 0;
  const std::vector<scalewort::Column> cells = as_columns(columns, shift, sign, rows);
  const int workers = threads_to_use(options["threads"]);
  const scalewort::Coded coded =
      scalewort::code_columns(cells, rows, flags_or_null(keep), options["complete"], options["most"], workers);
  Rcpp::List list = Rcpp::List::create(
      Rcpp::_["status"] = scalewort::name_of(coded.status), Rcpp::_["values"] = list_of(coded.values));
  if (coded.status != scalewort::Status::ok) return list;
  list["cases"] = static_cast<double>(coded.cases());
  if (coded.categories().minCoeff() < 2) {
    list["status"] = scalewort::name_of(scalewort::Status::constant_item);
    return list;
  }
  scalewort::PolychoricOptions how;
  how.empty_cell = options["empty_cell"];
  how.threads = workers;
  const scalewort::Polychoric out =
      scalewort::polychoric(coded.codes, coded.categories(), how);
  list["r"] = out.r;
  list["std_error"] = out.std_error;
  list["n"] = out.n;
  Rcpp::CharacterMatrix state(out.state.rows(), out.state.cols());
  for (Eigen::Index i = 0; i < out.state.size(); ++i) state[i] = scalewort::name_of(out.state(i));
  list["state"] = state;
  list["thresholds"] = list_of(out.thresholds);
  if (Rcpp::as<bool>(options["covariance"]))
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
