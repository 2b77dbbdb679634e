#include <Rcpp.h>

// References that do not keep what they refer to: `value` is there as long as something else holds `key`.
// [[Rcpp::export(name = "weak_reference")]]
SEXP export_weak_reference(SEXP key, SEXP value) { return R_MakeWeakRef(key, value, R_NilValue, FALSE); }

// [[Rcpp::export(name = "weak_key")]]
SEXP export_weak_key(SEXP reference) { return R_WeakRefKey(reference); }

// [[Rcpp::export(name = "weak_value")]]
SEXP export_weak_value(SEXP reference) { return R_WeakRefValue(reference); }
