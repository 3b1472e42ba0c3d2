#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/method/evidence.h"

namespace heron {

nlohmann::json to_json(const Reading& reading);
nlohmann::json to_json(const Condition& condition);
nlohmann::json to_json(const Event& event);
nlohmann::json to_json(const Series& series);

/// InputError or a json exception if the record is damaged.
Reading reading_from_json(const nlohmann::json& record);
Condition condition_from_json(const nlohmann::json& record);
Event event_from_json(const nlohmann::json& record);
Series series_from_json(const nlohmann::json& record);

}  // namespace heron
