#include "core/method/touch/touch_settings.h"

#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

using nlohmann::json;

std::string written_events(const json& kept) {
  return touch_events_text(touch_events_from_json(kept));
}

std::string events_understood(const json& kept) {
  const auto all = touch_events_from_json(kept);
  return std::to_string(all.size()) + (all.size() == 1 ? " event" : " events");
}

}  // namespace

TouchPlan touch_plan(const Evidence& evidence) {
  TouchPlan plan;
  const json& from = own_settings(evidence.settings, kTouchSettings);
  try {
    if (from.contains(kTouchEvents)) plan.events = touch_events_from_json(from.at(kTouchEvents));
    plan.span_hz = number_from(from, "span_hz").value_or(plan.span_hz);
    plan.least_hz = number_from(from, "least_hz").value_or(plan.least_hz);
    plan.shows_mean = from.value("shows", "highest") == "mean";
    plan.scale_db = number_from(from, "scale_db").value_or(plan.scale_db);
    plan.repeats_db = number_from(from, "repeats_db").value_or(plan.repeats_db);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  return plan;
}

json usual_touch_settings() {
  return {{kTouchEvents, json::array()}, {"span_hz", nullptr},  {"least_hz", nullptr},
          {"shows", "highest"},          {"scale_db", nullptr}, {"repeats_db", nullptr}};
}

std::string check_touch_settings(const json& settings) {
  const json& own = own_settings(settings, kTouchSettings);
  const double span = number_from(own, "span_hz").value_or(TouchPlan().span_hz);
  const double least = number_from(own, "least_hz").value_or(TouchPlan().least_hz);
  if (!(least >= 0.0) || least > span / 2.0)
    return "Lines would be told from an offset beyond half of the span.";
  return "";
}

std::string touch_setting_words(const Evidence& evidence) {
  return "\u00b1 " + engineering_text(touch_plan(evidence).span_hz, "Hz");
}

std::vector<SettingField> touch_setting_fields() {
  constexpr const char* kMore = "Levels";
  return {
      frequency_setting("span_hz", "", "Span either side",
                        "How far from the carrier lines are looked for: to 2.4 kHz through "
                        "6 Hz, beyond through 40 Hz, as far as the recording goes.",
                        "\u00b1 1.2 kHz, as usual", "2.4 kHz", "Hz"),
      {.key = "shows",
       .head = "Show",
       .hint = "Of each event, all over equal times.",
       .choices = {{"highest", "highest quarter second"}, {"mean", "mean"}}},
      frequency_setting("least_hz", "", "Lines from",
                        "Nearer to the carrier no line is told from it.", "40 Hz, as usual",
                        "80 Hz", "Hz"),
      quantity_setting("scale_db", kMore, "Line against carrier, standard",
                       "How far off the recorder may show a line beside the carrier.",
                       Quantity::gain, "dB", "0.2 dB, as usual", "0.2 dB"),
      quantity_setting("repeats_db", kMore, "Repeatability, standard",
                       "How well a line that nobody touched agrees with itself.", Quantity::gain,
                       "dB", "0.2 dB, as usual", "0.2 dB"),
      {.kind = SettingField::Kind::text,
       .key = kTouchEvents,
       .head = "What was touched, and when",
       .hint = "A line each, in seconds from the start: \u201c9-14 tap the lid\u201d. Taps are "
               "judged by their highest quarter second, the rest by its mean; \u201chands "
               "off\u201d is what all is held against.",
       .text = {.parse = [](const std::string& text) { return to_json(parse_touch_events(text)); },
                .written = written_events,
                .understood = events_understood},
       .is_evidence = true}};
}

LimitField touch_limit(const Evidence&) {
  LimitField f;
  f.head = "Any line at most";
  f.hint = "Beside the carrier, whatever is done to it.";
  f.label = "Limit";
  f.example = "\u221250";
  f.asked = Quantity::limit;
  f.unit = "dB";
  f.convention = "re carrier";
  f.sense = Sense::at_most;
  return f;
}

}  // namespace heron
