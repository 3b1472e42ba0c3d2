#include <QApplication>
#include <QSettings>
#include <QStandardPaths>

#include "app/shell/main_window.h"
#include "app/theme/dress.h"

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  QApplication::setApplicationName("Even Heron");
  QApplication::setOrganizationName("even-heron");
  QApplication::setApplicationVersion(HERON_VERSION);
  heron::dress(application, QSettings().value("window/night", false).toBool());

  heron::MainWindow window;
  QStringList arguments = QApplication::arguments();
  const bool simulate = arguments.removeAll("--simulate") > 0;
  if (arguments.size() > 1) {
    window.open_shack(arguments[1]);
  } else {
    const QString usual =
        QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/shack";
    window.open_or_create_shack(QSettings().value("shack/folder", usual).toString(),
                                QObject::tr("My bench"));
  }
  // The instruments of a demo answer at once; the bench leads back to real ones.
  if (simulate) window.live_bench()->use_simulation(true);
  window.show();
  return QApplication::exec();
}
