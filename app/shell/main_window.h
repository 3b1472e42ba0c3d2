#pragma once

#include <QWidget>

#include "app/bench/bench_view.h"
#include "app/device/device_view.h"
#include "app/hookup/hookup_view.h"
#include "app/live/instrument_panel.h"
#include "app/live/live_instruments.h"
#include "app/live/live_ladder.h"
#include "app/live/rf_control.h"
#include "app/session/session.h"
#include "app/sheet/method_sheet.h"
#include "app/shell/command_box.h"
#include "app/shell/course_rail.h"
#include "app/shell/header_bar.h"
#include "app/shell/message_bar.h"
#include "app/shell/shack_view.h"
#include "app/shell/start_view.h"
#include "app/widget/level_desk.h"

class QStackedWidget;

namespace heron {

class ShackPrompts;
class WindowFiles;

/// Composes header, shack, course and sheet; holds no measurement of its own.
class MainWindow : public QWidget {
  Q_OBJECT
 public:
  explicit MainWindow(QWidget* parent = nullptr);
  ~MainWindow() override;
  bool open_shack(const QString& folder);
  void show_shack();
  void show_evaluation(Id evaluation, Id test = 0);
  void set_dark(bool dark);
  bool is_dark() const;
  Session& session() { return session_; }
  WindowFiles* files() { return files_; }
  MethodSheet* sheet() { return method_; }
  /// The one of the shown test.
  LiveLadder* live_ladder() { return &ladder_; }
  CourseRail* rail() { return rail_; }
  ShackView* shack_view() { return shack_; }
  StartView* start_view() { return start_; }
  MessageBar* messages() { return messages_; }
  CommandBox* command_box() { return commands_; }
  QWidget* evaluation_page() { return page_; }
  BenchView* bench_view() { return bench_; }
  DeviceView* device_view() { return device_view_; }
  /// The card of a device; 0 = an empty one.
  void show_device(Id device);
  HookupView* hookup_view() { return hookup_; }
  LevelDesk* level_desk() { return desk_; }
  LiveInstruments* live_instruments() { return &live_; }
  InstrumentPanel* instrument_panel() { return panel_; }
  HeaderBar* header() { return header_; }
  KeyClock* key_clock() { return header_->key_clock(); }
  void show_bench(Id item = 0);
  /// The editor, with the drive of a test; hookup 0 = the test's own.
  void show_hookup(Id hookup, Id test);
  void open_level_desk();

 protected:
  void closeEvent(QCloseEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void build();
  void add_shortcuts();
  void fill_menus();
  void fill_device_menu();
  std::vector<Command> commands();
  void undo();
  void redo();
  void ask_for_export(const QString& ending);
  void show_about();
  void show_keys();
  void add_menu_commands(const QWidget& page, std::vector<Command>& list);
  bool pages_is_evaluation() const;
  bool is_in_hookup() const;
  void show_sheet();
  void fill_rail();
  void watch_key_down();
  void drop_rf_or_close();
  void show_live_instruments();
  Session session_;
  LiveInstruments live_{session_};
  ImportQueue queue_{session_};
  LiveLadder ladder_{session_, live_, queue_};
  std::optional<RfControl> rf_;
  WindowFiles* files_ = nullptr;
  ShackPrompts* prompts_ = nullptr;
  HeaderBar* header_ = nullptr;
  MessageBar* messages_ = nullptr;
  QStackedWidget* pages_ = nullptr;
  StartView* start_ = nullptr;
  ShackView* shack_ = nullptr;
  QWidget* page_ = nullptr;
  CourseRail* rail_ = nullptr;
  QStackedWidget* sheets_ = nullptr;
  MethodSheet* method_ = nullptr;
  HookupView* hookup_ = nullptr;
  BenchView* bench_ = nullptr;
  DeviceView* device_view_ = nullptr;
  LevelDesk* desk_ = nullptr;
  InstrumentPanel* panel_ = nullptr;
  CommandBox* commands_ = nullptr;
};

}  // namespace heron
