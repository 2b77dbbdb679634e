// Resamples of people who are too many to be held at once: in each replicate a person counts as often as a Poisson variate of mean one says
// (Hanley & MacGibbon, 2006), drawn from the seed and from what identifies the person. It matters neither in which order people come, nor
// in how many parts.
#pragma once
#include <cstdint>
#include <string>
#include <vector>
#include "types.h"

namespace scalewort {

// A number that a text identifies (FNV-1a).
std::uint64_t number_of_text(const std::string& text);

// How often each of these people counts in `replicates` replicates: people x replicates.
Matrix person_weights(const std::vector<std::uint64_t>& people, std::uint64_t seed, Eigen::Index replicates);

// Which of `groups` groups, from 0, each of these people falls into.
IndexVector person_groups(const std::vector<std::uint64_t>& people, std::uint64_t seed, Eigen::Index groups);

// x: people x items, complete and nearly centred. Adds to `sums`, a column a replicate and behind them a column for each of `groups` groups: the number of people, their sums, and the sums of products (lower triangle with diagonal, by column).
void add_person_resamples(const MatrixRef& x, const std::vector<std::uint64_t>& people, std::uint64_t seed, Eigen::Index replicates,
                          Eigen::Index groups, Matrix& sums, int threads);

}  // namespace scalewort
