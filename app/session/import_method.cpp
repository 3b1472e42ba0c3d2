#include "app/session/import_method.h"

#include <nlohmann/json.hpp>

#include "core/method/two_tone/two_tone_json.h"
#include "core/method/two_tone/two_tone_trace.h"

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

/// Nothing where no recording is evidence of it.
ImportMethod method_of(const GeneralTest& t, const std::string& step,
                       std::optional<double> full_scale) {
  if (t.method->analyse == nullptr) return {};
  const TakeContext context{t.evidence.settings, step, t.test.drive, full_scale, std::nullopt};
  ImportMethod m;
  m.id = t.method->record;
  m.of_recording = [analyse = t.method->analyse, context](
                       const CaptureOpener& open, const std::optional<TimeSpan>& part,
                       const Progress& progress, const std::stop_token& stop) {
    TakeContext with = context;
    with.part = part;
    return analyse(open, with, progress, stop);
  };
  if (t.method->analyse_trace != nullptr)
    m.of_trace = [analyse = t.method->analyse_trace, context](const SpectrumTrace& trace) {
      return analyse(trace, context);
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
