#include "app/sheet/method_sheet.h"

#include <QHBoxLayout>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/live/live_ladder.h"
#include "app/live/meter_watch.h"
#include "app/table/table_head.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/caution_card.h"
#include "core/judge/limit.h"
#include "core/method/two_tone/ladder_advice.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr int kRows = 6;
constexpr int kJointRows = 8;

}  // namespace

MethodSheet::MethodSheet(const SheetContext& with, QWidget* parent)
    : Sheet(with, parent),
      plot_(new PlotView),
      table_(new FigureTable(tr("Results"))),
      results_(new ResultModel(this)),
      evidence_(new EvidenceModel),
      grid_(new TypedGrid(tr("Readings typed by hand"), evidence_)),
      stack_(new QStackedWidget),
      below_(new Segmented(tr("Below the plot"), {tr("Results"), tr("Readings")})),
      views_(new Segmented(tr("Trace"), {tr("all")})),
      settings_(new Chip({})),
      limit_(new Chip(tr("Limit"))),
      more_(new Chip({})),
      masks_(new MaskMenu(limit_, this)),
      readings_(new ReadingsCard),
      proposals_(new ProposalCardView),
      watch_(new MeterWatch(with.bench, this)),
      watching_(new TakingCard) {
  more_->set_value(tr("More"));
  build();
  connect_all();
}

void MethodSheet::build() {
  auto* controls = new QWidget;
  auto* chips = sheet_controls(controls);
  chips->addWidget(below_);
  chips->addWidget(views_);
  for (Chip* chip : {settings_, limit_, more_}) chips->addWidget(chip);
  chips->addStretch();
  table_->setModel(results_);
  table_->setItemDelegate(new ResultDelegate(table_));
  grid_->setItemDelegate(new GridDelegate(grid_));
  static_cast<TableHead*>(grid_->horizontalHeader())->set_last_left(false);
  stack_->addWidget(table_);
  stack_->addWidget(grid_);
  build_frame(controls, plot_, stack_, {watching_, proposals_, readings_});
}

void MethodSheet::connect_all() {
  connect(below_, &Segmented::chosen, this, &MethodSheet::show_below);
  connect(views_, &Segmented::chosen, this, [this] { refresh(); });
  connect(table_, &FigureTable::row_chosen, this, &MethodSheet::choose);
  connect(masks_, &MaskMenu::chosen, this, &MethodSheet::set_mask);
  connect(masks_, &MaskMenu::failed, this, &Sheet::failed);
  connect(masks_, &MaskMenu::told, this, &Sheet::told);
  connect(grid_, &FigureTable::row_chosen, this, [this](int row) {
    const GeneralTest* t = session_.general();
    if (t != nullptr && row < static_cast<int>(t->steps.size())) choose(row);
  });
  connect(plot_, &PlotView::step_chosen, this, &MethodSheet::choose);
  offer_saving(plot_, tr("plot"));
  connect(evidence_, &EvidenceModel::changed, this,
          [this](const QString& what, const std::vector<Session::TypedCells>& steps) {
            session_.set_fields(what, steps);
          });
  connect(grid_, &TypedGrid::refused, this, &Sheet::failed);
  follow_readings(readings_);
  connect_meters();
}

std::vector<QWidget*> MethodSheet::stops() {
  return {plot_, stack_->currentWidget()};
}

void MethodSheet::copy_table() {
  (below_->current() == 0 ? table_ : static_cast<FigureTable*>(grid_))->copy_all();
}

const Answer* MethodSheet::shown_answer() const {
  const GeneralTest* t = session_.general();
  return t != nullptr ? t->result.answer_at(static_cast<std::size_t>(std::max(0, chosen_)),
                                            view().toStdString())
                      : nullptr;
}

bool MethodSheet::is_joint() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->method->is_joint;
}

std::optional<std::size_t> MethodSheet::step() const {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return std::nullopt;
  const auto step = t->result.step_of(static_cast<std::size_t>(std::max(0, chosen_)));
  return step && *step < t->steps.size() ? step : std::nullopt;
}

bool MethodSheet::takes_recordings() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->method->analyse != nullptr;
}

QString MethodSheet::view() const {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->result.views.empty()) return {};
  const auto last = static_cast<int>(t->result.views.size()) - 1;
  return qt_text(t->result.views[static_cast<std::size_t>(std::clamp(views_->current(), 0, last))]);
}

bool MethodSheet::is_taken() const {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return false;
  if (!takes_recordings() || is_joint()) return !t->result.answers.empty();
  const auto at = step();
  return at && t->evidence.steps[*at].analysis;
}

