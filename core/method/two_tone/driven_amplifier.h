#pragma once

#include <optional>
#include <vector>

#include "core/method/two_tone/ladder_between.h"

namespace heron {

/// A step of the amplifier measured alone: what drove it, and what came out with which products.
struct AmplifierStep {
  double drive_dbm = 0.0;
  double output_dbm = 0.0;
  const TwoToneAnalysis* analysis = nullptr;
};

/// Exciter and amplifier together at one drive: nobody measured how the phases lie, so the worst
/// product lies between adding in power and adding in voltage.
struct DrivenPoint {
  double exciter_dbm = 0.0;
  double amplifier_dbm = 0.0;
  std::optional<double> power_sum_db;  ///< of what is surely there; nullopt: only bounds are known
  double in_phase_db = 0.0;
  double u_db = 0.0;
  int order = 3;
};

/// A measured pair against what was predicted.
struct DrivenComparison {
  double exciter_dbm = 0.0;
  double amplifier_dbm = 0.0;
  double measured_db = 0.0;
  std::optional<double> power_sum_db;
  double in_phase_db = 0.0;
  double u_db = 0.0;
  bool is_bound = false;
  /// -1 below the band, 0 within, 1 above, each by more than its uncertainty.
  int place = 0;
};

struct DrivenAmplifier {
  std::vector<DrivenPoint> points;  ///< rising; where both ladders reach
  /// The most the exciter may give so that the whole band keeps to the limit, with its uncertainty.
  std::optional<double> exciter_at_limit_dbm;
  std::optional<double> amplifier_at_limit_dbm;
  bool is_limit_beyond = false;  ///< even the highest point keeps to it
  std::vector<DrivenComparison> measured;
};

/// `exciter` in order of a ladder; `pair` are steps of both together with the exciter's output as
/// drive. Levels in `convention`, as is the limit.
DrivenAmplifier predict_driven(const std::vector<LadderStep>& exciter,
                               const std::vector<AmplifierStep>& amplifier,
                               const std::vector<AmplifierStep>& pair,
                               const std::string& convention, std::optional<double> limit_db);

/// Where the amplifier gives an output, between the points; nullopt outside.
std::optional<DrivenPoint> driven_at_output(const DrivenAmplifier& driven, double amplifier_dbm);
/// And where it is driven with a level.
std::optional<DrivenPoint> driven_at_drive(const DrivenAmplifier& driven, double exciter_dbm);

}  // namespace heron
