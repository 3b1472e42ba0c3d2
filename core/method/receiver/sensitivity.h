#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/method/measure/audio_ratio.h"
#include "core/quantity/figure.h"

namespace heron {

/// What was heard on one band: a level at the receiver's input, and its audio without and with it.
struct SensitivityReading {
  std::string label;
  std::optional<double> frequency_hz;
  std::optional<Figure> level;  ///< dBm in 50 ohm at the input, PD
  std::optional<AudioLevel> off;
  std::optional<AudioLevel> on;
  std::optional<AudioLevel> half;      ///< with half of the input voltage
  std::optional<double> bandwidth_hz;  ///< noise bandwidth of the receiver; nullopt = not known
  std::optional<double> specified_dbm;
  std::optional<double> birdie_db;  ///< noise there over what is beside it
  bool is_ten_db = false;           ///< the level was set so that (S+N)/N is 10 dB
  bool is_deaf = false;             ///< nothing was heard at that level
};

struct SensitivityPlan {
  AudioMeter meter = AudioMeter::true_rms;
  double u_audio_db = 0.1;     ///< standard: of a difference that the audio meter shows
  double u_ten_db = 0.3;       ///< standard: how well somebody sets 10 dB by eye
  std::optional<Limit> limit;  ///< level for 10 dB, at most, dBm
};

struct SensitivityRow {
  std::string label;
  std::optional<double> frequency_hz;
  std::optional<double> sn_n_db;
  std::optional<double> sn_db;
  std::optional<double> read_db;       ///< what an average-responding meter showed instead
  std::optional<Figure> for_ten_db;    ///< dBm
  std::optional<Figure> mds;           ///< dBm
  std::optional<Figure> noise_figure;  ///< dB
  std::optional<Figure>
      half_costs_db;  ///< S/N, for half the input voltage: 6.02 where it is linear
  std::optional<Limit> limit;
  std::optional<Judgement> judgement;
  std::string refusal;  ///< why there is no figure
  std::vector<Remark> remarks;
};

/// S/N goes with power, so that any ratio from 6 to 20 dB tells the level for 10 dB; MDS is where
/// signal and noise are equal (3.01 dB), the noise figure what it lies over -174 dBm in each hertz.
SensitivityRow sensitivity_of(const SensitivityReading& reading, const SensitivityPlan& plan);

inline constexpr double kTenDbSn = 9.5424;       ///< S/N at (S+N)/N = 10 dB
inline constexpr double kThermalDbmHz = -174.0;  ///< by convention, at 290 K -173.975

}  // namespace heron
