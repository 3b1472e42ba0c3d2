#include "app/sheet/two_tone_sheet.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMimeData>
#include <QResizeEvent>
#include <QStackedWidget>
#include <QTimer>

#include "app/live/live_ladder.h"
#include "app/sheet/ladder_picture.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/caution_card.h"
#include "core/error.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "report/spectrum_picture.h"

namespace heron {

QString TwoToneSheet::shown_convention() const {
  const TwoToneTest* t = session_.two_tone();
  return t == nullptr || t->test.convention.empty() ? QString(kRePep) : qt_text(t->test.convention);
}

const TwoToneAnalysis* TwoToneSheet::chosen_analysis() const {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr || step_ < 0 || step_ >= static_cast<int>(t->analyses.size())) return nullptr;
  const auto& a = t->analyses[static_cast<std::size_t>(step_)];
  return a ? &*a : nullptr;
}

void TwoToneSheet::refresh() {
  const TwoToneTest* t = session_.two_tone();
  if (session_.test_id() != shown_test_) {
    shown_test_ = session_.test_id();
    chosen_product_.reset();
    compared_ = -1;
    step_ = t == nullptr ? 0 : static_cast<int>(t->headline_step().value_or(0));
  }
  if (t != nullptr)
    step_ = std::clamp(step_, 0, std::max(0, static_cast<int>(t->steps.size()) - 1));
  refresh_title(t);
  refresh_limit_menu(t);
  const bool is_pep = shown_convention() == kRePep;
  convention_->set_current(is_pep ? 1 : 0);
  if (t != nullptr) {
    ladder_model_->set_test(*t, shown_convention());
    ladder_table_->choose_row(step_);
  }
  product_model_->set_analysis(chosen_analysis());
  if (chosen_product_)
    product_table_->choose_row(
        product_model_->row_of(chosen_product_->first, chosen_product_->second));
  refresh_plot(t);
  refresh_verdict(t);
  readings_->set_test(t, step_, session_.is_open() && session_.shack().is_read_only());
  if (t != nullptr)
    readings_grid_->readings()->set_test(*t, shown_convention(), !session_.refusal(t->test.id));
  refresh_more_menu(t);
  refresh_driving_menu(t);
  lay_out_controls();
  refresh_ladder(t);
  refresh_remarks(t);
}

void TwoToneSheet::refresh_title(const TwoToneTest* t) {
  setEnabled(t != nullptr);
  const Characteristic* c = find_characteristic("two_tone");
  title_->setText(t == nullptr ? tr("No test chosen") : qt_text(t->test.title));
  question_->setText(c == nullptr ? QString()
                                  : QString::fromUtf8(c->question.data(),
                                                      static_cast<qsizetype>(c->question.size())));
  QString device;
  if (t != nullptr)
    device = qt_text(heron::device(session_.shack(),
                                   evaluation(session_.shack(), t->test.evaluation_id).device_id)
                         .name);
  strip_->set_step(device, t, step_);
  if (t == nullptr) return;
  const bool has_step = !t->steps.empty();
  const bool taken = chosen_analysis() != nullptr;
  const bool read_only = session_.shack().is_read_only();
  primary_->setEnabled(!read_only && !t->test.is_signed() && !queue_->is_busy());
  if (t->test.is_signed()) {
    primary_->setText(tr("Signed off"));
    consequence_->setText(tr("by %1").arg(qt_text(t->test.signed_by)));
  } else if (!taken && !t->may_be_keyed()) {
    primary_->setText(tr("Make the hook-up safe"));
    consequence_->setText(tr("Not safe at %1: nothing is taken until then")
                              .arg(qt_text(watts_text(t->test.drive->pep_dbm))));
  } else if (live_->is_running()) {
    primary_->setText(tr("Taking %1 of %2").arg(live_->taken() + 1).arg(live_->count()));
    consequence_->setText(tr("Esc takes RF away at once"));
    primary_->setEnabled(false);
  } else if (may_take_live(t)) {
    const auto due = live_->due();
    const QString into = qt_text(t->hookup->chain.parts.front().name);
    primary_->setText(is_armed_ ? tr("Return to key, Esc to leave") : tr("Take the ladder"));
    consequence_->setText(
        due.size() == 1 ? tr("Keys 1 step for some 5 s into %1").arg(into)
                        : tr("Keys %1 steps, some 5 s each, into %2").arg(due.size()).arg(into));
  } else if (!taken) {
    const QString step =
        has_step ? qt_text(t->steps[static_cast<std::size_t>(step_)].label) : QString();
    primary_->setText(has_step ? tr("Add a recording for %1").arg(step) : tr("Add a recording"));
    consequence_->setText(tr("WAV, SigMF or a CSV trace; or drop it here"));
  } else {
    primary_->setText(tr("Sign off this test"));
    consequence_->setText(tr("Keeps figures and note as they are"));
  }
  if (read_only) consequence_->setText(tr("This shack is open read-only"));
  primary_->setAccessibleName(primary_->text());
  primary_->updateGeometry();
}

