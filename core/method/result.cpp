#include "core/method/result.h"

#include <algorithm>

namespace heron {

const Figure* Result::headline() const {
  for (const Figure& figure : figures) {
    if (figure.id == headline_id) return &figure;
  }
  return nullptr;
}

Remark proposal_remark(const ProposalCard& card) {
  return {"proposal", Severity::note, card.choices.at(card.shown).words, ""};
}

std::vector<Remark> Result::remarks_at(std::optional<std::size_t> step,
                                       const std::string& view) const {
  // Of equal weight what is said of the chosen step comes first.
  std::vector<Remark> all;
  for (const StepRemarks& s : step_remarks) {
    if (step == s.step && is_in_view(s.view, view))
      all.insert(all.end(), s.remarks.begin(), s.remarks.end());
  }
  all.insert(all.end(), remarks.begin(), remarks.end());
  sort_remarks(all);
  return all;
}

const Answer* Result::answer_at(std::size_t step, const std::string& view) const {
  const auto found = std::find_if(answers.begin(), answers.end(), [&](const Answer& a) {
    return a.step == step && is_in_view(a.view, view);
  });
  return found == answers.end() ? nullptr : &*found;
}

const Plot* Result::plot_at(std::size_t step, const std::string& view) const {
  const auto find = [&](auto wanted) -> const Plot* {
    const auto found = std::find_if(plots.begin(), plots.end(), [&](const Plot& p) {
      return is_in_view(p.view, view) && wanted(p);
    });
    return found == plots.end() ? nullptr : &*found;
  };
  const Plot* own = find([&](const Plot& p) { return p.step == step; });
  return own != nullptr ? own : find([](const Plot& p) { return !p.step; });
}

const ProposalCard* Result::proposals_in(const std::string& view) const {
  const auto found = std::find_if(cards.begin(), cards.end(),
                                  [&](const ProposalCard& c) { return is_in_view(c.view, view); });
  return found == cards.end() ? nullptr : &*found;
}

const FigureCard* Result::figure_card_at(std::size_t step, const std::string& view) const {
  const auto found = std::find_if(
      figure_cards.begin(), figure_cards.end(),
      [&](const FigureCard& c) { return is_in_view(c.view, view) && (!c.step || c.step == step); });
  return found == figure_cards.end() ? nullptr : &*found;
}

std::vector<const ResultTable*> Result::tables_at(std::size_t step, const std::string& view) const {
  std::vector<const ResultTable*> all;
  for (const ResultTable& t : tables) {
    if (is_in_view(t.view, view) && (!t.step || t.step == step)) all.push_back(&t);
  }
  return all;
}

std::optional<std::size_t> Result::step_of(std::optional<std::size_t> chosen) const {
  if (items.empty() || !chosen) return chosen;
  return *chosen < items.size() ? items[*chosen].step : std::nullopt;
}

std::string Result::first_view() const {
  return views.empty() ? std::string() : views.front();
}

const PlotLayer* PlotPanel::find(PlotLayer::Kind kind) const {
  const auto found = std::find_if(layers.begin(), layers.end(), [&](const PlotLayer& layer) {
    return layer.kind == kind && !layer.is_empty();
  });
  return found == layers.end() ? nullptr : &*found;
}

bool Plot::has_points() const {
  for (const PlotPanel& panel : panels) {
    if (!panel.states.empty()) return true;
    for (const PlotLayer& layer : panel.layers) {
      if (layer.curve != nullptr || layer.dots != nullptr) return true;
      const bool is_read =
          layer.kind == PlotLayer::Kind::trace || layer.kind == PlotLayer::Kind::stem;
      if (is_read && !layer.points.empty()) return true;
    }
  }
  return false;
}

}  // namespace heron
