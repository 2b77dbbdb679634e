#include "core/product.h"
#include "core/refit.h"
#include "core/residual_spread.h"
#include "core/weighted_scores.h"
#include "structure-of-r.h"

namespace {

// search: tolerance, max_iterations; low, high: bounds of the parameters, empty for none.
scalewort::ScoringOptions as_options(const Rcpp::List& search) {
  scalewort::ScoringOptions out;
  out.tolerance = search["tolerance"];
  out.max_iterations = search["max_iterations"];
  out.low = Rcpp::as<Eigen::VectorXd>(search["low"]);
  out.high = Rcpp::as<Eigen::VectorXd>(search["high"]);
  return out;
}

Rcpp::List as_list(const scalewort::Optimum& fit, const std::vector<scalewort::Structure>& structures) {
  Rcpp::List implied(structures.size()), mean(structures.size());
  for (std::size_t g = 0; g < structures.size(); ++g) {
    const scalewort::Implied at = scalewort::imply(scalewort::fill(structures[g], fit.theta));
    implied[g] = Rcpp::wrap(at.covariance);
    mean[g] = plain(at.mean);
  }
  Rcpp::IntegerVector held(fit.held.begin(), fit.held.end());
  return Rcpp::List::create(
      Rcpp::_["status"] = scalewort::name_of(fit.status), Rcpp::_["theta"] = plain(fit.theta),
      Rcpp::_["discrepancy"] = fit.value, Rcpp::_["implied"] = implied, Rcpp::_["implied_mean"] = mean,
      Rcpp::_["expected_hessian"] = fit.slope.expected_hessian, Rcpp::_["gradient"] = plain(fit.slope.gradient),
      Rcpp::_["decrement"] = fit.decrement, Rcpp::_["iterations"] = fit.iterations, Rcpp::_["held"] = held + 1);
}

Rcpp::List em_list(const scalewort::EmFit& fit) {
  return Rcpp::List::create(Rcpp::_["converged"] = fit.converged, Rcpp::_["mean"] = plain(fit.mean), Rcpp::_["covariance"] = fit.covariance,
                            Rcpp::_["iterations"] = fit.iterations);
}

scalewort::WeightedFit as_weighted(const Rcpp::List& fit) {
  const auto matrix = [&](const char* name) { return Rcpp::as<Eigen::Map<Eigen::MatrixXd>>(fit[name]); };
  return {matrix("j"), matrix("pulled"), matrix("bread"), matrix("meat"), matrix("gamma"), Rcpp::as<Eigen::Map<Eigen::VectorXd>>(fit["w"])};
}

scalewort::Weighing weighing(bool elementwise) {
  return elementwise ? scalewort::Weighing::elements : scalewort::Weighing::quadratic;
}

}  // namespace

// [[Rcpp::export(name = "kernel_fit_likelihood")]]
Rcpp::List export_fit_likelihood(Rcpp::List cells, int items, int factors, Rcpp::List moments,
                                 const Eigen::Map<Eigen::VectorXd> start, Rcpp::List search) {
  const auto structures = as_structures(cells, items, factors);
  const auto groups = as_group_moments(moments);
  scalewort::LikelihoodDiscrepancy discrepancy(structures, groups);
  scalewort::Optimum fit{scalewort::Status::not_positive_definite, start, 0.0, {}, 0.0, 0, {}};
  if (discrepancy.positive_definite())
    fit = scalewort::minimise(discrepancy, start, as_options(search));
  return as_list(fit, structures);
}

// elementwise: weights of single elements; else quadratic.
// [[Rcpp::export(name = "kernel_fit_least_squares")]]
Rcpp::List export_fit_least_squares(Rcpp::List cells, int items, int factors, Rcpp::List targets,
                                    const Eigen::Map<Eigen::VectorXd> start, Rcpp::List search, bool elementwise) {
  const auto structures = as_structures(cells, items, factors);
  const auto groups = as_targets(targets);
  scalewort::SquaresDiscrepancy discrepancy(structures, groups, weighing(elementwise));
  return as_list(scalewort::minimise(discrepancy, start, as_options(search)), structures);
}