void TwoToneSheet::refresh_plot(const TwoToneTest* t) {
  const TwoToneAnalysis* a = chosen_analysis();
  if (a == nullptr) {
    plot_->set_empty(
        t == nullptr         ? tr("Choose a test in the course, or add one.")
        : !t->may_be_keyed() ? tr("Nothing is taken into a hook-up that does not stand the drive.")
        : may_take_live(t)
            ? tr("Nothing taken yet: Ctrl Return takes the ladder from the instruments.")
            : tr("No recording at this step: drop a WAV, SigMF or CSV file here."),
        t == nullptr ? std::nullopt : t->test.limit, shown_convention());
    return;
  }
  if (a->spectrum.y.empty()) {
    plot_->set_empty(tr("Typed readings have no spectrum. The ladder shows them."), t->test.limit,
                     shown_convention());
    return;
  }
  SpectrumPicture picture = spectrum_picture(*a, shown_convention().toStdString(), t->test.limit);
  plot_->set_picture(picture);
  plot_->highlight(chosen_product_);
}

void TwoToneSheet::refresh_verdict(const TwoToneTest* t) {
  std::optional<VerdictCardContent> content;
  if (is_ladder() && t != nullptr) content = ceiling_verdict(*t, shown_convention());
  verdict_->set_content(content ? *content : step_verdict(t, step_, shown_convention(), compared_));
}

void TwoToneSheet::refresh_ladder(const TwoToneTest* t) {
  pair_->setVisible(false);
  // While a ladder is taken its own card needs the room.
  readings_->setVisible(!is_ladder() && !live_->is_running());
  if (t == nullptr || !is_ladder()) return;
  ladder_plot_->set_picture(
      ladder_picture(*t, shown_convention(), step_, !session_.refusal(t->test.id)));
  std::optional<double> at = t->ladder_settings.ceiling_dbm;
  if (!at && !t->outputs.empty() && t->outputs[static_cast<std::size_t>(step_)])
    at = t->outputs[static_cast<std::size_t>(step_)]->value;
  pair_->set_test(t, at);
}

void TwoToneSheet::refresh_remarks(const TwoToneTest* t) {
  std::vector<Remark> remarks;
  const TwoToneAnalysis* a = chosen_analysis();
  if (a != nullptr && !is_ladder()) remarks = a->remarks;
  if (t != nullptr) {
    const auto add = [&](const std::vector<Remark>& more) {
      remarks.insert(remarks.end(), more.begin(), more.end());
    };
    add(t->ladder.remarks);
    if (is_ladder() || a == nullptr) add(ladder_advice(*t).remarks);
    if (t->planned && a == nullptr) add(t->planned->remarks);
    if (!t->not_planned.empty() && a == nullptr)
      remarks.push_back({"not_planned", Severity::caution, t->not_planned, ""});
    for (const Vouched& v : t->vouched)
      remarks.push_back({"vouched", Severity::caution,
                         v.by + " answered for keying into an unsafe hook-up at " +
                             watts_text(v.pep_dbm) + ": " + v.why,
                         ""});
    for (const ReadingDoubt& d : t->doubts)
      remarks.push_back({"doubt", Severity::caution, t->steps[d.step].label + ": " + d.text, ""});
  }
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(a != nullptr || !remarks.empty());
  const bool is_timed = t != nullptr && t->planned && t->planned->max_key_down_s;
  caution_->setVisible(is_timed);
  if (!is_timed) return;
  const double most = *t->planned->max_key_down_s;
  caution_->set_words(
      most > 0.0 ? tr("%1 is time-limited").arg(qt_text(t->planned->binding))
                 : tr("%1 does not stand this").arg(qt_text(t->planned->binding)),
      most > 0.0
          ? tr("%1 of key-down from cold at %2, then let it cool. F9 starts the clock above. "
               "Hot parts and open connectors burn: local codes and your licence come first.")
                .arg(qt_text(duration_text(std::floor(most))),
                     qt_text(watts_text(t->test.drive->pep_dbm)))
          : tr("Do not key at %1 into this hook-up. Change it, or lower the drive.")
                .arg(qt_text(watts_text(t->test.drive->pep_dbm))));
}

void TwoToneSheet::compare_with(int step) {
  compared_ = step;
  refresh_verdict(session_.two_tone());
}

void TwoToneSheet::show_ladder(bool ladder) {
  view_->set_current(ladder ? 1 : 0);
  plots_->setCurrentIndex(ladder ? 1 : 0);
  if (ladder) show_table(Table::steps);
  lay_out_controls();
  refresh();
}

