#include "core/method/measure/loop.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/error.h"

namespace heron {
namespace {

using Complex = std::complex<double>;
constexpr double kLowestHz = 1e-3;
constexpr double kHighestHz = 1e10;
constexpr int kPerDecade = 200;

double at(int i) {
  return kLowestHz * std::pow(10.0, static_cast<double>(i) / kPerDecade);
}

/// Where something falls through 0 between two frequencies, by halving on the logarithm.
template <class F>
double root(double low, double high, const F& f) {
  for (int i = 0; i < 80; ++i) {
    const double middle = std::sqrt(low * high);
    (f(middle) > 0.0 ? low : high) = middle;
  }
  return std::sqrt(low * high);
}

void check(const LoopDesign& l) {
  const auto need = [](double value, const char* what) {
    if (!(value > 0.0) || !std::isfinite(value))
      throw InputError("loop", "", std::string(what) + " is not above 0", "Give all parts in SI");
  };
  need(l.charge_pump_a, "charge_pump_a");
  need(l.kvco_hz_per_v, "kvco_hz_per_v");
  need(l.n, "n");
  need(l.r2_ohm, "r2_ohm");
  need(l.c1_f, "c1_f");
  need(l.c2_f, "c2_f");
  if (l.r3_ohm < 0.0 || l.c3_f < 0.0 || (l.r3_ohm > 0.0) != (l.c3_f > 0.0))
    throw InputError("loop", "", "r3_ohm and c3_f go together", "Give both, or neither");
}

}  // namespace

Complex filter_impedance(const LoopDesign& l, double hz) {
  const Complex s(0.0, 2.0 * std::numbers::pi * hz);
  Complex y = s * l.c1_f + s * l.c2_f / (1.0 + s * l.r2_ohm * l.c2_f);
  if (!l.has_third_pole()) return 1.0 / y;
  const Complex third = 1.0 + s * l.r3_ohm * l.c3_f;
  y += s * l.c3_f / third;
  return 1.0 / (y * third);
}

Complex open_loop(const LoopDesign& l, double hz) {
  return l.charge_pump_a * l.kvco_hz_per_v * filter_impedance(l, hz) /
         (l.n * Complex(0.0, 2.0 * std::numbers::pi * hz));
}

Complex closed_loop(const LoopDesign& l, double hz) {
  const Complex g = open_loop(l, hz);
  return g / (1.0 + g);
}

LoopFigures loop_margin(const LoopDesign& l) {
  check(l);
  const auto over_one = [&](double hz) { return std::norm(open_loop(l, hz)) - 1.0; };
  if (over_one(kLowestHz) <= 0.0 || over_one(kHighestHz) >= 0.0)
    throw InputError("loop", "", "its gain crosses 1 nowhere between 1 mHz and 10 GHz",
                     "Look at the units of its parts");
  LoopFigures f;
  f.crossover_hz = root(kLowestHz, kHighestHz, over_one);
  f.phase_margin_deg = 180.0 + std::arg(open_loop(l, f.crossover_hz)) * 180.0 / std::numbers::pi;
  // Two integrators and poles: it lags by more than half a turn and less than one and a half.
  if (f.phase_margin_deg > 180.0) f.phase_margin_deg -= 360.0;
  return f;
}

LoopFigures loop_figures(const LoopDesign& l) {
  LoopFigures f = loop_margin(l);
  if (!f.is_stable()) return f;
  const auto gain = [&](double hz) { return std::norm(closed_loop(l, hz)); };
  const int last = static_cast<int>(std::log10(kHighestHz / kLowestHz) * kPerDecade);
  int peak = 0;
  int fall = 0;
  const double half = 0.5;
  double highest = gain(at(0));
  double before = highest;
  for (int i = 1; i <= last; ++i) {
    const double here = gain(at(i));
    if (here > highest && i < last) {
      highest = here;
      peak = i;
    }
    if (before > half && here <= half) fall = i - 1;
    before = here;
  }
  double low = at(std::max(0, peak - 1));
  double high = at(peak + 1);
  for (int i = 0; i < 100; ++i) {
    const double a = low * std::cbrt(high / low);
    const double b = high / std::cbrt(high / low);
    (gain(a) < gain(b) ? low : high) = gain(a) < gain(b) ? a : b;
  }
  f.peaking_hz = std::sqrt(low * high);
  f.peaking_db = 10.0 * std::log10(gain(*f.peaking_hz));
  f.closed_loop_3db_hz = root(at(fall), at(fall + 1), [&](double hz) { return gain(hz) - half; });
  return f;
}

}  // namespace heron
