// Every main view on small and large screens: nothing is cut, covered or off the window. Runs at
// two scale factors.
#include <QProcess>
#include <QScrollArea>
#include <QScrollBar>
#include <filesystem>
#include <set>

#include "app/widget/card.h"
#include "app/widget/chip.h"
#include "app/widget/floating_card.h"
#include "app/widget/push_button.h"
#include "app/widget/segmented.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace sizes_test {
namespace {

constexpr QSize kSizes[] = {{1024, 700}, {1200, 700}, {1280, 720},  {1280, 800},
                            {1366, 768}, {1440, 900}, {1920, 1080}, {2560, 1440}};

QString name_of(const QWidget& w) {
  QString text;
  if (const auto* label = qobject_cast<const QLabel*>(&w)) text = label->text();
  if (const auto* button = qobject_cast<const QAbstractButton*>(&w)) text = button->text();
  return QString("%1 \u201c%2\u201d")
      .arg(w.metaObject()->className(), text.isEmpty() ? w.accessibleName() : text);
}

/// What shows words of its own, where it can be seen.
std::vector<const QWidget*> words_of(const QWidget& window) {
  std::vector<const QWidget*> all;
  for (const QWidget* w : window.findChildren<QWidget*>()) {
    if (!w->isVisible() || w->visibleRegion().isEmpty() || w->window() != &window) continue;
    const auto* label = qobject_cast<const QLabel*>(w);
    if ((label != nullptr && !label->text().isEmpty()) ||
        qobject_cast<const QAbstractButton*>(w) != nullptr ||
        qobject_cast<const QLineEdit*>(w) != nullptr)
      all.push_back(w);
  }
  return all;
}

QRect place_of(const QWidget& w) {
  return {w.mapTo(w.window(), QPoint()), w.size()};
}

/// Inside a scroll area the rest can be scrolled to.
bool is_scrolled(const QWidget& w) {
  for (const QWidget* p = w.parentWidget(); p != nullptr; p = p->parentWidget())
    if (qobject_cast<const QAbstractScrollArea*>(p) != nullptr) return true;
  return false;
}

/// What has less room than its words need.
bool is_cut(const QWidget& w) {
  if (const auto* label = qobject_cast<const QLabel*>(&w)) {
    // What is elided says all of it in its tool tip.
    if (label->text().isEmpty() ||
        (label->property("elides").toBool() && !label->toolTip().isEmpty()))
      return false;
    return label->wordWrap()
               ? label->heightForWidth(label->width()) > label->height() + 1
               : label->fontMetrics().horizontalAdvance(label->text()) > label->width() + 1;
  }
  const bool has_words = dynamic_cast<const PushButton*>(&w) != nullptr ||
                         qobject_cast<const Segmented*>(&w) != nullptr;
  return has_words && w.sizeHint().width() > w.width() + 1;
}

/// Everything of a view that is cut, covered or off the window.
QStringList faults_of(const QWidget& window) {
  QStringList faults;
  const auto words = words_of(window);
  if (words.size() < 8) faults << "hardly anything is shown";
  for (const QWidget* w : words) {
    if (!is_scrolled(*w) && !window.rect().contains(place_of(*w)))
      faults << "off the window: " + name_of(*w);
    if (is_cut(*w)) faults << "cut: " + name_of(*w);
  }
  for (const Segmented* choice : window.findChildren<Segmented*>())
    if (choice->isVisible() && is_cut(*choice)) faults << "cut: " + name_of(*choice);
  for (std::size_t i = 0; i < words.size(); ++i) {
    for (std::size_t k = i + 1; k < words.size(); ++k) {
      const QWidget& a = *words[i];
      const QWidget& b = *words[k];
      if (a.isAncestorOf(&b) || b.isAncestorOf(&a)) continue;
      // A card that lies over the page covers what is below it.
      if (a.parentWidget() != b.parentWidget()) continue;
      const QRect both = place_of(a) & place_of(b);
      if (both.width() >= 2 && both.height() >= 2)
        faults << name_of(a) + " lies over " + name_of(b);
    }
  }
  // What holds words may not be laid over its neighbour either.
  for (const QWidget* card : window.findChildren<QWidget*>()) {
    if (!card->isVisible() || card->window() != &window ||
        dynamic_cast<const Card*>(card) == nullptr)
      continue;
    for (const QWidget* other : window.findChildren<QWidget*>()) {
      if (other == card || !other->isVisible() || other->parentWidget() != card->parentWidget() ||
          dynamic_cast<const FloatingCard*>(other) != nullptr ||
          dynamic_cast<const FloatingCard*>(card) != nullptr ||
          dynamic_cast<const Card*>(other) == nullptr)
        continue;
      const QRect both = place_of(*card) & place_of(*other);
      if (card < other && both.width() >= 2 && both.height() >= 2)
        faults << "card " + name_of(*card) + " lies over " + name_of(*other);
    }
  }
  return faults;
}

}  // namespace

