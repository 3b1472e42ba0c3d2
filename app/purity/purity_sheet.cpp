#include "app/purity/purity_sheet.h"

#include <QHBoxLayout>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/live/live_bench.h"
#include "app/live/live_card.h"
#include "app/live/live_ladder.h"
#include "app/table/table_head.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/caution_card.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

/// A tone so far above the suppressed carrier is what stands for the carrier.
constexpr double kToneHz = 1000.0;
constexpr int kPlannedHarmonics = 7;

int first_line(const PurityTest& t) {
  const PurityLine* worst = t.analysis ? t.analysis->worst() : nullptr;
  return worst == nullptr ? -1 : static_cast<int>(worst - t.analysis->lines.data());
}

}  // namespace

PuritySheet::PuritySheet(const SheetContext& with, QWidget* parent)
    : Sheet(with, parent),
      plot_(new PurityPlot),
      table_(new FigureTable(tr("Lines of this device"))),
      model_(new PurityModel(this)),
      filter_(new FilterCard),
      mask_(new Chip(tr("Mask"))),
      carrier_(new Chip(tr("Carrier"))),
      evidence_(new Chip(tr("Source"))) {
  build();
  connect_all();
}

void PuritySheet::build() {
  auto* controls = new QWidget;
  auto* chips = sheet_controls(controls);
  for (Chip* chip : {mask_, carrier_, evidence_}) chips->addWidget(chip);
  chips->addStretch();
  table_->setModel(model_);
  table_->setItemDelegate(new PurityDelegate(table_));
  table_->setFixedHeight(30 + 8 * 29 + 2);
  auto* heads = static_cast<TableHead*>(table_->horizontalHeader());
  heads->set_gauge(PurityModel::kMargin, 20.0);
  heads->set_left_column(PurityModel::kWhat);
  heads->set_first_right(true);
  build_frame(controls, plot_, table_, {filter_});
}

void PuritySheet::connect_all() {
  connect(plot_, &PurityPlot::line_chosen, this, &PuritySheet::choose_line);
  connect(table_, &FigureTable::row_chosen, this, &PuritySheet::choose_line);
  connect(table_, &FigureTable::cell_chosen, this, [this](int line, int cell) {
    if (cell == PurityModel::kLevel) show_line_budget(line);
  });
  table_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(table_, &QWidget::customContextMenuRequested, this, [this](const QPoint& at) {
    QMenu menu(this);
    menu.addAction(tr("Copy this row"), QKeySequence::Copy, table_, &FigureTable::copy_chosen);
    menu.addAction(tr("Copy the table"), table_, &FigureTable::copy_all);
    menu.exec(table_->viewport()->mapToGlobal(at));
  });
  offer_saving(plot_, tr("harmonics and spurs"));
}

/// Of the recording that the chosen line was found in.
Sheet::ShownPart PuritySheet::shown_part() const {
  const PurityTest* t = session_.purity();
  if (t == nullptr || !t->analysis || line_ < 0 ||
      line_ >= static_cast<int>(t->analysis->lines.size()))
    return {};
  const std::string& name = t->analysis->lines[static_cast<std::size_t>(line_)].source;
  for (std::size_t i = 0; i < t->sources.size(); ++i) {
    if (t->sources[i] && t->sources[i]->name == name && t->sources[i]->parts)
      return {&*t->sources[i]->parts, static_cast<int>(i)};
  }
  return {};
}

bool PuritySheet::is_taken() const {
  const PurityTest* t = session_.purity();
  return t != nullptr && t->analysis && t->analysis->lines.size() > 1;
}

bool PuritySheet::can_plan() const {
  const PurityTest* t = session_.purity();
  return t != nullptr && t->steps.empty() && t->settings.lines.empty() && t->hookup &&
         t->test.drive && bench_->answers(Role::generator) && bench_->answers(Role::sampler);
}

QString PuritySheet::add_words() const {
  return can_plan() ? tr("Plan the harmonics") : tr("Add recordings");
}

void PuritySheet::add_evidence() {
  if (can_plan())
    plan_harmonics();
  else
    ask_recordings();
}

