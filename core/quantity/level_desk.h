#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/quantity/levels.h"

namespace heron {

/// How a level is to be looked at.
struct DeskView {
  bool is_two_tone = false;
  Ohm impedance = kReferenceImpedance;
  bool is_receiver_level = true;  ///< S units mean something
};

/// One form of a level.
struct DeskRow {
  std::string id;
  std::string group;
  std::string name;
  std::string number;  ///< "+44.91"
  std::string unit;    ///< "dBm"; empty where the number says it all
  double value = 0.0;  ///< in base units: dBm, W, V, dBuV; S rows in dBm
  /// As it would be typed into a field: "+44.91 dBm".
  std::string text() const { return unit.empty() ? number : number + " " + unit; }
};

/// A peak envelope level in every unit and convention, in fixed order; a form that means nothing
/// has the number "–".
std::vector<DeskRow> desk_rows(Dbm pep, const DeskView& view = {});

}  // namespace heron
