// Work shared among threads: results, exceptions from any thread, and the wish to stop.
#include <cassert>
#include <cstdio>
#include <stdexcept>
#include <vector>
#include "core/parallel.h"

namespace {
int asked = 0;
bool ask_late() { return ++asked > 3; }
bool never() { return false; }
}  // namespace

int main() {
  using scalewort::share;
  for (int threads : {1, 2, 8}) {
    std::vector<int> seen(1000, 0);
    share(1000, 7, threads, [&](Eigen::Index first, Eigen::Index last) {
      for (Eigen::Index i = first; i < last; ++i) seen[i] += 1;
    });
    for (int times : seen) if (times != 1) return 1;
    // What any piece throws arrives here, and no thread is left behind.
    bool caught = false;
    try {
      share(100, 1, threads, [&](Eigen::Index first, Eigen::Index) {
        if (first == 60) throw std::runtime_error("piece 60");
      });
    } catch (const std::runtime_error& e) {
      caught = std::string(e.what()) == "piece 60";
    }
    if (!caught) return 2;
    asked = 0;
    scalewort::set_stop_question(ask_late);
    bool stopped = false;
    try {
      share(100000, 1, threads, [](Eigen::Index, Eigen::Index) { std::this_thread::sleep_for(std::chrono::microseconds(50)); });
    } catch (const scalewort::Interrupted&) {
      stopped = true;
    }
    if (!stopped) return 3;
    scalewort::set_stop_question(never);
  }
  // Other threads ask nothing.
  scalewort::set_stop_question(ask_late);
  asked = 100;
  bool asked_elsewhere = false;
  std::thread other([&]() {
    try {
      scalewort::stop_if_asked();
    } catch (...) {
      asked_elsewhere = true;
    }
  });
  other.join();
  if (asked_elsewhere) return 4;
  std::puts("fine");
  return 0;
}
