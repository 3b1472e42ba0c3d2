// What a sheet asks for before it does something.
#include <QFileDialog>
#include <QMenu>
#include <cmath>

#include "app/session/test_edits.h"
#include "app/sheet/ask_taking.h"
#include "app/sheet/sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/method/provisional.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "store/clock.h"

namespace heron {

void Sheet::ask_more_attenuation(const QString& heading, const QString& explanation, int step) {
  constexpr double kLeastDb = 3.0;
  const auto added = ask_quantity(this, heading, explanation, tr("How much more attenuation"),
                                  tr("10 dB"), tr("Choose the recording"), Quantity::gain);
  if (!added) return;
  const double more = std::abs(added->value);
  if (more < kLeastDb) {
    emit failed(tr("%1 dB more tell nothing").arg(more), tr("Use 6 to 20 dB"));
    return;
  }
  const QString file = QFileDialog::getOpenFileName(
      this, tr("The recording with %1 dB more").arg(more), {}, recording_filter());
  if (!file.isEmpty()) queue_->add_beside(file, step, {more, added->typed.toStdString()});
}

void Sheet::ask_part() {
  const KeyedParts& now = part_band_->parts();
  const auto part = ask(
      this, tr("Measured part"),
      tr("From where to where the recording is measured, in seconds from its start."), tr("Part"),
      qt_text(number_text(now.measured.start_s, 3) + " to " + number_text(now.measured.end_s(), 3) +
              " s"),
      tr("Measure it"), [](const QString& text) {
        const auto read = [](const QStringList& texts) { parse_part(texts[0].toStdString()); };
        return complaint_about(read)({text});
      });
  if (part) queue_->measure_part(shown_part().step, parse_part(part->toStdString()));
}

QString Sheet::recording_filter() {
  return tr(
      "Recordings and traces (*.wav *.WAV *.w64 *.rf64 *.sigmf-meta *.sigmf-data *.csv);;All "
      "files (*)");
}

void Sheet::ask_recordings() {
  const QStringList files =
      QFileDialog::getOpenFileNames(this, tr("Add recordings"), {}, recording_filter());
  if (!files.isEmpty()) add_recordings(files);
}

/// Whether it must not be changed now; says why.
bool Sheet::refuses(Id test) {
  const auto no = session_.refusal(test);
  if (no) emit failed(no->what, no->what_to_do);
  return no.has_value();
}

void Sheet::ask_signature() {
  const PlannedTest* shown = mine();
  if (shown == nullptr || !is_taken()) {
    emit failed(tr("Nothing is measured yet."), tr("Measure first, then sign off"));
    return;
  }
  if (session_.is_waiting()) {
    emit failed(tr("The figures are just being worked out."), tr("Look at them, then sign off"));
    return;
  }
  if (refuses(shown->test.id)) return;
  const auto name =
      ask(this, tr("Sign off this test"),
          tr("Figures, limit and note stay as they are until the signature is withdrawn."),
          tr("Name"), {}, tr("Sign off"), [](const QString& t) {
            return t.isEmpty() ? tr("Type the name of the person responsible.") : QString();
          });
  if (!name) return;
  flush();
  TestEdits(session_).sign(*name);
}

/// Of what misses its limit, or is too close to it.
void Sheet::ask_acceptance() {
  const GeneralTest* t = session_.general();
  const Answer* a =
      t != nullptr && !t->result.answers.empty() ? &t->result.answers.front() : nullptr;
  if (a == nullptr || !a->judgement || !can_be_accepted(*a->judgement)) {
    emit failed(tr("Nothing here misses its limit."), tr("What passes needs no acceptance"));
    return;
  }
  if (refuses(t->test.id)) return;
  AskDialog dialog(
      tr("Accept as good enough"),
      tr("%1: %2 It is shown as accepted, neither as passed nor as failed, until it gets worse.")
          .arg(qt_text(a->head.empty() ? a->where : a->head), qt_text(a->sentence)),
      {{tr("Name"), qt_text(session_.shack().operator_name()), {}}, {tr("Reason"), {}, {}}},
      tr("Accept"),
      [](const QStringList& texts) {
        return texts[0].trimmed().isEmpty()   ? tr("Type the name of who accepts it.")
               : texts[1].trimmed().isEmpty() ? tr("Say why it is good enough.")
                                              : QString();
      },
      this);
  const double margin = a->judgement->margin;
  if (dialog.exec() != QDialog::Accepted) return;
  TestEdits(session_).accept(Acceptance{dialog.texts()[0].trimmed().toStdString(),
                                        dialog.texts()[1].trimmed().toStdString(), utc_now(),
                                        margin});
}

/// To be repeated, and why.
void Sheet::ask_provisional() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  if (refuses(t->test.id)) return;
  const auto why =
      ask(this, tr("Provisional"),
          tr("It counts until it is repeated, with a hollow mark in the shack."),
          tr("Why it is to be repeated"), {}, tr("Mark as provisional"), [](const QString& text) {
            return text.trimmed().isEmpty()
                       ? tr("Say why, such as: a rough meter, three bands of nine.")
                       : QString();
          });
  if (why) TestEdits(session_).set_provisional(why->trimmed());
}

