#pragma once

#include <QWidget>

#include "app/plot/ladder_plot.h"
#include "app/plot/spectrum_plot.h"
#include "app/session/import_queue.h"
#include "app/session/session.h"
#include "app/sheet/hookup_strip.h"
#include "app/sheet/pair_card.h"
#include "app/sheet/readings_card.h"
#include "app/sheet/taking_card.h"
#include "app/table/figure_table.h"
#include "app/table/ladder_model.h"
#include "app/table/product_model.h"
#include "app/table/readings_grid.h"
#include "app/widget/chip.h"
#include "app/widget/remark_list.h"
#include "app/widget/segmented.h"
#include "app/widget/verdict_card.h"

class QHBoxLayout;
class QStackedWidget;

namespace heron {

class CautionCard;
class LiveBench;
class LiveCard;
class LiveLadder;

/// The two-tone test: question, spectrum with flags, ladder and products, verdict, remarks.
class TwoToneSheet : public QWidget {
  Q_OBJECT
 public:
  TwoToneSheet(Session& session, LiveBench& bench, QWidget* parent = nullptr);
  void refresh();
  void add_recordings(const QStringList& paths) { queue_->add(paths, step_); }
  void primary_action();
  void choose_step(int step);
  int chosen_step() const { return step_; }
  LiveLadder* live() { return live_; }
  LiveCard* live_card() { return live_card_; }
  /// Waits for Return before it keys; Esc or another action takes that back.
  bool is_armed() const { return is_armed_; }
  bool disarm();
  bool is_busy() const { return queue_->is_busy(); }
  void cancel_import() { queue_->cancel(); }
  void copy_figure();
  /// steps, products, readings
  enum class Table { steps, products, readings };
  void show_table(Table table);
  void show_ladder(bool ladder);
  bool is_ladder() const { return view_->current() == 1; }
  void compare_with(int step);  ///< -1 = nothing
  void flush() { readings_->flush(); }
  void show_budget();  ///< of the answer
  void ask_path();
  void ask_conditions();
  /// Where the ± of a figure comes from, as a card below a point of the window.
  void show_budget_of(const Figure& figure, const QString& where, std::optional<double> margin,
                      QPoint at);

  SpectrumPlot* plot() { return plot_; }
  LadderPlot* ladder_plot() { return ladder_plot_; }
  ReadingsGrid* readings_grid() { return readings_grid_; }
  PairCard* pair() { return pair_; }
  Chip* driving() { return driving_; }
  Chip* ceiling() { return ceiling_; }
  Chip* more() { return more_; }
  FigureTable* ladder_table() { return ladder_table_; }
  FigureTable* product_table() { return product_table_; }
  VerdictCard* verdict() { return verdict_; }
  ReadingsCard* readings() { return readings_; }
  HookupStrip* strip() { return strip_; }
  RemarkList* remarks() { return remarks_; }
  Segmented* convention() { return convention_; }
  PushButton* primary() { return primary_; }
  QWidget* right_column() { return right_; }

 signals:
  void hookup_asked();
  void test_asked(long long evaluation, long long test);
  void failed(const QString& what, const QString& what_to_do);
  void told(const QString& text);

 protected:
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dragLeaveEvent(QDragLeaveEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  QWidget* build_sheet();
  QWidget* build_title();
  QWidget* build_controls();
  QWidget* build_tables();
  QWidget* build_right();
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
  bool may_take_live(const TwoToneTest* test) const;
  void arm_or_take();
  void ask_recordings();
  void ask_self_test();
  void ask_wanted_output();
  void set_ceiling(std::optional<double> dbm, const QString& typed);
  void recording_attached(long long test, long long step);
  void choose_product(int order, bool upper);
  void ask_limit();
  void ask_linearity();
  void ask_signature();
  void show_strip_menu(const QPoint& at);
  void show_output_budget();
  void show_plot_menu(const QPoint& at);
  void show_ladder_menu(const QPoint& at);
  QString shown_convention() const;
  static QString recording_filter();
  const TwoToneAnalysis* chosen_analysis() const;

  Session& session_;
  int step_ = 0;
  Id shown_test_ = 0;
  std::optional<std::pair<int, bool>> chosen_product_;
  ImportQueue* queue_;

  QLabel* title_ = nullptr;
  QLabel* question_ = nullptr;
  PushButton* primary_ = nullptr;
  QHBoxLayout* controls_ = nullptr;
  QLabel* relative_words_ = nullptr;
  QLabel* table_words_ = nullptr;
  QLabel* consequence_ = nullptr;
  Segmented* convention_ = nullptr;
  Chip* limit_ = nullptr;
  Chip* driving_ = nullptr;
  Chip* ceiling_ = nullptr;
  Chip* more_ = nullptr;
  Segmented* view_ = nullptr;
  QStackedWidget* plots_ = nullptr;
  LadderPlot* ladder_plot_ = nullptr;
  ReadingsGrid* readings_grid_ = nullptr;
  PairCard* pair_ = nullptr;
  CautionCard* caution_ = nullptr;
  int compared_ = -1;
  HookupStrip* strip_ = nullptr;
  SpectrumPlot* plot_ = nullptr;
  Segmented* which_table_ = nullptr;
  QStackedWidget* tables_ = nullptr;
  FigureTable* ladder_table_ = nullptr;
  FigureTable* product_table_ = nullptr;
  LadderModel* ladder_model_ = nullptr;
  ProductModel* product_model_ = nullptr;
  QWidget* right_ = nullptr;
  VerdictCard* verdict_ = nullptr;
  TakingCard* taking_ = nullptr;
  LiveLadder* live_ = nullptr;
  LiveCard* live_card_ = nullptr;
  bool is_armed_ = false;
  ReadingsCard* readings_ = nullptr;
  RemarkList* remarks_ = nullptr;
};

}  // namespace heron
