#include "core/signal/on_threads.h"

#include <algorithm>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

namespace heron {

void on_threads(unsigned threads, std::size_t most,
                const std::function<void(const std::stop_token&)>& work) {
  std::mutex mutex;
  std::exception_ptr failure;
  std::stop_source failed;
  const auto run = [&] {
    try {
      work(failed.get_token());
    } catch (...) {
      const std::scoped_lock lock(mutex);
      // The reason that came first is the one to tell; the others only stopped because of it.
      if (!failure) failure = std::current_exception();
      failed.request_stop();
    }
  };
  const std::size_t wanted =
      threads == 0 ? std::max(1U, std::thread::hardware_concurrency()) : threads;
  {
    std::vector<std::jthread> others;
    for (std::size_t t = 1; t < std::min(wanted, most); ++t) others.emplace_back(run);
    run();
  }
  if (failure) std::rethrow_exception(failure);
}

}  // namespace heron
