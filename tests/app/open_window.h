#pragma once

#include <QApplication>
#include <QLabel>
#include <QLineEdit>
#include <QSettings>
#include <QStandardPaths>
#include <QtTest>

#include "app/shell/main_window.h"
#include "app/theme/dress.h"
#include "app/widget/ask.h"
#include "tests/store/made_shack.h"

namespace heron::testing {

/// Once a program: settings apart from the user's own, fonts and theme as in real life.
inline bool prepare_window_tests(const QString& organization) {
  QStandardPaths::setTestModeEnabled(true);
  QApplication::setOrganizationName(organization);
  return dress(*qApp);
}

/// The real window, 1280 x 800, with a made shack open and shown.
struct OpenWindow {
  MadeShack made;
  std::unique_ptr<MainWindow> window;

  OpenWindow() {
    QSettings().clear();
    made.shack.reset();
    reopen();
  }
  /// As if the program had been left and started again.
  void reopen() {
    window.reset();
    window = std::make_unique<MainWindow>();
    QVERIFY(window->open_shack(made.folder.path()));
    window->resize(1280, 800);
    window->show();
    QVERIFY(QTest::qWaitForWindowExposed(window.get()));
  }
};

/// Types into the next question, presses Return, and leaves it if it stays open; then `hint` is
/// what it said. `then` prepares for the question that follows at once.
inline void answer_next(const QString& text, QString* hint = nullptr,
                        const std::function<void()>& then = {}) {
  QTimer::singleShot(50, qApp, [text, hint, then] {
    auto* dialog = qobject_cast<AskDialog*>(QApplication::activeModalWidget());
    QVERIFY(dialog != nullptr);
    auto* edit = dialog->findChild<QLineEdit*>();
    edit->setText(text);
    if (then) then();
    QTest::keyClick(edit, Qt::Key_Return);
    if (!dialog->isVisible()) return;
    if (hint != nullptr) {
      for (const QLabel* label : dialog->findChildren<QLabel*>()) *hint += label->text() + "\n";
    }
    dialog->reject();
  });
}

}  // namespace heron::testing
