#pragma once

#include <optional>
#include <string>
#include <vector>

namespace heron {

/// A value of what is calculated that somebody may try otherwise than it is built.
struct WhatIf {
  std::string key;
  std::string head;     ///< "R2"
  std::string caption;  ///< "built 560 \u03a9"
  std::string text;     ///< of the value, as it would be typed: "470 \u03a9"
  double value = 0.0;
  double built = 0.0;
  double least = 0.0;  ///< of its slider, which is logarithmic
  double most = 0.0;
  std::vector<double> stops = {};  ///< rising: what there is of it; empty = anything
  bool is_changed() const { return value != built; }
};

/// Somebody moves one, or types it; with neither it is as built again. Without a key: all are.
struct WhatIfMove {
  std::string key = {};
  std::optional<double> value = std::nullopt;
  std::string typed = {};
};

/// Where a slider is let go: the nearest stop on a logarithmic scale, or three digits.
double settled_value(const WhatIf& of, double value);
/// The next stop up or down; without stops by one per cent.
double next_value(const WhatIf& of, bool is_up);

}  // namespace heron
