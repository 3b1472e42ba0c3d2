#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/method/result.h"
#include "core/quantity/figure.h"
#include "core/signal/capture.h"

namespace heron {

/// Common vocabulary of the command line, of reports and of stored records; never NaN.
nlohmann::json to_json(const Figure& figure);
/// Its contributions are one; a json exception if damaged.
Figure figure_from_json(const nlohmann::json& from);
nlohmann::json to_json(const Remark& remark);
nlohmann::json to_json(const Limit& limit);
nlohmann::json finite_or_null(double value);
nlohmann::json number_or_null(const std::optional<double>& value);

/// What follows reads stored records; InputError or a json exception if they are damaged.
Limit limit_from_json(const nlohmann::json& record);
nlohmann::json remarks_to_json(const std::vector<Remark>& remarks);
std::vector<Remark> remarks_from_json(const nlohmann::json& list);
Remark remark_from_json(const nlohmann::json& record);

/// What a recording said about itself.
nlohmann::json capture_to_json(const CaptureInfo& info);
CaptureInfo capture_from_json(const nlohmann::json& record);

/// A spectrum keeps hundredths of a dB as whole numbers: small, and exact to read back.
nlohmann::json curve_to_json(const Curve& curve);
Curve curve_from_json(const nlohmann::json& record);

std::optional<double> number_from(const nlohmann::json& record, const char* key);
/// A whole number in a range; a stored 1e300 must not become undefined behaviour.
std::int64_t whole_from(const nlohmann::json& record, const char* key, double lowest,
                        double highest);
[[noreturn]] void refuse_damaged(const char* why);
/// The same for what a JSON reader threw, in words for people.
[[noreturn]] void refuse_damaged(const std::exception& error);

}  // namespace heron
