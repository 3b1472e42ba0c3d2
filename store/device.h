#pragma once

#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "store/shack.h"

namespace heron {

/// One line of a device's specification: what a characteristic has to keep to.
struct SpecLine {
  std::string characteristic;  ///< id in the method table
  Limit limit;
};

struct Device {
  Id id = 0;
  std::string name;
  std::string kind;    ///< "HF transceiver"
  std::string serial;  ///< "no. 0412"
  std::string note;
  std::vector<SpecLine> specification;
  std::string damage = {};  ///< which parts of its record cannot be read
};

/// Whether its kind says that something else has to drive it.
bool is_amplifier(const Device& device);

std::vector<Device> devices(const Shack& shack);
Device device(const Shack& shack, Id id);  ///< InputError if it is not there
Id add_device(Shack& shack, const Device& device);
/// Name, kind, serial and note; its specification stays.
void set_device(Shack& shack, Id id, const Device& device);
/// Replaces the specification lines of one characteristic.
void set_specification(Shack& shack, Id device, const std::string& characteristic,
                       const std::vector<Limit>& limits);
/// Keeps the row, so that it can come back.
void set_device_removed(Shack& shack, Id id, bool removed);

/// A line in the record of what was done to a device.
struct JournalEntry {
  std::string at;
  std::string text;
};
Id add_journal_entry(Shack& shack, Id device, const std::string& text);
void drop_journal_entry(Shack& shack, Id id);
std::vector<JournalEntry> journal(const Shack& shack, Id device);

}  // namespace heron
