#pragma once

#include <QWidget>

#include "app/plot/ladder_plot.h"
#include "app/plot/spectrum_plot.h"
#include "app/sheet/pair_card.h"
#include "app/sheet/readings_card.h"
#include "app/sheet/sheet.h"
#include "app/table/figure_table.h"
#include "app/table/ladder_model.h"
#include "app/table/product_model.h"
#include "app/table/readings_grid.h"
#include "app/widget/chip.h"
#include "app/widget/segmented.h"

class QHBoxLayout;
class QStackedWidget;

namespace heron {

class KneeCard;
class LookView;

/// The two-tone test: question, spectrum with flags, ladder and products, verdict, remarks.
class TwoToneSheet : public Sheet {
  Q_OBJECT
 public:
  explicit TwoToneSheet(const SheetContext& with, QWidget* parent = nullptr);
  void refresh() override;
  void choose_step(int step);
  int chosen_step() const override { return step_; }
  /// steps, products, readings
  enum class Table { steps, products, readings };
  void show_table(Table table);
  enum class View { spectrum, ladder, live };
  void show_view(View view);
  void show_ladder(bool ladder) { show_view(ladder ? View::ladder : View::spectrum); }
  LookView* look() { return look_; }
  KneeCard* knee() { return knee_; }
  /// Keys one tone, harder and harder, with its curve in a card.
  void find_full_output();
  bool is_ladder() const { return view_->current() == 1; }
  void compare_with(int step);  ///< -1 = nothing
  void flush() override { readings_->flush(); }
  void show_budget() override;
  void copy_table() override { ladder_table_->copy_all(); }
  std::vector<QWidget*> stops() override { return {ladder_table_, readings_->output()->edit()}; }

  SpectrumPlot* plot() { return plot_; }
  LadderPlot* ladder_plot() { return ladder_plot_; }
  ReadingsGrid* readings_grid() { return readings_grid_; }
  PairCard* pair() { return pair_; }
  Chip* driving() { return driving_; }
  Chip* ceiling() { return ceiling_; }
  Chip* more() { return more_; }
  FigureTable* ladder_table() { return ladder_table_; }
  FigureTable* product_table() { return product_table_; }
  ReadingsCard* readings() { return readings_; }
  Segmented* convention() { return convention_; }

 protected:
  const PlannedTest* mine() const override { return session_.two_tone(); }
  bool is_taken() const override { return chosen_analysis() != nullptr; }
  ShownPart shown_part() const override;
  QString take_words() const override { return tr("Measure all steps"); }
  QString add_words() const override;
  QCustomPlot* drop_target() override { return plot_; }
  void step_attached(std::size_t step) override { choose_step(static_cast<int>(step)); }
  void live_changed() override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void build_plots();
  QWidget* build_controls();
  QWidget* build_tables();
  void connect_all();
  void refresh_title(const TwoToneTest* test);
  void refresh_plot(const TwoToneTest* test);
  void refresh_verdict(const TwoToneTest* test);
  void refresh_limit_menu(const TwoToneTest* test);
  void refresh_ladder(const TwoToneTest* test);
  void refresh_remarks(const TwoToneTest* test);
  void refresh_more_menu(const TwoToneTest* test);
  void refresh_driving_menu(const TwoToneTest* test);
  void lay_out_controls();
  void ask_ceiling();
  void ask_self_test();
  void show_knee(bool is_over);
  void ask_wanted_output();
  void ask_full_output();
  void set_ceiling(std::optional<double> dbm, const QString& typed);
  void choose_product(int order, bool upper);
  void ask_limit();
  void ask_linearity();
  void show_output_budget();
  void show_plot_menu(const QPoint& at);
  void show_ladder_menu(const QPoint& at);
  QString shown_convention() const;
  const TwoToneAnalysis* chosen_analysis() const;

  int step_ = 0;
  Id shown_test_ = 0;
  std::optional<std::pair<int, bool>> chosen_product_;
  QHBoxLayout* controls_ = nullptr;
  QLabel* relative_words_ = nullptr;
  QLabel* table_words_ = nullptr;
  Segmented* convention_ = nullptr;
  Chip* limit_ = nullptr;
  Chip* driving_ = nullptr;
  Chip* ceiling_ = nullptr;
  Chip* more_ = nullptr;
  Segmented* view_ = nullptr;
  QStackedWidget* plots_ = nullptr;
  LookView* look_ = nullptr;
  KneeCard* knee_ = nullptr;
  LadderPlot* ladder_plot_ = nullptr;
  ReadingsGrid* readings_grid_ = nullptr;
  PairCard* pair_ = nullptr;
  int compared_ = -1;
  SpectrumPlot* plot_ = nullptr;
  Segmented* which_table_ = nullptr;
  QStackedWidget* tables_ = nullptr;
  FigureTable* ladder_table_ = nullptr;
  FigureTable* product_table_ = nullptr;
  LadderModel* ladder_model_ = nullptr;
  ProductModel* product_model_ = nullptr;
  ReadingsCard* readings_ = nullptr;
};

}  // namespace heron
