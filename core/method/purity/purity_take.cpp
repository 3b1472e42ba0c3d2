#include "core/method/purity/purity_take.h"

#include "core/method/place_name.h"
#include "core/method/purity/purity_settings.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

PurityReadingSettings reading_of(const TakeContext& context) {
  PurityReadingSettings how;
  how.carrier_hz = purity_carrier_hz(context.settings, context.drive);
  how.full_scale_dbm = context.full_scale_dbm;
  how.part = context.part;
  return how;
}

}  // namespace

PuritySource take_purity(const CaptureOpener& open, const TakeContext& context,
                         const Progress& progress, const std::stop_token& stop) {
  PurityReadingSettings how = reading_of(context);
  const double planned_hz = context.drive ? context.drive->frequency_hz : 0.0;
  const double named_hz = named_frequency_hz(context.step).value_or(planned_hz);
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
  return source;
}

PuritySource take_purity(const SpectrumTrace& trace, const TakeContext& context) {
  return read_purity(trace, reading_of(context));
}

}  // namespace heron
