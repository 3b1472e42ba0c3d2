// Which page and which card is shown; the composition is in main_window.cpp.
#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMimeData>
#include <QSettings>
#include <QShortcut>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/live/live_ladder.h"
#include "app/live/look_view.h"
#include "app/session/log_import.h"
#include "app/shell/main_window.h"
#include "app/shell/window_files.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "core/error.h"

namespace heron {

/// The transmitter first, then whatever runs, then what is told.
void MainWindow::drop_rf_or_close() {
  const RfControl::Dropped dropped = rf_->drop();
  // The timer goes on until the output is confirmed off.
  if (dropped == RfControl::Dropped::output) return;
  if (header_->key_clock()->release() || dropped == RfControl::Dropped::run || method_->disarm() ||
      method_->look()->disarm())
    return;
  // The card with the focus, else the one opened last.
  FloatingCard* top = nullptr;
  for (FloatingCard* card : findChildren<FloatingCard*>()) {
    if (!card->isVisible()) continue;
    if (top == nullptr || !top->isAncestorOf(QApplication::focusWidget())) top = card;
  }
  if (top != nullptr)
    top->close();
  else if (queue_.is_busy())
    queue_.cancel();
  else if (method_->is_reading_logs())
    method_->log_files().cancel();
  else if (!files_->cancel())
    messages_->hide();
}

bool MainWindow::open_shack(const QString& folder) {
  return files_->open_shack(folder);
}

void MainWindow::fill_rail() {
  std::map<Id, QString> names;
  for (const Hookup& h : hookups(session_.shack())) names[h.id] = qt_text(h.name);
  rail_->set_course(session_.course(), session_.test_id(), names);
  if (session_.evaluation_id() == 0) return;
  const Evaluation e = evaluation(session_.shack(), session_.evaluation_id());
  rail_->set_goal(qt_text(e.goal), e.end ? qt_text(e.end->words()) : QString());
}

void MainWindow::watch_key_down() {
  const PlannedTest* t = session_.planned();
  if (t != nullptr && t->planned)
    header_->key_clock()->set_chain(t->hookup->chain, *t->test.drive, !t->hookup_obstacle());
  else
    header_->key_clock()->clear_chain();
}

void MainWindow::show_live_instruments() {
  const auto& all = live_.instruments();
  const auto answering = std::count_if(
      all.begin(), all.end(), [this](const LiveInstrument& i) { return live_.answers(i.role); });
  header_->set_bench(live_.is_simulated(), static_cast<int>(answering));
  header_->key_clock()->set_rf(live_.rf());
}

bool MainWindow::is_in_hookup() const {
  return pages_is_evaluation() && sheets_->currentWidget() == hookup_;
}

void MainWindow::show_sheet() {
  hookup_->flush();
  rail_->set_in_hookup(false);
  sheets_->setCurrentWidget(method_);
  method_->refresh();
}

void MainWindow::show_hookup(Id hookup, Id test) {
  if (!session_.is_open()) return;
  method_->flush();
  const auto& course = session_.course();
  const bool is_here =
      std::any_of(course.begin(), course.end(), [test](const Test& t) { return t.id == test; });
  if (is_here && test != session_.test_id()) {
    session_.show_test(test);
    fill_rail();
  }
  try {
    hookup_->open(hookup, test);
  } catch (const InputError& error) {
    messages_->complain(qt_text(error.what_happened()), qt_text(error.advice));
    return;
  }
  if (pages_->currentWidget() != page_) {
    if (session_.evaluation_id() == 0) {
      messages_->complain(tr("No evaluation is open"), tr("Open one from the shack first"));
      return;
    }
    show_evaluation(session_.evaluation_id(), test);
  }
  sheets_->setCurrentWidget(hookup_);
  rail_->set_in_hookup(true);
  hookup_->band()->setFocus(Qt::OtherFocusReason);
}

void MainWindow::show_bench(Id item) {
  if (!session_.is_open()) return;
  method_->flush();
  hookup_->flush();
  if (item != 0) bench_->show_item(item);
  bench_->refresh();
  header_->show_bench(qt_text(session_.shack().place()));
  pages_->setCurrentWidget(bench_);
  bench_->list()->setFocus(Qt::OtherFocusReason);
}

void MainWindow::show_device(Id id) {
  if (!session_.is_open()) return;
  method_->flush();
  hookup_->flush();
  bench_->flush();
  if (id == 0)
    device_view_->show_new();
  else
    device_view_->show_device(id);
  header_->show_evaluation(
      id == 0 ? tr("A new device") : qt_text(device(session_.shack(), id).name), tr("device card"));
  pages_->setCurrentWidget(device_view_);
  if (id != 0) device_view_->list()->setFocus(Qt::OtherFocusReason);
}

void MainWindow::open_level_desk() {
  if (desk_->isVisible()) {
    desk_->close();
    return;
  }
  QuantityField* field = last_level_field();
  if (field != nullptr && !(field->isVisible() && field->isEnabled())) field = nullptr;
  std::vector<LevelDesk::Path> paths;
  int current = -1;
  if (session_.is_open()) {
    const PlannedTest* t = pages_is_evaluation() ? session_.planned() : nullptr;
    const double hz = t != nullptr && t->test.drive ? t->test.drive->frequency_hz : 14.2e6;
    for (const Hookup& h : hookups(session_.shack())) {
      const auto version = readable_version(session_.shack(), h.id);
      if (!version) continue;  // told where it is used
      if (t != nullptr && t->test.hookup_id == h.id) current = static_cast<int>(paths.size());
      paths.push_back({qt_text(h.name), version->chain, hz});
    }
    if (t != nullptr && t->test.drive)
      desk_->tones()->set_current(t->test.drive->is_two_tone ? 1 : 0);
  }
  desk_->set_paths(std::move(paths), current);
  desk_->open_for(field, QPoint((width() - desk_->width()) / 2, 90));
}

void MainWindow::show_shack() {
  if (!session_.is_open()) return;
  method_->flush();
  hookup_->flush();
  bench_->flush();
  device_view_->flush();
  shack_->refresh();
  header_->show_shack(qt_text(session_.shack().place()));
  pages_->setCurrentWidget(shack_);
  shack_->matrix()->setFocus(Qt::OtherFocusReason);
}

void MainWindow::show_evaluation(Id id, Id test) {
  method_->flush();
  if (id != session_.evaluation_id() || session_.course().empty())
    session_.show_evaluation(id, test);
  else if (test != 0)
    session_.show_test(test);
  const Evaluation e = evaluation(session_.shack(), id);
  const Device d = device(session_.shack(), e.device_id);
  QString name = qt_text(d.name);
  if (!d.serial.empty()) name += QString::fromUtf8(" · ") + qt_text(d.serial);
  header_->show_evaluation(name, qt_text(e.title));
  fill_rail();
  show_sheet();
  pages_->setCurrentWidget(page_);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  QStringList recordings;
  for (const QUrl& url : event->mimeData()->urls()) {
    const QString path = url.toLocalFile();
    if (!session_.is_open() && !QFileInfo(path).isDir()) continue;
    if (QFileInfo(path).isDir())
      files_->open_shack(path);
    else if (path.endsWith(".zip", Qt::CaseInsensitive))
      files_->import_from(path);
    else if (pages_->currentWidget() == bench_)
      bench_->take_files({path});
    else if (pages_->currentWidget() == device_view_)
      device_view_->set_photo(path);
    else if (pages_->currentWidget() == page_)
      recordings << path;
    else
      messages_->complain(tr("%1 was dropped on the shack").arg(QFileInfo(path).fileName()),
                          tr("Open a test first, then drop the recording on its sheet"));
  }
  if (!recordings.isEmpty()) method_->add_recordings(recordings);
}

}  // namespace heron