void TwoToneSheet::set_ceiling(std::optional<double> dbm, const QString& typed) {
  LadderSettings ladder = session_.two_tone()->ladder_settings;
  ladder.ceiling_dbm = dbm;
  ladder.ceiling_typed = typed.toStdString();
  session_.set_ladder_settings(tr("power ceiling"), ladder);
}

void TwoToneSheet::choose_step(int step) {
  if (step == step_) return;
  flush();
  step_ = step;
  chosen_product_.reset();
  refresh();
}

void TwoToneSheet::show_table(Table table) {
  which_table_->set_current(static_cast<int>(table));
  tables_->setCurrentIndex(static_cast<int>(table));
}

void TwoToneSheet::choose_product(int order, bool upper) {
  chosen_product_ = std::pair{order, upper};
  plot_->highlight(chosen_product_);
  product_table_->choose_row(product_model_->row_of(order, upper));
}

QString TwoToneSheet::recording_filter() {
  return tr(
      "Recordings and traces (*.wav *.WAV *.w64 *.rf64 *.sigmf-meta *.sigmf-data *.csv);;All "
      "files (*)");
}

void TwoToneSheet::primary_action() {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr || !primary_->isEnabled()) return;
  if (may_take_live(t)) {
    arm_or_take();
    return;
  }
  if (chosen_analysis() != nullptr) {
    ask_signature();
    return;
  }
  if (!t->may_be_keyed()) {
    emit hookup_asked();
    return;
  }
  ask_recordings();
}

void TwoToneSheet::ask_recordings() {
  const QStringList files =
      QFileDialog::getOpenFileNames(this, tr("Add recordings"), {}, recording_filter());
  if (!files.isEmpty()) add_recordings(files);
}

bool TwoToneSheet::may_take_live(const TwoToneTest* t) const {
  return t != nullptr && !t->test.is_signed() && t->may_be_keyed() && !live_->due().empty() &&
         live_->obstacle().what.isEmpty();
}

/// Keying needs two presses, so that no slip of a key puts power out.
void TwoToneSheet::arm_or_take() {
  constexpr int kArmedMs = 6000;
  if (!is_armed_) {
    is_armed_ = true;
    QTimer::singleShot(kArmedMs, this, [this] { disarm(); });
    refresh_title(session_.two_tone());
    primary_->setFocus(Qt::OtherFocusReason);
    return;
  }
  is_armed_ = false;
  live_->start();
}

bool TwoToneSheet::disarm() {
  const bool was = is_armed_;
  is_armed_ = false;
  if (was) refresh_title(session_.two_tone());
  return was;
}

void TwoToneSheet::recording_attached(long long test, long long step) {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr || t->test.id != test) return;
  for (std::size_t i = 0; i < t->steps.size(); ++i) {
    if (t->steps[i].id == step) choose_step(static_cast<int>(i));
  }
}

void TwoToneSheet::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) {
    event->acceptProposedAction();
    plot_->setBackground(theme_of(this).billTint);
    plot_->replot();
  }
}

void TwoToneSheet::dragLeaveEvent(QDragLeaveEvent*) {
  plot_->setBackground(theme_of(this).sheet);
  plot_->replot();
}

void TwoToneSheet::dropEvent(QDropEvent* event) {
  plot_->setBackground(theme_of(this).sheet);
  QStringList paths;
  for (const QUrl& url : event->mimeData()->urls()) {
    if (url.isLocalFile()) paths << url.toLocalFile();
  }
  event->acceptProposedAction();
  add_recordings(paths);
}

void TwoToneSheet::lay_out_controls() {
  const int total = window()->width();
  relative_words_->setVisible(total >= 1440);
  table_words_->setVisible(total >= 1440 && !is_ladder());
  controls_->setSpacing(total < 1200 ? 2 : 8);
  controls_->setContentsMargins(total < 1200 ? 8 : 19, 2, total < 1200 ? 6 : 19, 14);
  for (QWidget* w : {static_cast<QWidget*>(driving_), static_cast<QWidget*>(ceiling_)})
    w->setVisible(is_ladder());
  which_table_->setVisible(!is_ladder());
  more_->setVisible(!is_ladder() && total >= 1200);
  // Their values matter more than the name of what is driven.
  for (Chip* chip : {limit_, ceiling_})
    chip->setMinimumWidth(std::min(chip->sizeHint().width(), 180));
}

void TwoToneSheet::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  const int total = window()->width();
  const bool is_narrow = total < 1200;
  lay_out_controls();
  // What has no room is in the row's tool tip and in what is copied.
  if (is_narrow)
    ladder_table_->set_columns({138, 74, 54, 54, 0, 0, 100, -1, 96});
  else
    ladder_table_->set_columns({142, 74, 58, 60, 66, total < 1440 ? 0 : 66, 108, -1, 98});
  right_->setFixedWidth(right_column_width(total));
}

}  // namespace heron
