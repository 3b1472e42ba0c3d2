#pragma once

#include <QDialog>
#include <vector>

#include "app/widget/check_list.h"
#include "core/method/usual_tests.h"
#include "store/device.h"

namespace heron {

/// Lines that devices of a kind usually have, with usual values, to be taken one by one; nothing is
/// ticked that the device has already.
class UsualLinesDialog : public QDialog {
  Q_OBJECT
 public:
  UsualLinesDialog(const DeviceKind& kind, const std::vector<SpecLine>& there, QWidget* parent);
  QStringList taken() const { return list_->taken(); }  ///< characteristics
  CheckList* list() { return list_; }

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  CheckList* list_;
};

}  // namespace heron
