#include "app/sheet/sheet.h"

#include <QApplication>
#include <QClipboard>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMenu>
#include <QMimeData>
#include <QTimer>
#include <QVBoxLayout>
#include <cmath>
#include <qcustomplot.h>

#include "app/live/live_card.h"
#include "app/live/live_instruments.h"
#include "app/live/live_ladder.h"
#include "app/live/live_plan.h"
#include "app/plot/plot_dress.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/ask_taking.h"
#include "app/sheet/readings_card.h"
#include "app/sheet/uncertainty_card.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/widget/ask.h"
#include "app/widget/caution_card.h"
#include "app/widget/fact_band.h"
#include "app/widget/scroll_column.h"
#include "app/widget/veil.h"
#include "core/judge/record_remarks.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/parse_quantity.h"

namespace heron {

Sheet::Sheet(const SheetContext& with, QWidget* parent)
    : QWidget(parent),
      session_(with.session),
      queue_(&with.queue),
      live_(&with.live),
      bench_(&with.bench),
      head_(new SheetTitle({}, tr("Sign off this test"))),
      strip_(new HookupStrip),
      facts_(new FactBand),
      part_band_(new PartBand),
      inside_right_(new QWidget),
      right_(scroll_column(inside_right_)),
      verdict_(new VerdictCard),
      taking_(new TakingCard),
      live_card_(new LiveCard(with.live)),
      remarks_(new RemarkList),
      caution_(new CautionCard) {
  setAcceptDrops(true);
  right_->setFixedWidth(262);
  taking_->hide();
  caution_->hide();
  connect(&with.bench, &LiveInstruments::changed, this, &Sheet::refresh_head);
  connect_shared();
}

void Sheet::connect_shared() {
  connect(&session_, &Session::test_changed, this, [this] {
    refresh();
    choose_attached();
  });
  connect(primary(), &QAbstractButton::clicked, this, &Sheet::primary_action);
  connect(head_->cancel(), &QAbstractButton::clicked, this, [this] { disarm(); });
  connect(strip_, &QAbstractButton::clicked, this, &Sheet::hookup_asked);
  connect(strip_, &HookupStrip::uncertainty_asked, this,
          [this](const QString& where, const Figure& level) {
            show_budget_of(level, where, std::nullopt,
                           strip_->mapTo(window(), QPoint(250, strip_->height() - 6)));
          });
  connect(part_band_, &PartBand::part_chosen, this,
          [this](const TimeSpan& part) { queue_->measure_part(shown_part().step, part); });
  connect(part_band_, &PartBand::automatic_asked, this,
          [this] { queue_->measure_part(shown_part().step, std::nullopt); });
  connect(part_band_, &PartBand::typing_asked, this, &Sheet::ask_part);
  strip_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(strip_, &QWidget::customContextMenuRequested, this, &Sheet::show_strip_menu);
  connect(verdict_, &VerdictCard::uncertainty_asked, this, [this] { show_budget(); });
  connect(taking_, &TakingCard::stop_asked, queue_, &ImportQueue::cancel);
  connect(queue_, &ImportQueue::began, this, [this](const QString& file, int waiting) {
    taking_->begin(file, waiting);
    taking_->setVisible(!live_->is_running());
    primary()->setEnabled(false);
  });
  connect(queue_, &ImportQueue::progressed, taking_, &TakingCard::set_progress);
  connect(queue_, &ImportQueue::attached, this, [this](long long test, long long step) {
    attached_step_ = test == session_.test_id() ? step : 0;
    choose_attached();
  });
  connect(queue_, &ImportQueue::idle, this, [this] {
    taking_->hide();
    refresh_head();
  });
  connect(live_, &LiveLadder::changed, this, [this] {
    live_changed();
    refresh_head();
  });
}

/// A step that has just got a recording, as soon as it is there.
void Sheet::choose_attached() {
  const PlannedTest* t = mine();
  if (attached_step_ == 0 || t == nullptr || session_.is_waiting()) return;
  const Id step = std::exchange(attached_step_, 0);
  for (std::size_t i = 0; i < t->steps.size(); ++i) {
    if (t->steps[i].id == step) step_attached(i);
  }
}

void Sheet::build_frame(QWidget* controls, QWidget* plot, QWidget* table,
                        const std::vector<QWidget*>& own_cards) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 8, 8, 8);
  row->setSpacing(8);
  auto* sheet = new Card;
  QVBoxLayout* column = card_column(sheet);
  column->addWidget(head_);
  column->addWidget(controls);
  column->addWidget(strip_);
  column->addWidget(facts_);
  facts_->hide();
  auto* plot_box = new QVBoxLayout;
  plot_box->setContentsMargins(12, 8, 12, 4);
  plot_box->setSpacing(4);
  plot_box->addWidget(part_band_);
  plot_box->addWidget(plot, 1);
  column->addLayout(plot_box, 1);
  column->addWidget(table);
  row->addWidget(sheet, 1);
  auto* right = new QVBoxLayout(inside_right_);
  right->setContentsMargins(0, 0, 0, 0);
  right->setSpacing(8);
  for (QWidget* shared : std::initializer_list<QWidget*>{verdict_, live_card_, taking_})
    right->addWidget(shared);
  for (QWidget* own : own_cards) right->addWidget(own);
  right->addWidget(remarks_, 1);
  right->addWidget(caution_);
  right->addStretch(0);
  row->addWidget(right_);
  figures_ = {plot, table, verdict_, remarks_};
  other_parts_ = {controls, strip_, facts_, part_band_, live_card_};
  other_parts_.insert(other_parts_.end(), own_cards.begin(), own_cards.end());
}

