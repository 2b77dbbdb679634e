// Work shared among threads: results, exceptions from any thread, and the wish to stop.
#include <doctest/doctest.h>
#include <stdexcept>
#include <string>
#include <vector>
#include "core/parallel.h"

using scalewort::share;

namespace {
int asked = 0;
bool ask_late() { return ++asked > 3; }
bool never() { return false; }
}  // namespace

TEST_CASE("every piece is done once, on any number of threads") {
  for (int threads : {1, 2, 8}) {
    std::vector<int> seen(1000, 0);
    share(1000, 7, threads, [&](Eigen::Index first, Eigen::Index last) {
      for (Eigen::Index i = first; i < last; ++i) seen[i] += 1;
    });
    CHECK(seen == std::vector<int>(1000, 1));
  }
}

TEST_CASE("what any thread throws arrives on the calling one") {
  for (int threads : {1, 2, 8})
    CHECK_THROWS_WITH_AS(share(100, 1, threads,
                               [](Eigen::Index first, Eigen::Index) {
                                 if (first == 60) throw std::runtime_error("piece 60");
                               }),
                         "piece 60", std::runtime_error);
}

TEST_CASE("the wish to stop ends the work, and only the thread that set the question is asked") {
  scalewort::set_stop_question(ask_late);
  asked = 0;
  CHECK_THROWS_AS(share(100000, 1, 1, [](Eigen::Index, Eigen::Index) { std::this_thread::sleep_for(std::chrono::microseconds(50)); }),
                  scalewort::Interrupted);
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
  CHECK_FALSE(asked_elsewhere);
  scalewort::set_stop_question(never);
}
