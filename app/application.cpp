#include "app/application.h"

#include "app/theme/qt_text.h"
#include "core/error.h"

namespace heron {

bool Application::notify(QObject* receiver, QEvent* event) {
  try {
    return QApplication::notify(receiver, event);
  } catch (const InputError& error) {
    qWarning("not caught where it happened: %s", error.what());
    emit went_wrong(qt_text(error.what_happened()), qt_text(error.advice));
  } catch (const std::exception& error) {
    qWarning("not caught where it happened: %s", error.what());
    emit went_wrong(tr("Something unexpected happened, and what was asked for may not be done"),
                    tr("Everything entered so far is on disk; try it again another way"));
  }
  return true;
}

}  // namespace heron
