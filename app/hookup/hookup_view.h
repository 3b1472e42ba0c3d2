#pragma once

#include <QWidget>
#include <functional>

#include "app/hookup/chain_band.h"
#include "app/hookup/hookup_scene.h"
#include "app/hookup/level_diagram.h"
#include "app/hookup/part_model.h"
#include "app/session/bench_edits.h"
#include "app/table/figure_table.h"
#include "app/widget/chip.h"
#include "app/widget/push_button.h"
#include "app/widget/quantity_field.h"
#include "app/widget/remark_list.h"
#include "app/widget/segmented.h"
#include "app/widget/verdict_card.h"

namespace heron {

class CautionCard;
class Tag;

/// The hook-up editor: will every part survive, and does every level land where it should? What is
/// built is a draft until it is used; versions that recordings were taken on are never altered.
class HookupView : public QWidget {
  Q_OBJECT
 public:
  explicit HookupView(Session& session, QWidget* parent = nullptr);
  /// Shows a hook-up with the drive of a test; hookup 0: the test's own, or the first there is.
  void open(Id hookup, Id test);
  void refresh();  ///< after something on disk changed
  Id hookup_id() const { return hookup_; }
  Id test_id() const { return test_; }
  bool has_draft() const { return !before_.empty(); }
  /// Takes the latest change of the draft back; false if there is none.
  bool undo_draft();
  bool redo_draft();
  void primary_action();
  void flush();
  const HookupScene& scene() const { return scene_; }

  ChainBand* band() { return band_; }
  LevelDiagram* diagram() { return diagram_; }
  FigureTable* table() { return table_; }
  QuantityField* drive() { return drive_; }
  QuantityField* frequency() { return frequency_; }
  QuantityField* key_down() { return key_down_; }
  RemarkList* remarks() { return remarks_; }
  VerdictCard* survival() { return survival_; }
  PushButton* primary() { return primary_; }
  PushButton* suggestion() { return suggestion_; }
  Chip* which() { return which_; }
  Segmented* tones() { return tones_; }

  // Changes of the draft.
  void add_part(int after, const Part& part);
  void replace_part(int column, const Part& part);
  void remove_part(int column);
  void move_part(int from, int to);
  void apply_swap();

 signals:
  void back_asked();
  void bench_asked();
  void told(const QString& text);
  void failed(const QString& what, const QString& what_to_do);
  void drive_changed();
  void uncertainty_asked();

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  QWidget* build_title();
  QWidget* build_controls();
  QWidget* build_right();
  void connect_all();
  /// The chain shown differs from what is on disk.
  bool is_changed() const;
  void evaluate();
  void show_scene();
  void show_survival();
  void show_remarks();
  void show_title();
  void fill_which_menu();
  void fill_source_menu(QMenu* menu);
  void follow_source();
  void fill_part_menu(QMenu* menu, bool is_end, const std::function<void(const Part&)>& take);
  void change(Chain chain, int chosen);
  /// The draft goes to disk with every change, and from there once it is used.
  void keep_draft();
  void choose(int column);
  void keep_drive();
  void ask_source();
  void ask_new_hookup(const Chain& chain);
  void ask_vouch();
  Chain first_chain() const;
  QString source_name() const;

  Session& session_;
  BenchEdits edits_;
  Id hookup_ = 0;
  Id test_ = 0;
  HookupVersion version_;  ///< as on disk
  HookupScene scene_;
  std::vector<Chain> before_;  ///< of the draft, latest last
  std::vector<Chain> after_;

  QLabel* title_ = nullptr;
  Tag* tag_ = nullptr;
  Chip* which_ = nullptr;
  PushButton* primary_ = nullptr;
  bool asks_override_ = false;  ///< what the primary action does
  QLabel* consequence_ = nullptr;
  QLabel* at_word_ = nullptr;
  QLabel* key_word_ = nullptr;
  QuantityField* drive_ = nullptr;
  QuantityField* frequency_ = nullptr;
  QuantityField* key_down_ = nullptr;
  Segmented* tones_ = nullptr;
  ChainBand* band_ = nullptr;
  LevelDiagram* diagram_ = nullptr;
  FigureTable* table_ = nullptr;
  PartModel* model_ = nullptr;
  QWidget* right_ = nullptr;
  VerdictCard* survival_ = nullptr;
  RemarkList* remarks_ = nullptr;
  PushButton* suggestion_ = nullptr;
  PushButton* take_over_ = nullptr;
  CautionCard* caution_ = nullptr;
};

}  // namespace heron