Sheet::ShownPart MethodSheet::shown_part() const {
  const GeneralTest* t = session_.general();
  const auto at = step();
  if (!at || !t->evidence.steps[*at].analysis) return {};
  return {t->evidence.steps[*at].analysis->parts(), static_cast<int>(*at)};
}

QString MethodSheet::take_words() const {
  return live_->due().size() == 1 ? tr("Measure this step") : tr("Measure all steps");
}

QString MethodSheet::add_words() const {
  const GeneralTest* t = session_.general();
  if (can_plan()) return tr("Plan the steps");
  if (reads_meters()) return tr("Read the meters");
  if (!takes_recordings()) return tr("Type the readings");
  if (is_joint()) return tr("Add recordings");
  const auto at = step();
  return at ? tr("Add a recording for %1").arg(qt_text(t->steps[*at].label))
            : tr("Add a recording");
}

QString MethodSheet::add_consequence() const {
  if (can_plan()) return tr("One for each place; then measure them");
  if (is_joint()) return Sheet::add_consequence();
  if (reads_meters())
    return tr("Key first; read now and after %1")
        .arg(qt_text(duration_text(
            session_.general()->method->hold_s(session_.general()->evidence.steps[*step()]))));
  return takes_recordings() ? tr("WAV or SigMF; or drop it here")
                            : tr("Into the grid; or paste them there");
}

