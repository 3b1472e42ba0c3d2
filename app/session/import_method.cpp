#include "app/session/import_method.h"

#include <nlohmann/json.hpp>

#include "core/method/purity_json.h"
#include "core/method/two_tone_json.h"
#include "core/method/two_tone_trace.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

ImportMethod method_of(const TwoToneTest& t, const std::string&, std::optional<double> full_scale) {
  TwoToneSettings settings = two_tone_settings_from_json(t.test.settings);
  if (full_scale) settings.full_scale_dbm = full_scale;
  const std::optional<double> planned_hz =
      t.test.drive ? std::optional(t.test.drive->frequency_hz) : std::nullopt;
  ImportMethod m;
  m.id = "two_tone";
  m.of_recording = [settings](const CaptureOpener& open, const std::optional<TimeSpan>& part,
                              const Progress& progress, const std::stop_token& stop) {
    TwoToneSettings how = settings;
    how.part = part;
    return to_json(analyse_two_tone(open, how, progress, stop));
  };
  m.of_trace = [settings, planned_hz](const SpectrumTrace& trace) {
    TraceSettings how;
    how.highest_order = settings.highest_order;
    how.linearity_u_db = settings.linearity_u_db;
    if (planned_hz && *planned_hz >= trace.frequency_hz.front() &&
        *planned_hz <= trace.frequency_hz.back())
      how.carrier_hz = planned_hz;
    return to_json(analyse_trace(trace, how));
  };
  return m;
}

ImportMethod method_of(const PurityTest& t, const std::string& step,
                       std::optional<double> full_scale) {
  PurityReadingSettings settings;
  settings.carrier_hz = t.carrier_hz;
  settings.full_scale_dbm = full_scale;
  ImportMethod m;
  m.id = "purity";
  m.of_recording = [settings, named_hz = purity_center_hz(t, step)](
                       const CaptureOpener& open, const std::optional<TimeSpan>& part,
                       const Progress& progress, const std::stop_token& stop) {
    PurityReadingSettings how = settings;
    how.part = part;
    // What a recording says of itself counts more than how its step is called.
    const auto own_hz = open()->info().center_hz;
    how.center_hz = own_hz.value_or(named_hz);
    PuritySource source = read_purity(open, how, progress, stop);
    if (!own_hz)
      source.remarks.push_back(
          {"center_assumed", Severity::note,
           "The recording does not state its centre frequency: " +
               engineering_text(named_hz, "Hz", 6) + " is used as its centre.",
           "Name the step by its frequency, such as 28.4 MHz, before adding it"});
    return to_json(source);
  };
  m.of_trace = [settings](const SpectrumTrace& trace) {
    return to_json(read_purity(trace, settings));
  };
  return m;
}

/// Nothing where no recording is evidence of it.
ImportMethod method_of(const GeneralTest& t, const std::string&, std::optional<double>) {
  if (t.method->analyse == nullptr) return {};
  ImportMethod m;
  m.id = t.method->record;
  m.of_recording = [analyse = t.method->analyse, settings = t.evidence.settings](
                       const CaptureOpener& open, const std::optional<TimeSpan>& part,
                       const Progress& progress, const std::stop_token& stop) {
    return analyse(open, settings, part, progress, stop);
  };
  return m;
}

ImportMethod method_of(const std::monostate&, const std::string&, std::optional<double>) {
  return {};
}

}  // namespace

ImportMethod import_method(const LoadedTest& test, const std::string& step,
                           std::optional<double> full_scale_dbm) {
  return std::visit([&](const auto& t) { return method_of(t, step, full_scale_dbm); }, test);
}

}  // namespace heron
