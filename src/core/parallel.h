// Work shared among threads.
#pragma once
#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>
#include "interrupt.h"
#include "types.h"

namespace scalewort {

// Calls work(first, last) until 0, ..., count - 1 are all done, `piece` of them at a
// time, on up to `threads` threads. The result does not depend on their number as long as
// each call writes to its own places only. work must not touch R. What work throws, on whatever
// thread, ends the sharing and is thrown here; the user's wish to stop (interrupt.h) likewise, asked
// between pieces and while waiting for the others.
template <class Work>
void share(Eigen::Index count, Eigen::Index piece, int threads, Work work) {
  std::atomic<Eigen::Index> next(0);
  std::exception_ptr trouble = nullptr;
  std::mutex lock;
  std::condition_variable finished;
  int busy = 0;
  auto guarded = [&](auto step) {
    try {
      step();
    } catch (...) {
      next.store(count);
      const std::lock_guard<std::mutex> held(lock);
      if (!trouble) trouble = std::current_exception();
    }
  };
  auto run = [&]() {
    for (Eigen::Index first = next.fetch_add(piece); first < count; first = next.fetch_add(piece)) {
      work(first, std::min(count, first + piece));
      stop_if_asked();
    }
  };
  std::vector<std::thread> helpers;
  const Eigen::Index most = (count + piece - 1) / piece;
  busy = static_cast<int>(std::max<Eigen::Index>(0, std::min<Eigen::Index>(threads, most) - 1));
  for (int i = 0, wanted = busy; i < wanted; ++i) {
    helpers.emplace_back([&]() {
      guarded(run);
      const std::lock_guard<std::mutex> held(lock);
      --busy;
      finished.notify_one();
    });
  }
  guarded(run);
  std::unique_lock<std::mutex> held(lock);
  while (!finished.wait_for(held, std::chrono::milliseconds(50), [&]() { return busy == 0; })) {
    held.unlock();
    guarded(stop_if_asked);
    held.lock();
  }
  held.unlock();
  for (std::thread& helper : helpers) helper.join();
  if (trouble) std::rethrow_exception(trouble);
}

}  // namespace scalewort
