#pragma once

#include <QtGlobal>
#include <algorithm>
#include <string>
#include <utility>
#include <vector>

#include "core/method/method.h"

namespace heron::testing {

/// A step as somebody types it: heads of the method's fields and what stands under them.
inline EvidenceStep typed(const Method& method, const char* label,
                          const std::vector<std::pair<const char*, const char*>>& cells) {
  EvidenceStep s;
  s.label = label;
  for (const auto& [head, text] : cells) {
    const auto field = std::find_if(method.fields.begin(), method.fields.end(),
                                    [&, h = head](const TypedField& f) { return f.head == h; });
    if (field == method.fields.end()) qFatal("no field %s", head);
    if (field->kind == TypedField::Kind::condition)
      s.conditions.push_back(condition_typed(*field, text));
    else
      s.readings.push_back(read_typed(*field, text));
  }
  return s;
}

inline Evidence evidence_of(const Method& method) {
  Evidence e;
  e.settings[std::string(method.settings_key)] = method.usual_settings();
  return e;
}

inline Part pad(double loss_db) {
  Part p;
  p.name = "pad";
  p.kind = "attenuator";
  p.gain = Gain(-loss_db);
  p.u_db = 0.1;
  return p;
}

inline const Remark* find_remark(const Result& r, const std::string& code) {
  const auto found = std::find_if(r.remarks.begin(), r.remarks.end(),
                                  [&](const Remark& m) { return m.code == code; });
  return found == r.remarks.end() ? nullptr : &*found;
}

}  // namespace heron::testing
