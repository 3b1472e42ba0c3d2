#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// The way of a signal to a receiver and what comes out, for one reading.
struct ReceiverWay {
  std::string dial;             ///< what the generator's says: "10.0 uV EMF"; empty = its level
  std::optional<double> level;  ///< of the generator, dBm
  double u_level_db = 0.0;      ///< standard
  std::optional<double> frequency_hz;
  std::string point;        ///< where it goes in: "antenna socket, 50 ohm"
  std::string said;         ///< behind the receiver: "127 mV"
  std::string said_under;   ///< "noise 48 mV"
  std::string meter;        ///< what stands there; empty = nothing
  std::string meter_words;  ///< what it is

  /// Its level, and its dial as somebody typed it.
  void set_source(const Reading* generator);
};
/// From the generator over the parts of the hook-up to the receiver, with the level behind each.
std::vector<LevelPoint> level_plan_of(const ReceiverWay& way, const Evidence& evidence);

}  // namespace heron