void Sheet::add_standing_actions(QMenu* menu) {
  const GeneralTest* t = session_.general();
  if (t != nullptr && provisional_reason(t->evidence.settings).empty())
    menu->addAction(tr("Mark as provisional\u2026"), this, &Sheet::ask_provisional);
  else if (t != nullptr)
    menu->addAction(tr("No longer provisional"), this,
                    [this] { TestEdits(session_).set_provisional({}); });
  if (t == nullptr || t->result.answers.empty() || !t->result.answers.front().judgement) return;
  const Judgement& j = *t->result.answers.front().judgement;
  if (can_be_accepted(j))
    menu->addAction(tr("Accept as good enough\u2026"), this, &Sheet::ask_acceptance);
  else if (j.verdict == Verdict::accepted)
    menu->addAction(tr("Withdraw the acceptance"), this,
                    [this] { TestEdits(session_).accept(std::nullopt); });
}

void Sheet::ask_path() {
  const PlannedTest* t = mine();
  if (t == nullptr) return;
  const auto words =
      ask(this, tr("The path to the recorder"),
          tr("Pads, cables and taps between device and recorder, in words. A hook-up "
             "built from parts says more."),
          tr("Path"), qt_text(t->test.hookup), tr("Save"));
  if (words) TestEdits(session_).set_hookup(*words);
}

void Sheet::ask_conditions() {
  const PlannedTest* t = mine();
  if (t == nullptr) return;
  const auto words =
      ask(this, tr("The conditions of this test"), tr("Band, supply, bias and whatever was set."),
          tr("Conditions"), qt_text(t->test.conditions), tr("Save"));
  if (words) TestEdits(session_).set_conditions(*words);
}

/// Length, rate and most drive of what the instruments are asked for.
void Sheet::ask_taking() {
  const PlannedTest* t = mine();
  if (t == nullptr) return;
  const auto wished = heron::ask_taking(this, taking_now(session_.loaded()),
                                        taking_settings_from_json(t->test.settings));
  if (wished)
    TestEdits(session_).set_settings(tr("measurement settings"),
                                     with_taking_settings(session_.settings(), *wished));
}

void Sheet::show_strip_menu(const QPoint& at) {
  if (mine() == nullptr) return;
  QMenu menu(this);
  menu.addAction(tr("Open the hook-up\tCtrl+H"), this, &Sheet::hookup_asked);
  menu.addAction(tr("Describe the path\u2026"), this, &Sheet::ask_path);
  menu.addAction(tr("Describe the conditions\u2026"), this, &Sheet::ask_conditions);
  menu.addAction(tr("Measurement settings\u2026"), this, &Sheet::ask_taking);
  menu.exec(strip_->mapToGlobal(at));
}

}  // namespace heron
