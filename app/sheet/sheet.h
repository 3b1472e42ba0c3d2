#pragma once

#include <QPointer>
#include <QWidget>
#include <vector>

#include "app/session/import_queue.h"
#include "app/session/session.h"
#include "app/sheet/hookup_strip.h"
#include "app/sheet/part_band.h"
#include "app/sheet/taking_card.h"
#include "app/widget/remark_list.h"
#include "app/widget/sheet_title.h"
#include "app/widget/verdict_card.h"

class QCustomPlot;
class QMenu;

namespace heron {

class FactBand;

class CautionCard;
class LiveInstruments;
class LiveCard;
class LiveLadder;
class ReadingsCard;

/// What all sheets work with; belongs to the window.
struct SheetContext {
  Session& session;
  LiveInstruments& bench;
  ImportQueue& queue;
  LiveLadder& live;
};

/// What every sheet has, whatever it measures: the question, the one action, the hook-up,
/// recordings dropped on it, taking from live instruments, verdict, remarks and the caution.
class Sheet : public QWidget {
  Q_OBJECT
 public:
  explicit Sheet(const SheetContext& with, QWidget* parent = nullptr);
  virtual void refresh() = 0;
  /// Hands over what is being typed.
  virtual void flush() {}
  virtual void show_budget() = 0;  ///< of the answer
  virtual void copy_table() = 0;
  /// Where F6 goes after the rail.
  virtual std::vector<QWidget*> stops() = 0;

  virtual void add_recordings(const QStringList& paths) { queue_->add(paths, chosen_step()); }
  void primary_action();
  /// The same by Ctrl Return, which never comes to signing off.
  void primary_by_key();
  /// Asks for the name, each time.
  void ask_acceptance();
  void ask_provisional();
  void ask_signature();
  void copy_figure();
  virtual int chosen_step() const { return 0; }
  LiveLadder* live() { return live_; }
  LiveCard* live_card() { return live_card_; }
  /// Waits for Return before it keys; Esc or another action takes that back.
  bool is_armed() const { return is_armed_; }
  bool disarm();
  bool is_busy() const { return queue_->is_busy(); }
  void ask_path();
  void ask_conditions();
  void ask_recordings();
  void ask_taking();
  /// Where the ± of a figure comes from, as a card below a point of the window.
  void show_budget_of(const Figure& figure, const QString& where, std::optional<double> margin,
                      QPoint at);

  SheetTitle* head() { return head_; }
  VerdictCard* verdict() { return verdict_; }
  TakingCard* taking() { return taking_; }
  HookupStrip* strip() { return strip_; }
  FactBand* facts() { return facts_; }
  PartBand* part_band() { return part_band_; }
  RemarkList* remarks() { return remarks_; }
  PushButton* primary() { return head_->primary(); }
  QWidget* right_column() { return right_; }

 signals:
  void hookup_asked();
  void test_asked(long long evaluation, long long test);
  void step_asked(long long evaluation, long long test, const QString& step);
  void failed(const QString& what, const QString& what_to_do);
  /// Something is due of a test, whichever is shown.
  void reminded(const QString& what, long long evaluation, long long test);
  void told(const QString& text);

 protected:
  /// The shown test, if it is of this sheet's kind.
  virtual const PlannedTest* mine() const = 0;
  /// Whether there is an answer to sign off.
  virtual bool is_taken() const = 0;
  virtual QString take_words() const = 0;
  virtual QString add_words() const = 0;
  /// What that brings in.
  virtual QString add_consequence() const {
    return tr("WAV, SigMF or a CSV trace; or drop it here");
  }
  /// What goes on while the instruments are in use, and what ends it.
  virtual QString in_use_words() const { return tr("Live view running"); }
  virtual QString in_use_consequence() const { return tr("Stop it before measuring"); }
  /// What the action does while nothing is taken.
  virtual void add_evidence() { ask_recordings(); }
  virtual QCustomPlot* drop_target() = 0;
  /// When the shown recording is keyed and what of it is measured, and its step; nullptr: nothing
  /// to show.
  struct ShownPart {
    const KeyedParts* parts = nullptr;
    int step = 0;
  };
  virtual ShownPart shown_part() const { return {}; }
  /// A step of this test has just got a recording.
  virtual void step_attached(std::size_t) {}
  virtual void live_changed() {}

  /// The frame of every sheet: head, controls, hook-up, plot and table; at the right verdict, what
  /// is being taken, the sheet's own cards, remarks and caution.
  void build_frame(QWidget* controls, QWidget* plot, QWidget* table,
                   const std::vector<QWidget*>& own_cards);
  /// What is typed into the card goes to the chosen step and the test.
  void follow_readings(ReadingsCard* card);
  /// Saving it, as the plot's own menu.
  void offer_saving(QCustomPlot* plot, const QString& name);
  /// The same step once more with more attenuation; what that shows is the sheet's to explain.
  void ask_more_attenuation(const QString& heading, const QString& explanation, int step);
  void refresh_head();
  void refresh_caution();
  void refresh_part();
  void ask_part();
  /// What the plan of the hook-up says before anything is taken, and who answered for it.
  std::vector<Remark> plan_remarks() const;
  bool may_take_live() const;
  /// What would be taken runs by itself: nothing is keyed for it.
  bool only_listens() const;
  QString device_name() const;
  Device shown_device() const;  ///< that the shown test is about; id 0 = none
  /// Taking a step from live instruments, and how that is done.
  void add_take_actions(QMenu* menu, int step);
  /// Note, path, conditions and the signature, for sheets without a card for them.
  void add_record_actions(QMenu* menu);
  bool refuses(Id test);
  /// Accepted or not, provisional or not.
  void add_standing_actions(QMenu* menu);
  void save_plot_of(QCustomPlot* plot, const QString& name, const QString& ending);
  static QString recording_filter();

  void dragEnterEvent(QDragEnterEvent* event) override;
  void dragLeaveEvent(QDragLeaveEvent* event) override;
  void dropEvent(QDropEvent* event) override;

  Session& session_;
  ImportQueue* queue_;
  LiveLadder* live_;
  LiveInstruments* bench_;
  SheetTitle* head_;
  HookupStrip* strip_;
  FactBand* facts_;  ///< where nothing is hooked up
  PartBand* part_band_;
  QWidget* inside_right_;
  QWidget* right_;  ///< it scrolls
  VerdictCard* verdict_;
  TakingCard* taking_;
  LiveCard* live_card_;
  RemarkList* remarks_;
  CautionCard* caution_;

 private:
  void connect_shared();
  void enable(bool on);
  void choose_attached();
  void show_age();
  void arm_or_take();
  void show_strip_menu(const QPoint& at);
  bool is_armed_ = false;
  std::vector<QWidget*> figures_;      ///< what is worked out
  std::vector<QWidget*> other_parts_;  ///< what else belongs to the shown test
  Id attached_step_ = 0;               ///< waits to be chosen
  QPointer<QWidget> focus_before_;
  QPointer<QWidget> focus_meanwhile_;
};

}  // namespace heron
