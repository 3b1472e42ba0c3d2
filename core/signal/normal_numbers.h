#pragma once

#include <cmath>
#include <limits>
#include <random>

namespace heron {

/// Numbers of a normal distribution from an engine of 32 or 64 bits: the very ones that
/// std::normal_distribution of libstdc++ gives; there each takes two logarithms that only a
/// compiler that optimises folds away.
template <class Real>
class NormalNumbers {
 public:
  explicit NormalNumbers(Real mean = 0, Real sigma = 1) : mean_(mean), sigma_(sigma) {}

  template <class Engine>
  Real operator()(Engine& engine) {
    if (has_kept_) {
      has_kept_ = false;
      return kept_ * sigma_ + mean_;
    }
    Real x = 0;
    Real y = 0;
    Real square = 0;
    do {
      x = static_cast<Real>(Real(2) * canonical(engine) - 1.0);
      y = static_cast<Real>(Real(2) * canonical(engine) - 1.0);
      square = x * x + y * y;
    } while (square > Real(1) || square == Real(0));
    const Real by = std::sqrt(-2 * std::log(square) / square);
    kept_ = x * by;
    has_kept_ = true;
    return y * by * sigma_ + mean_;
  }

 private:
  /// From 0 to 1.
  template <class Engine>
  static Real canonical(Engine& engine) {
    static_assert(Engine::min() == 0);
    constexpr int kBits = std::numeric_limits<typename Engine::result_type>::digits > 32 &&
                                  Engine::max() > 0xffffffffU
                              ? 64
                              : 32;
    constexpr Real kRange = kBits == 64 ? Real(18446744073709551616.0) : Real(4294967296.0);
    Real sum = static_cast<Real>(engine());
    Real range = kRange;
    if constexpr (std::numeric_limits<Real>::digits > kBits) {
      sum += static_cast<Real>(engine()) * kRange;
      range *= kRange;
    }
    const Real number = sum / range;
    return number < Real(1) ? number : std::nextafter(Real(1), Real(0));
  }
  Real mean_;
  Real sigma_;
  Real kept_ = 0;
  bool has_kept_ = false;
};

}  // namespace heron
