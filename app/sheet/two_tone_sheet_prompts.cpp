// What the two-tone sheet asks and offers; the rest of it is in two_tone_sheet.cpp.
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>

#include "app/sheet/two_tone_sheet.h"
#include "app/sheet/uncertainty_card.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/quantity/parse_level.h"

namespace heron {

void TwoToneSheet::ask_signature() {
  const auto name = ask(
      this, tr("Sign off this test"),
      tr("Figures, limit and note stay as they are until the signature is taken back."), tr("Name"),
      qt_text(session_.shack().operator_name()), tr("Sign off"), [](const QString& t) {
        return t.isEmpty() ? tr("Type the name of who vouches for it.") : QString();
      });
  if (!name) return;
  flush();
  session_.sign(*name);
}

void TwoToneSheet::ask_limit() {
  const QString convention = shown_convention();
  const auto typed = ask(this, tr("Another limit"),
                         tr("No product may stand higher than this, %1.").arg(convention),
                         tr("Limit, dB %1").arg(convention), QString::fromUtf8("−30"), tr("Use it"),
                         [](const QString& t) {
                           const auto v = parse_number(t.toStdString());
                           return v && *v < 0.0 && *v > -150.0
                                      ? QString()
                                      : tr("Type a number from \u2212150 to 0, such as \u221230.");
                         });
  if (typed)
    session_.set_limit(Limit{"own limit", Sense::at_most, *parse_number(typed->toStdString()), "dB",
                             convention.toStdString(), 20.0});
}

void TwoToneSheet::ask_linearity() {
  const auto typed = ask(this, tr("How good is the recorder?"),
                         tr("How far its level scale may bend between two lines, as a 95 % "
                            "interval. It enters every figure."),
                         QString::fromUtf8("± dB"), "0.7", tr("Use it"), [](const QString& t) {
                           const auto v = parse_number(t.toStdString());
                           return v && *v >= 0.0 && *v <= 10.0
                                      ? QString()
                                      : tr("Type a number from 0 to 10, such as 0.7.");
                         });
  if (typed) session_.set_linearity(*parse_number(typed->toStdString()) / 2.0);
}

void TwoToneSheet::show_budget() {
  const TwoToneTest* t = session_.two_tone();
  const TwoToneAnalysis* a = chosen_analysis();
  if (a == nullptr || a->worst() == nullptr) return;
  std::optional<double> margin;
  if (t->test.limit) margin = t->ladder.rows[static_cast<std::size_t>(step_)].judgement.margin;
  auto* card = new UncertaintyCard(
      product_figure(*a, *a->worst(), shown_convention().toStdString()), margin, this);
  card->setAttribute(Qt::WA_DeleteOnClose);
  const QPoint corner = verdict_->mapToGlobal(QPoint(-card->width() + 40, verdict_->height() - 4));
  card->move(corner);
  card->show();
  card->setFocus();
}

void TwoToneSheet::show_plot_menu(const QPoint& at) {
  QMenu menu(this);
  const auto save = [this](const char* ending) {
    QString path = QFileDialog::getSaveFileName(this, tr("Save the plot"),
                                                tr("two-tone spectrum.%1").arg(ending));
    if (path.isEmpty()) return;
    if (!path.endsWith(QString(".") + ending, Qt::CaseInsensitive)) path += QString(".") + ending;
    QString reason;
    if (plot_->save_picture(path, &reason))
      emit told(tr("Saved %1").arg(path));
    else
      emit failed(reason, {});
  };
  menu.addAction(tr("Whole spectrum again"), QKeySequence(Qt::Key_0), plot_,
                 &SpectrumPlot::reset_zoom);
  menu.addAction(tr("Copy the plot"), this, [this] {
    QApplication::clipboard()->setPixmap(plot_->toPixmap(plot_->width(), plot_->height(), 2.0));
  });
  menu.addAction(tr("Save as SVG\u2026"), this, [save] { save("svg"); });
  menu.addAction(tr("Save as PNG\u2026"), this, [save] { save("png"); });
  menu.addSeparator();
  menu.addAction(tr("Copy the worst figure"), QKeySequence("Ctrl+Shift+C"), this,
                 &TwoToneSheet::copy_figure);
  menu.exec(plot_->mapToGlobal(at));
}

void TwoToneSheet::show_ladder_menu(const QPoint& at) {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr) return;
  QMenu menu(this);
  menu.addAction(tr("Copy this row"), QKeySequence::Copy, ladder_table_, &FigureTable::copy_chosen);
  menu.addAction(tr("Copy the table"), ladder_table_, &FigureTable::copy_all);
  menu.addSeparator();
  menu.addAction(tr("Add a step\u2026"), this, [this] {
    const auto label =
        ask(this, tr("Add a step"), tr("What the step is called, such as its drive."), tr("Step"),
            tr("10 W"), tr("Add"),
            [](const QString& s) { return s.isEmpty() ? tr("Type a name.") : QString(); });
    if (label) session_.add_step(*label);
  });
  if (!t->steps.empty()) {
    const auto step = static_cast<std::size_t>(step_);
    menu.addAction(tr("Take this step again\u2026"), this, [this] {
      const QString file =
          QFileDialog::getOpenFileName(this, tr("The new recording"), {}, recording_filter());
      if (!file.isEmpty()) queue_->replace(file, step_);
    });
    menu.addAction(tr("Take the recording off this step"), this,
                   [this, step] { session_.remove_capture(step); })
        ->setEnabled(t->steps[step].capture.has_value());
    menu.addAction(tr("Remove this step"), this, [this, step] { session_.remove_step(step); });
  }
  menu.exec(ladder_table_->viewport()->mapToGlobal(at));
}

void TwoToneSheet::copy_figure() {
  QApplication::clipboard()->setText(verdict_->accessibleName());
  emit told(tr("Copied: %1").arg(verdict_->accessibleName()));
}

void TwoToneSheet::ask_hookup() {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr) return;
  QMenu menu(this);
  menu.addAction(tr("Describe the path\u2026"), this, [this, t] {
    const auto words = ask(this, tr("The path to the recorder"),
                           tr("Pads, cables and taps between device and recorder. Tests that share "
                              "a path stand together on the course."),
                           tr("Path"), qt_text(t->test.hookup), tr("Keep"));
    if (words) session_.set_hookup(*words);
  });
  menu.addAction(tr("Describe the conditions\u2026"), this, [this, t] {
    const auto words =
        ask(this, tr("The conditions of this test"), tr("Band, supply, bias and whatever was set."),
            tr("Conditions"), qt_text(t->test.conditions), tr("Keep"));
    if (words) session_.set_conditions(*words);
  });
  menu.exec(strip_->mapToGlobal(QPoint(20, strip_->height() - 4)));
}

}  // namespace heron
