#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/quantity/figure.h"

namespace heron {

/// Output power: mean power of the keyed carrier (PEP of a two-tone or speech signal, one or the
/// other throughout) into the rated load at the device's terminals, per band and panel setting.
/// Droop = last less first reading of one key-down; the error of the device's own wattmeter =
/// indicated forward less measured power; efficiency = output / (volts * amperes) at the device's
/// terminals (IEEE 145 and ITU-R SM.329 words). Powers in dBm, ratios in dB, time in s.
/// Example: 94.3 W cold and 84.0 W after 60 s against "at least 100 W" are -0.25 dB and -0.76 dB,
/// a droop of -0.50 dB; 13.5 V and 17.8 A make 39.2 %; an indicated 100 W is +0.25 dB off.

/// One moment of one key-down.
struct OutputReading {
  double time_s = 0.0;           ///< since key down
  std::optional<Figure> output;  ///< dBm at the device's terminals
  std::optional<Figure> volts;
  std::optional<Figure> amperes;
  std::optional<double> forward_w;  ///< as its own meter shows it
  std::optional<double> reflected_w;
};

/// One band and panel setting.
struct OutputStep {
  std::string label;
  std::optional<double> frequency_hz;
  std::vector<OutputReading> readings;       ///< by time
  std::optional<double> specified_dbm = {};  ///< of this step, instead of the test's limit
};

struct OutputRow {
  std::string label;
  std::optional<double> frequency_hz;
  std::optional<Figure> cold;            ///< dBm, the first reading
  std::optional<Figure> hot;             ///< dBm, the last one, where it is not the first too
  double hot_after_s = 0.0;              ///< from the first to the last
  std::optional<Figure> droop;           ///< dB, negative = falling; common parts cancel
  std::optional<Figure> efficiency;      ///< %, cold
  std::optional<Figure> volts;           ///< cold
  std::optional<Figure> amperes;         ///< cold
  std::optional<double> sag_v;           ///< last less first volts
  std::optional<Figure> meter_error;     ///< dB, indicated forward against measured, cold
  std::optional<double> indicated_vswr;  ///< as its own meter sees the load
  std::optional<Limit> limit;            ///< dBm
  std::optional<Limit> stated;           ///< the same as it was stated, or in W
  std::optional<Judgement> judgement;    ///< of the worse one of cold and hot
  bool is_hot_judged = false;
  bool is_taken() const { return cold || hot; }
  const Figure& judged() const { return is_hot_judged ? *hot : *cold; }  ///< where it is taken
};

struct OutputPower {
  std::vector<OutputRow> rows;  ///< in the order given
  std::vector<Remark> remarks;
  /// The row with the least margin; without a limit the first taken.
  std::optional<std::size_t> headline() const;
};

/// `limit` in W or dBm; a step's own specification comes before it.
OutputPower assess_output(const std::vector<OutputStep>& steps, const std::optional<Limit>& limit);

/// What a reading of a power meter is uncertain by: its own u, the same for all readings, and how
/// well one reading repeats.
std::vector<Contribution> meter_contributions(double u_db);

/// Full scale of the margin line of a power, dB.
inline constexpr double kPowerMarginSpanDb = 6.0;

/// A level by a limit in dBm, whichever convention both are in: a keyed carrier has but one power.
Judgement judge_power(const Figure& level, Limit limit);

/// A limit in W as one in dBm, so that its margin is in dB; as it is in dBm; nullopt of any other
/// unit.
std::optional<Limit> power_limit_dbm(const Limit& limit);

}  // namespace heron
