#include "core/quantity/drive_label.h"

#include "core/error.h"
#include "core/quantity/parse_level.h"

namespace heron {

std::optional<double> drive_of_label(const std::string& label) {
  // The first two words at most: "12 W", "41 dBm", "12W, new bias".
  std::string head = label.substr(0, label.find(','));
  while (!head.empty()) {
    try {
      return parse_level(head).level.value;
    } catch (const InputError&) {
      const std::size_t space = head.find_last_of(' ');
      if (space == std::string::npos) return std::nullopt;
      head.resize(space);
    }
  }
  return std::nullopt;
}

}  // namespace heron
