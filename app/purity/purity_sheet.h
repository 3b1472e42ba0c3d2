#pragma once

#include "app/purity/filter_card.h"
#include "app/purity/purity_model.h"
#include "app/purity/purity_plot.h"
#include "app/sheet/sheet.h"
#include "app/table/figure_table.h"
#include "app/widget/chip.h"

namespace heron {

class TextCard;

/// Harmonics and spurious emissions: lines against a mask, filter advice, and where they come from.
class PuritySheet : public Sheet {
  Q_OBJECT
 public:
  explicit PuritySheet(const SheetContext& with, QWidget* parent = nullptr);
  void refresh() override;
  void show_budget() override;
  void copy_table() override { table_->copy_all(); }
  std::vector<QWidget*> stops() override { return {plot_, table_}; }
  void choose_line(int index);
  void edit_mask();
  void type_lines();
  void ask_carrier();
  void ask_power();
  /// Steps for the carrier and its harmonics, where there are none yet.
  void plan_harmonics();
  /// One more step, taken by the analyser in one sweep over carrier and harmonics.
  void take_sweep();

  PurityPlot* plot() { return plot_; }
  FigureTable* table() { return table_; }
  FilterCard* filter() { return filter_; }
  TextCard* mask_card() { return mask_card_; }
  TextCard* lines_card() { return lines_card_; }
  Chip* mask() { return mask_; }
  Chip* evidence() { return evidence_; }

 protected:
  const PlannedTest* mine() const override { return session_.purity(); }
  bool is_taken() const override;
  ShownPart shown_part() const override;
  QString take_words() const override { return tr("Measure the lines"); }
  QString add_words() const override;
  void add_evidence() override;
  QCustomPlot* drop_target() override { return plot_; }
  void resizeEvent(QResizeEvent* event) override;

 private:
  void build();
  void connect_all();
  void refresh_menus(const PurityTest* t);
  void refresh_verdict(const PurityTest* t);
  void refresh_remarks(const PurityTest* t);
  void fill_evidence_menu(const PurityTest& t);
  void set_mask(const std::optional<Mask>& mask);
  void load_mask();
  void save_mask();
  void change(const QString& what, const PurityTestSettings& settings);
  void ask_self_test(std::size_t step);
  void ask_sweep();
  bool can_plan() const;
  void show_line_budget(int index);

  PurityPlot* plot_;
  FigureTable* table_;
  PurityModel* model_;
  FilterCard* filter_;
  Chip* mask_;
  Chip* carrier_;
  Chip* evidence_;
  TextCard* mask_card_ = nullptr;
  TextCard* lines_card_ = nullptr;
  int line_ = -1;
  Id shown_test_ = 0;
};

}  // namespace heron
