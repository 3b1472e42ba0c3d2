#pragma once

#include "app/plot/plot_view.h"
#include "app/sheet/mask_menu.h"
#include "app/sheet/readings_card.h"
#include "app/sheet/sheet.h"
#include "app/table/evidence_model.h"
#include "app/table/result_model.h"
#include "app/widget/chip.h"
#include "app/widget/figure_card.h"
#include "app/widget/next_card.h"
#include "app/widget/proposal_card.h"
#include "app/widget/segmented.h"

class QHBoxLayout;
class QStackedWidget;

namespace heron {

class BackgroundJob;
class KneeCard;
class LogImport;
class LogKeeper;
class LookView;
class MeterWatch;
class NeedleTone;
class NeedleView;
class Reminders;
class TextCard;
class Words;
class WhatIfPanel;

/// The sheet of any method that has a row in the table: answers, plot, and below it what was
/// worked out or the grid that readings are typed into.
class MethodSheet : public Sheet {
  Q_OBJECT
 public:
  explicit MethodSheet(const SheetContext& with, QWidget* parent = nullptr);
  void refresh() override;
  void flush() override { readings_->flush(); }
  void show_budget() override;
  void copy_table() override;
  std::vector<QWidget*> stops() override;
  /// Of all recordings together the first free step takes the next one.
  int chosen_step() const override { return is_joint() ? 0 : chosen_; }
  /// Another view of the same result, such as max-hold instead of the average; the last may be what
  /// comes out just now.
  void show_view(int which);
  bool is_live_view() const;
  void show_live_view();
  /// Keys one tone, harder and harder, with its curve in a card.
  void find_full_output();
  void compare_with(int step);  ///< -1 = nothing
  /// A line of the plot that a table shows too; empty = none.
  void choose_mark(const std::string& mark);
  /// Chooses a value of a setting that needs a recording of the user's own: it is copied into the
  /// shack, so that it stays the same.
  void use_own_file(const SettingField& field, const SettingChoice& choice, const QString& path);
  /// A step of the test; or an item of the result, where its rows are not the steps.
  void choose(int index);
  int chosen() const { return chosen_; }
  /// The one of that name; where there is none yet it is added, to be typed.
  void choose_step_called(const QString& label);
  /// The steps that a test of this kind is usually made of.
  void plan_steps();
  void save_card();
  /// One more step, taken by the analyser in one sweep.
  void take_sweep();
  /// Reads meters for the chosen step, at these times of its key-down.
  void read_meters(const std::vector<ReadingRole>& roles);
  bool can_read(ReadingRole role) const;
  /// Where recordings are no evidence, files of readings.
  void add_recordings(const QStringList& paths) override;
  /// The rows of a file as new steps, in one step of undo.
  void read_file(const QString& path);
  /// A file of times and values, as a log of a new step.
  void read_log(const QString& path);
  /// Reads instruments again and again, each reading on disk at once.
  void start_log();
  bool can_log() const;
  bool is_reading_logs() const;
  LogImport& log_files() { return *log_files_; }
  /// Something is done to what is being recorded; once more: that is over.
  void mark_event();
  /// A moment of the record with words, now.
  void note_event(const QString& words);
  /// Text that means something, such as lines read off a screen.
  void ask_text(const SettingField& field);
  /// The tables of the result in their order; after them the grid of readings; -1 = what is shown.
  void show_below(int which);
  void show_grid();

  PlotView* plot() { return plot_; }
  FigureTable* table() { return table_; }
  ResultModel* results() { return results_; }
  TypedGrid* grid() { return grid_; }
  EvidenceModel* evidence() { return evidence_; }
  Segmented* below() { return below_; }
  Segmented* views() { return views_; }
  Segmented* shown_rows() { return shown_rows_; }
  NextCard* next_card() { return next_card_; }
  Chip* settings() { return settings_; }
  Chip* limit() { return limit_; }
  Chip* more() { return more_; }
  MaskMenu* masks() { return masks_; }
  Chip* driving() { return driving_; }
  Segmented* convention() { return convention_; }
  MeterWatch* watch() { return watch_; }
  NeedleView* needle() { return needle_; }
  WhatIfPanel* what_if() { return what_if_; }
  /// Tool on, or hands off, of what is turned while it is logged.
  void turn_hand();
  void turn_tone();
  void remind_in(int minutes);
  LogKeeper* log() { return log_; }
  TakingCard* log_card() { return logging_; }
  Reminders* reminders() { return reminders_; }
  LookView* look() { return look_; }
  KneeCard* knee() { return knee_; }
  ReadingsCard* readings() { return readings_; }
  FigureCardView* figure_card() { return figure_card_; }
  ProposalCardView* proposals() { return proposals_; }
  TextCard* text_card() { return text_card_; }

