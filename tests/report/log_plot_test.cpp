// Plots of logs and states on paper: small however much was read, and nothing of it lost.
#include <QtTest>

#include "report/plot_svg.h"
#include "tests/test_program.h"

using namespace heron;

namespace log_plot_test {

class LogPlotTest : public QObject {
  Q_OBJECT

  static Plot dots(std::size_t count, std::size_t outlier) {
    auto all = std::make_shared<Dots>();
    for (std::size_t i = 0; i < count; ++i) {
      all->x.push_back(static_cast<double>(i) / static_cast<double>(count));
      all->y.push_back(i == outlier ? 9.0F : 0.01F * static_cast<float>(i % 100));
    }
    Plot plot;
    plot.title = "Error over time";
    plot.x = {"min", "", false, std::pair(0.0, 1.0)};
    PlotPanel panel{{"Error, ppm", "", false, std::pair(-1.0, 10.0)}, {}};
    PlotLayer layer{PlotLayer::Kind::dots, "Readings", 1, false, {}};
    layer.dots = all;
    panel.layers.push_back(layer);
    plot.panels.push_back(panel);
    return plot;
  }

  static qsizetype count_of(const QString& svg, const QString& what) { return svg.count(what); }

 private slots:
  void a_long_log_costs_no_more_paper_than_there_are_places() {
    const std::string few = plot_svg(dots(500, 77));
    const std::string many = plot_svg(dots(400000, 77));
    QVERIFY2(many.size() < 60 * few.size(), qPrintable(QString::number(many.size())));
    QVERIFY(many.size() < 600000);
    // The one far off is on it: higher than all others.
    for (const std::string& svg : {few, many}) {
      const QString text = QString::fromStdString(svg);
      QVERIFY(text.contains(">Readings<"));
      // What stands beside the panel is its name.
      std::vector<double> heights;
      auto found = QRegularExpression("M([0-9.]+) ([0-9.]+)h\\.01").globalMatch(text);
      while (found.hasNext()) {
        const auto one = found.next();
        if (one.captured(1).toDouble() < 650.0) heights.push_back(one.captured(2).toDouble());
      }
      QVERIFY(!heights.empty());
      const double highest = *std::min_element(heights.begin(), heights.end());
      const auto at_top = std::count_if(heights.begin(), heights.end(),
                                        [&](double y) { return y < highest + 1.0; });
      QCOMPARE(at_top, 1);
    }
  }

  void what_is_out_of_view_is_not_drawn() {
    Plot plot = dots(100, 200);
    plot.x.range = std::pair(2.0, 3.0);
    QVERIFY(!QString::fromStdString(plot_svg(plot))
                 .contains(QRegularExpression(
                     "M[0-9.]+ [0-9.]+h\\.01M[0-9.]+ [0-9.]+h\\.01M[0-9.]+ [0-9.]+h\\.01M")));
  }

  void states_have_their_words_where_there_is_room() {
    Plot plot = dots(10, 3);
    const double plain = plot_svg_height(plot);
    plot.panels.front().states = {{"falling",
                                   {{0.0, 0.6, "held", Verdict::pass},
                                    {0.6, 0.62, "disturbed", Verdict::too_close},
                                    {0.62, 1.0, "lost", Verdict::fail}}},
                                  {"rising", {{0.0, 1.0, "held", Verdict::pass}}}};
    QVERIFY(plot_svg_height(plot) > plain + 30.0);
    const QString svg = QString::fromStdString(plot_svg(plot));
    QVERIFY(svg.contains(">falling<") && svg.contains(">rising<") && svg.contains(">lost<"));
    QCOMPARE(count_of(svg, ">held<"), 2);
    QVERIFY(!svg.contains(">disturbed<"));  // too narrow for its word
    // The numbers of the axis stand below them.
    const QRegularExpression height("viewBox='0 0 760 ([0-9]+)'");
    QCOMPARE(height.match(svg).captured(1).toDouble(), std::round(plot_svg_height(plot)));
    Plot only_states = plot;
    only_states.panels.front().layers.clear();
    QVERIFY(only_states.has_points());
  }

  void an_interval_need_not_be_the_same_both_ways() {
    Plot plot = dots(10, 3);
    PlotLayer line{PlotLayer::Kind::trace, "scatter", 1, true, {{0.5, 2.0}}};
    line.points.front().interval = std::pair(1.5, 6.0);
    plot.panels.front().layers = {line};
    const QString svg = QString::fromStdString(plot_svg(plot));
    const QRegularExpression bar("M[0-9.]+ ([0-9.]+)V([0-9.]+)' stroke='[^']*' stroke-width='4'");
    const auto found = bar.match(svg);
    QVERIFY(found.hasMatch());
    // From 1.5 to 6 of 11 units over 220 px.
    QVERIFY(std::abs(found.captured(1).toDouble() - found.captured(2).toDouble() - 90.0) < 0.5);
  }

  void a_line_without_marks_has_none() {
    Plot plot = dots(10, 3);
    PlotLayer line{PlotLayer::Kind::trace, "median", 1, true, {{0.1, 2.0}, {0.5, 3.0}, {0.9, 2.0}}};
    plot.panels.front().layers = {line};
    const auto circles = [](const Plot& p) {
      return count_of(QString::fromStdString(plot_svg(p)), "<circle");
    };
    QCOMPARE(circles(plot), 3);
    plot.panels.front().layers.front().has_marks = false;
    QCOMPARE(circles(plot), 0);
  }
};

HERON_TEST(LogPlotTest)

}  // namespace log_plot_test

#include "log_plot_test.moc"
