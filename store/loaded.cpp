#include "store/loaded.h"

#include "core/method/result_json.h"
#include "store/result_record.h"

namespace heron {

LoadedTest load_test(const Shack& shack, Id id) {
  const Method* method = find_method(test(shack, id).characteristic);
  return method != nullptr ? LoadedTest(load_general_test(shack, id, *method)) : std::nullopt;
}

std::string checked_method(const nlohmann::json& record) {
  const std::string format = record.is_object() ? record.value("format", std::string()) : "";
  const Method* method = find_method_of_record(format);
  if (method == nullptr) refuse_damaged("a record of an unknown kind");
  method->read_record(record);
  return std::string(method->record);
}

LoadedTest refresh_headline(Shack& shack, Id id) {
  LoadedTest loaded = load_test(shack, id);
  if (!loaded) return loaded;
  // With its headline in it, as it was found.
  loaded->test.headline = headline_of(*loaded);
  set_test_headline(shack, id, loaded->test.headline);
  return loaded;
}

std::vector<PinnedRecord> pin_records(Shack& shack, Id id) {
  std::vector<PinnedRecord> pinned;
  const Test t = test(shack, id);
  const Method* method = find_method(t.characteristic);
  if (!t.drive || method == nullptr || method->pinned == nullptr) return pinned;
  for (const Step& step : steps(shack, id)) {
    if (!step.capture || step.capture->hookup_version_id == 0) continue;
    const auto record = load_result(shack, step.capture->id);
    const nlohmann::json now = record ? method->pinned(*record, *t.drive) : nlohmann::json();
    if (now.is_null()) continue;
    pinned.push_back({step.capture->id, *record});
    save_result(shack, step.capture->id, std::string(method->record), now);
  }
  return pinned;
}

void unpin_records(Shack& shack, const std::vector<PinnedRecord>& pinned) {
  for (const PinnedRecord& p : pinned)
    save_result(shack, p.step_capture, checked_method(p.before), p.before);
}

}  // namespace heron
