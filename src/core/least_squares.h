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

// Sum over groups of share * sum over i >= j of weight_ij (s_ij - sigma_ij)^2. Unweighted
// least squares takes weights 1, and 1/2 on the diagonal; correlations take 0 there.
class ElementDiscrepancy : public Discrepancy {
 public:
  ElementDiscrepancy(const std::vector<Structure>& structures, const std::vector<Target>& targets)
      : structures_(structures), targets_(targets) {}
  bool value(const Vector& theta, double& out) override;
  Slope slope(const Vector& theta) override;

 private:
  const std::vector<Structure>& structures_;
  const std::vector<Target>& targets_;
};

// Sum over groups of share * tr((weight (s - Sigma))^2) / 2; generalised least squares takes
// the inverse of s as weight.
class QuadraticDiscrepancy : public Discrepancy {
 public:
  QuadraticDiscrepancy(const std::vector<Structure>& structures, const std::vector<Target>& targets)
      : structures_(structures), targets_(targets) {}
  bool value(const Vector& theta, double& out) override;
  Slope slope(const Vector& theta) override;

 private:
  const std::vector<Structure>& structures_;
  const std::vector<Target>& targets_;
};

}  // namespace scalewort
