#pragma once

#include <QObject>
#include <optional>

#include "app/widget/chip.h"
#include "core/judge/mask.h"

namespace heron {

class TextCard;

/// The mask of a test: which one is in force, another one, its own text, to and from files.
class MaskMenu : public QObject {
  Q_OBJECT
 public:
  /// The chip says which mask it is, and opens the menu.
  explicit MaskMenu(Chip* chip, QObject* parent = nullptr);
  void set_mask(const Mask& mask, bool can_edit);
  const Mask& mask() const { return mask_; }
  void edit();
  TextCard* card() { return card_; }

 signals:
  /// Nothing: the usual one; without segments: none at all.
  void chosen(const std::optional<heron::Mask>& mask);
  void failed(const QString& what, const QString& what_to_do);
  void told(const QString& what);

 private:
  void fill_menu(bool can_edit);
  void load();
  void save();
  Chip* chip_;
  TextCard* card_ = nullptr;
  Mask mask_;
};

}  // namespace heron
