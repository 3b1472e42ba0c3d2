#pragma once

#include <complex>
#include <cstddef>
#include <memory>
#include <span>

namespace heron {

/// Whether planning may take a second to find the fastest transform.
enum class PlanEffort { quick, thorough };

/// Forward single-precision FFT of fixed size, with its own aligned buffers. Plans are cached by
/// size and shared between threads; each Fft object belongs to one thread.
class Fft {
 public:
  /// `complex_input` false: `size` real samples, size/2 + 1 output bins.
  Fft(std::size_t size, bool complex_input, PlanEffort effort);
  ~Fft();
  Fft(Fft&&) noexcept;
  Fft& operator=(Fft&&) noexcept;

  std::span<float> input();  ///< size floats (real) or 2 * size (interleaved I, Q)
  std::span<const std::complex<float>> output() const;
  void run();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace heron
