#include "app/sheet/method_sheet.h"

#include <QHBoxLayout>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/live/live_ladder.h"
#include "app/table/table_head.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/caution_card.h"
#include "core/judge/limit.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr int kRows = 6;

QString view_text(std::string_view text) {
  return qt_text(std::string(text));
}

}  // namespace

MethodSheet::MethodSheet(const SheetContext& with, QWidget* parent)
    : Sheet(with, parent),
      plot_(new PlotView),
      table_(new FigureTable(tr("What was worked out"))),
      results_(new ResultModel(this)),
      evidence_(new EvidenceModel),
      grid_(new TypedGrid(tr("Readings typed by hand"), evidence_)),
      stack_(new QStackedWidget),
      below_(new Segmented(tr("Below the plot"), {tr("Results"), tr("Readings")})),
      limit_(new Chip(tr("Limit"))),
      more_(new Chip({})),
      readings_(new ReadingsCard) {
  more_->set_value(tr("More"));
  build();
  connect_all();
}

void MethodSheet::build() {
  auto* controls = new QWidget;
  auto* chips = sheet_controls(controls);
  chips->addWidget(below_);
  for (Chip* chip : {limit_, more_}) chips->addWidget(chip);
  chips->addStretch();
  table_->setModel(results_);
  table_->setItemDelegate(new ResultDelegate(table_));
  grid_->setItemDelegate(new GridDelegate(grid_));
  static_cast<TableHead*>(grid_->horizontalHeader())->set_last_left(false);
  stack_->addWidget(table_);
  stack_->addWidget(grid_);
  stack_->setFixedHeight(30 + kRows * 29 + 2);
  readings_->show_output(false);
  build_frame(controls, plot_, stack_, {readings_});
}

void MethodSheet::connect_all() {
  connect(below_, &Segmented::chosen, this, &MethodSheet::show_below);
  connect(table_, &FigureTable::row_chosen, this, &MethodSheet::choose_step);
  connect(grid_, &FigureTable::row_chosen, this, [this](int row) {
    const GeneralTest* t = session_.general();
    if (t != nullptr && row < static_cast<int>(t->steps.size())) choose_step(row);
  });
  connect(plot_, &PlotView::step_chosen, this, &MethodSheet::choose_step);
  offer_saving(plot_, tr("plot"));
  connect(evidence_, &EvidenceModel::changed, this,
          [this](const QString& what, const std::vector<Session::TypedCells>& steps) {
            session_.set_fields(what, steps);
          });
  connect(grid_, &TypedGrid::refused, this, &Sheet::failed);
  follow_readings(readings_);
}

std::vector<QWidget*> MethodSheet::stops() {
  return {plot_, stack_->currentWidget()};
}

void MethodSheet::copy_table() {
  (below_->current() == 0 ? table_ : static_cast<FigureTable*>(grid_))->copy_all();
}

const Answer* MethodSheet::shown_answer() const {
  const GeneralTest* t = session_.general();
  return t != nullptr ? t->answer_of(static_cast<std::size_t>(std::max(0, step_))) : nullptr;
}

bool MethodSheet::is_taken() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && !t->result.answers.empty();
}

/// Where the next reading goes: the first cell of the grid that is empty.
void MethodSheet::add_evidence() {
  show_below(1);
  for (int r = 0; r < evidence_->rowCount(); ++r) {
    for (int c = 0; c < evidence_->columnCount(); ++c) {
      const QModelIndex at = evidence_->index(r, c);
      if (!at.data(Qt::EditRole).toString().isEmpty()) continue;
      grid_->setCurrentIndex(at);
      grid_->setFocus(Qt::OtherFocusReason);
      return;
    }
  }
}

void MethodSheet::show_below(int which) {
  below_->set_current(which);
  stack_->setCurrentIndex(which);
  fit_columns();
}

void MethodSheet::refresh() {
  const GeneralTest* t = session_.general();
  if (t != nullptr && t->test.id != shown_test_) {
    shown_test_ = t->test.id;
    step_ = static_cast<int>(t->headline_step().value_or(0));
    // Nothing read yet: the grid is what is needed.
    show_below(t->result.answers.empty() ? 1 : 0);
  }
  if (t != nullptr)
    step_ = std::clamp(step_, 0, std::max(0, static_cast<int>(t->steps.size()) - 1));
  refresh_head();
  if (t == nullptr) return;
  StripContent strip;
  strip.test = t;
  strip.step = static_cast<std::size_t>(step_);
  strip.is_read_by_hand = true;
  if (const Answer* a = shown_answer()) {
    strip.output = a->figure.unit == "dBm" ? std::optional(a->figure) : std::nullopt;
    strip.is_output_typed = true;
    strip.is_taken = true;
  }
  strip_->set_step(device_name(), strip);
  if (!t->result.plots.empty())
    plot_->set_plot(t->result.plots.front(), static_cast<std::size_t>(step_));
  plot_->setVisible(!t->result.plots.empty());
  if (!t->result.tables.empty()) results_->set_table(t->result.tables.front());
  if (results_->margin_column() >= 0)
    static_cast<TableHead*>(table_->horizontalHeader())
        ->set_gauge(results_->margin_column(), results_->table().margin_span);
  evidence_->set_test(*t, !session_.refusal(t->test.id).has_value());
  fit_columns();
  table_->choose_row(step_);
  readings_->set_test(t, step_, session_.shack().is_read_only());
  refresh_menus(*t);
  refresh_verdict(*t);
  refresh_remarks(*t);
}

