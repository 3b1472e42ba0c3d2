#include "tools/demo_shack/demo_frequency.h"

#include "core/method/method.h"
#include "store/evaluation.h"
#include "store/loaded.h"
#include "tools/demo_shack/typed_step.h"

namespace heron::demo {

void add_reference(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("reference");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Frequency accuracy";
  t.conditions = "40 min warm, cover on, receiving";
  t.limit = Limit{"maker", Sense::within, 0.5, "ppm", "", 0.5};
  t.limit->typed = "0.5 ppm";
  t.settings["frequency"] = {
      {"way", "counter"},    {"gate_s", 10.0},
      {"timebase_ppm", 0.1}, {"ageing_ppm", 0.02},
      {"months", 18.0},      {"bands_hz", {3.65e6, 7.1e6, 14.2e6, 21.2e6, 28.4e6, 50.2e6}}};
  const Id test = add_test(shack, t);
  const char* const read[][3] = {{"test point, probe 10:1", "20 MHz", "19.9999936 MHz"},
                                 {"test point again", "20 MHz", "19.9999938 MHz"},
                                 {"key down into the tap", "28.4 MHz", "28.3999910 MHz"}};
  for (const auto& [label, nominal, counted] : read)
    type_step(shack, test, method, label, {{"Nominal", nominal}, {"Counted", counted}}, at);
  refresh_headline(shack, test);
}

}  // namespace heron::demo
