#pragma once

#include <QApplication>
#include <QLabel>
#include <QLineEdit>
#include <QSettings>
#include <QStandardPaths>
#include <QtTest>

#include "app/shell/main_window.h"
#include "app/shell/plan_dialog.h"
#include "app/shell/window_files.h"
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

/// A key on a widget; shortcuts of the window need it active, which a question may have taken.
inline void press(QWidget& window, QWidget* on, int key, Qt::KeyboardModifiers modifiers) {
  if (on == &window && !window.isActiveWindow()) {
    window.activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(&window));
  }
  QTest::keyClick(on, static_cast<Qt::Key>(key), modifiers);
}

/// Replaces what stands in a field, as a person would, and presses Return.
inline void type_into(QLineEdit* edit, const QString& text) {
  edit->setFocus();
  edit->selectAll();
  QTest::keyClick(edit, Qt::Key_Delete);
  QTest::keyClicks(edit, text);
  QTest::keyClick(edit, Qt::Key_Return);
}

/// Types into the next question, presses Return, and leaves it if it stays open; then `hint` is
/// what it said. `then` prepares for the question that follows at once.
inline void answer_fields(const QStringList& texts, QString* hint = nullptr,
                          const std::function<void()>& then = {}) {
  QTimer::singleShot(50, qApp, [texts, hint, then] {
    auto* dialog = qobject_cast<AskDialog*>(QApplication::activeModalWidget());
    QVERIFY(dialog != nullptr);
    const auto edits = dialog->findChildren<QLineEdit*>();
    QCOMPARE(edits.size(), texts.size());
    for (int i = 0; i < edits.size(); ++i) edits[i]->setText(texts[i]);
    if (then) then();
    QTest::keyClick(edits.last(), Qt::Key_Return);
    if (!dialog->isVisible()) return;
    if (hint != nullptr) {
      for (const QLabel* label : dialog->findChildren<QLabel*>()) *hint += label->text() + "\n";
    }
    dialog->reject();
  });
}
inline void answer_next(const QString& text, QString* hint = nullptr,
                        const std::function<void()>& then = {}) {
  answer_fields({text}, hint, then);
}

/// What somebody does with the plan that is asked for next.
inline void plan_next(const std::function<void(PlanDialog&)>& act) {
  QTimer::singleShot(80, qApp, [act] {
    auto* dialog = qobject_cast<PlanDialog*>(QApplication::activeModalWidget());
    if (dialog == nullptr) {
      plan_next(act);
      return;
    }
    act(*dialog);
    if (dialog->isVisible()) dialog->reject();
  });
}

/// Writes the shown evaluation, and waits until that is done; false if nothing is there then.
inline bool exported(MainWindow& window, const QString& path) {
  QFile::remove(path);
  return window.files()->export_to(path) &&
         QTest::qWaitFor([&] { return !window.messages()->is_working(); }, 60000) &&
         QFileInfo::exists(path);
}

/// Says yes to the next question with nothing to type, whenever it comes.
inline void confirm_next() {
  QTimer::singleShot(50, qApp, [] {
    auto* dialog = qobject_cast<AskDialog*>(QApplication::activeModalWidget());
    if (dialog == nullptr) {
      confirm_next();
      return;
    }
    QTest::mouseClick(dialog->findChildren<PushButton*>().last(), Qt::LeftButton);
  });
}

}  // namespace heron::testing