class SizesTest : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  std::unique_ptr<MainWindow> window_;

  QStringList faults_;

  void look_at_all_sizes(const QString& view) {
    for (const QSize& size : kSizes) {
      window_->resize(size);
      for (int i = 0; i < 3; ++i) QCoreApplication::processEvents();
      if (window_->size() != size)
        faults_
            << QString("%1 does not become %2 x %3").arg(view).arg(size.width()).arg(size.height());
      for (const QString& fault : faults_of(*window_))
        faults_ << QString("%1 at %2 x %3: %4")
                       .arg(view)
                       .arg(size.width())
                       .arg(size.height())
                       .arg(fault);
    }
  }
  void verify_none() {
    for (const QString& fault : faults_) qWarning("%s", qPrintable(fault));
    QCOMPARE(faults_.size(), 0);
  }

 private slots:
  void initTestCase() {
    QVERIFY(prepare_window_tests("even-heron-sizes-test"));
    QSettings().clear();
    const QString shack = folder_.filePath("demo");
    if (const QString made = qEnvironmentVariable("HERON_DEMO_SHACK"); !made.isEmpty()) {
      std::filesystem::copy(made.toStdString(), shack.toStdString(),
                            std::filesystem::copy_options::recursive);
    } else {
      QProcess make;
      make.start(HERON_MAKE_DEMO, {shack});
      QVERIFY(make.waitForFinished(200000));
      QCOMPARE(make.exitCode(), 0);
    }
    window_ = std::make_unique<MainWindow>();
    QVERIFY(window_->open_shack(shack));
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
  }
  void init() { faults_.clear(); }
  void cleanupTestCase() { window_.reset(); }

  void the_start_page_fits() {
    MainWindow first;
    QSettings().clear();
    first.show();
    for (const QSize& size : kSizes) {
      first.resize(size);
      for (int i = 0; i < 3; ++i) QCoreApplication::processEvents();
      QVERIFY2(faults_of(first).isEmpty(), qPrintable(faults_of(first).join("; ")));
    }
  }

  void the_shack_and_the_bench_fit() {
    window_->show_shack();
    look_at_all_sizes("shack");
    window_->show_bench();
    look_at_all_sizes("bench");
    for (const Device& d : devices(window_->session().shack())) {
      window_->show_device(d.id);
      look_at_all_sizes("card of " + QString::fromStdString(d.name));
    }
    window_->show_device(0);
    look_at_all_sizes("a new card");
    verify_none();
  }

  /// Where a table is scrolled sideways its first column stays, with the same rows.
  void the_first_column_stays() {
    window_->resize(1024, 700);
    window_->show_shack();
    QCoreApplication::processEvents();
    FigureTable& matrix = *window_->shack_view()->matrix();
    const auto pinned = [&] { return matrix.findChild<QTableView*>("pinned"); };
    QVERIFY(pinned() != nullptr && !pinned()->isVisible());
    QVERIFY(matrix.horizontalScrollBar()->maximum() > 300);
    matrix.horizontalScrollBar()->setValue(300);
    QVERIFY(pinned()->isVisible());
    QCOMPARE(pinned()->width(), matrix.columnWidth(0));
    QCOMPARE(pinned()->rowHeight(1), matrix.rowHeight(1));
    // A press on a name chooses its row in both; what was scrolled stays.
    const QModelIndex name = matrix.model()->index(2, 0);
    QTest::mouseClick(pinned()->viewport(), Qt::LeftButton, {},
                      pinned()->visualRect(name).center());
    QCOMPARE(matrix.chosen_row(), 2);
    // It is opaque: nothing of the columns below shows through.
    const QImage shown = window_->grab().toImage();
    const QPoint at = pinned()->mapTo(window_.get(), QPoint(pinned()->width() - 6, 10));
    QCOMPARE(shown.pixelColor(at * shown.devicePixelRatioF()).name(),
             theme_of(window_.get()).sheet.name());
    matrix.horizontalScrollBar()->setValue(0);
    QVERIFY(!pinned()->isVisible());
  }

  /// What somebody moves to is in sight: no cell stays under the first column, and a device of
  /// which nothing is in sight shows its first figure.
  void what_is_chosen_is_in_sight() {
    window_->resize(1024, 700);
    window_->show_shack();
    FigureTable& matrix = *window_->shack_view()->matrix();
    const QAbstractItemModel& model = *matrix.model();
    const int last = model.columnCount() - 2;
    for (const int from : {last, 1}) {
      matrix.setCurrentIndex(model.index(1, from));
      QVERIFY(matrix.is_in_sight(from));
      for (int i = 1; i < last; ++i) {
        QTest::keyClick(&matrix, from == last ? Qt::Key_Left : Qt::Key_Right);
        QVERIFY(matrix.is_in_sight(matrix.currentIndex().column()));
      }
    }
    matrix.horizontalScrollBar()->setValue(0);
    const int before = matrix.horizontalScrollBar()->value();
    for (int row = 0; row < model.rowCount(); ++row) {
      matrix.horizontalScrollBar()->setValue(0);
      matrix.setCurrentIndex(model.index(row, 0));
      bool has_any = false;
      for (int c = 1; c <= last; ++c)
        has_any =
            has_any || (matrix.is_in_sight(c) && !model.index(row, c).data().toString().isEmpty());
      QVERIFY2(has_any, qPrintable(model.index(row, 0).data().toString()));
    }
    QVERIFY(matrix.horizontalScrollBar()->value() > before);
    matrix.horizontalScrollBar()->setValue(0);
  }

  /// One test of each kind, and its hook-up.
  void every_kind_of_test_fits() {
    const Shack& shack = window_->session().shack();
    std::set<std::string> seen;
    for (const Device& d : devices(shack))
      for (const Evaluation& e : evaluations(shack, d.id))
        for (const Test& t : tests(shack, e.id)) {
          if (!seen.insert(t.characteristic).second) continue;
          window_->show_evaluation(e.id, t.id);
          window_->session().settle();
          look_at_all_sizes(QString::fromStdString(t.title));
        }
    QVERIFY(seen.size() >= 18U);
    verify_none();
  }

  void the_hookup_fits() {
    const Shack& shack = window_->session().shack();
    for (const Device& d : devices(shack))
      for (const Evaluation& e : evaluations(shack, d.id))
        for (const Test& t : tests(shack, e.id)) {
          if (t.hookup_id == 0) continue;
          window_->show_evaluation(e.id, t.id);
          window_->show_hookup(t.hookup_id, t.id);
          look_at_all_sizes("hook-up");
          verify_none();
          return;
        }
    QFAIL("the demo has no hook-up");
  }
};

HERON_WINDOW_TEST(SizesTest)

}  // namespace sizes_test

#include "sizes_test.moc"
