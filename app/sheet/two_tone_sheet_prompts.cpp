// What the two-tone sheet asks and offers; the rest of it is in two_tone_sheet.cpp.
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>

#include "app/live/knee_card.h"
#include "app/live/live_ladder.h"
#include "app/session/bench_edits.h"
#include "app/sheet/two_tone_sheet.h"
#include "app/sheet/uncertainty_card.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/method/two_tone/ladder_advice.h"
#include "core/method/two_tone/refer_two_tone.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_level.h"

namespace heron {

void TwoToneSheet::ask_limit() {
  const QString convention = shown_convention();
  const auto asked = ask_quantity(
      this, tr("Another limit"), tr("No product may be higher than this, %1.").arg(convention),
      tr("Limit, dB %1").arg(convention), QString::fromUtf8("−30"), tr("Use it"), Quantity::limit);
  if (!asked) return;
  Limit limit{"own limit", Sense::at_most, asked->value, "dB", convention.toStdString(), 20.0};
  limit.typed = asked->typed.toStdString();
  session_.set_limit(limit);
}

void TwoToneSheet::ask_linearity() {
  const auto asked =
      ask_quantity(this, tr("How good is the recorder?"),
                   tr("Linearity of its level scale between two lines, as a 95 % interval. It "
                      "enters every figure."),
                   QString::fromUtf8("± dB"), "0.7 dB", tr("Use it"), Quantity::uncertainty);
  if (asked) session_.set_linearity(asked->value / 2.0, asked->typed);
}

void TwoToneSheet::ask_ceiling() {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr) return;
  QuantityOptions options;
  options.default_unit = "W";
  options.is_two_tone = true;
  const auto asked = ask_quantity(
      this, tr("Power ceiling"),
      tr("The most output that may be used, by your licence or by choice, peak envelope."),
      tr("Ceiling"),
      t->ladder_settings.ceiling_typed.empty() ? tr("25 W")
                                               : qt_text(t->ladder_settings.ceiling_typed),
      tr("Use it"), Quantity::level, options);
  if (asked) set_ceiling(asked->value, asked->typed);
}

void TwoToneSheet::ask_wanted_output() {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr || t->driven.points.empty()) return;
  QuantityOptions options;
  options.default_unit = "W";
  options.is_two_tone = true;
  const auto asked =
      ask_quantity(this, tr("Out of %1").arg(qt_text(t->amplifier_name)),
                   tr("What the exciter has to give for an output of the amplifier, "
                      "and how clean both are then."),
                   tr("Wanted output, PEP"), tr("55 W"), tr("Calculate"), Quantity::level, options);
  if (!asked) return;
  const auto at = driven_at_output(t->driven, asked->value);
  if (!at) {
    emit failed(tr("%1 out of %2 was not measured").arg(asked->typed, qt_text(t->amplifier_name)),
                tr("Between %1 and %2 it is known")
                    .arg(qt_text(watts_text(t->driven.points.front().amplifier_dbm)),
                         qt_text(watts_text(t->driven.points.back().amplifier_dbm))));
    return;
  }
  const double w = std::floor(to_watt(Dbm{at->exciter_dbm}).value * 10.0) / 10.0;
  const QString words = QStringLiteral("%1 W").arg(w);
  set_ceiling(to_dbm(Watt{w}).value, words);
  const QString top = qt_text(number_text(at->in_phase_db, 1));
  const QString pair =
      at->power_sum_db
          ? tr("lies between %1 and %2 dB").arg(qt_text(number_text(*at->power_sum_db, 1)), top)
          : tr("stays below %1 dB").arg(top);
  emit told(tr("For %1 out of %2 keep the exciter at or below %3: the pair %4")
                .arg(asked->typed, qt_text(t->amplifier_name), words, pair));
}

void TwoToneSheet::ask_full_output() {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr || !t->hookup || !t->test.drive) return;
  AskDialog dialog(
      tr("Find maximum output"),
      tr("Keys one tone in short steps into %1, harder each time, until the output follows no "
         "more; at most %2 come out. Hot parts and open connectors burn: local codes and your "
         "licence come first. Esc switches RF off at once.")
          .arg(qt_text(t->hookup->chain.parts.front().name),
               qt_text(watts_text(t->test.drive->pep_dbm + 1.0))),
      {}, tr("Transmit"), {}, this);
  if (dialog.exec() == QDialog::Accepted) find_full_output();
}

void TwoToneSheet::find_full_output() {
  if (knee_ == nullptr) {
    knee_ = new KneeCard(window());
    connect(live_, &LiveLadder::point_taken, knee_, [this] { show_knee(!live_->is_running()); });
    connect(live_, &LiveLadder::full_output_ended, knee_, [this] { show_knee(true); });
    connect(knee_, &KneeCard::step_wanted, this, [this](double dbm) {
      session_.add_step(
          QStringLiteral("%1 W").arg(std::round(to_watt(Dbm{dbm}).value * 10.0) / 10.0));
    });
  }
  live_->find_full_output();
  if (!live_->is_running()) return;
  show_knee(false);
  knee_->open_at(plots_->mapTo(window(), QPoint(60, 40)));
}

