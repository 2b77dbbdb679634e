#include <RcppEigen.h>
#include <thread>
#include "core/covariance.h"

namespace {

int threads_to_use() {
  return std::max(1, std::min(2, static_cast<int>(std::thread::hardware_concurrency())));
}

const int* flags_or_null(const Rcpp::RObject& keep) {
  return keep.isNULL() ? nullptr : LOGICAL(keep);
}

}  // namespace

// columns: list of integer or double vectors of one length. keep: NULL or logical.
// [[Rcpp::export(name = "kernel_complete_moments")]]
Rcpp::List export_complete_moments(Rcpp::List columns, Rcpp::NumericVector shift,
                                   Rcpp::NumericVector sign, Rcpp::RObject keep) {
  std::vector<scalewort::Column> cells;
  R_xlen_t rows = 0;
  for (R_xlen_t j = 0; j < columns.size(); ++j) {
    SEXP x = columns[j];
    rows = Rf_xlength(x);
    const bool whole = TYPEOF(x) == INTSXP;
    cells.push_back({whole ? INTEGER(x) : nullptr, whole ? nullptr : REAL(x), shift[j], sign[j]});
  }
  const scalewort::Moments out =
      scalewort::complete_moments(cells, rows, flags_or_null(keep), threads_to_use());
  return Rcpp::List::create(Rcpp::_["status"] = static_cast<int>(out.status),
                            Rcpp::_["n"] = static_cast<double>(out.n),
                            Rcpp::_["mean"] = Rcpp::NumericVector(Rcpp::wrap(out.mean)),
                            Rcpp::_["covariance"] = out.covariance);
}

// The same for the columns of a matrix, which is not copied.
// [[Rcpp::export(name = "kernel_matrix_moments")]]
Rcpp::List export_matrix_moments(const Rcpp::NumericMatrix x) {
  std::vector<scalewort::Column> cells;
  for (int j = 0; j < x.ncol(); ++j)
    cells.push_back({nullptr, x.begin() + static_cast<R_xlen_t>(j) * x.nrow(), 0.0, 1.0});
  const scalewort::Moments out =
      scalewort::complete_moments(cells, x.nrow(), nullptr, threads_to_use());
  return Rcpp::List::create(Rcpp::_["status"] = static_cast<int>(out.status),
                            Rcpp::_["n"] = static_cast<double>(out.n),
                            Rcpp::_["mean"] = Rcpp::NumericVector(Rcpp::wrap(out.mean)),
                            Rcpp::_["covariance"] = out.covariance);
}

// x: integer vector. Returns counts of low..high, and how many are missing or
// outside.
// [[Rcpp::export(name = "kernel_tally")]]
Rcpp::List export_tally(Rcpp::IntegerVector x, int low, int high, Rcpp::RObject keep) {
  const scalewort::Tally out =
      scalewort::tally(x.begin(), x.size(), flags_or_null(keep), low, high);
  return Rcpp::List::create(Rcpp::_["counts"] = out.counts, Rcpp::_["missing"] = out.missing,
                            Rcpp::_["outside"] = out.outside);
}
