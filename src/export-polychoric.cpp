#include <RcppEigen.h>
#include <cmath>
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

void put_estimates(const scalewort::Polychoric& out, Rcpp::List& list) {
  list["r"] = out.r;
  list["std_error"] = out.std_error;
  list["n"] = out.n;
  Rcpp::CharacterMatrix state(out.state.rows(), out.state.cols());
  for (Eigen::Index i = 0; i < out.state.size(); ++i) state[i] = scalewort::name_of(out.state(i));
  list["state"] = state;
  list["thresholds"] = list_of(out.thresholds);
}

scalewort::Codes codes_of(const Rcpp::List& columns) {
  const Eigen::Index p = columns.size();
  const Eigen::Index n = p == 0 ? 0 : Rf_xlength(columns[0]);
  scalewort::Codes codes = scalewort::Codes::Zero(n, p);
  for (Eigen::Index j = 0; j < p; ++j) {
    const Rcpp::IntegerVector x(static_cast<SEXP>(columns[j]));
    for (Eigen::Index i = 0; i < n; ++i)
      codes(i, j) = static_cast<std::uint8_t>(x[i] == NA_INTEGER ? 0 : x[i]);
  }
  return codes;
}

scalewort::IndexVector sizes_of(const Rcpp::IntegerVector& categories) {
  scalewort::IndexVector out(categories.size());
  for (R_xlen_t j = 0; j < categories.size(); ++j) out(j) = categories[j];
  return out;
}

}  // namespace

// columns: list of integer vectors, keyed by shift and sign; keep: NULL or logical.
// Whole numbers as integers, what is not finite as missing; NULL where one is no integer.
// [[Rcpp::export(name = "kernel_whole_numbers")]]
SEXP export_whole_numbers(Rcpp::NumericVector x) {
  Rcpp::IntegerVector out(Rcpp::no_init(x.size()));
  for (R_xlen_t i = 0; i < x.size(); ++i) {
    if (!std::isfinite(x[i])) {
      out[i] = NA_INTEGER;
      continue;
    }
    if (std::abs(x[i]) >= 2147483648.0 || x[i] != std::nearbyint(x[i])) return R_NilValue;
    out[i] = static_cast<int>(x[i]);
  }
  return out;
}

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
  put_estimates(out, list);
  if (Rcpp::as<bool>(options["covariance"]))
    list["covariance"] = scalewort::polychoric_covariance(coded.codes, coded.categories(), out, static_cast<double>(coded.cases()), workers);
  return list;
}

// columns: list of whole numbers 1, ..., categories[j], NA where missing. list(items: counts, pairs: two-way tables by column of the lower triangle).
// [[Rcpp::export(name = "kernel_ordered_counts")]]
Rcpp::List export_ordered_counts(Rcpp::List columns, Rcpp::IntegerVector categories) {
  const scalewort::IndexVector sizes = sizes_of(categories);
  const scalewort::OrderedCounts counts = scalewort::ordered_counts(codes_of(columns), sizes, threads_to_use());
  Rcpp::List pairs(counts.pairs.size());
  for (std::size_t k = 0; k < counts.pairs.size(); ++k) pairs[k] = Rcpp::wrap(counts.pairs[k]);
  return Rcpp::List::create(Rcpp::_["items"] = list_of(counts.items), Rcpp::_["pairs"] = pairs);
}

// Influence of these cases on thresholds and correlations among `cases` in all, added to `sums` (list(sum, products), or NULL to begin with).
// columns: as above; estimate: list(thresholds, r, n) as kernel_polychoric_counts() gives it.
// [[Rcpp::export(name = "kernel_add_ordered_influence")]]
Rcpp::List export_add_ordered_influence(Rcpp::List columns, Rcpp::List estimate, double cases, Rcpp::Nullable<Rcpp::List> sums) {
  const Rcpp::List thresholds = estimate["thresholds"];
  scalewort::Polychoric found;
  found.r = Rcpp::as<Eigen::MatrixXd>(estimate["r"]);
  found.n = Rcpp::as<Eigen::MatrixXd>(estimate["n"]);
  scalewort::IndexVector categories(thresholds.size());
  for (R_xlen_t j = 0; j < thresholds.size(); ++j) {
    found.thresholds.push_back(Rcpp::as<Eigen::VectorXd>(thresholds[j]));
    categories(j) = static_cast<int>(found.thresholds.back().size()) + 1;
  }
  const scalewort::OrderedInfluence influence(categories, found, cases, threads_to_use());
  Eigen::VectorXd sum = Eigen::VectorXd::Zero(influence.size());
  Eigen::MatrixXd products = Eigen::MatrixXd::Zero(influence.size(), influence.size());
  if (sums.isNotNull()) {
    const Rcpp::List before(sums.get());
    sum = Rcpp::as<Eigen::VectorXd>(before["sum"]);
    products = Rcpp::as<Eigen::MatrixXd>(before["products"]);
  }
  influence.add(codes_of(columns), sum, products);
  return Rcpp::List::create(Rcpp::_["sum"] = sum, Rcpp::_["products"] = products);
}

// items: counts of each item's categories, pairs: two-way tables by column of the lower triangle, each category used.
// [[Rcpp::export(name = "kernel_polychoric_counts")]]
Rcpp::List export_polychoric_counts(Rcpp::List items, Rcpp::List pairs, double empty_cell) {
  scalewort::OrderedCounts counts;
  for (R_xlen_t j = 0; j < items.size(); ++j)
    counts.items.push_back(Rcpp::as<Eigen::VectorXd>(items[j]));
  for (R_xlen_t k = 0; k < pairs.size(); ++k)
    counts.pairs.push_back(Rcpp::as<Eigen::MatrixXd>(pairs[k]));
  scalewort::PolychoricOptions how;
  how.empty_cell = empty_cell;
  how.threads = threads_to_use();
  Rcpp::List list;
  put_estimates(scalewort::polychoric(counts, how), list);
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
