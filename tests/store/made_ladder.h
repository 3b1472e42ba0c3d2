#pragma once

#include "core/quantity/levels.h"
#include "store/two_tone.h"
#include "tests/core/made_analysis.h"

namespace heron::testing {

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
    if (analyses[i])
      s.capture = StepCapture{s.id, "h", "f.wav", "2026-03-02T19:04:00Z", 0, std::nullopt};
    t.steps.push_back(s);
    t.analyses.push_back(analyses[i]);
    Figure output;
    output.value = s.output->dbm;
    output.unit = "dBm";
    output.contributions = {{"power meter", 0.1, Scope::common}};
    t.outputs.push_back(output);
    t.taken_on.emplace_back();
    t.self_tests.emplace_back();
  }
  reevaluate(t);
  return t;
}

}  // namespace heron::testing
