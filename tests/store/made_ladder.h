#pragma once

#include <random>

#include "core/quantity/levels.h"
#include "store/two_tone_test.h"

namespace heron::testing {

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
  a.one_tone_dbfs = -12.0;
  a.pep_dbfs = a.one_tone_dbfs + pep_over_one_tone(1.0).value;
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

/// A test of several steps; a missing analysis is a step not taken.
inline TwoToneTest made_test(const std::vector<std::optional<TwoToneAnalysis>>& analyses,
                             const std::optional<Limit>& limit) {
  TwoToneTest t;
  t.test.id = 1;
  t.test.convention = kRePep;
  t.test.limit = limit;
  for (std::size_t i = 0; i < analyses.size(); ++i) {
    Step s;
    s.id = static_cast<Id>(i) + 1;
    s.label = std::to_string(10 * (i + 1)) + " W";
    s.output = TypedOutput{s.label, to_dbm(Watt{10.0 * static_cast<double>(i + 1)}).value, 0.1};
    if (analyses[i]) s.capture = StepCapture{s.id, "h", "f.wav", "2026-03-02T19:04:00Z"};
    t.steps.push_back(s);
    t.analyses.push_back(analyses[i]);
  }
  reevaluate(t);
  return t;
}

}  // namespace heron::testing
