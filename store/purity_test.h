#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/purity.h"
#include "core/method/purity_typed.h"
#include "store/planned_test.h"

namespace heron {

/// What a purity test is read and judged with; kept among the test's settings.
struct PurityTestSettings {
  double carrier_hz = 0.0;          ///< 0: that of the planned drive
  std::optional<Mask> mask;         ///< none: the generic one; an empty one judges nothing
  std::optional<double> power_dbm;  ///< of the carrier at the device, instead of the measured one
  std::string power_typed;
  bool is_same_gain = false;  ///< recordings without a full scale were taken on one gain
  double reading_u_db = 0.5;  ///< standard uncertainty of a level read off a screen
  std::vector<TypedLine> lines;
};
PurityTestSettings purity_settings_from_json(const nlohmann::json& settings);
/// `settings` with these in them.
nlohmann::json with_purity_settings(nlohmann::json settings, const PurityTestSettings& purity);

/// A purity test as it stands in the shack. Its steps are places in the spectrum, each with its
/// recording or trace; what they and the typed lines say together is one analysis.
struct PurityTest : PlannedTest {
  PurityTestSettings settings;
  double carrier_hz = 0.0;
  Mask mask;
  std::vector<std::optional<PuritySource>> sources;  ///< one a step; nullopt = not taken
  std::optional<PurityAnalysis> analysis;            ///< nullopt = nothing taken, or `obstacle`
  std::string obstacle;                              ///< why what was taken cannot be assessed
  std::string advice;
  std::vector<FilterAdvice> filters;
  bool is_self_tested = false;
};

PurityTest load_purity_test(const Shack& shack, Id test);
/// What the rail and the shack show of it; nullopt = nothing taken.
std::optional<Headline> headline_of(const PurityTest& test);

/// What a step covers with a sweep: as it was made, or as it is called ("Analyser 1 MHz to 120
/// MHz"); nullopt of any other.
std::optional<std::pair<double, double>> sweep_range_hz(const Step& step);
std::string sweep_name(double from_hz, double to_hz);

/// Radio frequency at 0 Hz of a recording that does not say so itself: the frequency that the step
/// is named after, else the planned one, else 0.
double purity_center_hz(const PlannedTest& test, const std::string& label);

}  // namespace heron