void Sheet::follow_readings(ReadingsCard* card) {
  connect(card, &ReadingsCard::output_entered, this, [this](const QString& typed, double dbm) {
    StepEdits(session_).set_output(static_cast<std::size_t>(chosen_step()), typed, dbm);
  });
  connect(card, &ReadingsCard::output_cleared, this, [this] {
    StepEdits(session_).set_output(static_cast<std::size_t>(chosen_step()), {}, std::nullopt);
  });
  connect(card, &ReadingsCard::note_written, this,
          [this](const QString& note) { TestEdits(session_).set_note(note); });
  connect(card, &ReadingsCard::signature_taken_back, this,
          [this] { TestEdits(session_).take_back_signature(); });
}

void Sheet::offer_saving(QCustomPlot* plot, const QString& name) {
  plot->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(plot, &QWidget::customContextMenuRequested, this, [this, plot, name](const QPoint& at) {
    QMenu menu(this);
    menu.addAction(tr("Save as SVG\u2026"), this,
                   [this, plot, name] { save_plot_of(plot, name, "svg"); });
    menu.addAction(tr("Save as PNG\u2026"), this,
                   [this, plot, name] { save_plot_of(plot, name, "png"); });
    menu.exec(plot->mapToGlobal(at));
  });
}

Device Sheet::shown_device() const {
  const PlannedTest* t = mine();
  if (t == nullptr) return {};
  const Evaluation e = evaluation(session_.shack(), t->test.evaluation_id);
  return device(session_.shack(), e.device_id);
}

QString Sheet::device_name() const {
  return qt_text(shown_device().name);
}

/// While a test is read nothing can be done with it; what had the focus gets it back.
void Sheet::enable(bool on) {
  if (on == isEnabled()) return;
  QWidget* focus = QApplication::focusWidget();
  if (!on && focus != nullptr && isAncestorOf(focus)) focus_before_ = focus;
  setEnabled(on);
  if (!on)
    focus_meanwhile_ = QApplication::focusWidget();
  else if (focus_before_ != nullptr && std::exchange(focus_meanwhile_, nullptr) == focus)
    focus_before_->setFocus(Qt::OtherFocusReason);
  if (on) focus_before_ = nullptr;
}

/// What is older than what is on disk is pale until the new is there: the figures after an edit,
/// all of it when another test was chosen.
void Sheet::show_age() {
  const bool is_old = session_.is_waiting() && mine() != nullptr;
  const bool is_other = mine() == nullptr && session_.waited_for() != nullptr;
  for (QWidget* part : figures_) Veil::set(part, is_old || is_other);
  for (QWidget* part : other_parts_) Veil::set(part, is_other);
}

void Sheet::refresh_part() {
  const ShownPart shown = shown_part();
  part_band_->setVisible(shown.parts != nullptr);
  if (shown.parts == nullptr) return;
  const PlannedTest* t = mine();
  part_band_->set_parts(*shown.parts, t != nullptr && !session_.refusal(t->test.id));
}

void Sheet::refresh_caution() {
  const PlannedTest* t = mine();
  const bool is_timed = t != nullptr && t->planned && t->planned->max_key_down_s;
  caution_->setVisible(is_timed);
  if (!is_timed) return;
  const double most = *t->planned->max_key_down_s;
  const QString at = qt_text(watts_text(t->test.drive->pep_dbm));
  const QString part = qt_text(t->planned->binding);
  if (most > 0.0)
    caution_->set_words(
        tr("%1 is time-limited").arg(part),
        tr("%1 of key-down from cold at %2, then let it cool. F9 starts the transmit timer above. "
           "Hot parts and open connectors burn: local codes and your licence come first.")
            .arg(qt_text(duration_text(std::floor(most))), at));
  else
    caution_->set_words(
        tr("%1 is over its rating").arg(part),
        tr("Do not key at %1 into this hook-up. Change it, or lower the drive.").arg(at));
}

