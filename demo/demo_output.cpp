#include "demo/demo_output.h"

#include "core/method/method.h"
#include "demo/typed_step.h"
#include "store/evaluation.h"
#include "store/loaded.h"

namespace heron::demo {
namespace {

struct Band {
  const char* label;
  /// As the columns of the grid, empty = not read.
  std::vector<const char*> typed;
};

// A 30 W final: less output and more current towards 10 m, its own meter optimistic there.
const std::vector<Band>& bands() {
  static const std::vector<Band> all{
      {"80 m, full power",
       {"3.65 MHz", "33.8", "33.1", "1:00", "13.72", "5.42", "13.55", "34", "0"}},
      {"40 m, full power",
       {"7.1 MHz", "33.0", "32.2", "1:00", "13.71", "5.48", "13.54", "33", "0"}},
      {"20 m, full power",
       {"14.2 MHz", "31.9", "30.8", "1:00", "13.70", "5.61", "13.52", "33", "0"}},
      {"15 m, full power",
       {"21.2 MHz", "31.0", "~ 29.4", "1:00", "13.69", "5.83", "13.50", "33", "0.1"}},
      {"10 m, full power",
       {"28.4 MHz", "28.7", "26.6", "1:00", "13.68", "6.04", "13.47", "33", "0.3"}},
      {"20 m, low power", {"14.2 MHz", "5.2", "5.2", "1:00", "13.82", "2.31", "", "5", "0", "5"}}};
  return all;
}

}  // namespace

void add_output(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("output");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Output power";
  t.conditions = "13.8 V, carrier, 50 \u03a9 load";
  t.limit = Limit{"maker", Sense::at_least, 30.0, "W", "PEP", 20.0};
  t.limit->typed = "30 W";
  const Id test = add_test(shack, t);
  for (const Band& band : bands()) {
    std::vector<TypedCell> cells;
    for (std::size_t i = 0; i < band.typed.size(); ++i)
      cells.push_back({std::string(method.fields[i].head), band.typed[i]});
    type_step(shack, test, method, band.label, cells, at);
  }
  refresh_headline(shack, test);
}

}  // namespace heron::demo
