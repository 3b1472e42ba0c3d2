#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/method/amplifier/compression.h"
#include "core/method/amplifier/supply_law.h"
#include "core/method/amplifier/two_ways.h"
#include "core/quantity/figure.h"

namespace heron {

/// An amplifier at one frequency, driven harder step by step. Gain = output - input, both at its
/// own terminals; small-signal gain and compression as in compression.h; efficiency = P_out / P_dc,
/// power-added efficiency (P_out - P_in) / P_dc, heat = P_dc + P_in - P_out with P_dc = volts times
/// amperes at the terminals (any textbook of power amplifiers). Levels in dBm, ratios in dB.
/// Example: 28 V, 4.6 A, 2 W in and 61 W out: gain 14.84 dB, efficiency 47.4 %, power-added 45.8 %,
/// heat 69.8 W.

struct DrivenStep {
  std::string label;
  std::optional<double> frequency_hz;
  std::optional<double> planned_dbm = {};  ///< drive that it is called by
  /// Drive before and after the output was read: between them it is interpolated.
  std::optional<Figure> input_before;
  std::optional<Figure> input_after = {};
  std::optional<Figure> output;
  std::optional<Figure> second_output = {};  ///< the same, read in the second way
  std::optional<Figure> volts = {};
  std::optional<Figure> amperes = {};
  std::optional<double> second_dbc = {};  ///< harmonics
  std::optional<double> third_dbc = {};
  std::optional<double> key_down_s = {};
  std::optional<double> rest_s = {};  ///< before it
  std::optional<double> temperature_c = {};
  std::string refusal = {};  ///< why its levels cannot be referred to the device; empty if they are
};

/// What is said of the amplifier, and with what it is tested.
struct AmplifierPlan {
  std::optional<double> specified_gain_db = {};
  std::optional<double> rated_input_dbm = {};
  std::optional<double> rated_output_dbm = {};
  std::optional<Limit> compression_limit = {};  ///< of the 1 dB point, in dBm
  double linear_to_db = 1.0;
  std::optional<double> nominal_v = {};
  std::optional<double> supply_limit_a = {};
  double meter_offset_db = 0.0;  ///< set in the instrument, for what is named as counted twice
  double probe_db = 0.0;
  bool is_drive_in_emf = false;
  OutputReader reader = OutputReader::power_meter;
  std::optional<OutputReader> second_reader = {};

  /// As specified, else of rated drive and output.
  std::optional<double> wanted_gain_db() const;
  /// Whether volts are more than 2 % below the nominal ones.
  bool is_sagged(const std::optional<double>& volts) const;
};

struct DrivenRow {
  std::string label;
  std::optional<double> input_dbm;  ///< as measured, else as planned
  std::optional<Figure> input;
  std::optional<double> creep_db;  ///< of the drive, after less before
  std::optional<double> expected_dbm;
  std::optional<Figure> output;
  std::optional<Figure> gain;
  std::optional<Figure> compression;  ///< dB down; what is common to all steps cancels
  std::optional<Figure> volts;
  std::optional<Figure> amperes;
  std::optional<Figure> efficiency;  ///< %
  std::optional<Figure> added_efficiency;
  std::optional<Figure> heat;  ///< W
  std::optional<double> second_dbc;
  std::optional<double> third_dbc;
  std::optional<double> key_down_s;
  std::optional<double> rest_s;
  std::optional<double> temperature_c;
  bool is_sagged = false;    ///< more than 2 % below the nominal volts
  std::string refusal = {};  ///< why its readings cannot be used
  std::optional<Judgement> judgement = {};
  bool is_taken() const { return gain.has_value(); }
};

struct Amplification {
  std::vector<DrivenRow> rows;      ///< in the order given
  std::vector<std::size_t> rising;  ///< those with a gain, by drive
  std::optional<double> frequency_hz;
  CompressionCurve curve{{}};
  std::optional<Figure> gain;        ///< small-signal
  std::optional<Figure> one_db_out;  ///< dBm; a lower bound where it was not reached
  std::optional<Figure> one_db_in;   ///< where it was
  std::optional<double> one_db_v;    ///< supply there
  std::optional<Figure> linear_out;  ///< at `linear_to_db` down, as above
  std::optional<Figure> at_rated;    ///< output at rated drive
  std::optional<double> rated_v;     ///< supply there
  std::optional<CurrentLaw> current;
  std::optional<Figure> idle;      ///< A without drive, as read
  std::optional<Figure> needed_a;  ///< for rated output
  std::optional<std::size_t> most_efficient;
  std::optional<Judgement> one_db_judgement;
  std::optional<Judgement> gain_judgement;
  std::optional<Judgement> rated_judgement;
  std::vector<Remark> remarks;
};

Amplification assess_amplifier(const std::vector<DrivenStep>& steps, const AmplifierPlan& plan);

/// Drive in the middle of the readings before and after; what it crept is part of its u.
std::optional<Figure> drive_between(const std::optional<Figure>& before,
                                    const std::optional<Figure>& after);

/// Gain with its parts: what is common to input and output by name cancels, what is common to all
/// steps stays so.
Figure gain_figure(const Figure& output, const Figure& input);

/// From here on sag counts.
inline constexpr double kSagShare = 0.02;
inline constexpr double kCreepDb = 0.2;
/// Full scale of margin lines, dB.
inline constexpr double kGainMarginSpanDb = 20.0;

}  // namespace heron
