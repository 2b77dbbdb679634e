// Work shared among threads.
#pragma once
#include <algorithm>
#include <atomic>
#include <thread>
#include <vector>
#include "types.h"

namespace scalewort {

// Calls work(first, last) until 0, ..., count - 1 are all done, `piece` of them at a
// time, on up to `threads` threads. The result does not depend on their number as long as
// each call writes to its own places only. work must not touch R.
template <class Work>
void share(Eigen::Index count, Eigen::Index piece, int threads, Work work) {
  std::atomic<Eigen::Index> next(0);
  auto run = [&]() {
    for (Eigen::Index first = next.fetch_add(piece); first < count; first = next.fetch_add(piece))
      work(first, std::min(count, first + piece));
  };
  std::vector<std::thread> helpers;
  const Eigen::Index most = (count + piece - 1) / piece;
  for (Eigen::Index i = 1; i < std::min<Eigen::Index>(threads, most); ++i) helpers.emplace_back(run);
  run();
  for (std::thread& helper : helpers) helper.join();
}

}  // namespace scalewort