// patterns: a list a group.
// [[Rcpp::export(name = "kernel_fit_incomplete")]]
Rcpp::List export_fit_incomplete(Rcpp::List cells, int items, int factors, Rcpp::List patterns,
                                 const Eigen::Map<Eigen::VectorXd> start, Rcpp::List search, int threads) {
  const auto structures = as_structures(cells, items, factors);
  const auto groups = as_group_patterns(patterns);
  scalewort::PatternDiscrepancy discrepancy(structures, groups, threads_to_use(threads));
  const scalewort::Optimum fit =
      scalewort::minimise(discrepancy, start, as_options(search));
  Rcpp::List out = as_list(fit, structures);
  out["observed_hessian"] = fit.status == scalewort::Status::not_positive_definite
                                ? Eigen::MatrixXd()
                                : discrepancy.observed_hessian(fit.theta);
  return out;
}

// The discrepancy and its slopes at one theta, without fitting.
// [[Rcpp::export(name = "kernel_evaluate_structure")]]
Rcpp::List export_evaluate_structure(Rcpp::List cells, int items, int factors, Rcpp::List moments,
                                     const Eigen::VectorXd& theta) {
  const auto structures = as_structures(cells, items, factors);
  const auto groups = as_group_moments(moments);
  scalewort::LikelihoodDiscrepancy discrepancy(structures, groups);
  double value = 0.0;
  if (!discrepancy.value(theta, value)) return Rcpp::List::create(Rcpp::_["defined"] = false);
  const scalewort::Slope slope = discrepancy.slope(theta);
  return Rcpp::List::create(Rcpp::_["defined"] = true, Rcpp::_["discrepancy"] = value,
                            Rcpp::_["gradient"] = plain(slope.gradient),
                            Rcpp::_["expected_hessian"] = slope.expected_hessian);
}

// The same of a least squares discrepancy.
// [[Rcpp::export(name = "kernel_evaluate_least_squares")]]
Rcpp::List export_evaluate_least_squares(Rcpp::List cells, int items, int factors, Rcpp::List targets,
                                         const Eigen::VectorXd& theta, bool elementwise) {
  const auto structures = as_structures(cells, items, factors);
  const auto groups = as_targets(targets);
  scalewort::SquaresDiscrepancy discrepancy(structures, groups, weighing(elementwise));
  double value = 0.0;
  discrepancy.value(theta, value);
  const scalewort::Slope slope = discrepancy.slope(theta);
  return Rcpp::List::create(Rcpp::_["discrepancy"] = value, Rcpp::_["gradient"] = plain(slope.gradient),
                            Rcpp::_["expected_hessian"] = slope.expected_hessian);
}

// Minus twice the log-likelihood per case, without its constant, its gradient and Hessian.
// [[Rcpp::export(name = "kernel_evaluate_incomplete")]]
Rcpp::List export_evaluate_incomplete(Rcpp::List cells, int items, int factors, Rcpp::List patterns,
                                      const Eigen::VectorXd& theta, bool hessian) {
  const auto structures = as_structures(cells, items, factors);
  const auto groups = as_group_patterns(patterns);
  scalewort::PatternDiscrepancy discrepancy(structures, groups, threads_to_use());
  double value = 0.0;
  if (!discrepancy.value(theta, value)) return Rcpp::List::create(Rcpp::_["defined"] = false);
  const scalewort::Slope slope = discrepancy.slope(theta);
  Rcpp::List out = Rcpp::List::create(Rcpp::_["defined"] = true, Rcpp::_["value"] = value,
                                      Rcpp::_["gradient"] = plain(slope.gradient));
  if (hessian) out["observed_hessian"] = discrepancy.observed_hessian(theta);
  return out;
}

// candidates: a data frame of cells, all fixed.
// [[Rcpp::export(name = "kernel_score_tests")]]
Rcpp::List export_score_tests(Rcpp::List cells, int items, int factors, Rcpp::List moments,
                              const Eigen::VectorXd& theta, Rcpp::List candidates) {
  const scalewort::ScoreTests out = scalewort::score_tests(
      as_structures(cells, items, factors)[0], as_group_moments(moments)[0], theta,
      as_structures(candidates, items, factors)[0].cells, threads_to_use());
  return Rcpp::List::create(Rcpp::_["slope"] = plain(out.slope), Rcpp::_["curvature"] = plain(out.curvature));
}

