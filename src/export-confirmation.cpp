#include <RcppEigen.h>
#include "core/confirmation.h"

namespace {

// cells: a data frame's columns part, row, column (from 1), free (from 1, 0
// when fixed) and value, as built by R/core-structure.R.
scalewort::Structure as_structure(const Rcpp::List& cells, int items, int factors) {
  const Rcpp::IntegerVector part = cells["part"], row = cells["row"], column = cells["column"],
                            free = cells["free"];
  const Rcpp::NumericVector value = cells["value"];
  scalewort::Structure out{items, factors, {}, 0};
  out.cells.reserve(part.size());
  for (R_xlen_t i = 0; i < part.size(); ++i) {
    out.cells.push_back({static_cast<scalewort::Part>(part[i]), row[i] - 1, column[i] - 1,
                         free[i] - 1, value[i]});
    out.parameters = std::max(out.parameters, free[i]);
  }
  return out;
}

}  // namespace

// [[Rcpp::export(name = "kernel_fit_structure")]]
Rcpp::List export_fit_structure(Rcpp::List cells, int items, int factors,
                                const Eigen::Map<Eigen::MatrixXd> s,
                                const Eigen::Map<Eigen::VectorXd> start, double tolerance,
                                int max_iterations) {
  scalewort::FitOptions options;
  options.tolerance = tolerance;
  options.max_iterations = max_iterations;
  const scalewort::Fit out =
      scalewort::fit_structure(as_structure(cells, items, factors), s, start, options);
  return Rcpp::List::create(
      Rcpp::_["status"] = static_cast<int>(out.status),
      Rcpp::_["theta"] = Rcpp::NumericVector(Rcpp::wrap(out.theta)),
      Rcpp::_["discrepancy"] = out.discrepancy, Rcpp::_["implied"] = out.implied,
      Rcpp::_["expected_hessian"] = out.expected_hessian,
      Rcpp::_["gradient"] = Rcpp::NumericVector(Rcpp::wrap(out.gradient)),
      Rcpp::_["decrement"] = out.decrement, Rcpp::_["iterations"] = out.iterations);
}

// The discrepancy and its slopes at one theta, without fitting.
// [[Rcpp::export(name = "kernel_evaluate_structure")]]
Rcpp::List export_evaluate_structure(Rcpp::List cells, int items, int factors,
                                     const Eigen::Map<Eigen::MatrixXd> s,
                                     const Eigen::Map<Eigen::VectorXd> theta) {
  const scalewort::Structure structure = as_structure(cells, items, factors);
  const double log_det_s = std::log(s.determinant());
  const scalewort::Evaluation at = scalewort::evaluate(structure, s, log_det_s, theta);
  if (!at.defined)
    return Rcpp::List::create(Rcpp::_["defined"] = false,
                              Rcpp::_["implied"] = at.implied.covariance);
  const scalewort::Slope slope = scalewort::slope(structure, s, at);
  return Rcpp::List::create(
      Rcpp::_["defined"] = true, Rcpp::_["discrepancy"] = at.discrepancy,
      Rcpp::_["implied"] = at.implied.covariance,
      Rcpp::_["gradient"] = Rcpp::NumericVector(Rcpp::wrap(slope.gradient)),
      Rcpp::_["expected_hessian"] = slope.expected_hessian);
}

// candidates: a data frame of cells, all fixed.
// [[Rcpp::export(name = "kernel_score_tests")]]
Rcpp::List export_score_tests(Rcpp::List cells, int items, int factors,
                              const Eigen::Map<Eigen::MatrixXd> s,
                              const Eigen::Map<Eigen::VectorXd> theta, Rcpp::List candidates) {
  const scalewort::ScoreTests out =
      scalewort::score_tests(as_structure(cells, items, factors), s, theta,
                             as_structure(candidates, items, factors).cells);
  return Rcpp::List::create(Rcpp::_["slope"] = Rcpp::NumericVector(Rcpp::wrap(out.slope)),
                            Rcpp::_["curvature"] = Rcpp::NumericVector(Rcpp::wrap(out.curvature)));
}
