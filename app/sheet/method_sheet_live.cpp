// What comes out just now, and how far it goes, on the sheet of a method; the rest of it is in
// method_sheet.cpp.
#include <QStackedWidget>
#include <cmath>
#include <utility>

#include "app/live/knee_card.h"
#include "app/live/live_ladder.h"
#include "app/live/look_view.h"
#include "app/session/step_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/method/measure/path_level.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"

namespace heron {

bool MethodSheet::is_live_view() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->method->has_live_view &&
         views_->current() == static_cast<int>(t->result.views.size());
}

void MethodSheet::show_live_view() {
  const GeneralTest* t = session_.general();
  if (t != nullptr && t->method->has_live_view) show_view(static_cast<int>(t->result.views.size()));
}

void MethodSheet::ask_full_output() {
  const GeneralTest* t = session_.general();
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

void MethodSheet::find_full_output() {
  if (knee_ == nullptr) {
    knee_ = new KneeCard(window());
    connect(live_, &LiveLadder::point_taken, knee_, [this] { show_knee(!live_->is_running()); });
    connect(live_, &LiveLadder::full_output_ended, knee_, [this] { show_knee(true); });
    connect(knee_, &KneeCard::step_wanted, this, [this](double dbm) {
      StepEdits(session_).add_step(
          QStringLiteral("%1 W").arg(std::round(to_watt(Dbm{dbm}).value * 10.0) / 10.0));
    });
  }
  live_->find_full_output();
  if (!live_->is_running()) return;
  show_knee(false);
  knee_->open_at(plots_->mapTo(window(), QPoint(60, 40)));
}

void MethodSheet::show_knee(bool is_over) {
  const GeneralTest* t = session_.general();
  std::vector<Contribution> level;
  try {
    if (t != nullptr && t->hookup && t->test.drive)
      level = level_contributions(t->hookup->chain, t->test.drive->frequency_hz);
  } catch (const InputError&) {
    level.clear();  // a table that does not reach there: the run was refused as well
  }
  knee_->set_points(live_->points(), is_over, level);
}

void MethodSheet::live_changed() {
  follow_marks();
  if (std::exchange(was_live_, live_->is_running()) == live_->is_running()) return;
  if (const GeneralTest* t = session_.general()) show_cards(*t);
}

}  // namespace heron