// [[Rcpp::export(name = "kernel_incomplete_score_tests")]]
Rcpp::List export_incomplete_score_tests(Rcpp::List cells, int items, int factors, Rcpp::List patterns,
                                         const Eigen::VectorXd& theta, Rcpp::List candidates) {
  const scalewort::ScoreTests out = scalewort::incomplete_score_tests(
      as_structures(cells, items, factors)[0], as_patterns(patterns), theta,
      as_structures(candidates, items, factors)[0].cells, threads_to_use());
  return Rcpp::List::create(Rcpp::_["slope"] = plain(out.slope), Rcpp::_["curvature"] = plain(out.curvature));
}

// Score tests of tr((weight (s - Sigma))^2) / 2.
// [[Rcpp::export(name = "kernel_quadratic_scores")]]
Rcpp::List export_quadratic_scores(Rcpp::List cells, int items, int factors, const Eigen::MatrixXd& s,
                                   const Eigen::MatrixXd& weight, const Eigen::VectorXd& theta, Rcpp::List candidates) {
  const scalewort::Structure structure = as_structures(cells, items, factors)[0];
  const std::vector<scalewort::Cell> asked = as_structures(candidates, items, factors)[0].cells;
  const scalewort::Implied implied = scalewort::imply(scalewort::fill(structure, theta));
  const scalewort::Derivatives d = scalewort::derivatives(structure, implied);
  const scalewort::FreeCells free = scalewort::free_cells(structure, d);
  scalewort::ScoreInformation information;
  information.add(free, scalewort::basis_products(d, weight), 1.0, asked, items);
  const scalewort::ScoreTests out = information.tests(
      structure, free, implied, {true, Eigen::MatrixXd(), -weight * (s - implied.covariance) * weight, Eigen::VectorXd::Zero(items)},
      asked, threads_to_use());
  return Rcpp::List::create(Rcpp::_["slope"] = plain(out.slope), Rcpp::_["curvature"] = plain(out.curvature));
}

// fit: list(j, pulled, bread, meat, gamma, w); candidates: columns of slopes; place: which moment (from 1) a row is of, 0 for none.
// [[Rcpp::export(name = "kernel_weighted_scores")]]
Rcpp::List export_weighted_scores(Rcpp::List fit, const Eigen::Map<Eigen::MatrixXd> candidates, const Eigen::Map<Eigen::VectorXi> place,
                                  const Eigen::Map<Eigen::VectorXd> e) {
  const scalewort::WeightedScores out =
      scalewort::weighted_scores(as_weighted(fit), candidates, place.array() - 1, e, threads_to_use());
  return Rcpp::List::create(Rcpp::_["slope"] = plain(out.slope), Rcpp::_["curvature"] = plain(out.curvature),
                            Rcpp::_["spread"] = plain(out.spread), Rcpp::_["size"] = plain(out.size));
}

// [[Rcpp::export(name = "kernel_weighted_left")]]
Rcpp::List export_weighted_left(Rcpp::List fit, const Eigen::Map<Eigen::VectorXd> scale, const Eigen::Map<Eigen::VectorXd> e) {
  const scalewort::WeightedLeft out = scalewort::weighted_left(as_weighted(fit), scale, e, threads_to_use());
  return Rcpp::List::create(Rcpp::_["diagonal"] = plain(out.diagonal), Rcpp::_["square"] = out.square, Rcpp::_["form"] = out.form);
}

// [[Rcpp::export(name = "kernel_weighted_square")]]
double export_weighted_square(const Eigen::Map<Eigen::MatrixXd> gamma, const Eigen::Map<Eigen::VectorXd> w) {
  return scalewort::weighted_square(gamma, w);
}

// The quadratic form of each row of x in m: diag(x m x').
// [[Rcpp::export(name = "kernel_row_forms")]]
Rcpp::NumericVector export_row_forms(const Eigen::Map<Eigen::MatrixXd> x,
                                     const Eigen::Map<Eigen::MatrixXd> m) {
  return plain(scalewort::row_forms(x, m, threads_to_use()));
}

// What a fit explains of the spread of normal answers' moments; e: scaled residuals, symmetric.
// [[Rcpp::export(name = "kernel_residual_spread")]]
Rcpp::List export_residual_spread(Rcpp::List cells, int items, int factors, const Eigen::VectorXd& theta,
                                  const Eigen::MatrixXd& covariance, const Eigen::MatrixXd& sigma, const Eigen::VectorXd& scale,
                                  const Eigen::MatrixXd& e) {
  const scalewort::ResidualSpread out =
      scalewort::residual_spread(as_structures(cells, items, factors)[0], theta, covariance, sigma, scale, e);
  return Rcpp::List::create(Rcpp::_["explained"] = plain(out.explained), Rcpp::_["squares"] = out.squares,
                            Rcpp::_["forms"] = out.forms, Rcpp::_["along"] = out.along);
}

