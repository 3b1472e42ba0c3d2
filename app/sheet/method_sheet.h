#pragma once

#include "app/plot/plot_view.h"
#include "app/sheet/readings_card.h"
#include "app/sheet/sheet.h"
#include "app/table/evidence_model.h"
#include "app/table/result_model.h"
#include "app/widget/chip.h"
#include "app/widget/segmented.h"

class QStackedWidget;

namespace heron {

class BackgroundJob;

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
  int chosen_step() const override { return step_; }
  /// Another view of the same result, such as max-hold instead of the average.
  void show_view(int which);
  /// Chooses a value of a setting that needs a recording of the user's own: it is copied into the
  /// shack, so that it stays the same.
  void use_own_file(const SettingField& field, const SettingChoice& choice, const QString& path);
  void choose_step(int step);
  /// 0 = what was worked out, 1 = the grid of readings.
  void show_below(int which);

  PlotView* plot() { return plot_; }
  FigureTable* table() { return table_; }
  ResultModel* results() { return results_; }
  TypedGrid* grid() { return grid_; }
  EvidenceModel* evidence() { return evidence_; }
  Segmented* below() { return below_; }
  Segmented* views() { return views_; }
  Chip* settings() { return settings_; }
  Chip* limit() { return limit_; }
  Chip* more() { return more_; }

 protected:
  const PlannedTest* mine() const override { return session_.general(); }
  bool is_taken() const override;
  QString take_words() const override;
  QString add_words() const override;
  QString add_consequence() const override;
  void add_evidence() override;
  ShownPart shown_part() const override;
  void step_attached(std::size_t step) override { choose_step(static_cast<int>(step)); }
  QCustomPlot* drop_target() override { return plot_; }
  void resizeEvent(QResizeEvent* event) override;

 private:
  void build();
  void connect_all();
  void fit_columns();
  void refresh_menus(const GeneralTest& t);
  void add_step_actions(QMenu* menu, const GeneralTest& t);
  void refresh_verdict(const GeneralTest& t);
  void refresh_remarks(const GeneralTest& t);
  void refresh_settings(const GeneralTest& t);
  void add_setting(QMenu* menu, const SettingField& field);
  void add_choices(QMenu* menu, const SettingField& field);
  nlohmann::json setting(const SettingField& field) const;
  /// Refuses what the method says cannot be.
  void set_setting(const SettingField& field, const nlohmann::json& changed);
  void ask_own_file(const SettingField& field, const SettingChoice& choice);
  void save_own_file(const SettingChoice& choice);
  void ask_setting(const SettingField& field);
  void ask_limit();
  void ask_step();
  void show_plot(const GeneralTest& t);
  void show_table(const GeneralTest& t);
  QString view() const;
  bool takes_recordings() const;
  const Answer* shown_answer() const;

  PlotView* plot_;
  FigureTable* table_;
  ResultModel* results_;
  EvidenceModel* evidence_;
  TypedGrid* grid_;
  QStackedWidget* stack_;
  Segmented* below_;
  Segmented* views_;
  Chip* settings_;
  Chip* limit_;
  Chip* more_;
  ReadingsCard* readings_;
  BackgroundJob* job_ = nullptr;
  int step_ = 0;
  Id shown_test_ = 0;
};

}  // namespace heron