/// Where the next reading goes: the first cell of the grid that is empty.
void MethodSheet::add_evidence() {
  if (can_plan()) {
    plan_steps();
    return;
  }
  if (reads_meters()) {
    read_meters({ReadingRole::at, ReadingRole::after});
    return;
  }
  if (takes_recordings()) {
    ask_recordings();
    return;
  }
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

void MethodSheet::show_view(int which) {
  views_->set_current(which);
  refresh();
}

void MethodSheet::show_below(int which) {
  below_->set_current(which);
  stack_->setCurrentIndex(which);
  fit_columns();
}

void MethodSheet::begin_test(const GeneralTest& t) {
  shown_test_ = t.test.id;
  is_chosen_ = false;
  chosen_ = static_cast<int>(t.headline_item().value_or(0));
  QStringList views;
  for (const std::string& v : t.result.views) views << qt_text(v);
  views_->set_choices(views);
  views_->setVisible(views.size() > 1);
  // Nothing read yet: the grid is what is needed.
  const bool has_grid = !t.method->fields.empty();
  below_->setVisible(has_grid);
  show_below(has_grid && t.result.answers.empty() ? 1 : 0);
  stack_->setFixedHeight(30 + (t.method->is_joint ? kJointRows : kRows) * 29 + 2);
  // Where the grid has no output, and recordings have no level, it is typed here.
  readings_->show_output(!has_grid);
}

void MethodSheet::refresh_strip(const GeneralTest& t) {
  StripContent strip;
  strip.test = &t;
  strip.is_read_by_hand = !takes_recordings();
  if (t.method->is_joint) {
    strip.output = t.result.output;
    strip.is_output_typed = t.result.is_output_typed;
    strip.is_taken = !t.result.items.empty();
  } else {
    strip.step = static_cast<std::size_t>(chosen_);
    strip.is_taken = takes_recordings() ? is_taken() : shown_answer() != nullptr;
    if (strip.step < t.steps.size() && t.steps[strip.step].output) {
      strip.output = to_figure(to_reading(*t.steps[strip.step].output), "Output");
      strip.is_output_typed = true;
    }
  }
  strip_->set_step(device_name(), strip);
}

void MethodSheet::refresh() {
  const GeneralTest* t = session_.general();
  if (t != nullptr) {
    if (t->test.id != shown_test_) begin_test(*t);
    const auto count = static_cast<int>(is_joint() ? t->result.items.size() : t->steps.size());
    // Lines come and go with what is read: the worst is shown until somebody chooses another.
    if (is_joint() && (chosen_ >= count || !is_chosen_))
      chosen_ = static_cast<int>(t->headline_item().value_or(0));
    chosen_ = std::clamp(chosen_, 0, std::max(0, count - 1));
  }
  refresh_head();
  if (t == nullptr) return;
  refresh_strip(*t);
  show_plot(*t);
  show_table(*t);
  evidence_->set_test(*t, !session_.refusal(t->test.id).has_value());
  fit_columns();
  table_->choose_row(chosen_);
  proposals_->set_card(t->result.cards.empty() ? nullptr : &t->result.cards.front());
  readings_->set_test(t, static_cast<int>(step().value_or(0)), session_.shack().is_read_only());
  readings_->setVisible(!live_->is_running() && !is_joint());
  refresh_menus(*t);
  refresh_verdict(*t);
  refresh_remarks(*t);
}

void MethodSheet::show_plot(const GeneralTest& t) {
  const auto found =
      std::find_if(t.result.plots.begin(), t.result.plots.end(),
                   [this](const Plot& p) { return is_in_view(p.view, view().toStdString()); });
  plot_->setVisible(found != t.result.plots.end());
  if (found == t.result.plots.end()) return;
  Plot plot = *found;
  if (!plot.has_points() && !t.may_be_keyed())
    plot.empty_words =
        tr("Nothing is measured through a hook-up that is over its ratings.").toStdString();
  plot_->set_plot(plot, static_cast<std::size_t>(chosen_));
  const Answer* a = shown_answer();
  if (a == nullptr) return;
  const Figure& shown = a->shown ? *a->shown : a->figure;
  QStringList words{plot_->accessibleDescription(), qt_text(a->head.empty() ? a->where : a->head),
                    qt_text(figure_text(shown) + " " + shown.convention), qt_text(a->sentence)};
  words.removeAll(QString());
  plot_->setAccessibleDescription(words.join(QStringLiteral(", ")));
}

void MethodSheet::show_table(const GeneralTest& t) {
  const auto found = std::find_if(
      t.result.tables.begin(), t.result.tables.end(),
      [this](const ResultTable& one) { return is_in_view(one.view, view().toStdString()); });
  if (found != t.result.tables.end()) results_->set_table(*found);
  if (results_->margin_column() >= 0)
    static_cast<TableHead*>(table_->horizontalHeader())
        ->set_gauge(results_->margin_column(), results_->table().margin_span);
}

void MethodSheet::fit_columns() {
  if (session_.general() == nullptr) return;
  table_->set_columns(results_->widths(window()->width()));
  grid_->set_columns(evidence_->widths());
}

void MethodSheet::refresh_verdict(const GeneralTest& t) {
  VerdictCardContent content;
  const Answer* a = shown_answer();
  const auto at = step();
  if (a != nullptr && !a->head.empty())
    content.where = qt_text(a->head);
  else if (at && !is_joint())
    content.where = tr("At %1").arg(qt_text(t.steps[*at].label));
  if (a == nullptr) {
    content.sentence =
        is_joint() ? tr("No figure yet: the remarks and the plot say what is missing.")
        : takes_recordings()
            ? (is_taken() ? tr("No figure could be calculated. The remarks say why.")
                          : tr("No figure yet: record this step and drop the file on the sheet."))
        : t.steps.empty() ? tr("No figure yet: type a step and its readings into the grid.")
                          : tr("No figure yet: type what was read at this step into the grid.");
    verdict_->set_content(content);
    return;
  }
  const Figure& shown = a->shown ? *a->shown : a->figure;
  const FormattedFigure f = format_figure(shown, Rounding::compact, 1);
  content.value = qt_text(f.value);
  content.bound = qt_text(f.bound);
  content.uncertainty = qt_text(f.uncertainty);
  const std::string unit = short_unit(shown);
  content.unit = qt_text(unit);
  const bool says_convention = shown.convention.empty() || unit != shown.unit;
  content.explanation = qt_text(a->label + (says_convention ? "" : ", " + shown.convention));
  content.explanation_short = qt_text(a->label);
  if (a->limit && a->judgement) {
    Limit limit = *a->limit;
    if (limit.unit == shown.unit) limit.unit = unit;
    content.limit = tr("limit %1").arg(qt_text(limit_text(limit)));
    content.mark = {a->judgement->verdict, a->judgement->margin, a->judgement->expanded,
                    a->judgement->bound, std::nullopt};
    content.span = a->margin_span;
  }
  content.sentence = qt_text(a->sentence);
  verdict_->set_content(content);
}

void MethodSheet::refresh_remarks(const GeneralTest& t) {
  std::vector<Remark> remarks = plan_remarks();
  const std::vector<Remark> own =
      t.result.remarks_at(static_cast<std::size_t>(chosen_), view().toStdString());
  remarks.insert(remarks.end(), own.begin(), own.end());
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(!remarks.empty());
  refresh_caution();
  // Where no hook-up says how long, the method's own words stand.
  if (!caution_->isVisibleTo(this) && !t.method->caution.empty()) {
    caution_->set_words(tr("Before keying"), qt_text(t.method->caution));
    caution_->show();
  }
}

void MethodSheet::choose(int index) {
  if (index == chosen_) return;
  flush();
  chosen_ = index;
  is_chosen_ = true;
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
