#include "core/signal/fft.h"

#include <fftw3.h>
#include <map>
#include <mutex>
#include <new>
#include <tuple>

namespace heron {
namespace {

using PlanKey = std::tuple<std::size_t, bool, PlanEffort>;

/// Plans by size, kept as long as the program runs. FFTW's planner is not thread-safe, its plans
/// are.
class PlanCache {
 public:
  PlanCache() = default;
  ~PlanCache() {
    for (const auto& [key, plan] : plans_) fftwf_destroy_plan(plan);
    fftwf_cleanup();
  }
  PlanCache(const PlanCache&) = delete;
  PlanCache& operator=(const PlanCache&) = delete;

  fftwf_plan plan(const PlanKey& key, float* in, fftwf_complex* out) {
    const std::scoped_lock lock(mutex_);
    if (const auto found = plans_.find(key); found != plans_.end()) return found->second;
    const auto [size, complex_input, effort] = key;
    const unsigned flags = effort == PlanEffort::thorough ? FFTW_MEASURE : FFTW_ESTIMATE;
    const int n = static_cast<int>(size);
    const fftwf_plan made =
        complex_input
            ? fftwf_plan_dft_1d(n, reinterpret_cast<fftwf_complex*>(in), out, FFTW_FORWARD, flags)
            : fftwf_plan_dft_r2c_1d(n, in, out, flags);
    plans_.emplace(key, made);
    return made;
  }

 private:
  std::mutex mutex_;
  std::map<PlanKey, fftwf_plan> plans_;
};

fftwf_plan cached_plan(const PlanKey& key, float* in, fftwf_complex* out) {
  static PlanCache cache;
  return cache.plan(key, in, out);
}

}  // namespace

struct Fft::State {
  std::size_t size;
  bool complex_input;
  float* in;
  fftwf_complex* out;
  fftwf_plan plan = nullptr;

  State(std::size_t n, bool is_complex)
      : size(n),
        complex_input(is_complex),
        in(fftwf_alloc_real(is_complex ? 2 * n : n)),
        out(fftwf_alloc_complex(is_complex ? n : n / 2 + 1)) {
    if (in == nullptr || out == nullptr) {
      fftwf_free(in);
      fftwf_free(out);
      throw std::bad_alloc();
    }
  }
  ~State() {
    fftwf_free(in);
    fftwf_free(out);
  }
  State(const State&) = delete;
  State& operator=(const State&) = delete;
};

Fft::Fft(std::size_t size, bool complex_input, PlanEffort effort)
    : state_(std::make_unique<State>(size, complex_input)) {
  state_->plan = cached_plan({size, complex_input, effort}, state_->in, state_->out);
}
Fft::~Fft() = default;
Fft::Fft(Fft&&) noexcept = default;
Fft& Fft::operator=(Fft&&) noexcept = default;

std::span<float> Fft::input() {
  return {state_->in, state_->complex_input ? 2 * state_->size : state_->size};
}

std::span<const std::complex<float>> Fft::output() const {
  return {reinterpret_cast<const std::complex<float>*>(state_->out),
          state_->complex_input ? state_->size : state_->size / 2 + 1};
}

void Fft::run() {
  if (state_->complex_input) {
    fftwf_execute_dft(state_->plan, reinterpret_cast<fftwf_complex*>(state_->in), state_->out);
  } else {
    fftwf_execute_dft_r2c(state_->plan, state_->in, state_->out);
  }
}

}  // namespace heron
