#include "app/device/device_form.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/widget/completion.h"
#include "app/widget/words.h"
#include "core/method/specification.h"

namespace heron {
namespace {

constexpr const char* kModes[] = {"CW", "SSB", "FM", "AM", "data"};
constexpr int kPhotoHeight = 96;

QWidget* labelled(const QString& label, QWidget* field) {
  auto* box = new QWidget;
  auto* column = new QVBoxLayout(box);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  column->addWidget(new Words(label, Type::label, Tone::slate));
  column->addWidget(field);
  return box;
}

QHBoxLayout* beside(QWidget* left, QWidget* right) {
  auto* row = new QHBoxLayout;
  row->setSpacing(8);
  row->addWidget(left, 1);
  row->addWidget(right, 1);
  return row;
}

}  // namespace

ModeButton::ModeButton(const QString& mode, QWidget* parent) : PaintedButton(parent) {
  setText(mode);
  setCheckable(true);
  setAccessibleName(mode);
  setFixedHeight(26);
}

QSize ModeButton::sizeHint() const {
  return {QFontMetrics(type_font(Type::control_chosen)).horizontalAdvance(text()) + 14, 26};
}

void ModeButton::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setPen(isChecked() ? t.water : t.hairStrong);
  p.setBrush(isChecked() ? t.waterTint : t.sheet);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
  if (shows_focus()) {
    p.setPen(QPen(t.water, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 5, 5);
  }
  p.setFont(type_font(isChecked() ? Type::control_chosen : Type::control));
  p.setPen(isChecked() ? t.water : t.mute);
  p.drawText(rect(), Qt::AlignCenter, text());
}

QLineEdit* DeviceForm::add_field(const QString& label, const QString& example) {
  auto* edit = new QLineEdit;
  edit->setFixedHeight(28);
  edit->setFont(type_font(Type::body));
  edit->setAccessibleName(label);
  edit->setPlaceholderText(example);
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, label] {
    if (edit->isModified()) keep(label);
  });
  return edit;
}

