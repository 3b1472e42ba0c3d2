// What a screen reader meets in every main view: each control has a role and a name.
#include <QAccessible>
#include <QSet>

#include "core/method/method_table.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;
using heron::testing::OpenWindow;

namespace accessible_test {
namespace {

/// Roles that somebody acts on.
bool is_control(QAccessible::Role role) {
  switch (role) {
    case QAccessible::PushButton:
    case QAccessible::CheckBox:
    case QAccessible::RadioButton:
    case QAccessible::EditableText:
    case QAccessible::ComboBox:
    case QAccessible::ButtonMenu:
    case QAccessible::Slider:
    case QAccessible::SpinBox:
    case QAccessible::Table:
    case QAccessible::Tree:
    case QAccessible::List:
    case QAccessible::Chart:
    case QAccessible::Graphic:
    case QAccessible::Grouping:
    case QAccessible::Dialog:
      return true;
    default:
      return false;
  }
}

struct Walked {
  int controls = 0;
  QStringList nameless;
};

/// Tables and lists are one control each; their cells are told by their models.
void walk(QAccessibleInterface* at, Walked& found, int depth = 0) {
  if (at == nullptr || !at->isValid() || depth > 40) return;
  const QAccessible::State state = at->state();
  if (state.invisible && depth > 0) return;
  const QAccessible::Role role = at->role();
  if (is_control(role)) {
    ++found.controls;
    const QString name = at->text(QAccessible::Name).trimmed();
    if (name.isEmpty())
      found.nameless << QString("%1 %2").arg(
          at->object() != nullptr ? at->object()->metaObject()->className() : "?",
          at->object() != nullptr && at->object()->parent() != nullptr
              ? at->object()->parent()->metaObject()->className()
              : "");
  } else if (state.focusable && role == QAccessible::Client) {
    found.nameless << QString("no role: %1").arg(at->object()->metaObject()->className());
  }
  if (role == QAccessible::Table || role == QAccessible::List || role == QAccessible::Tree) return;
  for (int i = 0; i < at->childCount(); ++i) walk(at->child(i), found, depth + 1);
}

}  // namespace

class AccessibleTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;
  MainWindow& window() { return *open_->window; }

  void verify_view(const char* view, int at_least) {
    QCoreApplication::processEvents();
    Walked found;
    walk(QAccessible::queryAccessibleInterface(&window()), found);
    QVERIFY2(found.nameless.isEmpty(),
             qPrintable(QString(view) + ": " + found.nameless.join("; ")));
    QVERIFY2(found.controls >= at_least,
             qPrintable(QString("%1: %2 controls").arg(view).arg(found.controls)));
  }

 private slots:
  void initTestCase() {
    QVERIFY(heron::testing::prepare_window_tests("even-heron-accessible-test"));
    QAccessible::setActive(true);
    open_ = std::make_unique<OpenWindow>();
  }
  void cleanupTestCase() { open_.reset(); }

  void every_view_is_told() {
    window().show_shack();
    verify_view("shack", 8);
    window().show_bench();
    verify_view("bench", 8);
    window().show_device(open_->made.device_id);
    verify_view("device card", 18);
    window().show_device(0);
    verify_view("a new card", 16);
    window().show_evaluation(open_->made.evaluation_id, open_->made.test_id);
    window().session().settle();
    verify_view("sheet", 15);
    window().show_hookup(0, open_->made.test_id);
    verify_view("hook-up", 12);
    window().open_level_desk();
    verify_view("level converter", 14);
    window().open_level_desk();
  }

  /// Every kind of test has its own fields and cards.
  void every_kind_of_sheet_is_told() {
    for (const Characteristic& c : characteristics()) {
      Test t;
      t.evaluation_id = open_->made.evaluation_id;
      t.characteristic = c.id;
      t.title = c.test;
      const Id id = add_test(window().session().shack(), t);
      window().show_evaluation(open_->made.evaluation_id, id);
      window().session().settle();
      verify_view(std::string(c.id).c_str(), 10);
    }
  }

  /// F6 goes round and is seen: whoever has the focus shows a ring or its row.
  void f6_goes_round() {
    window().show_device(open_->made.device_id);
    QSet<QWidget*> seen;
    for (int i = 0; i < 4; ++i) {
      heron::testing::press(window(), &window(), Qt::Key_F6, Qt::NoModifier);
      QVERIFY(QApplication::focusWidget() != nullptr);
      seen.insert(QApplication::focusWidget());
    }
    QVERIFY2(seen.size() >= 3, qPrintable(QString::number(seen.size())));
    QVERIFY(seen.contains(window().device_view()->lines()));
    QVERIFY(seen.contains(window().device_view()->story()));
  }
};

HERON_WINDOW_TEST(AccessibleTest)

}  // namespace accessible_test

#include "accessible_test.moc"
