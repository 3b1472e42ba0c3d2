#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/method/touch/touch_method.h"
#include "core/method/touch/touch_result.h"
#include "core/method/touch/touch_settings.h"

/// A record, or lines of events; whatever can be read can be worked with.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  heron::Evidence evidence;
  evidence.settings["touch"] = heron::touch_method().usual_settings();
  try {
    if (size > 0 && data[0] == '{') {
      const auto json = nlohmann::json::parse(text, nullptr, false);
      if (json.is_discarded()) return 0;
      heron::EvidenceStep step;
      step.analysis = heron::touch_method().read_record(json);
      evidence.steps.push_back(step);
    } else {
      const auto events = heron::parse_touch_events(text);
      heron::parse_touch_events(heron::touch_events_text(events));
      evidence.settings["touch"]["events"] = heron::to_json(events);
    }
    heron::evaluate_touch(evidence);
  } catch (const heron::InputError&) {
  }
  return 0;
}