DeviceForm::DeviceForm(QWidget* parent) : Card(parent) {
  setAccessibleName(tr("What it is"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 12, 16, 14);
  column->setSpacing(7);
  auto* head = new QHBoxLayout;
  head->addWidget(new Words(tr("What it is"), Type::heading));
  head->addStretch();
  head->addWidget(new Words(tr("kept as typed"), Type::label, Tone::mute));
  column->addLayout(head);
  name_ = add_field(tr("Name"), tr("Ruff 23"));
  serial_ = add_field(tr("Serial"), tr("no. 0077"));
  column->addLayout(beside(labelled(tr("Name"), name_), labelled(tr("Serial"), serial_)));
  kind_ = add_field(tr("Kind"), tr("Amplifier, 1296 MHz"));
  QStringList kinds;
  for (const DeviceKind& k : device_kinds()) kinds << qt_text(std::string(k.name));
  complete_with(kind_, kinds);
  auto* kind_box = labelled(tr("Kind"), kind_);
  suggests_ = new Words({}, Type::label, Tone::mute);
  suggests_->setWordWrap(true);
  kind_box->layout()->addWidget(suggests_);
  column->addWidget(kind_box);
  works_on_ = add_field(tr("Works on"), tr("1240 to 1300 MHz"));
  column->addWidget(labelled(tr("Works on"), works_on_));
  auto* modes = new QWidget;
  auto* mode_row = new QHBoxLayout(modes);
  mode_row->setContentsMargins(0, 0, 0, 0);
  mode_row->setSpacing(3);
  for (const char* mode : kModes) {
    auto* button = new ModeButton(QString(mode));
    connect(button, &QAbstractButton::clicked, this, [this] { keep(tr("Modes")); });
    mode_row->addWidget(button);
    modes_.push_back(button);
  }
  mode_row->addStretch();
  column->addWidget(labelled(tr("Modes"), modes));
  supply_ = add_field(tr("Supply"), tr("28 V, 5 A"));
  most_drive_ = new QuantityField(tr("Drive, at most"), Quantity::power, QuantityField::bare_box);
  most_drive_->edit()->setFixedHeight(28);
  most_drive_->set_placeholder(tr("5 W"));
  connect(most_drive_, &QuantityField::entered, this, [this] { keep(tr("Drive, at most")); });
  connect(most_drive_, &QuantityField::cleared, this, [this] { keep(tr("Drive, at most")); });
  drive_box_ = labelled(tr("Drive, at most"), most_drive_);
  column->addLayout(beside(labelled(tr("Supply"), supply_), drive_box_));
  high_voltage_ = new ModeButton(tr("Mains or high voltage inside"));
  connect(high_voltage_, &QAbstractButton::clicked, this, [this] { keep(tr("High voltage")); });
  column->addWidget(high_voltage_, 0, Qt::AlignLeft);
  note_ = new QPlainTextEdit;
  note_->setFixedHeight(48);
  note_->setTabChangesFocus(true);
  note_->setAccessibleName(tr("Note"));
  note_->setPlaceholderText(tr("What to remember about it"));
  note_->installEventFilter(this);
  column->addWidget(labelled(tr("Note"), note_));
  photo_ = new QLabel;
  photo_->setAccessibleName(tr("Photo"));
  photo_->setAlignment(Qt::AlignCenter);
  column->addWidget(photo_);
  photo_link_ = new PushButton(tr("Add a photo"), ButtonRank::link);
  connect(photo_link_, &QAbstractButton::clicked, this, &DeviceForm::photo_asked);
  column->addWidget(photo_link_, 0, Qt::AlignLeft);
}

void DeviceForm::set_device(const Device& device, const QPixmap& photo, bool can_edit) {
  const bool is_other = device.id != device_.id;
  device_ = device;
  is_filling_ = true;
  // What is being typed stays, unless it belongs to another device.
  const auto fill = [&](QLineEdit* edit, const std::string& text) {
    if (is_other || !edit->isModified()) edit->setText(qt_text(text));
    if (is_other) edit->setModified(false);
    edit->setReadOnly(!can_edit);
  };
  fill(name_, device.name);
  fill(serial_, device.serial);
  fill(kind_, device.kind);
  fill(works_on_, device.facts.works_on);
  fill(supply_, device.facts.supply);
  most_drive_->set_typed(qt_text(device.facts.most_drive), is_other);
  most_drive_->setEnabled(can_edit);
  for (ModeButton* button : modes_) {
    const auto& on = device.facts.modes;
    button->setChecked(std::find(on.begin(), on.end(), button->text().toStdString()) != on.end());
    button->setEnabled(can_edit);
  }
  high_voltage_->setChecked(device.facts.has_high_voltage);
  high_voltage_->setEnabled(can_edit);
  if (is_other || !note_->document()->isModified()) {
    note_->setPlainText(qt_text(device.note));
    note_->document()->setModified(false);
  }
  note_->setReadOnly(!can_edit);
  photo_->setVisible(!photo.isNull());
  if (!photo.isNull())
    photo_->setPixmap(
        photo.scaled(QSize(width() > 100 ? width() - 32 : 230, kPhotoHeight) * devicePixelRatioF(),
                     Qt::KeepAspectRatio, Qt::SmoothTransformation));
  photo_link_->setText(photo.isNull() ? tr("Add a photo") : tr("Replace the photo"));
  photo_link_->setEnabled(can_edit);
  show_kind();
  is_filling_ = false;
}

/// A receiver takes no drive; nor does what nothing is known of need the question hidden.
void DeviceForm::show_kind() {
  const DeviceKind* kind = find_device_kind(kind_->text().toStdString());
  suggests_->setText(kind == nullptr ? tr("its kind suggests lines and tests")
                                     : tr("%1: suggests %2 lines and %3 tests")
                                           .arg(qt_text(std::string(kind->name)))
                                           .arg(usual_lines(*kind).size())
                                           .arg(kind->tests.size()));
  const bool takes_drive =
      kind == nullptr || kind->name == "Amplifier" || kind->name == "Transverter";
  drive_box_->setVisible(takes_drive);
}

Device DeviceForm::device() const {
  Device d = device_;
  d.name = name_->text().trimmed().toStdString();
  d.serial = serial_->text().trimmed().toStdString();
  d.kind = kind_->text().trimmed().toStdString();
  d.note = note_->toPlainText().trimmed().toStdString();
  d.facts.works_on = works_on_->text().trimmed().toStdString();
  d.facts.supply = supply_->text().trimmed().toStdString();
  d.facts.most_drive = most_drive_->typed().trimmed().toStdString();
  const auto watts = most_drive_->value();
  d.facts.most_drive_dbm =
      watts && *watts > 0.0 ? std::optional(to_dbm(Watt{*watts}).value) : std::nullopt;
  d.facts.modes.clear();
  for (const ModeButton* button : modes_)
    if (button->isChecked()) d.facts.modes.push_back(button->text().toStdString());
  d.facts.has_high_voltage = high_voltage_->isChecked();
  return d;
}

void DeviceForm::keep(const QString& what) {
  if (is_filling_) return;
  const Device now = device();
  if (now.name.empty()) {
    name_->setText(qt_text(device_.name));
    name_->setModified(false);
    emit refused(tr("A device needs a name"), tr("Type one, such as Ruff 23"));
    return;
  }
  for (QLineEdit* edit : {name_, serial_, kind_, works_on_, supply_}) edit->setModified(false);
  note_->document()->setModified(false);
  const bool is_same = now.name == device_.name && now.serial == device_.serial &&
                       now.kind == device_.kind && now.note == device_.note &&
                       now.facts == device_.facts;
  show_kind();
  if (!is_same) emit changed(what, now);
}

void DeviceForm::flush() {
  if (device_.id != 0 && !note_->isReadOnly()) keep(tr("What it is"));
}

bool DeviceForm::eventFilter(QObject* watched, QEvent* event) {
  if (watched == note_ && event->type() == QEvent::FocusOut && note_->document()->isModified())
    keep(tr("Note"));
  return Card::eventFilter(watched, event);
}

}  // namespace heron
