#include "core/judge/limit.h"

#include <cmath>

#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {

std::string limit_text(const Limit& limit) {
  // Small parts of a frequency are parts per billion.
  constexpr double kSmallPpm = 0.00999;
  const bool is_small = limit.unit == "ppm" && std::abs(limit.value) < kSmallPpm;
  const double v = is_small ? 1e3 * limit.value : limit.value;
  int decimals = 0;
  while (decimals < 4 &&
         std::abs(v * std::pow(10.0, decimals) - std::round(v * std::pow(10.0, decimals))) > 1e-6) {
    ++decimals;
  }
  const std::string number = with_unit(number_text(v, decimals), is_small ? "ppb" : limit.unit);
  switch (limit.sense) {
    case Sense::at_most:
      return number;
    case Sense::at_least:
      return "at least " + number;
    case Sense::within:
      return "\u00b1 " + number;
  }
  return number;
}

std::string sense_name(Sense sense) {
  switch (sense) {
    case Sense::at_most:
      return "at_most";
    case Sense::at_least:
      return "at_least";
    case Sense::within:
      return "within";
  }
  return "at_most";
}

Sense sense_from_name(const std::string& name) {
  if (name == "at_most") return Sense::at_most;
  if (name == "at_least") return Sense::at_least;
  if (name == "within") return Sense::within;
  throw InputError("limit", "sense", "\u201c" + name + "\u201d is not known",
                   "Use at_most, at_least or within");
}

}  // namespace heron
