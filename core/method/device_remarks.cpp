#include "core/method/device_remarks.h"

#include <fmt/format.h>

namespace heron {

Remark older_than_work_remark(const std::string& figure, const std::string& work) {
  return {"older_than_work", Severity::note,
          fmt::format("{} was measured before \u201c{}\u201d.", figure, work), "Measure it again"};
}

Remark retired_remark(const std::string& day) {
  return {"retired", Severity::note, fmt::format("Retired on {}.", day),
          "Bring it back into use under More"};
}

Remark limit_edited_remark(const Limit& on_card, const Limit& of_test) {
  return {"limit_edited", Severity::note,
          fmt::format("The device card says {} now; this test is judged by {}.",
                      limit_text(on_card), limit_text(of_test)),
          "Choose it under Limit, or leave it"};
}

}  // namespace heron