void MethodSheet::fit_columns() {
  if (session_.general() == nullptr) return;
  table_->set_columns(results_->widths(window()->width()));
  grid_->set_columns(evidence_->widths());
}

void MethodSheet::refresh_verdict(const GeneralTest& t) {
  VerdictCardContent content;
  const auto i = static_cast<std::size_t>(step_);
  if (i < t.steps.size()) content.where = tr("At %1").arg(qt_text(t.steps[i].label));
  const Answer* a = shown_answer();
  if (a == nullptr) {
    content.sentence = t.steps.empty()
                           ? tr("No figure yet: type a step and its readings into the grid.")
                           : tr("No figure yet: type what was read at this step into the grid.");
    verdict_->set_content(content);
    return;
  }
  const Figure& shown = a->shown ? *a->shown : a->figure;
  const FormattedFigure f = format_figure(shown, Rounding::compact, 1);
  content.value = qt_text(f.value);
  content.bound = qt_text(f.bound);
  content.uncertainty = qt_text(f.uncertainty);
  content.unit = qt_text(shown.unit);
  content.explanation =
      qt_text(a->label + (shown.convention.empty() ? "" : ", " + shown.convention));
  content.explanation_short = qt_text(a->label);
  if (a->limit && a->judgement) {
    content.limit = tr("limit %1").arg(qt_text(limit_text(*a->limit)));
    content.mark = {a->judgement->verdict, a->judgement->margin, a->judgement->expanded,
                    a->judgement->bound, std::nullopt};
    content.span = a->margin_span;
  }
  content.sentence = qt_text(a->sentence);
  verdict_->set_content(content);
}

void MethodSheet::refresh_remarks(const GeneralTest& t) {
  std::vector<Remark> remarks = plan_remarks();
  remarks.insert(remarks.end(), t.result.remarks.begin(), t.result.remarks.end());
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(!remarks.empty());
  refresh_caution();
  // Where no hook-up says how long, the method's own words stand.
  if (!caution_->isVisibleTo(this) && !t.method->caution.empty()) {
    caution_->set_words(tr("Before keying"), view_text(t.method->caution));
    caution_->show();
  }
}

void MethodSheet::refresh_menus(const GeneralTest& t) {
  limit_->set_value(t.test.limit ? qt_text(limit_text(*t.test.limit)) : tr("none"));
  limit_->menu()->clear();
  limit_->menu()->addAction(tr("A limit\u2026"), this, &MethodSheet::ask_limit);
  limit_->menu()
      ->addAction(tr("Keep this limit as the device\u2019s specification"), this,
                  [this] { session_.keep_limit_as_specification(); })
      ->setEnabled(t.test.limit.has_value());
  limit_->menu()->addAction(tr("No limit"), this, [this] { session_.set_limit(std::nullopt); });
  QMenu* menu = more_->menu();
  menu->clear();
  menu->addAction(tr("Add a step\u2026"), this, &MethodSheet::ask_step);
  const auto step = static_cast<std::size_t>(step_);
  if (step < t.steps.size()) {
    menu->addAction(tr("Call this step\u2026"), this, [this, step] {
      const auto label = ask(this, tr("What was set"), tr("A name for this step."), tr("Step"),
                             qt_text(session_.general()->steps[step].label), tr("Keep"));
      if (label) session_.set_step_label(step, *label);
    });
    menu->addAction(tr("Remove this step"), this, [this, step] { session_.remove_step(step); });
  }
  menu->addAction(tr("Describe the conditions\u2026"), this, &Sheet::ask_conditions);
}

void MethodSheet::ask_step() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const auto label = ask(this, tr("Add a step"), tr("A name that says what is set."), tr("Step"),
                         view_text(t->method->step_example), tr("Add"), [](const QString& s) {
                           return s.isEmpty() ? tr("Type a name.") : QString();
                         });
  if (label) session_.add_step(*label);
}

void MethodSheet::ask_limit() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const Method& m = *t->method;
  QuantityOptions options;
  options.default_unit = std::string(m.limit_unit);
  const auto asked =
      ask_quantity(this, m.limit_sense == Sense::at_least ? tr("At least") : tr("At most"),
                   tr("All steps are judged by it; one with a specification of its own by that."),
                   tr("Limit"), t->test.limit ? qt_text(t->test.limit->typed) : QString(),
                   tr("Use it"), m.limit_quantity, options);
  if (!asked) return;
  Limit limit;
  limit.name = "own limit";
  limit.sense = m.limit_sense;
  limit.value = asked->value;
  limit.unit = m.limit_unit;
  limit.typed = asked->typed.toStdString();
  session_.set_limit(limit);
}

void MethodSheet::choose_step(int step) {
  if (step == step_) return;
  flush();
  step_ = step;
  refresh();
}

void MethodSheet::show_budget() {
  const Answer* a = shown_answer();
  if (a == nullptr || a->figure.contributions.empty()) return;
  show_budget_of(a->figure, qt_text(a->where),
                 a->judgement ? std::optional(a->judgement->margin) : std::nullopt,
                 verdict_->mapTo(window(), QPoint(70, verdict_->height() - 8)));
}

void MethodSheet::resizeEvent(QResizeEvent* event) {
  Sheet::resizeEvent(event);
  fit_columns();
  right_->setFixedWidth(right_column_width(window()->width()));
}

}  // namespace heron
