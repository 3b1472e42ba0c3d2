#pragma once

#include <string>

#include "core/judge/limit.h"
#include "core/judge/remark.h"

namespace heron {

/// A figure from before the last work says nothing of what the device is now.
Remark older_than_work_remark(const std::string& figure, const std::string& work);
/// `day`: since when it is not in use.
Remark retired_remark(const std::string& day);
/// The card of a device says another limit than its test is judged by.
Remark limit_edited_remark(const Limit& on_card, const Limit& of_test);

}  // namespace heron
