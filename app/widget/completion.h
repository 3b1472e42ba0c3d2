#pragma once

#include <QStringList>

class QLineEdit;

namespace heron {

/// Offers words while they are typed, by any part of them; anything else may be typed all the same.
void complete_with(QLineEdit* edit, const QStringList& words);

}  // namespace heron
