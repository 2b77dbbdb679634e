#include <RcppEigen.h>
#include "core/covariance.h"

// [[Rcpp::export(name = "kernel_complete_moments")]]
Rcpp::List export_complete_moments(const Eigen::Map<Eigen::MatrixXd> x) {
  const scalewort::Moments out = scalewort::complete_moments(x);
  return Rcpp::List::create(Rcpp::_["status"] = static_cast<int>(out.status),
                            Rcpp::_["n"] = static_cast<double>(out.n),
                            Rcpp::_["mean"] = Rcpp::NumericVector(Rcpp::wrap(out.mean)),
                            Rcpp::_["covariance"] = out.covariance);
}
