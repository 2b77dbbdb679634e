// What R hands over, as the core reads it.
#pragma once
#include <Rcpp.h>
#include <cstdlib>
#include <thread>
#include "core/columns.h"

// As many threads as wanted, at most one a core; 0: as many as the environment variable SCALEWORT_THREADS says, else one a core.
inline int threads_to_use(int wanted = 0) {
  const int cores = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  if (wanted <= 0) {
    const char* said = std::getenv("SCALEWORT_THREADS");
    wanted = said != nullptr && std::atoi(said) > 0 ? std::atoi(said) : cores;
  }
  return std::min(wanted, cores);
}

inline const int* flags_or_null(const Rcpp::RObject& keep) {
  return keep.isNULL() ? nullptr : LOGICAL(keep);
}

inline std::vector<scalewort::Column> as_columns(const Rcpp::List& columns,
                                                 const Rcpp::NumericVector& shift,
                                                 const Rcpp::NumericVector& sign, R_xlen_t& rows) {
  std::vector<scalewort::Column> out;
  rows = 0;
  for (R_xlen_t j = 0; j < columns.size(); ++j) {
    SEXP x = columns[j];
    rows = Rf_xlength(x);
    const bool whole = TYPEOF(x) == INTSXP;
    out.push_back({whole ? INTEGER(x) : nullptr, whole ? nullptr : REAL(x), shift[j], sign[j]});
  }
  return out;
}

// Lists of column numbers, which R counts from 1.
inline std::vector<std::vector<Eigen::Index>> column_lists(const Rcpp::List& lists) {
  std::vector<std::vector<Eigen::Index>> out;
  for (R_xlen_t k = 0; k < lists.size(); ++k) {
    std::vector<Eigen::Index> one;
    for (int column : Rcpp::as<std::vector<int>>(lists[k])) one.push_back(column - 1);
    out.push_back(one);
  }
  return out;
}
