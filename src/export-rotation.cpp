#include <RcppEigen.h>
#include "core/rotation.h"

// [[Rcpp::export(name = "kernel_rotate")]]
Rcpp::List export_rotate(const Eigen::Map<Eigen::MatrixXd> a, int criterion, double parameter,
                         bool oblique, int starts, double seed) {
  scalewort::RotationOptions options;
  options.criterion = static_cast<scalewort::Criterion>(criterion);
  options.parameter = parameter;
  options.oblique = oblique;
  options.starts = starts;
  options.seed = static_cast<std::uint64_t>(seed);
  const scalewort::Rotation out = scalewort::rotate(a, options);
  return Rcpp::List::create(Rcpp::_["status"] = static_cast<int>(out.status),
                            Rcpp::_["loadings"] = out.loadings,
                            Rcpp::_["correlations"] = out.correlations,
                            Rcpp::_["transform"] = out.transform, Rcpp::_["value"] = out.value,
                            Rcpp::_["values"] = Rcpp::NumericVector(Rcpp::wrap(out.values)),
                            Rcpp::_["iterations"] = out.iterations,
                            Rcpp::_["gradient_norm"] = out.gradient_norm);
}

// [[Rcpp::export(name = "kernel_criterion")]]
Rcpp::List export_criterion(const Eigen::Map<Eigen::MatrixXd> pattern, int criterion,
                            double parameter) {
  Eigen::MatrixXd gradient;
  const double value = scalewort::criterion_value(
      pattern, static_cast<scalewort::Criterion>(criterion), parameter, gradient);
  return Rcpp::List::create(Rcpp::_["value"] = value, Rcpp::_["gradient"] = gradient);
}