void PuritySheet::plan_harmonics() {
  const PurityTest* t = session_.purity();
  if (t == nullptr || !t->test.drive) return;
  const double dial = t->test.drive->frequency_hz;
  PurityTestSettings settings = t->settings;
  settings.carrier_hz = dial + kToneHz;
  auto added = std::make_shared<std::vector<Id>>();
  session_.change_test(
      t->test.id, tr("steps for the harmonics"),
      [this, id = t->test.id, dial, added,
       after = with_purity_settings(t->test.settings, settings)] {
        set_test_settings(session_.shack(), id, after);
        if (!added->empty()) {
          for (const Id step : *added) set_step_removed(session_.shack(), step, false);
          return;
        }
        for (int n = 1; n <= kPlannedHarmonics; ++n)
          added->push_back(add_step(session_.shack(), id, frequency_text(n * dial)));
      },
      [this, id = t->test.id, added, before = t->test.settings] {
        set_test_settings(session_.shack(), id, before);
        for (const Id step : *added) set_step_removed(session_.shack(), step, true);
      });
}

void PuritySheet::take_sweep() {
  const PurityTest* t = session_.purity();
  if (t == nullptr || !t->test.drive) return;
  const double dial = t->test.drive->frequency_hz;
  const std::pair range{std::max(1e5, std::floor(dial / 10.0 / 1e5) * 1e5),
                        dial * (kPlannedHarmonics + 0.5)};
  const auto same = std::find_if(t->steps.begin(), t->steps.end(),
                                 [&](const Step& s) { return sweep_range_hz(s) == range; });
  auto step = static_cast<int>(same - t->steps.begin());
  if (same == t->steps.end()) {
    if (t->settings.carrier_hz == 0.0) {
      PurityTestSettings settings = t->settings;
      settings.carrier_hz = dial + kToneHz;
      change(tr("carrier"), settings);
    }
    if (session_.add_step(qt_text(sweep_name(range.first, range.second)), range) == 0) return;
    step = static_cast<int>(session_.purity()->steps.size()) - 1;
  }
  live_->start(step);
}

void PuritySheet::refresh() {
  const PurityTest* t = session_.purity();
  refresh_head();
  if (t == nullptr) return;
  if (t->test.id != shown_test_) {
    shown_test_ = t->test.id;
    line_ = first_line(*t);
  }
  const int count = t->analysis ? static_cast<int>(t->analysis->lines.size()) : 0;
  if (line_ >= count || line_ < 0) line_ = first_line(*t);
  StripContent strip;
  strip.test = t;
  if (t->analysis && t->analysis->carrier_dbm) {
    Figure carrier;
    carrier.value = *t->analysis->carrier_dbm;
    carrier.unit = "dBm";
    carrier.convention = "PEP";
    carrier.contributions = t->analysis->carrier_contributions;
    strip.output = carrier;
    strip.is_output_typed = t->settings.power_dbm.has_value();
  }
  strip.is_taken = t->analysis.has_value();
  strip_->set_step(device_name(), strip);
  PurityPicture picture;
  picture.analysis = t->analysis;
  picture.mask = t->mask;
  picture.carrier_hz = t->carrier_hz;
  picture.empty_words =
      !t->obstacle.empty() ? t->obstacle + ". " + t->advice + "."
      : !t->may_be_keyed()
          ? tr("Nothing is measured through a hook-up that is over its ratings.").toStdString()
          : tr("Nothing measured yet. Drop recordings of the carrier and of each harmonic here, or "
               "an analyser\u2019s CSV trace; or type the lines.")
                .toStdString();
  plot_->set_picture(std::move(picture));
  model_->set_analysis(t->analysis);
  plot_->choose_line(line_);
  table_->choose_row(line_);
  filter_->set_analysis(t->analysis, t->filters);
  refresh_menus(t);
  refresh_verdict(t);
  refresh_remarks(t);
}

