#pragma once

#include <QLineEdit>
#include <QPlainTextEdit>
#include <vector>

#include "app/widget/card.h"
#include "app/widget/painted_button.h"
#include "app/widget/push_button.h"
#include "app/widget/quantity_field.h"
#include "store/device.h"

class QLabel;

namespace heron {

/// Something a device can or cannot, switched by a press.
class ModeButton : public PaintedButton {
 public:
  explicit ModeButton(const QString& mode, QWidget* parent = nullptr);
  QSize sizeHint() const override;

 protected:
  void paintEvent(QPaintEvent* event) override;
};

/// What a device is, field by field, each kept as it is left.
class DeviceForm : public Card {
  Q_OBJECT
 public:
  explicit DeviceForm(QWidget* parent = nullptr);
  void set_device(const Device& device, const QPixmap& photo, bool can_edit);
  /// What stands in the fields, whether it was kept yet or not.
  Device device() const;
  void flush();
  QLineEdit* name() { return name_; }
  QLineEdit* serial() { return serial_; }
  QLineEdit* kind() { return kind_; }
  QLineEdit* works_on() { return works_on_; }
  QLineEdit* supply() { return supply_; }
  QuantityField* most_drive() { return most_drive_; }
  ModeButton* high_voltage() { return high_voltage_; }
  QPlainTextEdit* note() { return note_; }
  PushButton* photo_link() { return photo_link_; }
  const std::vector<ModeButton*>& modes() const { return modes_; }

 signals:
  void changed(const QString& what, const heron::Device& device);
  void photo_asked();
  void refused(const QString& what, const QString& what_to_do);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  QLineEdit* add_field(const QString& label, const QString& example);
  void keep(const QString& what);
  void show_kind();
  Device device_;
  bool is_filling_ = false;
  QLineEdit* name_ = nullptr;
  QLineEdit* serial_ = nullptr;
  QLineEdit* kind_ = nullptr;
  QLabel* suggests_ = nullptr;
  QLineEdit* works_on_ = nullptr;
  QLineEdit* supply_ = nullptr;
  QuantityField* most_drive_ = nullptr;
  QWidget* drive_box_ = nullptr;
  ModeButton* high_voltage_ = nullptr;
  QPlainTextEdit* note_ = nullptr;
  QLabel* photo_ = nullptr;
  PushButton* photo_link_ = nullptr;
  std::vector<ModeButton*> modes_;
};

}  // namespace heron
