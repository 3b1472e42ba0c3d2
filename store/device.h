#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "store/shack.h"

namespace heron {

/// One line of a device's specification: what a characteristic has to keep to.
struct SpecLine {
  std::string characteristic;  ///< id in the method table
  Limit limit;                 ///< its name is where it comes from: "maker"
  std::string condition = {};  ///< "for 3 W at 28 V"
  bool operator==(const SpecLine&) const = default;
};

/// What it is, in the words of who owns it; each may be empty.
struct DeviceFacts {
  std::string works_on;  ///< "1240 to 1300 MHz"
  std::vector<std::string> modes;
  std::string supply;      ///< "28 V, 5 A"
  std::string most_drive;  ///< as typed: "5 W"
  std::optional<double> most_drive_dbm = std::nullopt;
  bool has_high_voltage = false;  ///< mains or high voltage inside
  bool operator==(const DeviceFacts&) const = default;
};

struct Device {
  Id id = 0;
  std::string name;
  std::string kind;    ///< "HF transceiver"
  std::string serial;  ///< "no. 0412"
  std::string note;
  std::vector<SpecLine> specification;
  std::string damage = {};  ///< which parts of its record cannot be read
  DeviceFacts facts = {};
  std::string retired_at = {};  ///< empty = in use
};

nlohmann::json to_json(const DeviceFacts& facts);
/// A json exception if damaged.
DeviceFacts facts_from_json(const nlohmann::json& from);

/// Whether its kind says that something else has to drive it.
bool is_amplifier(const Device& device);

std::vector<Device> devices(const Shack& shack);
Device device(const Shack& shack, Id id);  ///< InputError if it is not there
Id add_device(Shack& shack, const Device& device);
/// Name, kind, serial, note, facts; its specification stays.
void set_device(Shack& shack, Id id, const Device& device);
/// Replaces the specification lines of one characteristic.
void set_specification(Shack& shack, Id device, const std::string& characteristic,
                       const std::vector<Limit>& limits);
/// All of its lines, in the order in which they shall stand.
void set_specification(Shack& shack, Id device, const std::vector<SpecLine>& lines);
/// No longer in use, with all that is known of it; empty = in use again.
void set_device_retired(Shack& shack, Id id, const std::string& at);
/// An image file's content; empty = none.
std::string device_photo(const Shack& shack, Id id);
void set_device_photo(Shack& shack, Id id, const std::string& content);
/// Keeps the row, so that it can come back.
void set_device_removed(Shack& shack, Id id, bool removed);

/// A repair, an adjustment, a part.
struct Work {
  std::string what;
  std::string original = {};
  std::string changed = {};  ///< what it is now
  std::string part = {};
  std::string by = {};

  std::string words() const;  ///< "Bias set, 180 to 320 mA (R12), by A. Operator"
  /// "Bias set: 180 → 320 mA"
  std::string title() const;
};
/// A line in the record of what was done to a device.
struct JournalEntry {
  std::string at;
  std::string text;
  Id id = 0;
  std::optional<Work> work = std::nullopt;  ///< nullopt of what the program wrote down
};
Id add_journal_entry(Shack& shack, Id device, const std::string& text);
Id add_work(Shack& shack, Id device, const Work& work, const std::string& at);
void drop_journal_entry(Shack& shack, Id id);
std::vector<JournalEntry> journal(const Shack& shack, Id device);

}  // namespace heron