std::vector<Remark> Sheet::plan_remarks() const {
  std::vector<Remark> remarks;
  const PlannedTest* t = mine();
  if (t == nullptr) return remarks;
  if (!t->test.damage.empty()) remarks.push_back(damaged_remark("This test", t->test.damage));
  for (const Step& s : t->steps)
    if (!s.damage.empty()) remarks.push_back(damaged_remark(s.label, s.damage));
  if (!is_taken()) {
    if (t->planned)
      remarks.insert(remarks.end(), t->planned->remarks.begin(), t->planned->remarks.end());
    if (!t->not_planned.empty()) remarks.push_back(not_planned_remark(t->not_planned));
  }
  for (const Vouched& v : t->vouched) remarks.push_back(overridden_remark(v.by, v.pep_dbm, v.why));
  return remarks;
}

void Sheet::add_take_actions(QMenu* menu, int step) {
  menu->addAction(tr("Measure this step with the instruments"), this,
                  [this, step] { live_->start(step); })
      ->setEnabled(!live_->is_running());  // what is in the way is said, with what to do
  menu->addAction(tr("Measurement settings\u2026"), this, &Sheet::ask_taking);
}

void Sheet::add_record_actions(QMenu* menu) {
  const PlannedTest* t = mine();
  if (t == nullptr) return;
  menu->addSeparator();
  menu->addAction(tr("Measurement settings\u2026"), this, &Sheet::ask_taking);
  menu->addAction(tr("Note\u2026"), this, [this] {
    const auto note = ask(this, tr("Note"), tr("What should be remembered of this test."),
                          tr("Note"), qt_text(mine()->test.note), tr("Save"));
    if (note) TestEdits(session_).set_note(*note);
  });
  menu->addAction(tr("Describe the conditions\u2026"), this, &Sheet::ask_conditions);
  add_standing_actions(menu);
  menu->addAction(tr("Withdraw the signature"), this,
                  [this] { TestEdits(session_).take_back_signature(); })
      ->setEnabled(t->test.is_signed() && !session_.shack().is_read_only());
}

void Sheet::save_plot_of(QCustomPlot* plot, const QString& name, const QString& ending) {
  QString path = QFileDialog::getSaveFileName(this, tr("Save the plot"), name + "." + ending);
  if (path.isEmpty()) return;
  if (!path.endsWith("." + ending, Qt::CaseInsensitive)) path += "." + ending;
  QString reason;
  if (save_plot(*plot, path, name, &reason))
    emit told(tr("Saved %1").arg(path));
  else
    emit failed(reason, {});
}

void Sheet::dragEnterEvent(QDragEnterEvent* event) {
  if (!event->mimeData()->hasUrls()) return;
  event->acceptProposedAction();
  drop_target()->setBackground(theme_of(this).billTint);
  drop_target()->replot();
}

void Sheet::dragLeaveEvent(QDragLeaveEvent*) {
  drop_target()->setBackground(theme_of(this).sheet);
  drop_target()->replot();
}

void Sheet::dropEvent(QDropEvent* event) {
  drop_target()->setBackground(theme_of(this).sheet);
  drop_target()->replot();
  QStringList paths;
  for (const QUrl& url : event->mimeData()->urls()) {
    if (url.isLocalFile()) paths << url.toLocalFile();
  }
  event->acceptProposedAction();
  add_recordings(paths);
}

void Sheet::show_budget_of(const Figure& figure, const QString& where, std::optional<double> margin,
                           QPoint at) {
  for (auto* open : window()->findChildren<UncertaintyCard*>()) open->close();
  auto* card = new UncertaintyCard(
      figure, where + ", " + qt_text(figure_text(figure)) + " " + qt_text(figure.convention),
      margin, window());
  card->setAttribute(Qt::WA_DeleteOnClose);
  const int left = std::clamp(at.x() - 180, 8, std::max(8, window()->width() - card->width() - 8));
  if (at.y() + card->height() < window()->height()) card->set_notch(at.x() - left);
  card->open_at(QPoint(left, at.y()));
}

void Sheet::copy_figure() {
  QApplication::clipboard()->setText(verdict_->accessibleName());
  emit told(tr("Copied: %1").arg(verdict_->accessibleName()));
}

}  // namespace heron
