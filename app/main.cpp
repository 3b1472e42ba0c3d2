#include <QApplication>
#include <QSettings>
#include <QStandardPaths>

#include "app/application.h"
#include "app/shell/main_window.h"
#include "app/shell/window_files.h"
#include "app/theme/dress.h"

int main(int argc, char** argv) {
  heron::Application application(argc, argv);
  QApplication::setApplicationName("Even Heron");
  QApplication::setOrganizationName("even-heron");
  QApplication::setApplicationVersion(HERON_VERSION);
  heron::dress(application, QSettings().value("window/night", false).toBool());

  heron::MainWindow window;
  QObject::connect(&application, &heron::Application::went_wrong, window.messages(),
                   [&window](const QString& what, const QString& what_to_do) {
                     window.messages()->complain(what, what_to_do);
                   });
  QStringList arguments = QApplication::arguments();
  const bool simulate = arguments.removeAll("--simulate") > 0;
  if (arguments.size() > 1) {
    window.open_shack(arguments[1]);
  } else {
    const QString usual =
        QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/shack";
    window.files()->open_last_shack(usual);
  }
  // The instruments of a demo answer at once; the bench leads back to real ones.
  if (simulate) window.live_instruments()->use_simulation(true);
  window.show();
  return QApplication::exec();
}
