#include "store/taking.h"

#include <nlohmann/json.hpp>

#include "core/method/result_json.h"

namespace heron {

using nlohmann::json;

namespace {

std::optional<double> wished(const json& record, const char* key, const TakingRange& range) {
  const auto value = number_from(record, key);
  return value && range.holds(*value) ? value : std::nullopt;
}

}  // namespace

TakingSettings taking_settings_from_json(const json& settings) {
  TakingSettings out;
  const auto found = settings.find("taking");
  if (found == settings.end()) return out;
  out.length_s = wished(*found, "length_s", kTakenLengthS);
  out.rate_hz = wished(*found, "rate_hz", kTakenRateHz);
  out.settle_s = wished(*found, "settle_s", kTakenSettleS);
  out.most_drive_dbm =
      wished(*found, "most_drive_dbm", kTakenDriveDbm).value_or(out.most_drive_dbm);
  return out;
}

json with_taking_settings(json settings, const TakingSettings& t) {
  settings["taking"] = {{"length_s", number_or_null(t.length_s)},
                        {"rate_hz", number_or_null(t.rate_hz)},
                        {"settle_s", number_or_null(t.settle_s)},
                        {"most_drive_dbm", t.most_drive_dbm}};
  return settings;
}

}  // namespace heron
