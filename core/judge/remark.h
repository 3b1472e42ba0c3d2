#pragma once

#include <string>
#include <vector>

namespace heron {

/// note: an observation. caution: casts doubt on a figure. fault: no figure can be trusted.
enum class Severity { note, caution, fault };

/// A judgement about the set-up or the device; the text names the number that made it speak.
struct Remark {
  std::string code;  ///< stable, e.g. "clipping"
  Severity severity = Severity::note;
  std::string text;
  std::string action;  ///< what to do, in the imperative; empty if nothing
};

std::string severity_name(Severity severity);
/// To do (has an action), then doubt, then observation; faults first of all.
void sort_remarks(std::vector<Remark>& remarks);

}  // namespace heron
