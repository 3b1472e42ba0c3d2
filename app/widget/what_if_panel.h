#pragma once

#include <QScrollArea>
#include <vector>

#include "core/method/what_if.h"

class QLineEdit;
class QVBoxLayout;

namespace heron {

class PushButton;
class WhatIfRow;

/// Values of what is calculated, each with a field and a slider round what is built: what if it
/// were otherwise? Up and Down choose one, Left and Right move it to the next value there is, with
/// Shift by one per cent, Return types, Backspace takes it back.
class WhatIfPanel : public QScrollArea {
  Q_OBJECT
 public:
  explicit WhatIfPanel(QWidget* parent = nullptr);
  /// Empty hides it. A slider that is held, and a field that is typed into, stay as they are.
  void set_values(const std::vector<WhatIf>& values, bool can_edit);
  const std::vector<WhatIf>& values() const { return values_; }
  QLineEdit* field(const std::string& key) const;
  QWidget* row(const std::string& key) const;
  PushButton* as_built() { return as_built_; }
  static int width_at(int window_px) { return window_px < 1200 ? 206 : 233; }

 signals:
  void sliding(const heron::WhatIfMove& move);  ///< while it is held
  void moved(const heron::WhatIfMove& move);    ///< let go, typed, or taken back

 protected:
  void changeEvent(QEvent* event) override;

 private:
  void go_to(std::size_t row);
  void follow_theme();
  friend class WhatIfRow;
  std::vector<WhatIf> values_;
  std::vector<WhatIfRow*> rows_;
  QVBoxLayout* column_;
  PushButton* as_built_;
};

}  // namespace heron
