#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/method/measure/convention.h"
#include "core/method/measure/measured_part.h"
#include "core/method/measure/recorder_linearity.h"
#include "core/method/result.h"
#include "core/quantity/figure.h"
#include "core/signal/welch.h"

namespace heron {

struct TwoToneSettings {
  std::optional<std::pair<double, double>> tones_hz;  ///< capture frequencies; else found
  double carrier_hz = 0.0;  ///< where the suppressed carrier is, capture frequency
  int highest_order = 11;
  double target_rbw_hz = 12.0;  ///< wished noise bandwidth; the record may force a wider one
  std::optional<double> full_scale_dbm;  ///< level of a full-scale sinusoid at the sampler input
  std::optional<TimeSpan> part;          ///< measure this; else the steadiest long keyed part
  double linearity_u_db = 0.0;  ///< how far the recorder's own scale may bend between lines
  unsigned threads = 0;
  std::size_t plot_points = 16384;
};

enum class Side { lower, upper };

/// One test tone as recorded.
struct TestTone {
  double frequency_hz = 0.0;
  double u_frequency_hz = 0.0;
  double level_dbfs = 0.0;
  double u_db = 0.0;
};

/// One product of odd order n = 2k - 1: lower k f1 - (k-1) f2, upper k f2 - (k-1) f1.
struct TwoToneProduct {
  int order = 3;
  Side side = Side::lower;
  double frequency_hz = 0.0;  ///< signed; real audio keeps the sign although it is heard at |f|
  double level_dbc = 0.0;     ///< re one tone; the 95 % limit where `is_bound`
  double level_db_pep = 0.0;
  double u_db = 0.0;
  bool is_bound = false;
  double floor_dbc = 0.0;   ///< noise in one RBW at this place
  bool is_covered = false;  ///< a bound because another line stands there, not noise
};

/// What one recording says.
struct TwoToneAnalysis {
  std::string input;
  CaptureInfo capture;
  std::optional<KeyedParts> parts;  ///< of a recording: when it is keyed, what was measured
  double rbw_hz = 0.0;
  std::string window;
  std::size_t averages = 0;
  double peak_dbfs = -200.0;  ///< largest component sample
  std::int64_t clipped_samples = 0;
  double drift_hz = 0.0;  ///< of the tones over the record, peak to peak
  std::optional<double> full_scale_dbm;
  RecorderLinearity linearity{0.0, false, false};  ///< of every ratio
  double repeatability_u_db = 0.0;                 ///< scatter of the same step taken several times
  std::string noise_source = "noise in the recording";  ///< what a product's own u comes from

  std::vector<TestTone> tones;  ///< none, one, or two in order of frequency
  double one_tone_dbfs = 0.0;   ///< mean power of the two: reference "one tone"
  double pep_dbfs = 0.0;        ///< squared sum of the two amplitudes: reference "PEP"
  std::vector<TwoToneProduct> products;
  double carrier_hz = 0.0;  ///< where the suppressed carrier was looked for
  std::optional<double> carrier_dbc;
  std::optional<double> image_dbc;  ///< strongest mirror image of a tone (I/Q only)
  std::optional<double> usable_dynamic_range_db;
  Curve spectrum;
  std::vector<Remark> remarks;

  /// Sets both references from the levels of the two tones.
  void set_references();
  double pep_over_tone_db() const { return pep_dbfs - one_tone_dbfs; }
  /// The product that decides; nullptr without products.
  const TwoToneProduct* worst() const;
  const TwoToneProduct* find(int order, Side side) const;
  /// The side that stands higher.
  const TwoToneProduct* worse_side(int order) const;
};

/// Sets what every ratio carries besides its noise, with the remark where that is only assumed.
void set_linearity(TwoToneAnalysis& analysis, const RecorderLinearity& linearity, bool has_hookup);

/// Level of a product as a figure in the given convention, with its budget.
Figure product_figure(const TwoToneAnalysis& analysis, const TwoToneProduct& product,
                      const std::string& convention);

/// "IM5 upper".
std::string product_name(const TwoToneProduct& product);

/// Analyses one recording. A record that cannot carry a statement gives remarks with severity
/// fault and no products; an unreadable one throws InputError; `stop` throws Cancelled.
TwoToneAnalysis analyse_two_tone(const CaptureOpener& open, const TwoToneSettings& settings = {},
                                 const Progress& progress = {}, const std::stop_token& stop = {});

/// In the common vocabulary; the headline is the worst product in the given convention.
Result to_result(const TwoToneAnalysis& analysis, const std::string& convention);

/// The limit in the other convention, through this recording's own PEP over one tone.
Limit in_convention(const Limit& limit, const std::string& convention, double pep_over_tone_db);

}  // namespace heron
