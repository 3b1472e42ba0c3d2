#pragma once

#include <algorithm>
#include <chrono>
#include <functional>
#include <thread>

namespace heron {

/// The time that the bench lives in: the wall clock's, or faster where the bench is simulated.
class BenchTime {
 public:
  explicit BenchTime(double factor = 1.0)
      : factor_(factor), start_(std::chrono::steady_clock::now()) {}
  double factor() const { return factor_; }
  double now_s() const {
    return factor_ *
           std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count();
  }
  /// Waits so many seconds of the bench, a little at a time; `each` is told how many are left and
  /// may throw.
  void wait(double seconds, const std::function<void(double)>& each) const {
    const double end = now_s() + seconds;
    for (double left = seconds; left > 0.0; left = end - now_s()) {
      each(left);
      const double slice = std::min(left / factor_, 0.02);
      std::this_thread::sleep_for(std::chrono::duration<double>(slice));
    }
  }

 private:
  double factor_;
  std::chrono::steady_clock::time_point start_;
};

}  // namespace heron
