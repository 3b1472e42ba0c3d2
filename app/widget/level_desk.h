#pragma once

#include <QPointer>

#include "app/widget/chip.h"
#include "app/widget/floating_card.h"
#include "app/widget/push_button.h"
#include "app/widget/quantity_field.h"
#include "app/widget/segmented.h"
#include "core/chain/chain.h"
#include "core/quantity/level_desk.h"

namespace heron {

/// Ctrl L: any level in any unit, all others at once, before and after a hook-up; Return pastes the
/// chosen form into the field one came from.
class LevelDesk : public FloatingCard {
  Q_OBJECT
 public:
  explicit LevelDesk(QWidget* window);
  struct Path {
    QString name;
    Chain chain;
    double frequency_hz = 0.0;
  };
  /// The hook-ups that can be looked through; `current` one is chosen, -1 = none.
  void set_paths(std::vector<Path> paths, int current);
  /// Opens for a field; nullptr: only copies.
  void open_for(QuantityField* target, QPoint corner);
  QLineEdit* edit() { return entry_; }
  Segmented* tones() { return tones_; }
  /// What would be pasted: "+44.91 dBm".
  QString chosen_text() const;
  const std::vector<DeskRow>& rows() const { return before_; }
  const std::vector<DeskRow>& rows_after() const { return after_; }
  QString message() const { return understood_; }

 signals:
  void told(const QString& text);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void evaluate();
  void paste();
  void copy();
  bool handle_key(QKeyEvent* event);
  QRectF row_box(int row) const;
  QString target_name() const;
  QLineEdit* entry_;
  Segmented* tones_;
  Chip* impedance_;
  Chip* path_;
  PushButton* paste_;
  PushButton* copy_all_;
  QPointer<QuantityField> target_;
  std::vector<Path> paths_;
  int through_ = -1;
  double ohm_ = 50.0;
  std::vector<DeskRow> before_;
  std::vector<DeskRow> after_;
  QString understood_;
  bool is_wrong_ = false;
  int row_ = 0;
  bool is_after_ = false;
};

}  // namespace heron
