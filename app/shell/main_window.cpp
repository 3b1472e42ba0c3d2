#include "app/shell/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QHBoxLayout>
#include <QSettings>
#include <QShortcut>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QVBoxLayout>

#include "app/live/live_ladder.h"
#include "app/live/look_view.h"
#include "app/live/meter_watch.h"
#include "app/session/test_edits.h"
#include "app/shell/shack_prompts.h"
#include "app/shell/window_files.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/list_card.h"

namespace heron {

MainWindow::MainWindow(QWidget* parent) : QWidget(parent) {
  setWindowTitle("Even Heron");
  setMinimumSize(1024, 660);
  setAcceptDrops(true);
  build();
  add_shortcuts();
  fill_menus();
  QSettings settings;
  const QRect available = screen()->availableGeometry();
  resize(QSize(1280, 800).boundedTo(available.size()).expandedTo(minimumSize()));
  restoreGeometry(settings.value("window/geometry").toByteArray());
}

MainWindow::~MainWindow() {
  rf_->end();
  // Losing the focus hands over what is being typed: while there is still a session to take it.
  hide();
  delete pages_;
}

void MainWindow::build() {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  header_ = new HeaderBar;
  messages_ = new MessageBar(this);
  const auto complaining = [this](MessageTopic topic) {
    return [this, topic](const QString& what, const QString& what_to_do) {
      messages_->complain(what, what_to_do, topic);
    };
  };
  const auto general = complaining(MessageTopic::general);
  const auto of_page = complaining(MessageTopic::page);
  const auto of_rf = complaining(MessageTopic::rf);
  const auto telling = [this](const QString& what) { messages_->tell(what); };
  const auto telling_rf = [this](const QString& what) { messages_->tell(what, MessageTopic::rf); };
  pages_ = new QStackedWidget;
  start_ = new StartView;
  start_->set_recent(WindowFiles::recent());
  pages_->addWidget(start_);
  shack_ = new ShackView(session_);
  page_ = new QWidget;
  auto* row = new QHBoxLayout(page_);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(0);
  rail_ = new CourseRail;
  const SheetContext with{session_, live_, queue_, ladder_};
  method_ = new MethodSheet(with);
  hookup_ = new HookupView(session_);
  rf_.emplace(live_, ladder_, *method_->look()->run(), *method_->watch());
  files_ = new WindowFiles(session_, *messages_, *this);
  prompts_ = new ShackPrompts(session_, queue_, *messages_, *this);
  sheets_ = new QStackedWidget;
  sheets_->addWidget(method_);
  connect(method_, &Sheet::hookup_asked, this, [this] { show_hookup(0, session_.test_id()); });
  connect(method_, &Sheet::test_asked, this,
          [this](long long evaluation, long long test) { show_evaluation(evaluation, test); });
  connect(method_, &Sheet::step_asked, this,
          [this](long long evaluation, long long test, const QString& step) {
            show_evaluation(evaluation, test);
            session_.settle();
            method_->choose_step_called(step);
          });
  connect(method_, &Sheet::failed, this, of_page);
  connect(method_, &Sheet::reminded, this,
          [this](const QString& what, long long evaluation, long long test) {
            QApplication::alert(this);
            QApplication::beep();
            messages_->offer(
                what, tr("Open it"),
                [this, evaluation, test] { show_evaluation(evaluation, test); },
                MessageTopic::general);
          });
  connect(method_, &Sheet::told, this, telling);
  sheets_->addWidget(hookup_);
  row->addWidget(rail_);
  row->addWidget(sheets_, 1);
  bench_ = new BenchView(session_, live_);
  pages_->addWidget(shack_);
  pages_->addWidget(page_);
  pages_->addWidget(bench_);
  device_view_ = new DeviceView(session_);
  pages_->addWidget(device_view_);
  column->addWidget(header_);
  column->addWidget(pages_, 1);
  commands_ = new CommandBox(this);
  commands_->hide();
  desk_ = new LevelDesk(this);
  panel_ = new InstrumentPanel(live_, this);

  connect(files_, &WindowFiles::shack_leaves, this, [this] {
    rf_->end();
    queue_.cancel();
  });
  connect(files_, &WindowFiles::shack_opened, this, &MainWindow::show_shack);
  connect(start_, &StartView::new_asked, files_, &WindowFiles::ask_for_new_shack);
  connect(start_, &StartView::open_asked, files_, &WindowFiles::ask_for_shack);
  connect(start_, &StartView::recent_asked, files_, &WindowFiles::open_shack);
  connect(start_, &StartView::demo_asked, files_, &WindowFiles::open_demo);
  connect(files_, &WindowFiles::evaluation_asked, this, [this](Id id) { show_evaluation(id); });
  connect(prompts_, &ShackPrompts::evaluation_asked, this, &MainWindow::show_evaluation);
  connect(header_, &HeaderBar::shack_asked, this, &MainWindow::show_shack);
  connect(header_, &HeaderBar::find_asked, this, [this] { commands_->open(commands()); });
  connect(header_->device_chip()->menu(), &QMenu::aboutToShow, this, &MainWindow::fill_device_menu);
  connect(&session_, &Session::refused, this, of_page);
  connect(header_, &HeaderBar::bench_asked, this, [this] { show_bench(); });
  connect(header_->key_clock(), &KeyClock::refused, this, of_page);
  connect(header_->key_clock(), &KeyClock::rf_off_asked, this, [this] { rf_->drop(); });
  connect(&session_, &Session::course_changed, this, &MainWindow::fill_rail);
  connect(&session_, &Session::evaluation_shown, this, &MainWindow::fill_rail);
  connect(&session_, &Session::test_changed, this, &MainWindow::watch_key_down);
  connect(&session_, &Session::test_changed, this, [this] {
    if (session_.evaluation_id() != 0)
      fill_rail();  // a test that was just added is the current one
  });
  connect(&session_, &Session::test_changed, this, [this] {
    if (!is_in_hookup()) sheets_->setCurrentWidget(method_);
  });
  connect(rail_, &CourseRail::test_chosen, this, [this](long long test) {
    method_->flush();
    session_.show_test(test);
    show_sheet();
  });
  connect(rail_, &CourseRail::hookup_asked, this, [this](long long test) {
    method_->flush();
    session_.show_test(test);
    show_hookup(0, test);
  });
  connect(hookup_, &HookupView::back_asked, this, &MainWindow::show_sheet);
  connect(hookup_, &HookupView::bench_asked, this, [this] { show_bench(); });
  connect(hookup_, &HookupView::told, this, telling);
  connect(hookup_, &HookupView::failed, this, of_page);
  connect(hookup_, &HookupView::uncertainty_asked, this, [this] {
    const HookupScene& scene = hookup_->scene();
    if (!scene.result) return;
    Figure figure;
    figure.value = scene.result->total_gain_db;
    figure.unit = "dB";
    figure.convention = "device to instrument";
    figure.contributions = scene.result->contributions;
    method_->show_budget_of(figure, tr("Level at the device"), std::nullopt,
                            hookup_->survival()->mapTo(this, QPoint(70, 248)));
  });
  connect(bench_, &BenchView::told, this, telling);
  connect(bench_, &BenchView::failed, this, of_page);
  connect(bench_, &BenchView::hookup_asked, this,
          [this](long long hookup, long long evaluation, long long test) {
            if (test != 0) show_evaluation(evaluation, test);
            show_hookup(hookup, test);
          });
  connect(desk_, &LevelDesk::told, this, telling);
  connect(rail_, &CourseRail::test_asked, this, [this] {
    prompts_->choose_test_kind(rail_->mapToGlobal(QPoint(8, rail_->height() - 44)));
  });
  connect(rail_, &CourseRail::rename_asked, prompts_, &ShackPrompts::ask_to_rename_test);
  connect(rail_, &CourseRail::duplicate_asked, prompts_, &ShackPrompts::ask_to_duplicate_test);
  connect(rail_, &CourseRail::swap_asked, this, [this](long long test, long long beside) {
    method_->flush();
    TestEdits(session_).swap_tests(test, beside);
  });
  connect(rail_, &CourseRail::removal_asked, this,
          [this](long long test) { TestEdits(session_).remove_test(test); });
  connect(shack_, &ShackView::evaluation_asked, this, &MainWindow::show_evaluation);
  connect(shack_, &ShackView::new_evaluation_asked, prompts_, &ShackPrompts::ask_for_evaluation);
  connect(shack_, &ShackView::bench_asked, this, [this] { show_bench(); });
  connect(shack_, &ShackView::device_asked, this, [this] { show_device(0); });
  connect(device_view_, &DeviceView::evaluation_asked, this, &MainWindow::show_evaluation);
  connect(device_view_, &DeviceView::new_evaluation_asked, prompts_,
          &ShackPrompts::ask_for_evaluation);
  connect(device_view_, &DeviceView::work_asked, prompts_, &ShackPrompts::ask_for_work);
  connect(device_view_, &DeviceView::outside_asked, prompts_,
          &ShackPrompts::ask_for_outside_figure);
  connect(device_view_, &DeviceView::copy_asked, prompts_, &ShackPrompts::ask_to_duplicate_device);
  connect(device_view_, &DeviceView::removal_asked, prompts_, &ShackPrompts::ask_to_remove_device);
  connect(device_view_, &DeviceView::told, this, telling);
  connect(device_view_, &DeviceView::failed, this, of_page);
  connect(&live_, &LiveInstruments::changed, this, &MainWindow::show_live_instruments);
  connect(&live_, &LiveInstruments::failed, this, of_rf);
  connect(&live_, &LiveInstruments::told, this, telling_rf);
  connect(&live_, &LiveInstruments::rf_changed, this, [this] {
    messages_->retract(MessageTopic::rf);
    header_->key_clock()->set_rf(live_.rf());
  });
  connect(&live_, &LiveInstruments::rf_found_on, this, [this](const QString& name) {
    messages_->offer(
        tr("RF is on: the output of %1 was found switched on").arg(name), tr("Switch RF off"),
        [this] { live_.switch_rf_off(); }, MessageTopic::rf);
  });
  const auto page_left = [this] { messages_->retract(MessageTopic::page); };
  connect(&session_.undo_stack(), &QUndoStack::indexChanged, this, page_left);
  connect(&session_, &Session::evaluation_shown, this, page_left);
  connect(pages_, &QStackedWidget::currentChanged, this, page_left);
  connect(panel_, &InstrumentPanel::failed, this, of_page);
  connect(bench_->instruments(), &InstrumentsCard::panel_asked, this,
          [this](Role role, const QPoint& at) { panel_->open_for(role, at); });
  const auto follow_rf = [this](bool on) {
    if (on)
      header_->key_clock()->begin();
    else
      header_->key_clock()->release();
  };
  connect(&ladder_, &LiveLadder::rf_changed, this, follow_rf);
  connect(method_->look()->run(), &LookRun::rf_changed, this, follow_rf);
  connect(&ladder_, &LiveLadder::failed, this, of_rf);
  connect(&ladder_, &LiveLadder::told, this, telling_rf);
  connect(&queue_, &ImportQueue::failed, this, general);
  connect(&queue_, &ImportQueue::told, this, telling);
  connect(&queue_, &ImportQueue::several_failed, this, [this](const QStringList& reasons) {
    auto* card =
        new ListCard(reasons.size() == 1 ? tr("One file could not be used")
                                         : tr("%1 files could not be used").arg(reasons.size()),
                     tr("The others were added; these left nothing behind."), reasons, this);
    card->open_at(QPoint((width() - card->width()) / 2, 120));
  });
  connect(&session_, &Session::evaluation_gone, this, &MainWindow::show_shack);
  connect(shack_, &ShackView::device_edit_asked, this, &MainWindow::show_device);
  connect(shack_, &ShackView::device_copy_asked, prompts_, &ShackPrompts::ask_to_duplicate_device);
  connect(shack_, &ShackView::work_asked, prompts_, &ShackPrompts::ask_for_work);
  connect(shack_, &ShackView::device_removal_asked, prompts_, &ShackPrompts::ask_to_remove_device);
  connect(&session_, &Session::shack_changed, this, [this] {
    if (pages_->currentWidget() == shack_) shack_->refresh();
  });
}

void MainWindow::add_shortcuts() {
  const auto key = [this](const QKeySequence& keys, auto action) {
    connect(new QShortcut(keys, this), &QShortcut::activated, this, action);
  };
  key(QKeySequence("Ctrl+K"), [this] { commands_->open(commands()); });
  key(QKeySequence(Qt::Key_F1), [this] { show_keys(); });
  key(QKeySequence("Ctrl+T"), [this] { set_dark(!is_dark()); });
  key(QKeySequence::Undo, [this] { undo(); });
  key(QKeySequence("Ctrl+Shift+Z"), [this] { redo(); });
  key(QKeySequence("Ctrl+Y"), [this] { redo(); });
  key(QKeySequence("Ctrl+L"), [this] { open_level_desk(); });
  key(QKeySequence("Ctrl+B"), [this] { show_bench(); });
  key(QKeySequence("Ctrl+H"), [this] {
    if (!pages_is_evaluation()) return;
    if (is_in_hookup())
      show_sheet();
    else
      show_hookup(0, session_.test_id());
  });
  key(QKeySequence("F9"), [this] { header_->key_clock()->click(); });
  key(QKeySequence("Ctrl+Return"), [this] {
    if (is_in_hookup())
      hookup_->primary_action();
    else if (pages_->currentWidget() == page_)
      method_->primary_by_key();
    else if (pages_->currentWidget() == bench_)
      bench_->primary_action();
    else if (pages_->currentWidget() == device_view_)
      device_view_->primary()->click();
  });
  key(QKeySequence("Ctrl+O"), [this] { files_->ask_for_shack(); });
  key(QKeySequence("Ctrl+E"), [this] { ask_for_export("pdf"); });
  key(QKeySequence("Ctrl+Shift+C"), [this] {
    if (pages_is_evaluation()) method_->copy_figure();
  });
  key(QKeySequence("Ctrl+U"), [this] {
    if (pages_is_evaluation() && !is_in_hookup()) method_->show_budget();
  });
  key(QKeySequence("Ctrl+Q"), [this] { close(); });
  key(QKeySequence("Ctrl+0"), [this] { show_shack(); });
  key(QKeySequence(Qt::Key_Escape), [this] { drop_rf_or_close(); });
  key(QKeySequence(Qt::Key_F8), [this] {
    if (pages_is_evaluation() && !is_in_hookup()) method_->mark_event();
  });
  key(QKeySequence(Qt::Key_F6), [this] {
    // Next column: rail, table, right column.
    std::vector<QWidget*> stops{rail_->list()};
    for (QWidget* stop : method_->stops()) stops.push_back(stop);
    if (is_in_hookup()) {
      stops = {rail_->list(), hookup_->band(), hookup_->table()};
    } else if (pages_->currentWidget() == bench_) {
      stops = {bench_->list(), bench_->form()->edit("name"), bench_->used()};
    } else if (pages_->currentWidget() == device_view_) {
      stops = {device_view_->list(), device_view_->lines(), device_view_->story(),
               device_view_->form()->name()};
    } else if (pages_->currentWidget() == shack_) {
      stops = {shack_->matrix()};
    }
    std::size_t now = 0;
    for (std::size_t i = 0; i < stops.size(); ++i) {
      if (stops[i]->hasFocus()) now = i + 1;
    }
    stops[now % stops.size()]->setFocus(Qt::ShortcutFocusReason);
  });
  for (int n = 1; n <= 9; ++n) {
    key(QKeySequence(QStringLiteral("Ctrl+%1").arg(n)), [this, n] {
      const auto& course = session_.course();
      if (n <= static_cast<int>(course.size()))
        show_evaluation(session_.evaluation_id(), course[static_cast<std::size_t>(n - 1)].id);
    });
  }
}

void MainWindow::set_dark(bool dark) {
  apply_theme(*qApp, dark ? dark_theme() : light_theme());
  QSettings().setValue("window/night", dark);
}

bool MainWindow::pages_is_evaluation() const {
  return pages_->currentWidget() == page_;
}

bool MainWindow::is_dark() const {
  return theme_of(this).is_dark;
}

void MainWindow::closeEvent(QCloseEvent* event) {
  rf_->end();
  header_->key_clock()->release();
  method_->flush();
  hookup_->flush();
  if (session_.is_open()) bench_->flush();
  if (session_.is_open()) device_view_->flush();
  queue_.cancel();
  QSettings().setValue("window/geometry", saveGeometry());
  QWidget::closeEvent(event);
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  rail_->setFixedWidth(rail_width(width()));
  messages_->place();
}

}  // namespace heron
