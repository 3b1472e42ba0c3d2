#pragma once

#include "core/method/two_tone/two_tone.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"

namespace heron::testing {

/// Two tones with products of several orders well above the noise.
inline TwoToneSignal distorted() {
  TwoToneSignal s;
  s.seconds = 6.0;
  s.nonlinearity.coefficients = {-0.3, 0.6};
  s.noise_dbfs = -85.0;
  return s;
}

/// What the method says of a generated signal.
inline TwoToneAnalysis analyse(const TwoToneSignal& signal, const TwoToneSettings& settings = {}) {
  return analyse_two_tone(memory_capture(generate_two_tone(signal), signal.sample_rate_hz),
                          settings);
}

/// An analysis with products at the given levels (dBc), upper and lower of each order in turn.
inline TwoToneAnalysis made_analysis(const std::vector<double>& levels_dbc, double u_db = 0.1,
                                     double floor_dbc = -90.0) {
  TwoToneAnalysis a;
  a.capture.sample_rate_hz = 48000;
  a.capture.is_complex = true;
  a.capture.frames = 480000;
  a.rbw_hz = 12;
  a.peak_dbfs = -6.0;
  a.tones = {{650, 0.01, -12.0, 0.01}, {1850, 0.01, -12.0, 0.01}};
  a.set_references();
  for (std::size_t i = 0; i < levels_dbc.size(); ++i) {
    TwoToneProduct p;
    p.order = 3 + 2 * static_cast<int>(i / 2);
    p.side = i % 2 == 0 ? Side::lower : Side::upper;
    p.frequency_hz =
        p.side == Side::lower ? 650.0 - 600.0 * (p.order - 1) : 1850.0 + 600.0 * (p.order - 1);
    p.level_dbc = levels_dbc[i];
    p.level_db_pep = levels_dbc[i] - a.pep_over_tone_db();
    p.is_bound = levels_dbc[i] < floor_dbc + 3.0;
    p.u_db = p.is_bound ? 0.0 : u_db;
    p.floor_dbc = floor_dbc;
    a.products.push_back(p);
  }
  a.spectrum.x_start = -24000;
  a.spectrum.x_step = 12;
  a.spectrum.y.assign(4000, static_cast<float>(floor_dbc - 12.0));
  return a;
}

}  // namespace heron::testing
