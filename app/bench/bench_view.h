#pragma once

#include <QListView>
#include <QWidget>

#include "app/bench/ageing_strip.h"
#include "app/bench/bench_model.h"
#include "app/bench/item_form.h"
#include "app/bench/used_model.h"
#include "app/live/instruments_card.h"
#include "app/plot/curve_plot.h"
#include "app/session/bench_edits.h"
#include "app/table/figure_table.h"
#include "app/widget/fact_band.h"
#include "app/widget/push_button.h"
#include "app/widget/remark_list.h"
#include "app/widget/segmented.h"
#include "app/widget/verdict_card.h"

class QStackedWidget;

namespace heron {

/// The bench: what parts and instruments there are, what they lose and stand, how well that is
/// known and until when. Touchstone files and bench files can be dropped on it.
class BenchView : public QWidget {
  Q_OBJECT
 public:
  BenchView(Session& session, LiveInstruments& live, QWidget* parent = nullptr);
  void refresh();
  void show_item(Id item);
  Id item_id() const { return item_; }
  void flush() { form_->flush(); }
  void show_details(bool details);
  void primary_action();
  /// Files dropped or chosen: a curve for the shown part, or a part or bench to add.
  void take_files(const QStringList& paths, bool onto_shown = true);
  bool export_to(const QString& path);
  Id add(const QString& sort);
  void duplicate();

  QListView* list() { return list_; }
  ItemForm* form() { return form_; }
  CurvePlot* curve() { return curve_; }
  FactBand* facts() { return facts_; }
  FigureTable* used() { return used_; }
  VerdictCard* calibration() { return calibration_; }
  RemarkList* remarks() { return remarks_; }
  InstrumentsCard* instruments() { return instruments_; }
  Chip* add_chip() { return add_; }
  Chip* more_chip() { return more_; }
  QuantityField* frequency() { return frequency_; }

 signals:
  void hookup_asked(long long hookup, long long evaluation, long long test);
  void told(const QString& text);
  void failed(const QString& what, const QString& what_to_do);

 protected:
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  QWidget* build_rail();
  QWidget* build_sheet();
  QWidget* build_right();
  void connect_all();
  void show_all();
  void show_facts(const BenchEntry& entry);
  void show_curve(const BenchEntry& entry);
  void show_calibration(const BenchEntry& entry);
  void show_remarks(const BenchEntry& entry);
  void fill_more_menu(const BenchEntry& entry);
  void ask_calibration();
  double frequency_hz() const { return frequency_hz_; }
  std::optional<BenchEntry> entry() const;

  Session& session_;
  BenchEdits edits_;
  LiveInstruments& live_;
  Id item_ = 0;
  double frequency_hz_ = 14.2e6;
  bool wants_vswr_ = false;

  QWidget* rail_ = nullptr;
  QListView* list_ = nullptr;
  BenchModel* model_ = nullptr;
  QLabel* count_ = nullptr;
  Chip* add_ = nullptr;
  Chip* file_ = nullptr;
  QLabel* title_ = nullptr;
  QLabel* question_ = nullptr;
  PushButton* primary_ = nullptr;
  QLabel* consequence_ = nullptr;
  Segmented* show_ = nullptr;
  QuantityField* frequency_ = nullptr;
  Chip* more_ = nullptr;
  FactBand* facts_ = nullptr;
  QStackedWidget* stack_ = nullptr;
  CurvePlot* curve_ = nullptr;
  AgeingStrip* ageing_ = nullptr;
  FigureTable* used_ = nullptr;
  UsedModel* used_model_ = nullptr;
  ItemForm* form_ = nullptr;
  QWidget* right_ = nullptr;
  VerdictCard* calibration_ = nullptr;
  RemarkList* remarks_ = nullptr;
  InstrumentsCard* instruments_ = nullptr;
};

}  // namespace heron
