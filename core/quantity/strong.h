#pragma once

#include <compare>

namespace heron {

/// A double with a physical meaning that cannot be mixed with another silently.
template <class Tag>
struct Strong {
  double value = 0.0;
  constexpr Strong() = default;
  constexpr explicit Strong(double v) : value(v) {}
  constexpr auto operator<=>(const Strong&) const = default;
};

using Ohm = Strong<struct OhmTag>;
using Watt = Strong<struct WattTag>;
using VoltPd = Strong<struct VoltPdTag>;        ///< RMS volts across the terminals of the load
using VoltEmf = Strong<struct VoltEmfTag>;      ///< RMS open-circuit volts of a matched source
using Dbm = Strong<struct DbmTag>;              ///< absolute power, dB re 1 mW
using Db = Strong<struct DbTag>;                ///< ratio of powers
using DbOneTone = Strong<struct DbOneToneTag>;  ///< level relative to one of two tones (dBc)
using DbPep = Strong<struct DbPepTag>;          ///< level relative to peak envelope power

constexpr Dbm operator+(Dbm level, Db gain) {
  return Dbm{level.value + gain.value};
}
constexpr Dbm operator-(Dbm level, Db loss) {
  return Dbm{level.value - loss.value};
}
constexpr Db operator-(Dbm a, Dbm b) {
  return Db{a.value - b.value};
}
constexpr Db operator+(Db a, Db b) {
  return Db{a.value + b.value};
}
constexpr Db operator-(Db a) {
  return Db{-a.value};
}

}  // namespace heron
