#include "core/method/two_tone/refer_two_tone.h"

#include "core/method/measure/recorder_linearity.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/quantity/levels.h"

namespace heron {
TwoToneAnalysis refer_to_device(const TwoToneAnalysis& analysis, const Chain& chain,
                                double center_hz) {
  TwoToneAnalysis a = analysis;
  const double at_centre = total_gain_db(chain, center_hz);
  // How much a line rises against one at the centre when the hook-up's slope is taken out.
  const auto rise = [&](double capture_hz) {
    return at_centre - total_gain_db(chain, center_hz + capture_hz);
  };
  if (a.full_scale_dbm) *a.full_scale_dbm -= at_centre;
  for (TestTone& t : a.tones) t.level_dbfs += rise(t.frequency_hz);
  if (a.tones.size() != 2) return a;
  const double before = a.one_tone_dbfs;
  a.set_references();
  const double reference = before - a.one_tone_dbfs;
  for (TwoToneProduct& p : a.products) {
    const double change = reference + rise(p.frequency_hz);
    p.level_dbc += change;
    p.floor_dbc += change;
    p.level_db_pep = to_pep(DbOneTone{p.level_dbc}, Db{a.pep_over_tone_db()}).value;
  }
  if (a.carrier_dbc) *a.carrier_dbc += reference + rise(a.carrier_hz);
  if (a.image_dbc) *a.image_dbc += reference;
  if (a.usable_dynamic_range_db) *a.usable_dynamic_range_db -= reference;
  if (a.full_scale_dbm) {
    // It was keyed as long as the recording lasts, at least.
    Drive drive{a.pep_dbfs + *a.full_scale_dbm, true, center_hz, std::nullopt};
    if (a.window != kAnalyserWindow && a.capture.sample_rate_hz > 0.0 && a.capture.frames > 0)
      drive.key_down_s = a.capture.duration_s();
    const ChainResult levels = evaluate_chain(chain, drive);
    a.remarks.insert(a.remarks.end(), levels.remarks.begin(), levels.remarks.end());
    sort_remarks(a.remarks);
  }
  return a;
}

}  // namespace heron
