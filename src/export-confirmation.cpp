#include <RcppEigen.h>
#include "columns-of-r.h"
#include "core/confirmation.h"
#include "core/fiml.h"

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

// patterns: a list of list(n, seen (from 1), mean, covariance).
std::vector<scalewort::Pattern> as_patterns(const Rcpp::List& patterns) {
  std::vector<scalewort::Pattern> out;
  for (R_xlen_t i = 0; i < patterns.size(); ++i) {
    const Rcpp::List one = patterns[i];
    scalewort::Pattern pattern;
    pattern.n = Rcpp::as<double>(one["n"]);
    for (int item : Rcpp::as<std::vector<int>>(one["seen"])) pattern.seen.push_back(item - 1);
    pattern.mean = Rcpp::as<Eigen::VectorXd>(one["mean"]);
    pattern.covariance = Rcpp::as<Eigen::MatrixXd>(one["covariance"]);
    out.push_back(pattern);
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

// The quadratic form of each row of x in m: diag(x m x').
// [[Rcpp::export(name = "kernel_row_forms")]]
Rcpp::NumericVector export_row_forms(const Eigen::Map<Eigen::MatrixXd> x,
                                     const Eigen::Map<Eigen::MatrixXd> m) {
  const Eigen::VectorXd out = (x * m).cwiseProduct(x).rowwise().sum();
  return Rcpp::NumericVector(out.data(), out.data() + out.size());
}

// [[Rcpp::export(name = "kernel_structure_jacobian")]]
Eigen::MatrixXd export_structure_jacobian(Rcpp::List cells, int items, int factors,
                                          const Eigen::Map<Eigen::VectorXd> theta) {
  return scalewort::jacobian(as_structure(cells, items, factors), theta);
}

// [[Rcpp::export(name = "kernel_fit_incomplete")]]
Rcpp::List export_fit_incomplete(Rcpp::List cells, int items, int factors, Rcpp::List patterns,
                                 const Eigen::Map<Eigen::VectorXd> start, double tolerance,
                                 int max_iterations, int threads) {
  const scalewort::IncompleteFit out =
      scalewort::fit_incomplete(as_structure(cells, items, factors), as_patterns(patterns), start,
                                tolerance, max_iterations, threads_to_use(threads));
  return Rcpp::List::create(
      Rcpp::_["status"] = static_cast<int>(out.status),
      Rcpp::_["theta"] = Rcpp::NumericVector(Rcpp::wrap(out.theta)),
      Rcpp::_["mean"] = Rcpp::NumericVector(Rcpp::wrap(out.mean)), Rcpp::_["value"] = out.value,
      Rcpp::_["implied"] = out.implied, Rcpp::_["observed_hessian"] = out.observed_hessian,
      Rcpp::_["gradient"] = Rcpp::NumericVector(Rcpp::wrap(out.gradient)),
      Rcpp::_["decrement"] = out.decrement, Rcpp::_["iterations"] = out.iterations);
}

// Minus twice the log-likelihood per case, without its constant, and its gradient.
// [[Rcpp::export(name = "kernel_incomplete_value")]]
Rcpp::List export_incomplete_value(Rcpp::List cells, int items, int factors, Rcpp::List patterns,
                                   const Eigen::Map<Eigen::VectorXd> theta) {
  Eigen::VectorXd gradient;
  const double value = scalewort::incomplete_value(as_structure(cells, items, factors),
                                                   as_patterns(patterns), theta, gradient);
  return Rcpp::List::create(Rcpp::_["value"] = value,
                            Rcpp::_["gradient"] = Rcpp::NumericVector(Rcpp::wrap(gradient)));
}

// The same at any covariance matrix, with the means that go with it.
// [[Rcpp::export(name = "kernel_pattern_likelihood")]]
Rcpp::List export_pattern_likelihood(Rcpp::List patterns, const Eigen::MatrixXd& covariance) {
  const scalewort::PatternLikelihood out =
      scalewort::pattern_likelihood(as_patterns(patterns), covariance, threads_to_use());
  return Rcpp::List::create(Rcpp::_["defined"] = out.defined, Rcpp::_["value"] = out.value,
                            Rcpp::_["mean"] = Rcpp::NumericVector(Rcpp::wrap(out.mean)));
}

// [[Rcpp::export(name = "kernel_incomplete_score_tests")]]
Rcpp::List export_incomplete_score_tests(Rcpp::List cells, int items, int factors,
                                         Rcpp::List patterns,
                                         const Eigen::Map<Eigen::VectorXd> theta,
                                         Rcpp::List candidates) {
  const scalewort::ScoreTests out = scalewort::incomplete_score_tests(
      as_structure(cells, items, factors), as_patterns(patterns), theta,
      as_structure(candidates, items, factors).cells);
  return Rcpp::List::create(Rcpp::_["slope"] = Rcpp::NumericVector(Rcpp::wrap(out.slope)),
                            Rcpp::_["curvature"] = Rcpp::NumericVector(Rcpp::wrap(out.curvature)));
}
