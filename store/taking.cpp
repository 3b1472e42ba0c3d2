#include "store/taking.h"

#include <nlohmann/json.hpp>

#include "core/method/result_json.h"

namespace heron {

using nlohmann::json;

TakingSettings taking_settings_from_json(const json& settings) {
  TakingSettings out;
  const auto found = settings.find("taking");
  if (found == settings.end()) return out;
  try {
    out.length_s = number_from(*found, "length_s");
    out.rate_hz = number_from(*found, "rate_hz");
    out.settle_s = number_from(*found, "settle_s");
    out.most_drive_dbm = number_from(*found, "most_drive_dbm").value_or(out.most_drive_dbm);
    return out;
  } catch (const json::exception& error) {
    refuse_damaged(error.what());
  }
}

json with_taking_settings(json settings, const TakingSettings& t) {
  settings["taking"] = {{"length_s", number_or_null(t.length_s)},
                        {"rate_hz", number_or_null(t.rate_hz)},
                        {"settle_s", number_or_null(t.settle_s)},
                        {"most_drive_dbm", t.most_drive_dbm}};
  return settings;
}

}  // namespace heron
