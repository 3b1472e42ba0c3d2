#pragma once

#include <span>
#include <string_view>

namespace heron {

/// A test that devices of a kind usually get, and why it stands where it does.
struct UsualTest {
  std::string_view characteristic;
  std::string_view reason;
};

/// What is evaluated: "HF transceiver", "Amplifier, 1296 MHz".
struct DeviceKind {
  std::string_view name;             ///< as it is offered
  std::string_view words;            ///< parted by spaces; the first kind of which one is named
  std::span<const UsualTest> tests;  ///< in the order in which they are best done
};

std::span<const DeviceKind> device_kinds();
/// By what somebody typed as its kind; nullptr if nothing is known of it.
const DeviceKind* find_device_kind(std::string_view typed);

}  // namespace heron
