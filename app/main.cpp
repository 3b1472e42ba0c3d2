#include <QApplication>
#include <QSettings>
#include <QStandardPaths>
#include <QStyleFactory>

#include "app/shell/main_window.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  QApplication::setApplicationName("Even Heron");
  QApplication::setOrganizationName("even-heron");
  QApplication::setApplicationVersion(HERON_VERSION);
  QApplication::setStyle(QStyleFactory::create("Fusion"));
  heron::load_fonts();
  const bool night = QSettings().value("window/night", false).toBool();
  heron::apply_theme(application, night ? heron::dark_theme() : heron::light_theme());

  heron::MainWindow window;
  const QStringList arguments = QApplication::arguments();
  if (arguments.size() > 1) {
    window.open_shack(arguments[1]);
  } else {
    const QString usual =
        QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/shack";
    window.open_or_create_shack(QSettings().value("shack/folder", usual).toString(),
                                QObject::tr("My bench"));
  }
  window.show();
  return QApplication::exec();
}
