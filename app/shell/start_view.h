#pragma once

#include <QWidget>

#include "app/widget/push_button.h"

class QVBoxLayout;

namespace heron {

/// What stands there while no shack is open: make one, open one, look at the demo, and those that
/// were open before.
class StartView : public QWidget {
  Q_OBJECT
 public:
  explicit StartView(QWidget* parent = nullptr);
  /// Folders, the last one first; those that are gone are left out.
  void set_recent(const QStringList& folders);
  PushButton* make() { return make_; }
  PushButton* open() { return open_; }
  PushButton* demo() { return demo_; }

 signals:
  void new_asked();
  void open_asked();
  void demo_asked();
  void recent_asked(const QString& folder);

 private:
  PushButton* make_;
  PushButton* open_;
  PushButton* demo_;
  QWidget* recent_;
  QVBoxLayout* recent_rows_;
};

}  // namespace heron
