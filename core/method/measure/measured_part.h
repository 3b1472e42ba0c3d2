#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string_view>
#include <vector>

#include "core/judge/remark.h"
#include "core/signal/keyed_parts.h"

namespace heron {

/// The part of a recording that a figure comes from, and what is to be said about it.
struct MeasuredPart {
  CaptureInfo recording;  ///< the whole of it
  CaptureOpener open;     ///< of that part only
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

/// Of clipping, or of a plateau that something before the recorder makes; `effect` says what it
/// does to the figure ("makes products of its own"). Nothing is added where nothing is limited.
void add_clipping(std::vector<Remark>& remarks, const KeyedParts& parts, std::string_view effect);

/// Seconds with the digits that a person can place: "4.02", "0.125", "3605.1".
std::string part_seconds(double s);

nlohmann::json to_json(const KeyedStretch& stretch);
/// null where there is none, as of a trace.
nlohmann::json to_json(const std::optional<KeyedParts>& parts);
/// What a record holds under "parts", if it holds any. InputError or a json exception if damaged.
std::optional<KeyedParts> keyed_parts_of(const nlohmann::json& record);

/// A part somebody chose, as kept among settings; nullopt where none is. May throw as above.
std::optional<TimeSpan> time_span_from_json(const nlohmann::json& record, const char* key);
nlohmann::json to_json(const TimeSpan& span);

}  // namespace heron
