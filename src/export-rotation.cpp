#include <RcppEigen.h>
#include <limits>
#include "columns-of-r.h"
#include "core/rotation.h"

namespace {

scalewort::Simplicity simplicity_of(const std::string& criterion, double parameter,
                                    const Rcpp::NumericMatrix& target) {
  scalewort::Simplicity out;
  out.criterion = scalewort::criterion_named(criterion);
  out.parameter = parameter;
  out.target = Rcpp::as<Eigen::MatrixXd>(target);
  return out;
}

}  // namespace

// criterion: its name (as criterion), parameter, target (p x m with NA for free cells; any matrix for other criteria),
// oblique. Besides the best solution: value of each start (NaN where it did not converge) and its transform.
// [[Rcpp::export(name = "kernel_rotate")]]
Rcpp::List export_rotate(const Eigen::Map<Eigen::MatrixXd> a, Rcpp::List criterion, int starts, double seed, int threads) {
  scalewort::RotationOptions options;
  options.simplicity = simplicity_of(criterion["criterion"], criterion["parameter"], criterion["target"]);
  options.oblique = criterion["oblique"];
  options.starts = starts;
  options.seed = static_cast<std::uint64_t>(seed);
  options.threads = threads_to_use(threads);
  const std::vector<scalewort::Rotation> found = scalewort::rotate(a, options);
  const scalewort::Rotation& best = found[scalewort::best_start(found)];
  Rcpp::NumericVector values(found.size());
  Rcpp::List transforms(found.size());
  for (std::size_t i = 0; i < found.size(); ++i) {
    values[i] = found[i].status == scalewort::Status::ok
                    ? found[i].value
                    : std::numeric_limits<double>::quiet_NaN();
    transforms[i] = found[i].transform;
  }
  return Rcpp::List::create(Rcpp::_["status"] = scalewort::name_of(best.status),
                            Rcpp::_["loadings"] = best.loadings,
                            Rcpp::_["correlations"] = best.correlations,
                            Rcpp::_["transform"] = best.transform, Rcpp::_["value"] = best.value,
                            Rcpp::_["iterations"] = best.iterations,
                            Rcpp::_["gradient_norm"] = best.gradient_norm,
                            Rcpp::_["values"] = values, Rcpp::_["transforms"] = transforms);
}

// [[Rcpp::export(name = "kernel_criterion")]]
Rcpp::List export_criterion(const Eigen::Map<Eigen::MatrixXd> pattern, const std::string& criterion,
                            double parameter, Rcpp::NumericMatrix target) {
  Eigen::MatrixXd gradient;
  const double value = simplicity_of(criterion, parameter, target)(pattern, gradient);
  return Rcpp::List::create(Rcpp::_["value"] = value, Rcpp::_["gradient"] = gradient);
}

// criterion as for kernel_rotate().
// [[Rcpp::export(name = "kernel_constraint_slopes")]]
Eigen::MatrixXd export_constraint_slopes(const Eigen::Map<Eigen::MatrixXd> pattern, const Eigen::Map<Eigen::MatrixXd> correlations,
                                         Rcpp::List criterion, bool free_correlations, bool normalised) {
  return scalewort::constraint_slopes(simplicity_of(criterion["criterion"], criterion["parameter"], criterion["target"]), pattern, correlations,
                                      criterion["oblique"], free_correlations, normalised, threads_to_use());
}
