// What is drawn of long logs, of states and of the needle: looked at pixel by pixel.
#include <QSignalSpy>
#include <QtTest>

#include "app/plot/plot_view.h"
#include "app/theme/theme.h"
#include "app/widget/needle_view.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace log_marks_test {

class LogMarksTest : public QObject {
  Q_OBJECT

  static Plot plot_of(std::size_t count, std::size_t outlier) {
    auto all = std::make_shared<Dots>();
    for (std::size_t i = 0; i < count; ++i) {
      all->x.push_back(100.0 * static_cast<double>(i) / static_cast<double>(count));
      all->y.push_back(i == outlier ? 8.0F : 0.01F * static_cast<float>(i % 100));
    }
    Plot plot;
    plot.title = "Error over time";
    plot.x = {"min", "", false, std::pair(0.0, 100.0)};
    PlotPanel panel{{"Error, ppm", "", false, std::pair(-2.0, 10.0)}, {}};
    PlotLayer layer{PlotLayer::Kind::dots, "Readings", 1, false, {}};
    layer.dots = all;
    panel.layers.push_back(layer);
    plot.panels.push_back(panel);
    return plot;
  }

  static QImage drawn(PlotView& view, const Plot& plot) {
    view.resize(760, 320);
    view.set_plot(plot, std::nullopt);
    view.show();
    view.replot(QCustomPlot::rpImmediateRefresh);
    return view.toPixmap(760, 320).toImage();
  }

  /// Pixels near a place of the plot that are not its background.
  static int inked(PlotView& view, const QImage& image, double x, double y, int around) {
    QCPAxisRect* rect = view.axisRect(0);
    const QPoint at = QPointF(rect->axis(QCPAxis::atBottom)->coordToPixel(x),
                              rect->axis(QCPAxis::atLeft)->coordToPixel(y))
                          .toPoint();
    int n = 0;
    for (int dx = -around; dx <= around; ++dx)
      for (int dy = -around; dy <= around; ++dy)
        n += image.pixelColor(at + QPoint(dx, dy)).saturation() > 25 ? 1 : 0;
    return n;
  }

  static Needle needle(double value, Needle::State state = Needle::State::hands_off) {
    Needle n;
    n.state = state;
    n.tolerance = 5.0;
    n.value = value;
    n.readout = QString::number(value, 'f', 1).toStdString();
    n.state_words = "Hands off";
    n.order = "Down 2.5 Hz";
    n.steps = {{"Found", "-6.3 Hz", Needle::StepState::done},
               {"Adjust", "", Needle::StepState::now}};
    n.facts = {{"Original setting", "-6.3 Hz", "3 o'clock"}};
    for (int i = 0; i < 50; ++i) n.history.push_back({-2.0 * i, value, i % 2 == 0});
    n.stretches = {{-100.0, 0.0, false, "hands off"}};
    return n;
  }

  /// Where the dark of the pointer lies on a line across the arc; 0.5 = in the middle.
  static double pointer_at(NeedleView& view, double height = 0.40) {
    const QImage image = view.grab().toImage();
    double sum = 0.0;
    double n = 0.0;
    // Well below the ring, where nothing else is as dark.
    const int y = static_cast<int>(image.height() * height);
    for (int x = 40; x < image.width() - 40; ++x) {
      if (image.pixelColor(x, y).lightness() > 90) continue;
      sum += x;
      n += 1.0;
    }
    return n > 0.0 ? sum / n / image.width() : -1.0;
  }

 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-log-marks-test")); }

  void one_far_off_is_seen_among_few_and_among_many() {
    for (const std::size_t count : {200UL, 300000UL}) {
      PlotView view;
      const std::size_t outlier = count / 2;
      const QImage image = drawn(view, plot_of(count, outlier));
      QVERIFY2(inked(view, image, 50.0, 8.0, 3) >= 2, qPrintable(QString::number(count)));
      QVERIFY(inked(view, image, 20.0, 8.0, 3) == 0);
      QVERIFY(inked(view, image, 30.0, 0.5, 6) > 3);
    }
  }

  void looking_closer_shows_single_readings() {
    PlotView view;
    drawn(view, plot_of(300000, 7));
    QCPAxis* x = view.axisRect(0)->axis(QCPAxis::atBottom);
    x->setRange(10.0, 10.02);  // sixty of them
    const QImage image = view.toPixmap(760, 320).toImage();
    // Not a wall any more: between two there is paper.
    int gaps = 0;
    const int y = static_cast<int>(view.axisRect(0)->axis(QCPAxis::atLeft)->coordToPixel(0.3));
    for (int px = view.axisRect(0)->left() + 2; px < view.axisRect(0)->right() - 2; ++px)
      gaps += image.pixelColor(px, y).saturation() < 30 ? 1 : 0;
    QVERIFY2(gaps > 300, qPrintable(QString::number(gaps)));
  }

