// Renders every main view from a demo shack, both themes, at 1280 x 800.
#include <QApplication>
#include <QDir>
#include <QSettings>
#include <QStandardPaths>
#include <QTest>
#include <cstdio>

#include "app/sheet/uncertainty_card.h"
#include "app/shell/main_window.h"
#include "app/theme/dress.h"

namespace {

using namespace heron;

void settle() {
  for (int i = 0; i < 6; ++i) {
    QApplication::processEvents();
    QTest::qWait(15);
  }
}

bool take(QWidget& window, const QDir& folder, const QString& name) {
  settle();
  const bool ok = window.grab().save(folder.filePath(name + ".png"));
  if (!ok) std::fprintf(stderr, "could not write %s\n", qPrintable(folder.filePath(name)));
  return ok;
}

}  // namespace

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  QApplication application(argc, argv);
  QApplication::setOrganizationName("even-heron-screenshots");
  if (argc < 3 || !dress(application)) {
    std::fprintf(stderr, "usage: take-screenshots SHACK FOLDER [REPORT.pdf]\n");
    return 2;
  }
  QSettings().clear();
  MainWindow window;
  if (!window.open_shack(argv[1])) return 3;
  window.resize(1280, 800);
  QCursor::setPos(1005, 400);  // no hover in the pictures
  window.show();
  const QDir folder(argv[2]);
  bool ok = true;
  Id evaluation = 0;
  for (const Device& d : devices(window.session().shack())) {
    if (d.name == "Reedling 30")
      evaluation = evaluations(window.session().shack(), d.id).front().id;
  }
  for (const bool dark : {false, true}) {
    window.set_dark(dark);
    const QString theme = dark ? "dark" : "light";
    window.show_shack();
    ok = take(window, folder, "shack-" + theme) && ok;
    window.show_evaluation(evaluation, tests(window.session().shack(), evaluation).front().id);
    window.sheet()->choose_step(0);
    ok = take(window, folder, "two-tone-" + theme) && ok;
  }
  window.set_dark(false);
  const auto course = tests(window.session().shack(), evaluation);
  window.show_evaluation(evaluation, course.back().id);
  ok = take(window, folder, "two-tone-empty") && ok;
  window.show_evaluation(evaluation, course.front().id);
  window.sheet()->show_products(true);
  emit window.sheet()->plot()->product_chosen(3, true);
  ok = take(window, folder, "products") && ok;
  window.sheet()->show_products(false);
  emit window.sheet()->verdict()->uncertainty_asked();
  settle();
  if (QWidget* card = QApplication::activePopupWidget()) {
    QPixmap picture = window.grab();
    QPainter painter(&picture);
    painter.drawPixmap(window.mapFromGlobal(card->pos()), card->grab());
    painter.end();
    ok = picture.save(folder.filePath("uncertainty.png")) && ok;
    card->close();
  } else {
    ok = false;
  }
  if (argc > 3) ok = window.export_to(argv[3]) && ok;
  return ok ? 0 : 3;
}
