#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"

namespace heron {

enum class KeyDownState { idle, keyed, caution, stop, resting };

/// What the clock shows at one moment.
struct KeyDownReading {
  KeyDownState state = KeyDownState::idle;
  double keyed_s = 0.0;          ///< since the key went down
  std::optional<double> left_s;  ///< until a part passes its rating; nullopt = for ever
  double rest_s = 0.0;           ///< until the planned key-down is possible again
  std::string binding;           ///< the part that decides; empty if none does
  double temperature = 0.0;      ///< of that part: 1 = what its continuous rating leads to
};

/// Follows the heat of every rated part while the transmitter is keyed and while it rests. Times
/// are seconds of any steady clock, rising.
class KeyDownClock {
 public:
  /// For a chain and the drive that it will get, at the highest that its levels may be. What was
  /// warm stays warm, thing by thing (by what it is on the bench, else by name), and goes on
  /// cooling while it stands in no chain.
  void set_chain(const Chain& chain, const Drive& drive, double now_s);
  void key(double now_s);
  void unkey(double now_s);
  bool is_keyed() const { return is_keyed_; }
  /// Whether there is anything to watch.
  bool has_ratings() const { return !heats_.empty(); }
  KeyDownReading read(double now_s) const;

 private:
  struct Heat {
    std::string name;
    std::string thing;  ///< the same one in another chain, whatever it is called there
    ThermalRating rating;
    double power_w = 0.0;
    bool is_over_peak = false;  ///< not for a moment
    double temperature = 0.0;
    double at_s = 0.0;  ///< when it had this temperature; only of what is away
  };
  double temperature_at(const Heat& heat, double now_s) const;
  void settle(double now_s);
  std::vector<Heat> heats_;
  std::vector<Heat> away_;  ///< parts of earlier chains
  double planned_s_ = 0.0;
  bool is_keyed_ = false;
  double since_s_ = 0.0;
  double keyed_at_s_ = 0.0;
};

}  // namespace heron
