// The plot of any result under mouse and keyboard: what can be chosen, moved and read.
#include "app/plot/plot_view.h"

#include <QSignalSpy>
#include <QtTest>

#include "core/method/plot_scale.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;

namespace plot_view_test {

namespace {

/// Two steps at 10 and 20 W with a ceiling at 15 W.
Plot power_plot() {
  Plot plot;
  plot.title = "Products over output power";
  plot.x = {"Output", "W PEP", false, std::pair(1.0, 30.0), true};
  PlotPanel panel{{"dB", "", false, std::pair(-70.0, -20.0)}, {}};
  PlotLayer trace{PlotLayer::Kind::trace, "IM3", 1, true, {{10.0, -50.0}, {20.0, -40.0}}};
  trace.is_straight_in_log_x = true;
  for (std::size_t i = 0; i < 2; ++i) trace.points[i].step = i;
  PlotLayer handle{PlotLayer::Kind::handle, "ceiling", 1, true, {{15.0, 0.0}}};
  handle.setting = "ceiling_dbm";
  handle.points.front().word = "W";
  panel.layers = {trace, handle};
  plot.panels.push_back(panel);
  return plot;
}

/// A curve with a pennant at a line of it.
Plot spectrum_plot() {
  auto curve = std::make_shared<Curve>();
  curve->x_start = -100.0;
  curve->x_step = 1.0;
  curve->y.assign(201, -80.0F);
  Plot plot;
  plot.title = "Spectrum";
  plot.step = 0;
  plot.x = {"Frequency", "Hz", false, std::pair(-100.0, 100.0)};
  PlotPanel panel{{"dB", "", false, std::pair(-100.0, 0.0)}, {}};
  PlotLayer layer{PlotLayer::Kind::curve, "", 1, true, {}};
  layer.curve = curve;
  layer.step = 0;
  PlotLayer pennants{PlotLayer::Kind::pennant, "", 1, true, {{50.0, -60.0}}};
  pennants.points.front().word = "3";
  pennants.points.front().mark = "im3_upper";
  panel.layers = {layer, pennants};
  plot.panels.push_back(panel);
  return plot;
}

QPoint place(PlotView& view, double x, double y) {
  QCPAxisRect* rect = view.axisRect(0);
  return QPointF(rect->axis(QCPAxis::atBottom)->coordToPixel(x),
                 rect->axis(QCPAxis::atLeft)->coordToPixel(y))
      .toPoint();
}

}  // namespace

class PlotViewTest : public QObject {
  Q_OBJECT
  std::unique_ptr<PlotView> view_;

  void show(const Plot& plot) {
    view_->set_plot(plot, std::nullopt);
    view_->resize(700, 300);
    view_->show();
    QVERIFY(QTest::qWaitForWindowExposed(view_.get()));
    view_->replot();
  }

 private slots:
  void initTestCase() { QVERIFY(heron::testing::prepare_window_tests("even-heron-plot-test")); }
  void init() { view_ = std::make_unique<PlotView>(); }
  void cleanup() { view_.reset(); }

  void a_handle_is_dragged_and_told_as_it_would_be_typed() {
    show(power_plot());
    QSignalSpy moved(view_.get(), &PlotView::handle_moved);
    const auto drag = [&](double from, double to) {
      QTest::mousePress(view_.get(), Qt::LeftButton, {}, place(*view_, from, -30.0));
      QTest::mouseMove(view_.get(), place(*view_, to, -30.0));
      QTest::mouseRelease(view_.get(), Qt::LeftButton, {}, place(*view_, to, -30.0));
    };
    // A signed test does not let it go.
    drag(15.0, 25.0);
    QVERIFY(moved.isEmpty());
    view_->show_all();
    view_->set_can_edit(true);
    view_->replot();
    drag(15.0, 25.0);
    QCOMPARE(moved.size(), 1);
    QCOMPARE(moved[0][0].toString(), QString("ceiling_dbm"));
    const QString typed = moved[0][1].toString();
    QVERIFY2(typed.endsWith(" W"), qPrintable(typed));
    QVERIFY(std::abs(typed.chopped(2).toDouble() - 25.0) < 0.15);
    // Never down to nothing.
    drag(15.0, -20.0);
    QCOMPARE(moved[1][1].toString(), QString("0.1 W"));
    QTest::keyClick(view_.get(), Qt::Key_Left);
    QCOMPARE(moved[2][1].toString(), QString("14.0 W"));
    QTest::keyClick(view_.get(), Qt::Key_Right, Qt::ShiftModifier);
    QCOMPARE(moved[3][1].toString(), QString("15.1 W"));
  }

