#include "store/loaded.h"

#include <nlohmann/json.hpp>
#include <type_traits>

#include "core/method/two_tone/two_tone_json.h"

namespace heron {
namespace {

/// With its headline in it, as it was found.
template <class T>
LoadedTest renewed(Shack& shack, T t) {
  t.test.headline = headline_of(t);
  set_test_headline(shack, t.test.id, t.test.headline);
  return t;
}

}  // namespace

LoadedTest load_test(const Shack& shack, Id id) {
  const std::string kind = test(shack, id).characteristic;
  if (kind == "two_tone") return load_two_tone_test(shack, id);
  if (const Method* method = find_method(kind)) return load_general_test(shack, id, *method);
  return {};
}

std::string checked_method(const nlohmann::json& record) {
  const std::string format = record.is_object() ? record.value("format", std::string()) : "";
  if (const Method* method = find_method_of_record(format)) {
    method->read_record(record);
    return std::string(method->record);
  }
  two_tone_from_json(record);
  return "two_tone";
}

const PlannedTest* planned_of(const LoadedTest& loaded) {
  return std::visit(
      [](const auto& t) -> const PlannedTest* {
        if constexpr (std::is_same_v<std::decay_t<decltype(t)>, std::monostate>)
          return nullptr;
        else
          return &t;
      },
      loaded);
}

LoadedTest refresh_headline(Shack& shack, Id id) {
  return std::visit(
      [&](auto t) -> LoadedTest {
        if constexpr (std::is_same_v<std::decay_t<decltype(t)>, std::monostate>)
          return {};
        else
          return renewed(shack, std::move(t));
      },
      load_test(shack, id));
}

}  // namespace heron
