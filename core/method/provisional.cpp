#include "core/method/provisional.h"

namespace heron {

std::string provisional_reason(const nlohmann::json& settings) {
  const auto found = settings.find(kProvisionalSettings);
  return found != settings.end() && found->is_string() ? found->get<std::string>() : std::string();
}

Remark provisional_remark(const std::string& reason) {
  return {"provisional_test", Severity::note, "Provisional: " + reason + ".",
          "Repeat it before it is relied on"};
}

}  // namespace heron
