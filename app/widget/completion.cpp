#include "app/widget/completion.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QLineEdit>

#include "app/theme/fonts.h"

namespace heron {

void complete_with(QLineEdit* edit, const QStringList& words) {
  auto* completer = new QCompleter(words, edit);
  completer->setCaseSensitivity(Qt::CaseInsensitive);
  completer->setFilterMode(Qt::MatchContains);
  completer->popup()->setObjectName("completion");
  completer->popup()->setFont(type_font(Type::body));
  edit->setCompleter(completer);
}

}  // namespace heron
