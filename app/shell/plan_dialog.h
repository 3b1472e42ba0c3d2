#pragma once

#include <QDialog>
#include <set>
#include <string>
#include <vector>

#include "app/widget/check_list.h"
#include "core/method/usual_tests.h"

class QLineEdit;

namespace heron {

/// Asks for the title of an evaluation and which tests it begins with, in their order: those that
/// the device's kind usually gets, and any other. Rows are dragged, or moved with Alt and an arrow;
/// Space takes one in or out.
class PlanDialog : public QDialog {
  Q_OBJECT
 public:
  /// `kind`: nullptr = nothing is known of it; then all is offered and the first is taken.
  /// `repeats`: characteristics whose last figure is provisional; they are taken, too.
  PlanDialog(const QString& device, const DeviceKind* kind, std::set<std::string> repeats,
             QWidget* parent);
  QString title() const;
  /// Characteristics, in their order.
  std::vector<std::string> tests() const;
  CheckList* list() { return list_; }
  QLineEdit* title_edit() { return title_; }

 protected:
  void paintEvent(QPaintEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void add(const std::string& characteristic, const QString& reason, bool is_taken);
  void move_current(int by);
  void refresh();
  std::set<std::string> repeats_;
  QLineEdit* title_;
  CheckList* list_;
  class PushButton* go_;
};

}  // namespace heron
