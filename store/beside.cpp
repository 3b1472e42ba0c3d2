#include "store/beside.h"

#include "store/loaded.h"
#include "store/rows.h"

namespace heron {
namespace {

std::map<std::string, Figure> step_figures(const TwoToneTest& t) {
  std::map<std::string, Figure> all;
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    const auto& a = t.analyses[i];
    if (a && a->worst() != nullptr) all[t.steps[i].label] = product_figure(*a, *a->worst(), kRePep);
  }
  return all;
}

std::map<std::string, Figure> step_figures(const GeneralTest& t) {
  std::map<std::string, Figure> all;
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    if (const Answer* a = t.result.answer_at(i, t.result.first_view()))
      all[t.steps[i].label] = a->figure;
  }
  return all;
}

template <class Other>
std::map<std::string, Figure> step_figures(const Other&) {
  return {};
}

}  // namespace

std::map<std::string, Figure> figures_beside(const Shack& shack, Id evaluation,
                                             std::string_view characteristic) {
  for (const Test& other : tests(shack, evaluation)) {
    if (other.characteristic != characteristic || !other.headline) continue;
    std::string damage;
    const auto loaded = read_or_damage(damage, "test", [&] { return load_test(shack, other.id); });
    if (!loaded) continue;
    return std::visit([](const auto& t) { return step_figures(t); }, *loaded);
  }
  return {};
}

}  // namespace heron