void TwoToneSheet::show_knee(bool is_over) {
  const TwoToneTest* t = session_.two_tone();
  std::vector<Contribution> level;
  try {
    if (t != nullptr && t->hookup && t->test.drive)
      level = level_contributions(t->hookup->chain, t->test.drive->frequency_hz);
  } catch (const InputError&) {
    level.clear();  // a table that does not reach there: the run was refused as well
  }
  knee_->set_points(live_->points(), is_over, level);
}

void TwoToneSheet::ask_self_test() {
  ask_more_attenuation(
      tr("Self-test of the recorder"),
      tr("Record the same step again with more attenuation before the recorder. What the device "
         "makes keeps its level relative to the tones; what the recorder makes falls."),
      step_);
}

void TwoToneSheet::show_budget() {
  const TwoToneTest* t = session_.two_tone();
  const TwoToneAnalysis* a = chosen_analysis();
  if (a == nullptr || a->worst() == nullptr) return;
  std::optional<double> margin;
  if (t->test.limit) margin = t->ladder.rows[static_cast<std::size_t>(step_)].judgement.margin;
  show_budget_of(
      product_figure(*a, *a->worst(), shown_convention().toStdString()),
      tr("Worst product at %1").arg(qt_text(t->steps[static_cast<std::size_t>(step_)].label)),
      margin, verdict_->mapTo(window(), QPoint(70, verdict_->height() - 8)));
}

void TwoToneSheet::show_output_budget() {
  const TwoToneTest* t = session_.two_tone();
  const auto step = static_cast<std::size_t>(step_);
  if (t == nullptr || step >= t->outputs.size() || !t->outputs[step]) return;
  show_budget_of(*t->outputs[step], tr("Output at %1").arg(qt_text(t->steps[step].label)),
                 std::nullopt, strip_->mapTo(window(), QPoint(250, strip_->height() - 6)));
}

void TwoToneSheet::show_plot_menu(const QPoint& at) {
  QMenu menu(this);
  const auto save = [this](const char* ending) {
    QString path = QFileDialog::getSaveFileName(this, tr("Save the plot"),
                                                tr("two-tone spectrum.%1").arg(ending));
    if (path.isEmpty()) return;
    if (!path.endsWith(QString(".") + ending, Qt::CaseInsensitive)) path += QString(".") + ending;
    QString reason;
    const bool saved = is_ladder() ? ladder_plot_->save_picture(path, &reason)
                                   : plot_->save_picture(path, &reason);
    if (saved)
      emit told(tr("Saved %1").arg(path));
    else
      emit failed(reason, {});
  };
  menu.addAction(tr("Whole spectrum again"), QKeySequence(Qt::Key_0), plot_,
                 &SpectrumPlot::reset_zoom);
  menu.addAction(tr("Copy the plot"), this, [this] {
    QCustomPlot* shown = is_ladder() ? static_cast<QCustomPlot*>(ladder_plot_) : plot_;
    QApplication::clipboard()->setPixmap(shown->toPixmap(shown->width(), shown->height(), 2.0));
  });
  menu.addAction(tr("Save as SVG\u2026"), this, [save] { save("svg"); });
  menu.addAction(tr("Save as PNG\u2026"), this, [save] { save("png"); });
  menu.addSeparator();
  menu.addAction(tr("Copy the worst figure"), QKeySequence("Ctrl+Shift+C"), this,
                 &TwoToneSheet::copy_figure);
  menu.exec(plots_->mapToGlobal(at));
}

void TwoToneSheet::show_ladder_menu(const QPoint& at) {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr) return;
  QMenu menu(this);
  menu.addAction(tr("Copy this row"), QKeySequence::Copy, ladder_table_, &FigureTable::copy_chosen);
  menu.addAction(tr("Copy the table"), ladder_table_, &FigureTable::copy_all);
  more_->menu()->setTitle(tr("Recorder, comparison, ceiling"));
  menu.addMenu(more_->menu());
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
    menu.addAction(tr("Replace this step\u2019s recording\u2026"), this, [this] {
      const QString file =
          QFileDialog::getOpenFileName(this, tr("The new recording"), {}, recording_filter());
      if (!file.isEmpty()) queue_->replace(file, step_);
    });
    menu.addAction(tr("Remove the recording from this step"), this,
                   [this, step] { session_.remove_capture(step); })
        ->setEnabled(t->steps[step].capture.has_value());
    menu.addAction(tr("Add a repeat of this step\u2026"), this,
                   [this] {
                     const QString file = QFileDialog::getOpenFileName(
                         this, tr("The same step once again"), {}, recording_filter());
                     if (!file.isEmpty()) queue_->add_beside(file, step_, {});
                   })
        ->setEnabled(t->steps[step].capture.has_value());
    if (t->steps[step].self_test || !t->steps[step].repeats.empty())
      menu.addAction(tr("Remove self-test and repeats from this step"), this,
                     [this, step] { session_.remove_beside(step); });
    const auto& capture = t->steps[step].capture;
    if (capture && t->hookup && capture->hookup_version_id != t->hookup->id)
      menu.addAction(tr("It was recorded through the present hook-up"), this, [this, step] {
        const StepCapture& c = *session_.two_tone()->steps[step].capture;
        BenchEdits(session_).take_on_present(session_.test_id(), c.id, c.hookup_version_id);
      });
    menu.addAction(tr("Remove this step"), this, [this, step] { session_.remove_step(step); });
  }
  menu.exec(ladder_table_->viewport()->mapToGlobal(at));
}

}  // namespace heron
