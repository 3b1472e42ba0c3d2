#include "store/beside.h"

#include "store/loaded.h"
#include "store/rows.h"

namespace heron {
namespace {

std::map<std::string, Figure> step_figures(const GeneralTest& t) {
  std::map<std::string, Figure> all;
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    if (const Answer* a = t.result.answer_at(i, t.result.first_view()))
      all[t.steps[i].label] = a->figure;
  }
  return all;
}

}  // namespace

std::map<std::string, Figure> figures_beside(const Shack& shack, Id evaluation,
                                             std::string_view characteristic) {
  for (const Test& other : tests(shack, evaluation)) {
    if (other.characteristic != characteristic || !other.headline) continue;
    std::string damage;
    const auto loaded = read_or_damage(damage, "test", [&] { return load_test(shack, other.id); });
    if (!loaded) continue;
    GeneralTest t = *loaded;
    // As it usually is, however that test is looked at just now.
    const std::string usual = convention_of(*t.method, Evidence{});
    if (usual != t.evidence.convention) {
      t.evidence.convention = usual;
      t.result = t.method->evaluate(t.evidence);
    }
    return step_figures(t);
  }
  return {};
}

}  // namespace heron