// Sum over groups of the products of that derivative's columns.
// [[Rcpp::export(name = "kernel_jacobian_products")]]
Eigen::MatrixXd export_jacobian_products(Rcpp::List cells, int items, int factors, const Eigen::VectorXd& theta) {
  const std::vector<scalewort::Structure> structures = as_structures(cells, items, factors);
  Eigen::MatrixXd out = scalewort::jacobian_products(structures[0], theta);
  for (std::size_t g = 1; g < structures.size(); ++g) out += scalewort::jacobian_products(structures[g], theta);
  return out;
}

// Of each group: the derivative of its implied moments.
// [[Rcpp::export(name = "kernel_structure_jacobian")]]
Rcpp::List export_structure_jacobian(Rcpp::List cells, int items, int factors, const Eigen::VectorXd& theta) {
  Rcpp::List out;
  for (const scalewort::Structure& structure : as_structures(cells, items, factors))
    out.push_back(Rcpp::wrap(scalewort::jacobian(structure, theta)));
  return out;
}

// The likelihood at any moments.
// [[Rcpp::export(name = "kernel_pattern_likelihood")]]
Rcpp::List export_pattern_likelihood(Rcpp::List patterns, const Eigen::MatrixXd& covariance,
                                     const Eigen::VectorXd& mean) {
  const scalewort::PatternLikelihood out =
      scalewort::pattern_likelihood(as_patterns(patterns), covariance, mean, threads_to_use());
  return Rcpp::List::create(Rcpp::_["defined"] = out.defined, Rcpp::_["value"] = out.value);
}

// [[Rcpp::export(name = "kernel_saturated_hessian")]]
Eigen::MatrixXd export_saturated_hessian(Rcpp::List patterns, const Eigen::MatrixXd& covariance,
                                         const Eigen::VectorXd& mean) {
  return scalewort::saturated_hessian(as_patterns(patterns), covariance, mean, threads_to_use());
}

// Gradients of minus twice each case's log-likelihood; for one group.
// [[Rcpp::export(name = "kernel_case_gradients")]]
Eigen::MatrixXd export_case_gradients(Rcpp::List cells, int items, int factors, const Eigen::MatrixXd& x,
                                      const Eigen::VectorXd& theta, int group) {
  return scalewort::case_gradients(as_structures(cells, items, factors)[group - 1], x, theta);
}

// [[Rcpp::export(name = "kernel_saturated_gradients")]]
Eigen::MatrixXd export_saturated_gradients(const Eigen::MatrixXd& x, const Eigen::MatrixXd& covariance,
                                           const Eigen::VectorXd& mean) {
  return scalewort::saturated_case_gradients(x, covariance, mean);
}

// Standardised values of all cells of each group and, with `slopes`, their derivative in the
// free parameters.
// [[Rcpp::export(name = "kernel_standardise")]]
Rcpp::List export_standardise(Rcpp::List cells, int items, int factors, const Eigen::VectorXd& theta, bool unit_items,
                              bool slopes) {
  Rcpp::List value, jacobian;
  for (const scalewort::Structure& structure : as_structures(cells, items, factors)) {
    value.push_back(plain(scalewort::standardise(structure, theta, unit_items)));
    if (slopes) jacobian.push_back(Rcpp::wrap(scalewort::standard_jacobian(structure, theta, unit_items)));
  }
  return Rcpp::List::create(Rcpp::_["value"] = value, Rcpp::_["jacobian"] = jacobian);
}

// [[Rcpp::export(name = "kernel_product")]]
Eigen::MatrixXd export_product(const Eigen::Map<Eigen::MatrixXd> a, const Eigen::Map<Eigen::MatrixXd> b) {
  return scalewort::shared_product(a, b, threads_to_use());
}