 protected:
  const PlannedTest* mine() const override { return session_.general(); }
  bool is_taken() const override;
  QString take_words() const override;
  QString add_words() const override;
  QString add_consequence() const override;
  void add_evidence() override;
  QString in_use_words() const override;
  QString in_use_consequence() const override;
  ShownPart shown_part() const override;
  void step_attached(std::size_t step) override {
    if (!is_joint()) choose(static_cast<int>(step));
  }
  QCustomPlot* drop_target() override { return plot_; }
  void resizeEvent(QResizeEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

  void live_changed() override;

 private:
  /// What is being done to what is recorded.
  struct OpenMark {
    Id test = 0;
    double from_s = 0.0;
    QString words;
  };
  /// While a slider is held only what is shown changes; let go, it is kept.
  void try_out(const WhatIfMove& move, bool is_held);
  /// A side of what is counted; while it is held only what is shown changes.
  void move_window(const QString& key, double to, bool is_held);
  bool name_mark(int key);
  void end_mark(double to_s);
  void follow_marks();
  std::optional<OpenMark> mark_;
  double marked_to_s_ = 0.0;  ///< when what is recorded ends
  struct Below {
    QStringList words;
    bool has_grid = false;
  };
  Below below_of(const GeneralTest& t) const;
  const ResultTable* shown_table(const GeneralTest& t) const;
  bool is_grid_shown() const;
  void lay_out_controls();
  void refresh_driving(const GeneralTest& t);
  void fill_driving();
  void refresh_convention(const GeneralTest& t);
  QString limit_words(const Limit& limit, bool is_full) const;
  void add_compare_menu(QMenu* menu, const GeneralTest& t);
  void add_compared_tests(QMenu* menu, const GeneralTest& t);
  void add_proposals(QMenu* menu, const SettingField& field);
  void set_proposal(const SettingProposal& proposal);
  void move_handle(const QString& key, const QString& typed);
  static QuantityOptions options_of(const SettingField& field);
  static double parsed_setting(const SettingField& field, const std::string& typed);
  void ask_wanted_output();
  void ask_full_output();
  void show_knee(bool is_over);
  void show_cell(int row, int column);
  void open_cell(const QModelIndex& index);
  void type_result(const TypedCell& cell);
  void mark_place(double from, double to);
  /// Whether the plot would have other panels in a window as wide as this one is now.
  bool has_other_panels(const GeneralTest& t) const;
  void show_table_menu(const QPoint& at);
  void show_grid_menu(const QPoint& at);
  /// The chosen readings, to be read again or not.
  void mark_readings(bool are_provisional);
  void build();
  void connect_all();
  void fit_columns();
  void begin_test(const GeneralTest& t);
  void refresh_strip(const GeneralTest& t);
  void refresh_menus(const GeneralTest& t);
  void refresh_limit_menu(const GeneralTest& t);
  void add_step_actions(QMenu* menu, const GeneralTest& t, std::size_t step);
  void fill_joint_menu(QMenu* menu, const GeneralTest& t);
  void add_typed_actions(QMenu* menu);
  void add_file_action(QMenu* menu);
  void connect_meters();
  void connect_log();
  void add_log_actions(QMenu* menu, const GeneralTest& t);
  void ask_log_file();
  void ask_event();
  bool reads_logs() const;
  bool has_needle() const;
  bool type_by_key(const GeneralTest& t, int key);
  void show_plain_needle(bool plain);
  /// Whether that is what the one action does.
  bool reads_meters() const;
  void add_meter_actions(QMenu* menu, const GeneralTest& t, std::size_t step);
  void check_keyed(const std::vector<Reading>& shown);
  void keep_readings(const std::vector<Reading>& shown);
  /// As readings of the watched step; nothing, and complains, if they cannot be.
  std::vector<Reading> at_device(const std::vector<Reading>& shown);
  void ask_sweep();
  void ask_self_test(std::size_t step);
  bool can_plan() const;
  void refresh_verdict(const GeneralTest& t);
  void refresh_remarks(const GeneralTest& t);
  void refresh_settings(const GeneralTest& t);
  void add_setting(QMenu* menu, const SettingField& field);
  void choose_axis(const QString& setting, const QPoint& at);
  void measure_cell(const QModelIndex& index, bool is_whole);
  bool table_key(const GeneralTest& t, const QKeyEvent& event);
  void add_choices(QMenu* menu, const SettingField& field);
  void add_flag(QMenu* menu, const SettingField& field);
  void ask_quantity_of(const SettingField& field);
  nlohmann::json setting(const SettingField& field) const;
  void set_mask(const std::optional<Mask>& mask);
  /// Refuses what the method says cannot be.
  void set_setting(const SettingField& field, const nlohmann::json& changed);
  void ask_own_file(const SettingField& field, const SettingChoice& choice);
  void save_own_file(const SettingChoice& choice);
  void ask_setting(const SettingField& field);
  void ask_limit();
  void ask_step();
  const Plot* found_plot(const GeneralTest& t) const;  ///< of what is chosen; nullptr = none
  void show_plot(const GeneralTest& t);
  void show_cards(const GeneralTest& t);
  void show_nothing();
  void choose_rows();
  void show_table(const GeneralTest& t);
  void dress_rows();
  void fit_rows(const GeneralTest& t);
  void show_switch(const GeneralTest& t);
  void choose_switch(int which);
  void arrange_controls(const GeneralTest& t, bool is_narrow);
  const SettingField* switched() const;  ///< nullptr where no setting is
  bool is_switch_wanted() const { return switched() != nullptr; }
  QString view() const;
  bool takes_recordings() const;
  /// Whether typing comes first.
  bool is_typed() const;
  bool is_calculated() const;
  bool is_joint() const;
  /// The step of the test that what is chosen is of; nullopt: it was typed.
  std::optional<std::size_t> step() const;
  const Answer* shown_answer() const;

  PlotView* plot_;
  LookView* look_;
  QStackedWidget* plots_;
  QHBoxLayout* controls_ = nullptr;
  FigureTable* table_;
  ResultModel* results_;
  EvidenceModel* evidence_;
  TypedGrid* grid_;
  QStackedWidget* stack_;
  Segmented* below_;
  Segmented* shown_rows_;  ///< of a table that judges its cells
  Segmented* switch_;      ///< a setting that is chosen often
  Words* row_count_;
  Segmented* views_;
  Chip* settings_;
  Chip* limit_;
  Chip* more_;
  Segmented* convention_;
  Chip* driving_;
  FigureCardView* figure_card_;
  NextCard* next_card_;
  KneeCard* knee_ = nullptr;
  bool was_live_ = false;
  int compared_ = -1;
  MaskMenu* masks_;
  ReadingsCard* readings_;
  ProposalCardView* proposals_;
  TextCard* text_card_ = nullptr;
  MeterWatch* watch_;
  TakingCard* watching_;
  NeedleView* needle_;
  WhatIfPanel* what_if_;
  QWidget* middle_ = nullptr;  ///< what is slid, and the plot
  LogKeeper* log_;
  LogImport* log_files_;
  TakingCard* logging_;
  NeedleTone* tone_;
  Reminders* reminders_;
  Id watched_test_ = 0;
  Id watched_step_ = 0;
  BackgroundJob* job_ = nullptr;
  int chosen_ = 0;
  int plotted_px_ = 0;      ///< width of the window that the plot was made for
  bool is_chosen_ = false;  ///< by somebody
  Id shown_test_ = 0;
};

}  // namespace heron
