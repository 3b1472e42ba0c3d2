#pragma once

#include <memory>

#include "core/method/two_tone/two_tone_result.h"
#include "core/method/two_tone/two_tone_take.h"
#include "core/quantity/levels.h"
#include "tests/core/made_analysis.h"

namespace heron::testing {

inline Limit pep_limit(double db) {
  return {"Marsh club", Sense::at_most, db, "dB", kRePep, 20.0};
}

/// A two-tone test at 10 W, 20 W and so on, each typed; a missing analysis is a step not taken.
inline Evidence made_ladder(const std::vector<std::optional<TwoToneAnalysis>>& analyses,
                            const std::optional<Limit>& limit) {
  Evidence e;
  e.settings = nlohmann::json::object();
  e.convention = kRePep;
  e.limit = limit;
  for (std::size_t i = 0; i < analyses.size(); ++i) {
    const double watts = 10.0 * static_cast<double>(i + 1);
    EvidenceStep s;
    s.label = std::to_string(10 * (i + 1)) + " W";
    Reading output;
    output.quantity = "output";
    output.value = to_dbm(Watt{watts}).value;
    output.unit = "dBm";
    output.u = 0.1;
    output.typed = s.label;
    s.readings.push_back(output);
    if (analyses[i]) s.analysis = std::make_shared<const TwoToneRecord>(*analyses[i]);
    e.steps.push_back(std::move(s));
  }
  return e;
}

/// 10, 20 and 30 W; the highest fails, IM5 leads there.
inline Evidence three_steps() {
  return made_ladder({made_analysis({-44, -45, -50, -52}), made_analysis({-34, -35, -38, -39}),
                      made_analysis({-25, -26, -22, -23})},
                     pep_limit(-30));
}

}  // namespace heron::testing
