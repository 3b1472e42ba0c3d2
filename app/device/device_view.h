#pragma once

#include <QListView>
#include <QWidget>

#include "app/device/device_form.h"
#include "app/device/device_rail.h"
#include "app/device/lines_model.h"
#include "app/device/story_model.h"
#include "app/session/session.h"
#include "app/widget/caution_card.h"
#include "app/widget/chip.h"
#include "app/widget/fact_band.h"
#include "app/widget/push_button.h"
#include "app/widget/remark_list.h"
#include "app/widget/segmented.h"

namespace heron {

/// The card of a device: what it is, what it must do, and what has been done to it.
class DeviceView : public QWidget {
  Q_OBJECT
 public:
  explicit DeviceView(Session& session, QWidget* parent = nullptr);
  void show_device(Id device);
  /// An empty one, to be filled: it is a device once it has a name.
  void show_new();
  void refresh();
  void flush() { form_->flush(); }
  Id device_id() const { return device_; }
  void set_photo(const QString& path);

  QListView* list() { return list_; }
  DeviceForm* form() { return form_; }
  TypedGrid* lines() { return lines_; }
  LinesModel* lines_model() { return lines_model_; }
  FigureTable* story() { return story_; }
  StoryModel* story_model() { return story_model_; }
  FactBand* facts() { return facts_; }
  RemarkList* remarks() { return remarks_; }
  CautionCard* caution() { return caution_; }
  PushButton* primary() { return primary_; }
  PushButton* usual() { return usual_; }
  Chip* figures_from() { return from_; }
  Chip* compare_with() { return compare_; }
  Chip* more() { return more_; }
  void add_usual_lines(const QStringList& characteristics);

 signals:
  void evaluation_asked(long long evaluation, long long test);
  void new_evaluation_asked(long long device);
  void work_asked(long long device);
  void outside_asked(long long device);
  void copy_asked(long long device);
  void removal_asked(long long device);
  void told(const QString& text);
  void failed(const QString& what, const QString& what_to_do);

 protected:
  void resizeEvent(QResizeEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  QWidget* build_rail();
  QWidget* build_sheet();
  QWidget* build_right();
  void connect_all();
  void fill_menus(const Device& device);
  void show_facts(const Device& device);
  void show_remarks(const Device& device);
  void show_lines(const Device& device);
  void lay_out();
  void ask_usual_lines();
  void open_story(int row);
  bool can_edit() const;

  Session& session_;
  Id device_ = 0;
  Id from_evaluation_ = 0;      ///< 0 = the latest of all
  Id compared_evaluation_ = 0;  ///< 0 = nothing
  QWidget* rail_ = nullptr;
  QListView* list_ = nullptr;
  DeviceRailModel* rail_model_ = nullptr;
  QLabel* count_ = nullptr;
  PushButton* add_ = nullptr;
  QLabel* title_ = nullptr;
  PushButton* primary_ = nullptr;
  QLabel* consequence_ = nullptr;
  Segmented* show_ = nullptr;
  Chip* from_ = nullptr;
  Chip* compare_ = nullptr;
  Chip* more_ = nullptr;
  FactBand* facts_ = nullptr;
  TypedGrid* lines_ = nullptr;
  LinesModel* lines_model_ = nullptr;
  PushButton* usual_ = nullptr;
  QLabel* lines_note_ = nullptr;
  FigureTable* story_ = nullptr;
  StoryModel* story_model_ = nullptr;
  QWidget* right_ = nullptr;
  DeviceForm* form_ = nullptr;
  RemarkList* remarks_ = nullptr;
  CautionCard* caution_ = nullptr;
};

}  // namespace heron
