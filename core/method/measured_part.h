#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <vector>

#include "core/judge/remark.h"
#include "core/signal/keyed_parts.h"

namespace heron {

/// The part of a recording that a figure comes from, and what is to be said about it.
struct MeasuredPart {
  CaptureOpener open;  ///< of that part only
  KeyedParts parts;
  std::vector<Remark> remarks;
};

/// The steadiest long keyed part, or the one that somebody `chose` (cut to the recording;
/// InputError if nothing of it lies inside). Every method looks at recordings through this.
MeasuredPart measured_part(const CaptureOpener& open, const std::optional<TimeSpan>& chosen,
                           unsigned threads = 0, const Progress& progress = {},
                           const std::stop_token& stop = {});

/// What the choice of the part leaves out, and why.
std::vector<Remark> part_remarks(const KeyedParts& parts);

nlohmann::json to_json(const KeyedParts& parts);
/// InputError or a json exception if damaged.
KeyedParts keyed_parts_from_json(const nlohmann::json& record);

/// A part somebody chose, as kept among settings; nullopt where none is. May throw as above.
std::optional<TimeSpan> time_span_from_json(const nlohmann::json& record, const char* key);
nlohmann::json to_json(const TimeSpan& span);

}  // namespace heron
