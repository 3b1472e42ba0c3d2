#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/judge/mask.h"
#include "core/judge/verdict.h"
#include "core/method/measure/lowpass.h"
#include "core/method/purity/purity_reading.h"
#include "core/method/result.h"

namespace heron {

inline constexpr const char* kReCarrier = "re carrier";

/// The suppressed carrier and the other sideband of a single-sideband transmitter lie inside its
/// necessary bandwidth: no limit for unwanted emissions beside it judges them.
enum class LineKind {
  carrier,
  harmonic,
  spurious,
  instrument,
  suppressed_carrier,
  opposite_sideband,
  wide  ///< noise over many filter widths: its power in one of them
};
std::string line_kind_name(LineKind kind);  ///< as an id

struct PuritySettings {
  double carrier_hz = 0.0;
  Mask mask;
  std::optional<double> power_dbm;  ///< of the carrier at the device, instead of the measured one
  std::optional<Chain> chain;       ///< levels are referred to the device through it
  std::optional<double> linearity_u_db;  ///< of the instrument's ratios; 0 leaves it out
  /// Recordings without a full scale share one: nobody touched the gain.
  bool is_same_gain = false;
  /// Where the dial stands, when the "carrier" is one tone beside it.
  std::optional<double> suppressed_carrier_hz;
};

/// What a line's level is uncertain by, in the parts that a ratio and an absolute level take.
struct LineBudget {
  std::vector<Contribution> line;     ///< its reading and the hook-up at its frequency
  std::vector<Contribution> carrier;  ///< the same of the carrier
  /// The hook-up, where it errs at the line as at the carrier: it leaves their ratio.
  std::vector<Contribution> same_path = {};
  Contribution scale;                 ///< the instrument's, of a level in dBm
  Contribution linearity;             ///< and between two levels
  std::optional<double> fixed_share;  ///< of the carrier, whatever the limit is in
};

/// One line at the device.
struct PurityLine {
  double frequency_hz = 0.0;
  LineKind kind = LineKind::spurious;
  int harmonic = 0;            ///< 1 = the carrier; 0 = none
  double as_read_dbm = 0.0;    ///< at the instrument
  double correction_db = 0.0;  ///< loss of the hook-up at this frequency
  double level_dbm = 0.0;      ///< at the device; meaningless unless the levels are absolute
  double level_dbc = 0.0;
  LineBudget budget;
  bool is_bound = false;
  double floor_dbc = -400.0;
  std::string doubt;
  std::string source;
  std::string typed;
  std::optional<double> limit_dbc;
  double limit_carrier_share = 1.0;  ///< of that limit, see MaskLimit
  bool needs_power = false;  ///< a limit at its frequency depends on a power that is not known
  std::optional<Judgement> judgement;

  /// Harmonics, spurious lines and wide noise: what a mask limits.
  bool is_unwanted() const;
};

/// A part of the mask that could not be judged.
struct Unjudged {
  enum class Why { range, floor, power, gap };
  double from_hz = 0.0;
  double to_hz = 0.0;
  Why why = Why::range;
};

struct PurityAnalysis {
  std::vector<std::string> inputs;
  double carrier_hz = 0.0;  ///< as measured
  bool is_absolute = false;
  std::optional<double> carrier_dbm;  ///< at the device
  std::vector<Contribution> carrier_contributions;
  Mask mask;
  std::vector<PurityLine> lines;  ///< the carrier first, then by frequency
  std::vector<Curve> spectra;     ///< as read, x: radio frequency
  std::vector<Unjudged> unjudged;
  std::vector<Remark> remarks;

  const PurityLine* carrier() const;
  /// The line with the worst verdict, of those the least margin; without a mask the strongest.
  /// nullptr if there is none.
  const PurityLine* worst() const;
  /// Of everything together: a pass only if everything that the mask covers was judged.
  Verdict verdict() const;
  /// The worst line's, with the verdict of everything; nullopt without a mask.
  std::optional<Judgement> judgement() const;
};

/// Classifies, refers to the device, and judges what the sources say together. InputError: no
/// carrier where one must be, a frequency outside a part's table, relative and absolute levels
/// mixed.
PurityAnalysis assess_purity(const std::vector<PuritySource>& sources,
                             const PuritySettings& settings);

/// "2nd harmonic", "non-harmonic", "residual carrier"
std::string line_name(const PurityLine& line);
/// The carrier at the device; nullopt while levels are only relative.
std::optional<Figure> carrier_figure(const PurityAnalysis& analysis);
/// Level of a line as a figure, dB re carrier; a bound carries all but its noise.
Figure line_figure(const PurityLine& line);

/// The same lines once more with `added_db` more attenuation before the instrument: a line whose
/// level as read falls by over half of it more than that is made there. Marks such lines in
/// `first`, with a remark for each.
void compare_attenuation(PurityAnalysis& first, const PuritySource& second, double added_db);

/// Filters that would help; empty unless a harmonic or a line above the carrier fails or is too
/// close.
std::vector<FilterAdvice> advise_filter(const PurityAnalysis& analysis, double headroom = 1.1);

/// In the common vocabulary; the headline is the least margin, or the strongest line.
Result to_result(const PurityAnalysis& analysis);

}  // namespace heron
