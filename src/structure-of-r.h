// A factor structure as R hands it over.
#pragma once
#include <RcppEigen.h>
#include "core/case_gradients.h"
#include "core/fiml.h"
#include "core/saturated.h"
#include "core/least_squares.h"
#include "columns-of-r.h"

// cells: a data frame's columns part, row, column (from 1), free (from 1, 0 when fixed),
// value and, for more than one group, group (from 1), as built by R/core-structure.R.
inline std::vector<scalewort::Structure> as_structures(const Rcpp::List& cells, int items, int factors) {
  const Rcpp::IntegerVector part = cells["part"], row = cells["row"], column = cells["column"],
                            free = cells["free"];
  const Rcpp::NumericVector value = cells["value"];
  const bool grouped = cells.containsElementNamed("group");
  Rcpp::IntegerVector group(part.size(), 1);
  if (grouped) group = cells["group"];
  const int groups = part.size() == 0 ? 1 : *std::max_element(group.begin(), group.end());
  std::vector<scalewort::Structure> out(groups, {items, factors, {}, 0, false});
  int parameters = 0;
  for (R_xlen_t i = 0; i < part.size(); ++i) {
    scalewort::Structure& mine = out[group[i] - 1];
    mine.cells.push_back({static_cast<scalewort::Part>(part[i]), row[i] - 1, column[i] - 1, free[i] - 1, value[i]});
    mine.means = mine.means || part[i] >= static_cast<int>(scalewort::Part::intercept);
    parameters = std::max(parameters, free[i]);
  }
  for (scalewort::Structure& mine : out) mine.parameters = parameters;
  return out;
}

// One list(share, covariance, mean) a group.
inline std::vector<scalewort::GroupMoments> as_group_moments(const Rcpp::List& groups) {
  std::vector<scalewort::GroupMoments> out;
  for (R_xlen_t i = 0; i < groups.size(); ++i) {
    const Rcpp::List one = groups[i];
    out.push_back({Rcpp::as<double>(one["share"]), Rcpp::as<Eigen::MatrixXd>(one["covariance"]),
                   Rcpp::as<Eigen::VectorXd>(one["mean"])});
  }
  return out;
}

// One list(share, s, weight) a group.
inline std::vector<scalewort::Target> as_targets(const Rcpp::List& groups) {
  std::vector<scalewort::Target> out;
  for (R_xlen_t i = 0; i < groups.size(); ++i) {
    const Rcpp::List one = groups[i];
    out.push_back({Rcpp::as<double>(one["share"]), Rcpp::as<Eigen::MatrixXd>(one["s"]),
                   Rcpp::as<Eigen::MatrixXd>(one["weight"])});
  }
  return out;
}

// One list of patterns a group, each list(n, seen (from 1), mean, covariance).
inline scalewort::Patterns as_patterns(const Rcpp::List& patterns) {
  scalewort::Patterns out;
  for (R_xlen_t i = 0; i < patterns.size(); ++i) {
    const Rcpp::List one = patterns[i];
    scalewort::Pattern pattern;
    pattern.n = Rcpp::as<double>(one["n"]);
    for (int item : Rcpp::as<std::vector<int>>(one["seen"])) pattern.seen.push_back(item - 1);
    pattern.mean = Rcpp::as<Eigen::VectorXd>(one["mean"]);
    pattern.covariance = Rcpp::as<Eigen::MatrixXd>(one["covariance"]);
    pattern.spread = !pattern.covariance.isZero(0.0);
    out.push_back(pattern);
  }
  return out;
}

inline std::vector<scalewort::Patterns> as_group_patterns(const Rcpp::List& groups) {
  std::vector<scalewort::Patterns> out;
  for (R_xlen_t i = 0; i < groups.size(); ++i) out.push_back(as_patterns(groups[i]));
  return out;
}

inline Rcpp::NumericVector plain(const Eigen::VectorXd& x) {
  return Rcpp::NumericVector(x.data(), x.data() + x.size());
}