// Inverse of a matrix, of a positive definite one by its Cholesky factor; empty where there is none, or nearly none.
// [[Rcpp::export(name = "kernel_inverse")]]
Eigen::MatrixXd export_inverse(const Eigen::Map<Eigen::MatrixXd> x, bool definite = true, double least = 1e-12) {
  const Eigen::MatrixXd one = Eigen::MatrixXd::Identity(x.rows(), x.cols());
  if (!definite) {
    const Eigen::PartialPivLU<Eigen::MatrixXd> factor(x);
    if (factor.rcond() < least) return Eigen::MatrixXd(0, 0);
    return scalewort::by_columns(one, threads_to_use(), [&](const Eigen::MatrixXd& some) { return Eigen::MatrixXd(factor.solve(some)); });
  }
  const Eigen::LLT<Eigen::MatrixXd> factor(x);
  if (factor.info() != Eigen::Success || factor.rcond() < least) return Eigen::MatrixXd(0, 0);
  return scalewort::by_columns(one, threads_to_use(), [&](const Eigen::MatrixXd& some) { return Eigen::MatrixXd(factor.solve(some)); });
}

// x' x.
// [[Rcpp::export(name = "kernel_crossproduct")]]
Eigen::MatrixXd export_crossproduct(const Eigen::Map<Eigen::MatrixXd> x) {
  return scalewort::shared_crossproduct(x, threads_to_use());
}

// covariances: items^2 x count.
// [[Rcpp::export(name = "kernel_refit")]]
Rcpp::List export_refit(Rcpp::List cells, int items, int factors, const Eigen::Map<Eigen::MatrixXd> covariances,
                        const Eigen::Map<Eigen::VectorXd> start, double n, Rcpp::List search, bool errors, int threads) {
  const scalewort::Refits out =
      scalewort::refit(as_structures(cells, items, factors)[0], covariances, start, n,
                       as_options(search), errors, threads_to_use(threads));
  Rcpp::CharacterVector status(out.status.size());
  for (std::size_t i = 0; i < out.status.size(); ++i) status[i] = scalewort::name_of(out.status[i]);
  return Rcpp::List::create(Rcpp::_["theta"] = out.theta, Rcpp::_["error"] = out.error, Rcpp::_["value"] = plain(out.value),
                            Rcpp::_["status"] = status);
}

// x: each row with an answer; weight: of the rows, or empty. list(n, seen, mean, covariance) a pattern.
// [[Rcpp::export(name = "kernel_answer_patterns")]]
Rcpp::List export_answer_patterns(const Eigen::Map<Eigen::MatrixXd> x, const Rcpp::NumericVector weight) {
  const scalewort::Gathered found = scalewort::gather_patterns(x, weight.size() == 0 ? nullptr : weight.begin(), threads_to_use());
  Rcpp::List out(found.patterns.size());
  for (std::size_t g = 0; g < found.patterns.size(); ++g) {
    const scalewort::Pattern& pattern = found.patterns[g];
    Rcpp::IntegerVector seen(pattern.seen.size());
    for (std::size_t j = 0; j < pattern.seen.size(); ++j) seen[j] = static_cast<int>(pattern.seen[j]) + 1;
    out[g] = Rcpp::List::create(Rcpp::_["n"] = pattern.n, Rcpp::_["seen"] = seen, Rcpp::_["mean"] = plain(pattern.mean),
                                Rcpp::_["covariance"] = pattern.covariance);
  }
  return out;
}

// Free means and covariances by the EM algorithm.
// [[Rcpp::export(name = "kernel_em")]]
Rcpp::List export_em(Rcpp::List patterns, Eigen::MatrixXd covariance, Eigen::VectorXd mean, double tolerance, int max_iterations) {
  return em_list(scalewort::em_moments(as_patterns(patterns), covariance, mean, tolerance, max_iterations, threads_to_use()));
}

// Without the people of each group in turn; of: everybody's group from 1.
// [[Rcpp::export(name = "kernel_em_without")]]
Rcpp::List export_em_without(const Eigen::Map<Eigen::MatrixXd> x, const Rcpp::NumericVector weight, const Eigen::Map<Eigen::VectorXi> of, int groups,
                             const Eigen::Map<Eigen::MatrixXd> covariance, const Eigen::Map<Eigen::VectorXd> mean, double tolerance,
                             int max_iterations) {
  const std::vector<scalewort::EmFit> found =
      scalewort::em_without_each(x, weight.size() == 0 ? nullptr : weight.begin(), of.array() - 1, groups, covariance, mean, tolerance,
                                 max_iterations, threads_to_use());
  Rcpp::List out(groups);
  for (int g = 0; g < groups; ++g) out[g] = em_list(found[g]);
  return out;
}