  void the_axis_changes_where_it_can() {
    show(power_plot());
    QVERIFY(!view_->is_logarithmic());
    QCOMPARE(view_->axisRect(0)->axis(QCPAxis::atBottom)->range().lower, 0.0);
    QTest::keyClick(view_.get(), Qt::Key_X);
    QVERIFY(view_->is_logarithmic());
    QCOMPARE(view_->axisRect(0)->axis(QCPAxis::atBottom)->range().lower, 1.0);
    // It stays so when the figures change.
    view_->set_plot(power_plot(), 1);
    QVERIFY(view_->is_logarithmic());
    view_->set_plot(spectrum_plot(), 0);
    QTest::keyClick(view_.get(), Qt::Key_X);
    QVERIFY(!view_->is_logarithmic());
  }

  void lines_are_straight_on_the_axis_they_are_straight_on() {
    const Plot plot = power_plot();
    const PlotLayer& trace = plot.panels.front().layers.front();
    const auto line = line_between(trace, trace.points[0], trace.points[1]);
    QVERIFY(line.size() > 10U);
    QCOMPARE(line.front().second, -50.0);
    QCOMPARE(line.back().second, -40.0);
    for (const auto& [x, y] : line)
      QVERIFY(std::abs(y - (-50.0 + 10.0 * std::log2(x / 10.0))) < 1e-9);
    PlotLayer plain = trace;
    plain.is_straight_in_log_x = false;
    QCOMPARE(line_between(plain, plain.points[0], plain.points[1]).size(), 2U);
  }

  void steps_are_chosen_by_keys_and_clicks() {
    show(power_plot());
    QSignalSpy chosen(view_.get(), &PlotView::step_chosen);
    QTest::mouseClick(view_.get(), Qt::LeftButton, {}, place(*view_, 20.0, -40.0));
    QCOMPARE(chosen.size(), 1);
    QCOMPARE(chosen[0][0].toInt(), 1);
    view_->set_plot(power_plot(), 1);
    QTest::keyClick(view_.get(), Qt::Key_Up);
    QCOMPARE(chosen[1][0].toInt(), 0);
  }

  void a_pennant_is_chosen_with_the_mouse_and_a_cursor_reads_the_curve() {
    show(spectrum_plot());
    QSignalSpy marked(view_.get(), &PlotView::mark_chosen);
    QTest::mouseClick(view_.get(), Qt::LeftButton, {}, place(*view_, 50.0, -62.0));
    QCOMPARE(marked.size(), 1);
    QCOMPARE(marked[0][0].toString(), QString("im3_upper"));
    // Left and right move the cursor here, which nothing else looks like.
    QSignalSpy chosen(view_.get(), &PlotView::step_chosen);
    const QImage before = view_->toPixmap(700, 300).toImage();
    QTest::keyClick(view_.get(), Qt::Key_Right);
    QVERIFY(view_->toPixmap(700, 300).toImage() != before);
    QVERIFY(chosen.isEmpty());
    const double whole = view_->axisRect(0)->axis(QCPAxis::atBottom)->range().size();
    QTest::keyClick(view_.get(), Qt::Key_Plus);
    QVERIFY(view_->axisRect(0)->axis(QCPAxis::atBottom)->range().size() < whole);
    QTest::mouseDClick(view_.get(), Qt::LeftButton, {}, QPoint(350, 150));
    QCOMPARE(view_->axisRect(0)->axis(QCPAxis::atBottom)->range().size(), whole);
  }
};

HERON_WINDOW_TEST(PlotViewTest)

}  // namespace plot_view_test

#include "plot_view_test.moc"
