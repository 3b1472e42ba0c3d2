#include "report/evidence_record.h"

#include "core/chain/chain_json.h"
#include "core/method/evidence_json.h"
#include "core/method/result_json.h"

namespace heron {
namespace {

using nlohmann::json;

json capture_record(const StepCapture& c, const char* kind) {
  return {{"kind", kind}, {"name", c.name}, {"hash", c.hash}, {"taken_at", c.taken_at}};
}

json step_record(const Step& step) {
  json readings = json::array();
  for (const Reading& r : step.readings) readings.push_back(to_json(r));
  json conditions = json::array();
  for (const Condition& c : step.conditions) conditions.push_back(to_json(c));
  json recordings = json::array();
  if (step.capture) recordings.push_back(capture_record(*step.capture, "recording"));
  if (step.self_test) recordings.push_back(capture_record(*step.self_test, "self_test"));
  for (const StepCapture& c : step.repeats) recordings.push_back(capture_record(c, "repeat"));
  return {{"step", step.label},
          {"conditions", conditions},
          {"readings", readings},
          {"recordings", recordings}};
}

}  // namespace

json evidence_record(const GeneralTest& t) {
  json out{{"method", t.test.characteristic},
           {"conditions", t.test.conditions},
           {"settings", t.evidence.settings},
           {"steps", json::array()}};
  if (t.test.limit) out["limit"] = to_json(*t.test.limit);
  if (t.test.drive) out["drive"] = to_json(*t.test.drive);
  if (t.hookup)
    out["hookup"] = to_json(t.hookup->chain);
  else if (!t.test.hookup.empty())
    out["hookup"] = t.test.hookup;
  for (const Step& step : t.steps) out["steps"].push_back(step_record(step));
  return out;
}

}  // namespace heron
