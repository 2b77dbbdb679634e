// Plain types of the numeric core. Nothing below src/core/ includes an R header.
#pragma once
#include <Eigen/Dense>
#include <initializer_list>
#include <stdexcept>
#include <string>

namespace scalewort {

using Matrix = Eigen::MatrixXd;
using Vector = Eigen::VectorXd;
using MatrixRef = Eigen::Ref<const Eigen::MatrixXd>;
using VectorRef = Eigen::Ref<const Eigen::VectorXd>;
using IndexVector = Eigen::VectorXi;

// What a kernel has to say of its result; R/base-conditions.R puts it into words.
enum class Status {
  ok,
  not_converged,          // stopped at the iteration limit
  not_positive_definite,  // a matrix that must be positive definite is not
  too_few_cases,          // fewer cases than the computation needs
  too_many_categories,    // answers with too many different values
  constant_item,          // an item with one answer only
  at_bound,               // of a pair of ordered items: the correlation is at its bound
  empty_cell              // of a pair of 0/1 items: an empty cell was counted in part
};

// The name under which a status leaves the core.
inline const char* name_of(Status status) {
  switch (status) {
    case Status::ok: return "ok";
    case Status::not_converged: return "not_converged";
    case Status::not_positive_definite: return "not_positive_definite";
    case Status::too_few_cases: return "too_few_cases";
    case Status::too_many_categories: return "too_many_categories";
    case Status::constant_item: return "constant_item";
    case Status::at_bound: return "at_bound";
    case Status::empty_cell: return "empty_cell";
  }
  return "";
}

// A kind by the name under which it comes into the core; names stand in the order of the kinds.
template <typename Kind>
Kind kind_named(const std::string& name, std::initializer_list<const char*> names) {
  int place = 0;
  for (const char* one : names) {
    if (name == one) return static_cast<Kind>(place);
    ++place;
  }
  throw std::invalid_argument("no kind is named " + name);
}

}  // namespace scalewort
