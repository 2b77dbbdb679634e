#include <RcppEigen.h>
#include "columns-of-r.h"
#include "core/covariance.h"
#include "core/product.h"
#include "core/totals.h"

static Rcpp::List list_of_moments(const scalewort::SampleMoments& found) {
  return Rcpp::List::create(Rcpp::_["status"] = scalewort::name_of(found.status), Rcpp::_["n"] = static_cast<double>(found.n),
                            Rcpp::_["mean"] = Rcpp::NumericVector(Rcpp::wrap(found.mean)), Rcpp::_["covariance"] = found.covariance);
}

// columns: list of integer or double vectors of one length. keep: NULL or logical.
// [[Rcpp::export(name = "kernel_complete_moments")]]
Rcpp::List export_complete_moments(Rcpp::List columns, Rcpp::NumericVector shift,
                                   Rcpp::NumericVector sign, Rcpp::RObject keep) {
  R_xlen_t rows = 0;
  const std::vector<scalewort::Column> cells = as_columns(columns, shift, sign, rows);
  return list_of_moments(scalewort::complete_moments(cells, rows, flags_or_null(keep), threads_to_use()));
}

// part: of each row, 1, ..., parts; a row with another number counts nowhere. A list of moments, without each part in turn.
// [[Rcpp::export(name = "kernel_moments_without_parts")]]
Rcpp::List export_moments_without_parts(Rcpp::List columns, Rcpp::NumericVector shift, Rcpp::NumericVector sign, Rcpp::IntegerVector part,
                                        int parts) {
  R_xlen_t rows = 0;
  const std::vector<scalewort::Column> cells = as_columns(columns, shift, sign, rows);
  Rcpp::List out;
  for (const scalewort::SampleMoments& one : scalewort::moments_without_parts(cells, rows, part.begin(), parts, threads_to_use()))
    out.push_back(list_of_moments(one));
  return out;
}

// Sums of a part of the rows added to those before. before: NULL at first, or what this returns: n, sum, products, centre (which is found in
// the first rows that are complete; before, n is 0 and centre empty).
// [[Rcpp::export(name = "kernel_add_moments")]]
Rcpp::List export_add_moments(Rcpp::List columns, Rcpp::NumericVector shift, Rcpp::NumericVector sign,
                              Rcpp::RObject keep, Rcpp::RObject before) {
  R_xlen_t rows = 0;
  const std::vector<scalewort::Column> cells = as_columns(columns, shift, sign, rows);
  const Eigen::Index p = static_cast<Eigen::Index>(cells.size());
  scalewort::MomentSums total{0, scalewort::Vector::Zero(p), scalewort::Matrix::Zero(p, p)};
  scalewort::Vector centre;
  if (!before.isNULL()) {
    const Rcpp::List old(before);
    centre = Rcpp::as<Eigen::VectorXd>(old["centre"]);
    total.n = static_cast<Eigen::Index>(Rcpp::as<double>(old["n"]));
    total.sum = Rcpp::as<Eigen::VectorXd>(old["sum"]);
    total.products = Rcpp::as<Eigen::MatrixXd>(old["products"]);
  }
  if (centre.size() == 0) centre = scalewort::provisional_mean(cells, rows, flags_or_null(keep));
  if (centre.size() > 0)
    scalewort::add_rows(cells, rows, flags_or_null(keep), centre, threads_to_use(), total);
  return Rcpp::List::create(Rcpp::_["n"] = static_cast<double>(total.n), Rcpp::_["sum"] = total.sum,
                            Rcpp::_["products"] = total.products, Rcpp::_["centre"] = centre);
}

// Moments of the sums of all parts.
// [[Rcpp::export(name = "kernel_moments_of")]]
Rcpp::List export_moments_of(Rcpp::List sums) {
  scalewort::MomentSums total{static_cast<Eigen::Index>(Rcpp::as<double>(sums["n"])),
                              Rcpp::as<Eigen::VectorXd>(sums["sum"]), Rcpp::as<Eigen::MatrixXd>(sums["products"])};
  scalewort::Vector centre = Rcpp::as<Eigen::VectorXd>(sums["centre"]);
  if (centre.size() == 0) centre = scalewort::Vector::Zero(total.sum.size());
  return list_of_moments(scalewort::moments_of(total, centre));
}

// sums: of the rows before, changed in their place, since they are large: those of the products of four deviations, then (finish) what these say
// of n rows with mean products own: the covariance matrix of products, times n.
// [[Rcpp::export(name = "kernel_add_fourth_products")]]
void export_add_fourth_products(const Eigen::Map<Eigen::MatrixXd> x, const Eigen::Map<Eigen::VectorXd> mean, Eigen::Map<Eigen::MatrixXd> sums) {
  scalewort::add_fourth_products(x, mean, sums, threads_to_use());
}

// [[Rcpp::export(name = "kernel_finish_fourth_products")]]
void export_finish_fourth_products(Eigen::Map<Eigen::MatrixXd> sums, double n, const Eigen::Map<Eigen::VectorXd> own) {
  for (Eigen::Index j = 0; j < sums.cols(); ++j)
    for (Eigen::Index i = j; i < sums.rows(); ++i) sums(j, i) = sums(i, j) = sums(i, j) / n - own(i) * own(j);
}

// The same for the columns of a matrix, which is not copied.
// [[Rcpp::export(name = "kernel_matrix_moments")]]
Rcpp::List export_matrix_moments(const Rcpp::NumericMatrix x) {
  std::vector<scalewort::Column> cells;
  for (int j = 0; j < x.ncol(); ++j)
    cells.push_back({nullptr, x.begin() + static_cast<R_xlen_t>(j) * x.nrow(), 0.0, 1.0});
  return list_of_moments(scalewort::complete_moments(cells, x.nrow(), nullptr, threads_to_use()));
}

// x: integer vector. Returns counts of low..high, and how many are missing or
// outside.
// [[Rcpp::export(name = "kernel_tally")]]
Rcpp::List export_tally(Rcpp::RObject x, int low, int high, Rcpp::RObject keep) {
  const R_xlen_t rows = Rf_xlength(x);
  const scalewort::Tally out = TYPEOF(x) == INTSXP ? scalewort::tally(INTEGER(x), rows, flags_or_null(keep), low, high)
                                                   : scalewort::tally(REAL(x), rows, flags_or_null(keep), low, high);
  return Rcpp::List::create(Rcpp::_["counts"] = out.counts, Rcpp::_["missing"] = out.missing,
                            Rcpp::_["outside"] = out.outside);
}

// Totals of complete rows: value, n, and sum and sum of squares of the odd-even gap.
// [[Rcpp::export(name = "kernel_tally_totals")]]
Rcpp::List export_tally_totals(Rcpp::List columns, Rcpp::NumericVector shift,
                               Rcpp::NumericVector sign, Rcpp::RObject keep) {
  R_xlen_t rows = 0;
  const std::vector<scalewort::Column> cells = as_columns(columns, shift, sign, rows);
  std::vector<double> total, n, gap, gap_squared;
  for (const auto& entry : scalewort::tally_totals(cells, rows, flags_or_null(keep), threads_to_use())) {
    total.push_back(entry.first);
    n.push_back(entry.second.n);
    gap.push_back(entry.second.gap);
    gap_squared.push_back(entry.second.gap_squared);
  }
  return Rcpp::List::create(Rcpp::_["total"] = total, Rcpp::_["n"] = n, Rcpp::_["gap"] = gap,
                            Rcpp::_["gap_squared"] = gap_squared);
}
