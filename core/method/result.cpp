#include "core/method/result.h"

#include <algorithm>

namespace heron {

const Figure* Result::headline() const {
  for (const Figure& figure : figures) {
    if (figure.id == headline_id) return &figure;
  }
  return nullptr;
}

TableCell verdict_cell(const std::optional<Judgement>& judgement, bool is_measured,
                       bool is_damaged) {
  return {is_damaged    ? "damaged"
          : judgement   ? verdict_word(judgement->verdict)
          : is_measured ? "no limit"
                        : "not measured",
          judgement};
}

std::vector<Remark> Result::remarks_at(std::optional<std::size_t> step,
                                       const std::string& view) const {
  std::vector<Remark> all = remarks;
  for (const StepRemarks& s : step_remarks) {
    if (step == s.step && is_in_view(s.view, view))
      all.insert(all.end(), s.remarks.begin(), s.remarks.end());
  }
  sort_remarks(all);
  return all;
}

const Answer* Result::answer_at(std::size_t step, const std::string& view) const {
  const auto found = std::find_if(answers.begin(), answers.end(), [&](const Answer& a) {
    return a.step == step && is_in_view(a.view, view);
  });
  return found == answers.end() ? nullptr : &*found;
}

std::optional<std::size_t> Result::step_of(std::optional<std::size_t> chosen) const {
  if (items.empty() || !chosen) return chosen;
  return *chosen < items.size() ? items[*chosen].step : std::nullopt;
}

std::string Result::first_view() const {
  return views.empty() ? std::string() : views.front();
}

bool Plot::has_points() const {
  for (const PlotPanel& panel : panels) {
    for (const PlotLayer& layer : panel.layers) {
      if (layer.kind == PlotLayer::Kind::curve) return true;
      const bool is_read =
          layer.kind == PlotLayer::Kind::trace || layer.kind == PlotLayer::Kind::stem;
      if (is_read && !layer.points.empty()) return true;
    }
  }
  return false;
}

}  // namespace heron
