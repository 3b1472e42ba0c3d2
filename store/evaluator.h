#pragma once

#include <chrono>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

#include "store/loaded.h"

namespace heron {

/// Works tests out in a thread of its own, from its own connection to the shack. The newest request
/// for a test wins: what was asked for it before is never handed out.
class Evaluator {
 public:
  struct Done {
    Id test = 0;
    bool is_changed = false;  ///< its headline has to be written
    LoadedTest loaded;        ///< with its headline in it, where it is changed
    std::string failure;      ///< a sentence; empty = none
    std::string advice;
  };

  /// `told` is called from that thread whenever a test is done. Must be gone before the shack.
  /// InputError if the shack cannot be opened once more.
  Evaluator(const Shack& shack, std::function<void()> told);
  ~Evaluator();
  Evaluator(const Evaluator&) = delete;
  Evaluator& operator=(const Evaluator&) = delete;

  /// As the shack stands now, before what else is waiting.
  void ask(Id test, bool is_changed);
  /// What is done and was not yet taken, the newest of each test.
  std::vector<Done> take();
  /// Until all is done; false if it is not after so long.
  bool wait(std::chrono::milliseconds at_most);
  bool is_busy() const;

 private:
  struct Request {
    Id test = 0;
    bool is_changed = false;
  };
  void run(const std::stop_token& stop);
  Done work_out(const Request& request) const;

  std::unique_ptr<const Shack> shack_;
  std::function<void()> told_;
  mutable std::mutex mutex_;
  std::condition_variable_any wake_;
  std::deque<Request> waiting_;
  Request under_way_;  ///< test 0 = none, or asked for again meanwhile
  bool is_working_ = false;
  std::vector<Done> done_;
  std::jthread thread_;  ///< last: it ends before what it uses
};

}  // namespace heron
