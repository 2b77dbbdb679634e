// How single people answered: one figure a row of a matrix of answers, people x items, NaN where an answer is missing. All results are the
// same for any number of threads.
#pragma once
#include <vector>
#include "types.h"

namespace scalewort {

using Columns = std::vector<Eigen::Index>;

// Longest run of one and the same answer in a row; a missing answer ends a run.
IndexVector longest_runs(const MatrixRef& x, int threads);

// Standard deviation of each person's answers, exactly 0 where all are the same; NaN with fewer than two.
Vector person_spreads(const MatrixRef& x, int threads);

// Mean over pages of the variance of a person's answers on a page, each in units of its item's range; NaN for who has less than half of the
// pages.
Vector page_variances(const MatrixRef& x, const std::vector<Columns>& pages, const Vector& width, int threads);

// Even-odd consistency (Jackson, 1976) of people with three subscales or more that have both halves; NaN of others.
Vector even_odd(const MatrixRef& x, const std::vector<Columns>& scales, int threads);

// Mean over subscales of the gap between the means of forward and of reversed items, in units of the range of answers; NaN without any.
Vector contradictions(const MatrixRef& x, const std::vector<Columns>& forward, const std::vector<Columns>& reversed, const Vector& width,
                      int threads);

// How many items at the end a person left out; 0 for somebody who answered none.
IndexVector left_at_end(const MatrixRef& x, int threads);

// Squared Mahalanobis distances, each by the items that the person answered; NaN for who answered none. covariance: positive definite.
Vector distances(const MatrixRef& x, const Vector& mean, const Matrix& covariance, int threads);

}  // namespace scalewort
