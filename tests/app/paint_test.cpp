#include <QtTest>

#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "tests/test_program.h"

using namespace heron;

namespace paint_test {

namespace {

double luminance(const QColor& c) {
  const auto part = [](double v) {
    return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
  };
  return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
}
double contrast(const QColor& a, const QColor& b) {
  const double la = luminance(a), lb = luminance(b);
  return (std::max(la, lb) + 0.05) / (std::min(la, lb) + 0.05);
}

QImage line(const MarginMark& mark) {
  QImage image(240, 40, QImage::Format_ARGB32);
  image.fill(light_theme().sheet);
  QPainter p(&image);
  draw_margin_line(p, QRectF(0, 0, 240, 40), MarginSize::large, mark, 20.0, light_theme());
  return image;
}

}  // namespace

class PaintTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(load_fonts()); }

  void the_margin_scale_opens_up_round_the_limit() {
    QCOMPARE(margin_position(0.0, 20.0), 0.36);
    QVERIFY(std::abs(margin_position(20.0, 20.0) - 1.0) < 1e-12);
    QVERIFY(std::abs(margin_position(-0.26 * 20.0, 20.0)) < 0.01);
    double last = -1.0;
    for (double m = -5.0; m <= 20.0; m += 0.25) {
      QVERIFY(margin_position(m, 20.0) > last);
      last = margin_position(m, 20.0);
    }
    const double near = margin_position(1.0, 20.0) - margin_position(0.0, 20.0);
    const double far = margin_position(20.0, 20.0) - margin_position(19.0, 20.0);
    QVERIFY(near > 5.0 * far);
  }

  void every_verdict_has_its_own_silhouette() {
    QList<QImage> shapes;
    for (const Verdict v :
         {Verdict::pass, Verdict::too_close, Verdict::fail, Verdict::stale, Verdict::not_taken}) {
      QImage image(20, 20, QImage::Format_ARGB32);
      image.fill(Qt::white);
      QPainter p(&image);
      draw_verdict(p, {10, 10}, 16, v, light_theme());
      p.end();
      // Without colour: shape alone must tell.
      shapes << image.convertToFormat(QImage::Format_Grayscale8)
                    .convertToFormat(QImage::Format_Mono, Qt::ThresholdDither);
      for (int i = 0; i + 1 < shapes.size(); ++i) QVERIFY(shapes[i] != shapes.last());
    }
  }

  void a_margin_line_shows_where_the_figure_stands() {
    MarginMark mark;
    const QImage empty = line(mark);
    mark = {Verdict::pass, 6.0, 0.7, Bound::none, std::nullopt};
    QVERIFY(line(mark) != empty);
    const int x = static_cast<int>(7 + margin_position(6.0, 20.0) * 226);
    QCOMPARE(line(mark).pixelColor(x, 24).name(), light_theme().pass.name());
    mark = {Verdict::fail, -50.0, 0.7, Bound::none, std::nullopt};
    QCOMPARE(line(mark).pixelColor(6, 20).name(), light_theme().fail.name());
  }

  void text_can_be_read_in_both_themes() {
    for (const Theme* t : {&light_theme(), &dark_theme()}) {
      for (const QColor& ground : {t->paper, t->sheet, t->strip, t->waterTint}) {
        for (const QColor& words : {t->ink, t->slate, t->mute, t->water, t->pass, t->marg, t->fail})
          QVERIFY(contrast(words, ground) >= 4.5);
      }
      QVERIFY(contrast(t->billInk, t->bill) >= 4.5);
      QVERIFY(contrast(t->pass, t->passTint) >= 4.5 && contrast(t->marg, t->margTint) >= 4.5 &&
              contrast(t->fail, t->failTint) >= 4.5);
    }
  }

  void figures_and_words_have_their_faces() {
    QCOMPARE(QFontInfo(type_font(Type::figure)).family(), QString("JetBrains Mono"));
    QCOMPARE(QFontInfo(type_font(Type::body)).family(), QString("Inter"));
    // Same digits, same width: columns of figures align.
    QCOMPARE(figure_text_width("\u221211.1", Type::figure, Type::body),
             figure_text_width("\u221288.8", Type::figure, Type::body));
  }
};

HERON_WINDOW_TEST(PaintTest)

}  // namespace paint_test

#include "paint_test.moc"
