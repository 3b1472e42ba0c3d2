#include "core/judge/remark.h"

#include <algorithm>

namespace heron {

std::string severity_name(Severity severity) {
  switch (severity) {
    case Severity::note:
      return "note";
    case Severity::caution:
      return "caution";
    case Severity::fault:
      return "fault";
  }
  return "note";
}

void sort_remarks(std::vector<Remark>& remarks) {
  const auto rank = [](const Remark& r) {
    if (r.severity == Severity::fault) return 0;
    if (!r.action.empty()) return 1;
    return r.severity == Severity::caution ? 2 : 3;
  };
  std::stable_sort(remarks.begin(), remarks.end(),
                   [&](const Remark& a, const Remark& b) { return rank(a) < rank(b); });
}

}  // namespace heron
