#pragma once

#include "app/sheet/readings_card.h"
#include "app/sheet/sheet.h"
#include "app/spread/spread_model.h"
#include "app/spread/spread_plot.h"
#include "app/table/figure_table.h"
#include "app/widget/chip.h"
#include "app/widget/segmented.h"

namespace heron {

class BackgroundJob;

/// Noise and speech instead of tones: how much falls into a notch and beside the channel, and how
/// wide the signal is, over drive or over settings with one and the same stimulus.
class SpreadSheet : public Sheet {
  Q_OBJECT
 public:
  explicit SpreadSheet(const SheetContext& with, QWidget* parent = nullptr);
  void refresh() override;
  void flush() override { readings_->flush(); }
  void show_budget() override;
  void copy_table() override { table_->copy_all(); }
  std::vector<QWidget*> stops() override { return {plot_, table_}; }
  int chosen_step() const override { return step_; }
  void choose_step(int step);
  void show_hold(Hold hold);
  /// Takes the user's own recording as the stimulus: it is copied into the shack, so that it stays
  /// the same.
  void use_own_stimulus(const QString& path);

  SpreadPlot* plot() { return plot_; }
  FigureTable* table() { return table_; }
  SpreadModel* model() { return model_; }
  Chip* stimulus() { return stimulus_; }
  Chip* limit() { return limit_; }
  Segmented* hold() { return hold_; }

 protected:
  const PlannedTest* mine() const override { return session_.spread(); }
  bool is_taken() const override;
  ShownPart shown_part() const override;
  QString take_words() const override;
  QString add_words() const override;
  QCustomPlot* drop_target() override { return plot_; }
  void step_attached(std::size_t step) override { choose_step(static_cast<int>(step)); }
  void resizeEvent(QResizeEvent* event) override;
  void fit_columns();

 private:
  void build();
  void connect_all();
  void refresh_menus(const SpreadTest& t);
  void refresh_verdict(const SpreadTest& t);
  void refresh_remarks(const SpreadTest& t);
  void change(const QString& what, const SpreadSettings& settings);
  void ask_limit();
  void ask_step();
  void ask_channel();
  void ask_notch();
  void save_own_stimulus();
  std::optional<Figure> shown_figure() const;
  const SpreadAnalysis* chosen_analysis() const;
  Hold shown_hold() const { return hold_->current() == 0 ? Hold::average : Hold::max; }

  SpreadPlot* plot_;
  FigureTable* table_;
  SpreadModel* model_;
  Segmented* hold_;
  Chip* stimulus_;
  Chip* limit_;
  Chip* more_;
  ReadingsCard* readings_;
  BackgroundJob* job_ = nullptr;
  int step_ = 0;
  Id shown_test_ = 0;
};

}  // namespace heron
