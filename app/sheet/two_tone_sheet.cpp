#include "app/sheet/two_tone_sheet.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMimeData>
#include <QResizeEvent>
#include <QStackedWidget>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "report/spectrum_picture.h"

namespace heron {
namespace {

QString limit_words(const Limit& limit) {
  return qt_text(limit.name + ", " + limit_text(limit) + " " + limit.convention);
}

}  // namespace

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
  std::vector<Remark> remarks;
  if (const TwoToneAnalysis* a = chosen_analysis()) remarks = a->remarks;
  if (t != nullptr)
    remarks.insert(remarks.end(), t->ladder.remarks.begin(), t->ladder.remarks.end());
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(chosen_analysis() != nullptr || !remarks.empty());
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
  } else if (!taken) {
    const QString step =
        has_step ? qt_text(t->steps[static_cast<std::size_t>(step_)].label) : QString();
    primary_->setText(has_step ? tr("Add a recording for %1").arg(step) : tr("Add a recording"));
    consequence_->setText(tr("WAV or SigMF; or drop it on this sheet"));
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
    plot_->set_empty(t == nullptr ? tr("Choose a test in the course, or add one.")
                                  : tr("No recording at this step: drop a WAV or SigMF file here."),
                     t == nullptr ? std::nullopt : t->test.limit, shown_convention());
    return;
  }
  SpectrumPicture picture = spectrum_picture(*a, shown_convention().toStdString(), t->test.limit);
  plot_->set_picture(picture);
  plot_->highlight(chosen_product_);
}

void TwoToneSheet::refresh_verdict(const TwoToneTest* t) {
  VerdictCardContent content;
  const TwoToneAnalysis* a = chosen_analysis();
  const std::string convention = shown_convention().toStdString();
  if (t != nullptr && !t->steps.empty())
    content.where = tr("At %1").arg(qt_text(t->steps[static_cast<std::size_t>(step_)].label));
  content.unit = "dB";
  if (a == nullptr) {
    content.sentence =
        tr("No figure yet. Record the two tones at this drive and drop the file on the sheet.");
  } else if (a->worst() == nullptr) {
    content.sentence = tr("No products could be measured. The remarks say why.");
  } else {
    const TwoToneProduct& worst = *a->worst();
    const FormattedFigure f =
        format_figure(product_figure(*a, worst, convention), Rounding::compact, 1);
    content.value = qt_text(f.value);
    content.bound = qt_text(f.bound);
    content.uncertainty = qt_text(f.uncertainty);
    content.explanation =
        tr("Worst: %1 order, %2 side, %3")
            .arg(qt_text(ordinal(worst.order)),
                 worst.side == Side::upper ? tr("upper") : tr("lower"), qt_text(convention));
    content.explanation_short =
        tr("Worst: %1, %2").arg(qt_text(product_name(worst)), qt_text(convention));
    if (t->test.limit) {
      const LadderRow& row = t->ladder.rows[static_cast<std::size_t>(step_)];
      const Limit shown = in_convention(*t->test.limit, convention, a->pep_over_tone_db());
      Limit rounded = shown;
      rounded.value = std::round(shown.value * 10.0) / 10.0;
      content.limit = tr("limit %1").arg(qt_text(limit_text(rounded)));
      content.mark = {row.judgement.verdict, row.judgement.margin, row.judgement.expanded,
                      row.judgement.bound, std::nullopt};
      content.span = t->test.limit->span;
      content.sentence = qt_text(verdict_sentence(row.judgement, "dB"));
    } else {
      content.sentence = tr("No limit is chosen, so nothing is judged: choose one above.");
    }
  }
  verdict_->set_content(content);
}

void TwoToneSheet::refresh_limit_menu(const TwoToneTest* t) {
  QMenu* menu = limit_->menu();
  menu->clear();
  recorder_->menu()->clear();
  if (t == nullptr) return;
  const bool same = t->test.limit && t->test.limit->convention == shown_convention().toStdString();
  limit_->set_value(!t->test.limit ? tr("none")
                    : same ? qt_text(t->test.limit->name + ", " + limit_text(*t->test.limit))
                           : limit_words(*t->test.limit));
  const Device d =
      device(session_.shack(), evaluation(session_.shack(), t->test.evaluation_id).device_id);
  for (const SpecLine& line : d.specification) {
    if (line.characteristic != "two_tone") continue;
    menu->addAction(limit_words(line.limit), this,
                    [this, limit = line.limit] { session_.set_limit(limit); });
  }
  menu->addAction(tr("Common practice, \u221236 dB re PEP"), this, [this] {
    session_.set_limit(Limit{"common practice", Sense::at_most, -36.0, "dB", kRePep, 20.0});
  });
  menu->addAction(tr("Another limit\u2026"), this, &TwoToneSheet::ask_limit);
  menu->addAction(tr("Keep this limit as the device's specification"), this,
                  [this] { session_.keep_limit_as_specification(); })
      ->setEnabled(t->test.limit.has_value());
  menu->addAction(tr("No limit"), this, [this] { session_.set_limit(std::nullopt); });
  const double u = 2.0 * t->settings.linearity_u_db;
  recorder_->set_value(u > 0 ? QString::fromUtf8("± ") + qt_text(number_text(u, 1)) + " dB"
                             : tr("not stated"));
  for (const double expanded : {0.0, 0.2, 0.4, 0.7, 1.0}) {
    recorder_->menu()->addAction(
        expanded == 0.0 ? tr("not stated")
                        : QString::fromUtf8("± ") + QString::number(expanded) + " dB between lines",
        this, [this, expanded] { session_.set_linearity(expanded / 2.0); });
  }
  recorder_->menu()->addAction(tr("Another figure\u2026"), this, &TwoToneSheet::ask_linearity);
}

void TwoToneSheet::choose_step(int step) {
  if (step == step_) return;
  flush();
  step_ = step;
  chosen_product_.reset();
  refresh();
}

void TwoToneSheet::show_products(bool products) {
  which_table_->set_current(products ? 1 : 0);
  tables_->setCurrentIndex(products ? 1 : 0);
}

void TwoToneSheet::choose_product(int order, bool upper) {
  chosen_product_ = std::pair{order, upper};
  plot_->highlight(chosen_product_);
  product_table_->choose_row(product_model_->row_of(order, upper));
}

QString TwoToneSheet::recording_filter() {
  return tr("Recordings (*.wav *.WAV *.w64 *.rf64 *.sigmf-meta *.sigmf-data);;All files (*)");
}

void TwoToneSheet::primary_action() {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr || !primary_->isEnabled()) return;
  if (chosen_analysis() != nullptr) {
    ask_signature();
    return;
  }
  const QStringList files =
      QFileDialog::getOpenFileNames(this, tr("Add recordings"), {}, recording_filter());
  if (!files.isEmpty()) add_recordings(files);
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

void TwoToneSheet::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  const int total = window()->width();
  const bool is_narrow = total < 1200;
  for (QWidget* words : {relative_words_, table_words_}) words->setVisible(!is_narrow);
  controls_->setSpacing(is_narrow ? 5 : 8);
  // What has no room is in the row's tool tip and in what is copied.
  if (is_narrow)
    ladder_table_->set_columns({138, 74, 54, 54, 0, 0, 100, -1, 96});
  else
    ladder_table_->set_columns({148, 74, 58, 58, 58, total < 1440 ? 0 : 58, 108, -1, 102});
  right_->setFixedWidth(total < 1200 ? 240 : total < 1440 ? 262 : total < 1920 ? 296 : 340);
}

}  // namespace heron
