#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/method/frequency/accuracy.h"
#include "core/method/frequency/drift_record.h"
#include "core/method/method.h"

namespace heron {

inline constexpr const char* kAccuracySettings = "frequency";
inline constexpr const char* kExpectedCondition = "frequency";
inline constexpr const char* kDialCondition = "dial";

AccuracyPlan accuracy_plan(const Evidence& evidence);
/// Steps as the assessment wants them; USB or LSB in a name says the sideband.
std::vector<AccuracyReading> accuracy_readings(const Evidence& evidence, const AccuracyPlan& plan);

nlohmann::json usual_accuracy_settings();
std::string check_accuracy_settings(const nlohmann::json& test_settings);
std::vector<SettingField> accuracy_setting_fields();
/// "beat note".
std::string accuracy_way_words(const Evidence& evidence);
/// What a bare number means; empty where the way does not ask for it.
std::string_view accuracy_bare_unit(const TypedField& field, const nlohmann::json& test_settings);

}  // namespace heron
