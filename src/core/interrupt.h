// Whether the user wants to stop. The core knows nothing of who asks: whoever calls it sets the
// question once, on the thread from which it calls, and long loops ask it as they go. On other
// threads nothing is asked. The question may throw in place of saying yes.
#pragma once
#include <stdexcept>
#include <thread>

namespace scalewort {

struct Interrupted : std::runtime_error {
  Interrupted() : std::runtime_error("stopped by the user") {}
};

struct StopQuestion {
  bool (*ask)() = nullptr;
  std::thread::id asked_on;
};

inline StopQuestion& stop_question() {
  static StopQuestion question;
  return question;
}

inline void set_stop_question(bool (*ask)()) { stop_question() = {ask, std::this_thread::get_id()}; }

inline void stop_if_asked() {
  const StopQuestion& question = stop_question();
  if (question.ask != nullptr && question.asked_on == std::this_thread::get_id() && question.ask()) throw Interrupted();
}

}  // namespace scalewort
