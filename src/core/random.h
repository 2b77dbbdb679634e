// Independent random streams: replicate i of a run draws from stream i of one
// seed, so that a seed gives the same numbers whatever the order of the work.
#pragma once
#include <boost/random/gamma_distribution.hpp>
#include <boost/random/normal_distribution.hpp>
#include <cstdint>
#include <xoshiro.h>

namespace scalewort {

using Generator = dqrng::xoshiro256plus;

// Generators for replicates 0, 1, 2, ... in turn; each 2^128 draws apart.
class Streams {
 public:
  explicit Streams(std::uint64_t seed) : next_(seed) {}
  Generator take() {
    Generator current = next_;
    next_.jump();
    return current;
  }

 private:
  Generator next_;
};

}  // namespace scalewort