void PuritySheet::refresh_verdict(const PurityTest* t) {
  VerdictCardContent content;
  content.unit = "dBc";
  const PurityLine* worst = t->analysis ? t->analysis->worst() : nullptr;
  if (worst == nullptr) {
    content.sentence =
        t->obstacle.empty()
            ? tr("No figure yet. It takes the carrier and at least one place beside it.")
            : tr("What was measured cannot be combined yet: %1.").arg(qt_text(t->obstacle));
    verdict_->set_content(content);
    return;
  }
  content.where = tr("Worst line: %1").arg(line_name(*worst));
  const FormattedFigure f = format_figure(line_figure(*worst), Rounding::compact, 1);
  content.value = qt_text(f.value);
  content.bound = qt_text(f.bound);
  content.uncertainty = qt_text(f.uncertainty);
  const QString at = qt_text(engineering_text(worst->frequency_hz, "Hz", 4));
  content.explanation_short =
      t->analysis->carrier_dbm
          ? tr("%1, %2 at the device")
                .arg(at,
                     qt_text(engineering_text(
                         to_watt(Dbm{*t->analysis->carrier_dbm + worst->level_dbc}).value, "W", 2)))
          : at;
  content.explanation =
      t->analysis->carrier_dbm
          ? tr("%1, that is %2 at the device")
                .arg(at,
                     qt_text(engineering_text(
                         to_watt(Dbm{*t->analysis->carrier_dbm + worst->level_dbc}).value, "W", 2)))
          : tr("%1, relative to the carrier").arg(at);
  if (const auto judged = t->analysis->judgement()) {
    content.limit = tr("limit %1 dBc").arg(qt_text(number_text(*worst->limit_dbc, 1)));
    content.mark = {judged->verdict, judged->margin, judged->expanded, judged->bound, std::nullopt};
    content.sentence = qt_text(verdict_sentence(*judged, "dB"));
  } else {
    content.sentence = t->mask.is_none()
                           ? tr("No mask is chosen, so nothing is judged: choose one above.")
                           : tr("The mask says nothing here, or depends on a power not known.");
  }
  verdict_->set_content(content);
}

void PuritySheet::refresh_remarks(const PurityTest* t) {
  std::vector<Remark> remarks = plan_remarks();
  if (t->analysis)
    remarks.insert(remarks.end(), t->analysis->remarks.begin(), t->analysis->remarks.end());
  if (!t->obstacle.empty())
    remarks.push_back({"obstacle", Severity::caution, t->obstacle + ".", t->advice});
  if (t->analysis && !t->is_self_tested && t->analysis->worst() != nullptr &&
      t->analysis->worst()->judgement && t->analysis->worst()->judgement->verdict != Verdict::pass)
    remarks.push_back({"self_test_wanted", Severity::note,
                       "Nothing says yet whether " +
                           line_name(*t->analysis->worst()).toStdString() +
                           " is the device\u2019s or the instrument\u2019s.",
                       "Measure it again with 10 dB more attenuation, under Source"});
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(t->analysis.has_value() || !remarks.empty());
  refresh_caution();
}

void PuritySheet::choose_line(int index) {
  const PurityTest* t = session_.purity();
  if (t == nullptr || !t->analysis || index < 0 ||
      index >= static_cast<int>(t->analysis->lines.size()))
    return;
  line_ = index;
  plot_->choose_line(index);
  table_->choose_row(index);
  refresh_part();
}

void PuritySheet::show_line_budget(int index) {
  const PurityTest* t = session_.purity();
  if (t == nullptr || !t->analysis || index < 0 ||
      index >= static_cast<int>(t->analysis->lines.size()))
    return;
  const PurityLine& l = t->analysis->lines[static_cast<std::size_t>(index)];
  const Figure figure = line_figure(l);
  if (l.is_bound || figure.contributions.empty()) return;
  show_budget_of(figure, line_name(l),
                 l.judgement ? std::optional(l.judgement->margin) : std::nullopt,
                 verdict_->mapTo(window(), QPoint(70, verdict_->height() - 8)));
}

void PuritySheet::show_budget() {
  if (const PurityTest* t = session_.purity()) show_line_budget(first_line(*t));
}

void PuritySheet::resizeEvent(QResizeEvent* event) {
  Sheet::resizeEvent(event);
  const int total = window()->width();
  if (total < 1200)
    table_->set_columns({78, 108, 86, 72, 108, 0, 50, -1, 98});
  else
    table_->set_columns({78, 106, 86, 72, 108, 60, 52, -1, 98});
  right_->setFixedWidth(right_column_width(total));
}

}  // namespace heron
