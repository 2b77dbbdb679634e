// Least squares fits of factor structures to the covariances of one or more groups.
#pragma once
#include <vector>
#include "scoring.h"
#include "structure.h"

namespace scalewort {

// What is fitted of one group: symmetric matrices s and weight (p x p).
struct Target {
  double share;  // of all cases
  Matrix s, weight;
};

// How residuals e = s - Sigma are weighed.
//   elements   sum over i >= j of weight_ij e_ij^2. Unweighted least squares takes weights 1, and
//              1/2 on the diagonal; correlations take 0 there.
//   quadratic  tr((weight e)^2) / 2. Generalised least squares takes the inverse of s.
enum class Weighing { elements, quadratic };

// The sum over groups of share times the weighed residuals.
class SquaresDiscrepancy : public Discrepancy {
 public:
  SquaresDiscrepancy(const std::vector<Structure>& structures, const std::vector<Target>& targets, Weighing weighing)
      : structures_(structures), targets_(targets), weighing_(weighing) {}
  bool value(const Vector& theta, double& out) override;
  Slope slope(const Vector& theta) override;

 private:
  const std::vector<Structure>& structures_;
  const std::vector<Target>& targets_;
  Weighing weighing_;
};

}  // namespace scalewort