  void an_empty_log_and_a_range_beside_it_draw_nothing() {
    PlotView view;
    Plot plot = plot_of(100, 200);
    plot.x.range = std::pair(500.0, 600.0);
    const QImage beside = drawn(view, plot);
    QCOMPARE(inked(view, beside, 550.0, 0.5, 20), 0);
    plot.panels.front().layers.front().dots = std::make_shared<const Dots>();
    drawn(view, plot);
  }

  void lanes_of_states_stand_below_in_their_colours() {
    PlotView view;
    Plot plot = plot_of(50, 60);
    plot.panels.front().states = {
        {"falling", {{0.0, 60.0, "held", Verdict::pass}, {60.0, 100.0, "lost", Verdict::fail}}}};
    const QImage image = drawn(view, plot);
    const QRect area = view.axisRect(0)->rect();
    const Theme& theme = theme_of(&view);
    const int y = area.bottom() + 8;
    QCPAxis* x = view.axisRect(0)->axis(QCPAxis::atBottom);
    const auto colour_at = [&](double at) {
      return image.pixelColor(static_cast<int>(x->coordToPixel(at)), y);
    };
    QCOMPARE(colour_at(10.0), theme.passTint);
    QCOMPARE(colour_at(95.0), theme.failTint);
    // One lane more takes room from the panel, not from the numbers below.
    plot.panels.front().states.push_back({"rising", {{0.0, 100.0, "held", Verdict::pass}}});
    drawn(view, plot);
    QVERIFY(view.axisRect(0)->rect().bottom() < area.bottom() - 15);
  }

  void the_needle_points_where_its_value_is() {
    NeedleView view;
    view.resize(760, 520);
    view.show();
    double last = -1.0;
    for (const double value : {-9.0, -4.0, 0.0, 4.0, 9.0}) {
      view.set_needle(needle(value));
      const double at = pointer_at(view);
      QVERIFY2(at > last, qPrintable(QString("%1: %2").arg(value).arg(at)));
      last = at;
    }
    view.set_needle(needle(0.0));
    QVERIFY(std::abs(pointer_at(view) - 0.5) < 0.01);
    // Off scale it stands at the end, wherever that is.
    view.set_needle(needle(40.0));
    const double end = pointer_at(view);
    view.set_needle(needle(400.0));
    QCOMPARE(pointer_at(view), end);
  }

  void without_a_reading_there_is_no_pointer() {
    NeedleView view;
    view.resize(760, 520);
    view.show();
    view.set_needle(needle(0.0));
    QVERIFY(pointer_at(view) > 0.0);
    view.set_needle(needle(0.0, Needle::State::no_reading));
    QVERIFY(pointer_at(view) < 0.0);
    // Under the tool it is hollow.
    view.set_needle(needle(0.0, Needle::State::tool_on));
    QVERIFY(pointer_at(view) < 0.0);
  }

  void keys_turn_the_hand_and_the_size() {
    NeedleView view;
    view.resize(760, 520);
    view.set_needle(needle(1.0));
    view.show();
    QSignalSpy hand(&view, &NeedleView::hand_turned);
    QSignalSpy plain(&view, &NeedleView::plain_asked);
    QTest::keyClick(&view, Qt::Key_Space);
    QTest::keyClick(&view, Qt::Key_F11);
    QTest::keyClick(&view, Qt::Key_Escape);  // only while it is large
    QCOMPARE(hand.count(), 1);
    QCOMPARE(plain.count(), 1);
    view.set_plain(true);
    QTest::keyClick(&view, Qt::Key_Escape);
    QCOMPARE(plain.count(), 2);
    QVERIFY(pointer_at(view, 0.25) > 0.0);
    // What a screen reader hears changes when it is let go, not at each reading.
    const QString said = view.accessibleName();
    view.set_needle(needle(1.4));
    QCOMPARE(view.accessibleName(), said);
    view.set_needle(needle(1.4, Needle::State::tool_on));
    view.set_needle(needle(2.0));
    QVERIFY(view.accessibleName().contains("2.0"));
  }
};

HERON_WINDOW_TEST(LogMarksTest)

}  // namespace log_marks_test

#include "log_marks_test.moc"
