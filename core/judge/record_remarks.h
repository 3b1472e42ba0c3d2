#pragma once

#include <string>

#include "core/judge/remark.h"

namespace heron {

/// What the record of a test says beside its figures. `of`: the test or a step, as it begins a
/// sentence.
Remark damaged_remark(const std::string& of, const std::string& damage);
/// `why`: a sentence.
Remark not_planned_remark(const std::string& why);
/// Somebody answered for a hook-up that is not safe, up to a drive.
Remark overridden_remark(const std::string& by, double pep_dbm, const std::string& why);

}  // namespace heron
