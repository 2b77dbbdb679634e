// Plain types of the numeric core. Nothing below src/core/ includes an R header.
#pragma once
#include <Eigen/Dense>

namespace scalewort {

using Matrix = Eigen::MatrixXd;
using Vector = Eigen::VectorXd;
using MatrixRef = Eigen::Ref<const Eigen::MatrixXd>;
using VectorRef = Eigen::Ref<const Eigen::VectorXd>;
using IndexVector = Eigen::VectorXi;

// What a kernel has to say of its result; R/data-conditions.R puts it into words.
enum class Status {
  ok = 0,
  not_converged = 1,          // stopped at the iteration limit
  not_positive_definite = 2,  // a matrix that must be positive definite is not
  too_few_cases = 3,          // fewer cases than the computation needs
  too_many_categories = 4     // answers with too many different values
};

}  // namespace scalewort
