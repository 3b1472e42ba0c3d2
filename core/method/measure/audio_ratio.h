#pragma once

#include <optional>
#include <string>
#include <vector>

namespace heron {

/// How a voltmeter makes one reading of noise, or of a tone in it.
enum class AudioMeter {
  true_rms,
  average  ///< mean of the rectified voltage, scaled to be right for a sinusoid
};

/// What an average-responding meter reads for Gaussian noise, less its true level: -1.049 dB.
double average_of_noise_db();
/// The rise that such a meter shows from noise alone to noise and a tone, for a true rise of power;
/// mean of |A sin + n|. Example: 10 dB reads 10.833.
double average_meter_rise_db(double true_rise_db);
/// The reverse. Example: 10.833 dB is 10.
double true_rise_db(double average_meter_rise_db);

/// S/N of a rise (S+N)/N: 10 lg(10^(x/10) - 1). Example: 10 is 9.542, 3 is -0.021. nullopt where
/// nothing rises.
std::optional<double> sn_of_sn_n(double sn_n_db);
double sn_n_of_sn(double sn_db);
/// How fast S/N moves with it, dB per dB.
double sn_slope(double sn_n_db);

/// Several readings of one fluctuating level, as one: its mean power, and how well that is known.
struct AudioLevel {
  double db = 0.0;         ///< of the mean power, re 1 V or whatever the readings are relative to
  double u_db = 0.0;       ///< standard, of the mean, from the scatter alone
  double spread_db = 0.0;  ///< highest less lowest
  std::size_t count = 0;
};
/// `in_db`: each is a level in decibels, else volts. InputError without any, or with one that is no
/// voltage above 0. Three readings are as good as their Student's t; of one the scatter is unknown.
AudioLevel audio_level(const std::vector<double>& readings, bool in_db);
/// The lowest and the highest that somebody saw in a while: the middle of their powers, uniform
/// between them.
AudioLevel audio_level_between(double lowest, double highest, bool in_db);

}  // namespace heron
