#pragma once

#include <cmath>

namespace heron::sim {

/// A heat sink with one time constant.
struct HeatSink {
  double ambient_c = 22.0;
  double kelvin_per_watt = 0.6;
  double time_constant_s = 240.0;
  double temperature_c = 22.0;

  /// So long at so much heat.
  void run(double seconds, double watt) {
    const double end = ambient_c + watt * kelvin_per_watt;
    temperature_c = end + (temperature_c - end) * std::exp(-seconds / time_constant_s);
  }
};

}  // namespace heron::sim
