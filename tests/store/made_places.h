#pragma once

#include <filesystem>
#include <utility>
#include <vector>

#include "core/quantity/levels.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/write_wav.h"

namespace heron::testing {

/// Lines of an invented transmitter on 14.2 MHz: frequency and level in dBFS.
inline std::vector<std::pair<double, double>> invented_lines() {
  return {{14.2e6, -10.0}, {28.4e6, -50.0}, {42.6e6, -75.0}, {14.25e6, -85.0}};
}

/// What a recorder centred there hears of the lines, 250 kS/s, a quarter of a second.
inline CaptureOpener place_recording(double center_hz,
                                     const std::vector<std::pair<double, double>>& lines,
                                     double attenuation_db = 0.0, std::uint64_t seed = 1) {
  constexpr double kRate = 250e3;
  std::vector<Sinusoid> sinusoids;
  for (const auto& [hz, dbfs] : lines) {
    if (std::abs(hz - center_hz) < 0.45 * kRate)
      sinusoids.push_back({hz - center_hz, voltage_ratio_from_db(dbfs - attenuation_db)});
  }
  return memory_capture(generate_sinusoids(sinusoids, kRate, 1U << 16U, -80.0, seed), kRate);
}

/// A WAV file that does not say where it was taken, but in its name: "28.43MHz.wav".
inline std::filesystem::path write_place(const std::filesystem::path& folder, double center_hz,
                                         const std::vector<std::pair<double, double>>& lines,
                                         double attenuation_db = 0.0) {
  char name[64];
  std::snprintf(name, sizeof name, "%.2fMHz%s.wav", center_hz / 1e6,
                attenuation_db > 0.0 ? " weaker" : "");
  write_wav(place_recording(center_hz, lines, attenuation_db), folder / name);
  return folder / name;
}

}  // namespace heron::testing
