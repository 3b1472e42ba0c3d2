#include "app/spread/spread_sheet.h"

#include <QHBoxLayout>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/live/live_card.h"
#include "app/live/live_ladder.h"
#include "app/table/table_head.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/caution_card.h"
#include "core/quantity/format.h"

namespace heron {

SpreadSheet::SpreadSheet(const SheetContext& with, QWidget* parent)
    : Sheet(with, parent),
      plot_(new SpreadPlot),
      table_(new FigureTable(tr("Steps with noise or speech"))),
      model_(new SpreadModel(this)),
      hold_(new Segmented(tr("Trace"), {tr("average"), tr("max-hold")})),
      stimulus_(new Chip(tr("Played"))),
      limit_(new Chip(tr("Limit"))),
      more_(new Chip({})),
      readings_(new ReadingsCard) {
  more_->set_value(tr("More"));
  build();
  connect_all();
}

void SpreadSheet::build() {
  auto* controls = new QWidget;
  auto* chips = sheet_controls(controls);
  chips->addWidget(hold_);
  for (Chip* chip : {stimulus_, limit_, more_}) chips->addWidget(chip);
  chips->addStretch();
  table_->setModel(model_);
  table_->setItemDelegate(new SpreadDelegate(table_));
  table_->setFixedHeight(30 + 6 * 29 + 2);
  build_frame(controls, plot_, table_, {readings_});
}

void SpreadSheet::connect_all() {
  connect(hold_, &Segmented::chosen, this, [this] { refresh(); });
  connect(table_, &FigureTable::row_chosen, this, &SpreadSheet::choose_step);
  connect(plot_, &SpreadPlot::trace_chosen, this, [this](int trace) {
    const SpreadTest* t = session_.spread();
    for (std::size_t i = 0; t != nullptr && i < t->steps.size(); ++i) {
      if (t->analyses[i] && trace-- == 0) choose_step(static_cast<int>(i));
    }
  });
  offer_saving(plot_, tr("spectra"));
  follow_readings(readings_);
}

const SpreadAnalysis* SpreadSheet::chosen_analysis() const {
  const SpreadTest* t = session_.spread();
  const auto i = static_cast<std::size_t>(std::max(0, step_));
  return t != nullptr && i < t->analyses.size() && t->analyses[i] ? &*t->analyses[i] : nullptr;
}

Sheet::ShownPart SpreadSheet::shown_part() const {
  const SpreadAnalysis* a = chosen_analysis();
  return {a != nullptr && a->average.parts ? &*a->average.parts : nullptr, step_};
}

bool SpreadSheet::is_taken() const {
  return chosen_analysis() != nullptr;
}

QString SpreadSheet::take_words() const {
  return live_->due().size() == 1 ? tr("Take this step") : tr("Take the steps");
}

QString SpreadSheet::add_words() const {
  const SpreadTest* t = session_.spread();
  if (t == nullptr || t->steps.empty()) return tr("Add a recording");
  return tr("Add a recording for %1").arg(qt_text(t->steps[static_cast<std::size_t>(step_)].label));
}

std::optional<Figure> SpreadSheet::shown_figure() const {
  const SpreadAnalysis* a = chosen_analysis();
  if (a == nullptr) return std::nullopt;
  return spread_figure(session_.spread()->test.characteristic, *a, shown_hold());
}

void SpreadSheet::refresh() {
  const SpreadTest* t = session_.spread();
  if (t != nullptr && t->test.id != shown_test_) {
    shown_test_ = t->test.id;
    step_ = static_cast<int>(t->headline_step().value_or(0));
  }
  if (t != nullptr)
    step_ = std::clamp(step_, 0, std::max(0, static_cast<int>(t->steps.size()) - 1));
  refresh_head();
  if (t == nullptr) return;
  fit_columns();
  const auto i = static_cast<std::size_t>(step_);
  StripContent strip;
  strip.test = t;
  strip.step = i;
  if (i < t->steps.size() && t->steps[i].output) {
    Figure output;
    output.value = t->steps[i].output->dbm;
    output.unit = "dBm";
    output.convention = "PEP";
    output.contributions = {{"power meter", t->steps[i].output->u_db, Scope::common}};
    strip.output = output;
    strip.is_output_typed = true;
  }
  strip.is_taken = chosen_analysis() != nullptr;
  strip_->set_step(device_name(), strip);
  SpreadPicture picture = spread_picture(*t, step_, shown_hold());
  if (picture.traces.empty())
    picture.empty_words =
        t->may_be_keyed()
            ? tr("Nothing taken yet. Play the same stimulus at every step, record it, and drop the "
                 "recordings here. \u201cWrite a test signal\u201d under Ctrl K makes one.")
            : tr("Nothing is taken into a hook-up that does not stand the drive.");
  plot_->set_picture(std::move(picture));
  model_->set_test(*t, shown_hold());
  static_cast<TableHead*>(table_->horizontalHeader())
      ->set_gauge(SpreadModel::kMargin, model_->margin_span());
  table_->choose_row(step_);
  readings_->set_test(t, step_, session_.shack().is_read_only());
  readings_->setVisible(!live_->is_running());
  refresh_menus(*t);
  refresh_verdict(*t);
  refresh_remarks(*t);
}

void SpreadSheet::refresh_verdict(const SpreadTest& t) {
  VerdictCardContent content;
  const auto i = static_cast<std::size_t>(step_);
  if (i < t.steps.size()) content.where = tr("At %1").arg(qt_text(t.steps[i].label));
  const auto figure = shown_figure();
  content.unit = t.test.characteristic == "bandwidth" ? "Hz" : "dB";
  if (!figure) {
    content.sentence = chosen_analysis() != nullptr
                           ? tr("No figure could be worked out. The remarks say why.")
                           : tr("No figure yet: record this step and drop the file on the sheet.");
    verdict_->set_content(content);
    return;
  }
  const FormattedFigure f = format_figure(*figure, Rounding::compact, 1);
  content.value = qt_text(f.value);
  content.bound = qt_text(f.bound);
  content.uncertainty = qt_text(f.uncertainty);
  content.explanation = qt_text(figure->label + ", " + figure->convention);
  content.explanation_short = qt_text(figure->label);
  const bool is_judged = t.test.limit && t.test.limit->convention == figure->convention;
  if (is_judged) {
    const Judgement j = judge(*figure, *t.test.limit);
    content.limit = tr("limit %1").arg(qt_text(limit_text(*t.test.limit)));
    content.mark = {j.verdict, j.margin, j.expanded, j.bound, std::nullopt};
    content.span = t.test.limit->span;
    content.sentence = qt_text(verdict_sentence(j, figure->unit));
  } else {
    content.sentence = t.test.limit
                           ? tr("The limit is for %1, so it does not judge this figure.")
                                 .arg(qt_text(t.test.limit->convention))
                           : tr("No limit is chosen, so nothing is judged: choose one above.");
  }
  verdict_->set_content(content);
}

void SpreadSheet::refresh_remarks(const SpreadTest& t) {
  std::vector<Remark> remarks = plan_remarks();
  const auto i = static_cast<std::size_t>(step_);
  if (const SpreadAnalysis* a = chosen_analysis()) {
    const auto& own = a->of(shown_hold()).remarks;
    remarks.insert(remarks.end(), own.begin(), own.end());
    if (a->noise) remarks.insert(remarks.end(), a->noise->remarks.begin(), a->noise->remarks.end());
    if (i < t.two_tone.size() && t.two_tone[i]) {
      const auto noise = spread_figure(t.test.characteristic, *a);
      remarks.push_back(
          {"beside_tones", Severity::note,
           "Two tones at " + t.steps[i].label + ": " + figure_text(*t.two_tone[i]) + " " +
               t.two_tone[i]->convention +
               (noise ? "; here " + figure_text(*noise) + " " + noise->convention : std::string()) +
               ". " + noise_against_tones(),
           ""});
    }
  }
  sort_remarks(remarks);
  // The same remark from the average and from the notch is said once.
  remarks.erase(std::unique(remarks.begin(), remarks.end(),
                            [](const Remark& a, const Remark& b) { return a.text == b.text; }),
                remarks.end());
  remarks_->set_remarks(remarks);
  remarks_->setVisible(!remarks.empty());
  refresh_caution();
}

void SpreadSheet::choose_step(int step) {
  if (step == step_) return;
  flush();
  step_ = step;
  refresh();
}

void SpreadSheet::show_hold(Hold hold) {
  hold_->set_current(hold == Hold::average ? 0 : 1);
  refresh();
}

void SpreadSheet::show_budget() {
  const auto figure = shown_figure();
  if (!figure || figure->contributions.empty()) return;
  const SpreadTest& t = *session_.spread();
  std::optional<double> margin;
  if (const auto& j = t.judgements[static_cast<std::size_t>(step_)]) margin = j->margin;
  show_budget_of(*figure, qt_text(t.steps[static_cast<std::size_t>(step_)].label), margin,
                 verdict_->mapTo(window(), QPoint(70, verdict_->height() - 8)));
}

/// Each question has its own figures: noise its notch and what two tones gave, the bandwidth its
/// widths.
void SpreadSheet::fit_columns() {
  const SpreadTest* t = session_.spread();
  const bool is_noise = t != nullptr && t->test.characteristic == "noise";
  const bool is_narrow = window()->width() < 1200;
  if (is_noise && is_narrow)
    table_->set_columns({70, 0, 0, 102, 102, 92, 92, -1, 80});
  else if (is_noise)
    table_->set_columns({120, 0, 0, 104, 104, 104, 116, -1, 98});
  else if (is_narrow)
    table_->set_columns({112, 92, 92, 92, 92, 0, 0, -1, 90});
  else
    table_->set_columns({132, 104, 104, 104, 104, 0, 0, -1, 98});
}

void SpreadSheet::resizeEvent(QResizeEvent* event) {
  Sheet::resizeEvent(event);
  const int total = window()->width();
  fit_columns();
  right_->setFixedWidth(right_column_width(total));
}

}  // namespace heron
