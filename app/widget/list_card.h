#pragma once

#include "app/widget/floating_card.h"

namespace heron {

/// A card that lists things to be read one by one, such as why several files could not be used.
/// The text can be selected and copied; Esc closes it, and it deletes itself.
class ListCard : public FloatingCard {
  Q_OBJECT
 public:
  ListCard(const QString& heading, const QString& explanation, const QStringList& rows,
           QWidget* window);
  QStringList rows() const { return rows_; }

 private:
  QStringList rows_;
};

}  // namespace heron
