#include "demo/typed_step.h"

#include "store/reading.h"
#include "store/step.h"

namespace heron::demo {

Id type_step(Shack& shack, Id test, const Method& method, const std::string& label,
             const std::vector<TypedCell>& cells, const std::string& at) {
  const Id step = add_step(shack, test, label);
  for (const TypedCell& cell : cells) {
    for (const TypedField& field : method.fields) {
      if (field.head != cell.head || cell.typed.empty()) continue;
      if (field.kind == TypedField::Kind::condition) {
        set_condition(shack, step, condition_typed(field, cell.typed));
        continue;
      }
      Reading r = read_typed(field, cell.typed);
      r.at = at;
      add_reading(shack, step, r);
    }
  }
  return step;
}

}  // namespace heron::demo
