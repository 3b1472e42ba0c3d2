// Strip and plot of the sheet of a method; the rest of it is in method_sheet.cpp.
#include <QStackedWidget>
#include <algorithm>

#include "app/live/live_ladder.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/fact_band.h"
#include "app/widget/needle_view.h"
#include "core/quantity/format.h"

namespace heron {

void MethodSheet::refresh_strip(const GeneralTest& t) {
  strip_->setVisible(!t.method->is_calculated);
  facts_->setVisible(t.method->is_calculated && !t.result.facts.empty());
  if (t.method->is_calculated) {
    std::vector<FactBand::Fact> facts;
    for (const Fact& f : t.result.facts)
      facts.push_back({qt_text(f.head), qt_text(f.value), qt_text(f.caption)});
    facts_->set_facts(facts);
    return;
  }
  StripContent strip;
  strip.test = &t;
  for (const EvidenceStep& s : t.evidence.steps)
    for (const SeriesPtr& log : s.series)
      if (strip.logged_by.isEmpty()) strip.logged_by = qt_text(log->instrument);
  for (const EvidenceStep& s : t.evidence.steps)
    for (const Reading& r : s.readings)
      if (strip.read_by.isEmpty()) strip.read_by = qt_text(r.instrument);
  strip.is_read_by_hand = is_typed() || reads_logs();
  if (t.method->is_joint) {
    strip.output = t.result.output;
    strip.is_output_typed = t.result.is_output_typed;
    // What is logged has no output.
    strip.is_taken = !t.result.items.empty() && !reads_logs() && t.method->mask != nullptr;
    const bool is_recorded =
        std::any_of(t.evidence.steps.begin(), t.evidence.steps.end(),
                    [](const EvidenceStep& s) { return s.analysis != nullptr; });
    if (is_recorded && t.method->evidence_words != nullptr)
      strip.recorded = qt_text(t.method->evidence_words(t.evidence));
  } else {
    strip.step = static_cast<std::size_t>(chosen_);
    // Where nothing of it is an output, none is missed.
    const bool has_output = !t.result.step_outputs.empty() ||
                            std::any_of(t.method->fields.begin(), t.method->fields.end(),
                                        [](const TypedField& f) { return f.unit == "dBm"; });
    strip.is_taken = !is_typed() ? is_taken() : has_output && shown_answer() != nullptr;
    if (strip.step < t.result.step_outputs.size()) strip.output = t.result.step_outputs[strip.step];
    if (const auto at = step(); at && t.evidence.steps[*at].analysis)
      strip.recorder = t.evidence.steps[*at].analysis->load();
    if (strip.step < t.steps.size() && t.steps[strip.step].output) {
      if (!strip.output)
        strip.output = to_figure(to_reading(*t.steps[strip.step].output), "Output");
      strip.is_output_typed = true;
    }
  }
  strip.plan = &t.result.level_plan;
  if (const auto at = static_cast<std::size_t>(std::max(0, chosen_));
      at < t.result.item_level_plans.size())
    strip.plan = &t.result.item_level_plans[at];
  strip_->set_step(device_name(), strip);
}

void MethodSheet::show_nothing() {
  Plot nothing;
  nothing.title = tr("Plot").toStdString();
  nothing.panels.push_back({});
  nothing.empty_words =
      (session_.waited_for() != nullptr ? tr("Reading the recordings of this test\u2026")
                                        : tr("Choose a test in the test plan, or add one."))
          .toStdString();
  plots_->setCurrentWidget(plot_);
  plots_->setVisible(true);
  plot_->set_plot(nothing, std::nullopt);
  results_->set_table({});
  verdict_->set_content({});
  remarks_->set_remarks({});
  figure_card_->set_card(nullptr);
  next_card_->set_list(nullptr);
  proposals_->set_card(nullptr);
}

const Plot* MethodSheet::found_plot(const GeneralTest& t) const {
  return t.result.plot_at(static_cast<std::size_t>(std::max(0, chosen_)), view().toStdString());
}

bool MethodSheet::has_other_panels(const GeneralTest& t) const {
  const Plot* found = found_plot(t);
  if (found == nullptr) return false;
  return std::any_of(found->panels.begin(), found->panels.end(), [this](const PlotPanel& panel) {
    return panel.is_shown_at(plotted_px_) != panel.is_shown_at(window()->width());
  });
}

bool MethodSheet::has_needle() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->result.needle.has_value();
}

void MethodSheet::show_plot(const GeneralTest& t) {
  if (t.result.needle) {
    needle_->set_needle(*t.result.needle);
    plots_->setCurrentWidget(needle_);
  } else if (plots_->currentWidget() == needle_) {
    if (needle_->is_plain()) show_plain_needle(false);
    plots_->setCurrentWidget(plot_);
  }
  const Plot* found = found_plot(t);
  plots_->setVisible(found != nullptr || is_live_view());
  if (found == nullptr) return;
  Plot plot = *found;
  if (!plot.has_points() && t.hookup_obstacle())
    plot.empty_words =
        tr("Nothing is measured through a hook-up that is over its ratings.").toStdString();
  else if (!plot.has_points() && !is_taken() && may_take_live())
    plot.empty_words =
        tr("Nothing measured yet: Ctrl Return measures with the instruments.").toStdString();
  plotted_px_ = window()->width();
  std::erase_if(plot.panels,
                [this](const PlotPanel& panel) { return !panel.is_shown_at(plotted_px_); });
  plot_->set_can_edit(!session_.refusal(t.test.id).has_value());
  plot_->set_plot(plot, static_cast<std::size_t>(chosen_));
  const Answer* a = shown_answer();
  if (a == nullptr) return;
  const Figure& shown = a->shown ? *a->shown : a->figure;
  QStringList words{plot_->accessibleDescription(), qt_text(a->head.empty() ? a->where : a->head),
                    qt_text(figure_text(shown) + " " + shown.convention), qt_text(a->sentence)};
  words.removeAll(QString());
  plot_->setAccessibleDescription(words.join(QStringLiteral(", ")));
}

}  // namespace heron
