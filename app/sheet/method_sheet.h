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
  void choose_step(int step);
  /// 0 = what was worked out, 1 = the grid of readings.
  void show_below(int which);

  PlotView* plot() { return plot_; }
  FigureTable* table() { return table_; }
  ResultModel* results() { return results_; }
  TypedGrid* grid() { return grid_; }
  EvidenceModel* evidence() { return evidence_; }
  Segmented* below() { return below_; }
  Chip* limit() { return limit_; }
  Chip* more() { return more_; }

 protected:
  const PlannedTest* mine() const override { return session_.general(); }
  bool is_taken() const override;
  QString take_words() const override { return {}; }
  QString add_words() const override { return tr("Type the readings"); }
  QString add_consequence() const override { return tr("Into the grid; or paste them there"); }
  void add_evidence() override;
  QCustomPlot* drop_target() override { return plot_; }
  void resizeEvent(QResizeEvent* event) override;

 private:
  void build();
  void connect_all();
  void fit_columns();
  void refresh_menus(const GeneralTest& t);
  void refresh_verdict(const GeneralTest& t);
  void refresh_remarks(const GeneralTest& t);
  void ask_limit();
  void ask_step();
  const Answer* shown_answer() const;

  PlotView* plot_;
  FigureTable* table_;
  ResultModel* results_;
  EvidenceModel* evidence_;
  TypedGrid* grid_;
  QStackedWidget* stack_;
  Segmented* below_;
  Chip* limit_;
  Chip* more_;
  ReadingsCard* readings_;
  int step_ = 0;
  Id shown_test_ = 0;
};

}  // namespace heron
