#include "core/method/frequency/log_evidence.h"

#include "core/method/frequency/tone_log.h"
#include "core/method/live_quantity.h"

namespace heron {

std::string logged_words(const Evidence& evidence) {
  std::size_t logged = 0;
  std::size_t typed = 0;
  for (const EvidenceStep& s : evidence.steps) {
    for (const SeriesPtr& log : s.series)
      if (log->quantity == kCountedFrequency || log->quantity == kToneReading)
        logged += log->samples.size();
    if (const auto* tones = dynamic_cast<const ToneLog*>(s.analysis.get()))
      logged += tones->seconds.size();
    if (find_reading(s.readings, kCountedFrequency) != nullptr ||
        find_reading(s.readings, kToneReading) != nullptr)
      ++typed;
  }
  if (logged + typed == 0) return "none yet";
  if (typed == 0) return std::to_string(logged) + " readings";
  if (logged == 0) return std::to_string(typed) + " typed";
  return std::to_string(logged) + " logged, " + std::to_string(typed) + " typed";
}

LogRecipe frequency_log_recipe(const DriftReference& reference, double every_s, double length_s) {
  LogRecipe r;
  r.quantities = {reference.tone_hz ? kToneReading : kCountedFrequency, kTemperature};
  r.every_s = every_s;
  r.length_s = length_s;
  r.step = "Log";
  r.nominal_hz = reference.nominal_hz;
  r.tone_hz = reference.tone_hz;
  r.is_upper = reference.is_upper;
  return r;
}

}  // namespace heron
