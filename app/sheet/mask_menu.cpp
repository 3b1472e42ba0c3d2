#include "app/sheet/mask_menu.h"

#include <QFile>
#include <QFileDialog>
#include <nlohmann/json.hpp>

#include "app/theme/qt_text.h"
#include "app/widget/text_card.h"
#include "core/error.h"
#include "core/judge/mask_text.h"
#include "core/read_text.h"

namespace heron {
namespace {

constexpr std::uintmax_t kLargestMaskMb = 1;

}  // namespace

MaskMenu::MaskMenu(Chip* chip, QObject* parent) : QObject(parent), chip_(chip) {}

void MaskMenu::set_mask(const Mask& mask, bool can_edit) {
  mask_ = mask;
  chip_->set_value(mask_.is_none() ? tr("none") : qt_text(mask_.name));
  chip_->setToolTip(mask_.is_none() ? tr("Nothing is judged")
                                    : qt_text(mask_.note.empty() ? mask_text(mask_) : mask_.note));
  fill_menu(can_edit);
}

void MaskMenu::fill_menu(bool can_edit) {
  QMenu* menu = chip_->menu();
  menu->clear();
  const auto offer = [&](const QString& words, auto what) {
    menu->addAction(words, this, what)->setEnabled(can_edit);
  };
  offer(tr("Generic, by power"), [this] { emit chosen(std::nullopt); });
  offer(tr("Edit the mask\u2026"), [this] { edit(); });
  offer(tr("Load a mask file\u2026"), [this] { load(); });
  menu->addAction(tr("Save this mask\u2026"), this, [this] { save(); })
      ->setEnabled(!mask_.is_none());
  offer(tr("No mask"), [this] { emit chosen(Mask{"none", "", {}}); });
}

void MaskMenu::edit() {
  if (card_ == nullptr) {
    card_ = new TextCard(
        tr("Mask"),
        tr("A range a line. P is the carrier\u2019s power in W. The rules of your own licence "
           "count; this is only how they are written down here."),
        tr("Use it"), chip_->window());
    card_->set_reader([this](const QString& text) {
      const Mask mask = parse_mask_text(text.toStdString(), card_->name().toStdString());
      return tr("%1 ranges%2")
          .arg(mask.segments.size())
          .arg(mask.needs_power() ? tr(", by the carrier\u2019s power") : QString());
    });
    connect(card_, &TextCard::accepted, this, [this] {
      const std::string name = card_->name().isEmpty() ? "own mask" : card_->name().toStdString();
      emit chosen(parse_mask_text(card_->text().toStdString(), name));
    });
  }
  card_->set_name(tr("Name"), mask_.is_none() ? tr("own mask") : qt_text(mask_.name));
  card_->set_text(mask_.is_none() ? QStringLiteral("1 MHz to 30 MHz: -43 dBc\n")
                                  : qt_text(mask_text(mask_)));
  card_->adjustSize();
  card_->open_at(chip_->mapTo(chip_->window(), QPoint(0, chip_->height() + 6)));
}

void MaskMenu::load() {
  const QString path = QFileDialog::getOpenFileName(chip_, tr("A mask file"), {},
                                                    tr("Masks (*.json);;All files (*)"));
  if (path.isEmpty()) return;
  try {
    emit chosen(parse_mask(read_text(path.toStdString(), kLargestMaskMb),
                           QFileInfo(path).fileName().toStdString()));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

void MaskMenu::save() {
  QString path = QFileDialog::getSaveFileName(chip_, tr("Save the mask"),
                                              qt_text(mask_.name) + ".json", tr("Masks (*.json)"));
  if (path.isEmpty()) return;
  if (!path.endsWith(".json", Qt::CaseInsensitive)) path += ".json";
  const QByteArray text = QByteArray::fromStdString(to_json(mask_).dump(2) + "\n");
  QFile file(path);
  if (file.open(QIODevice::WriteOnly) && file.write(text) == text.size() && file.flush())
    emit told(tr("Saved %1").arg(path));
  else
    emit failed(tr("%1 could not be written: %2").arg(path, file.errorString()),
                tr("Choose another folder or name"));
}

}  // namespace heron
