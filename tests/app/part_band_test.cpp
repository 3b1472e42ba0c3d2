// The band of power over time: whatever is dragged or pressed, the part stays inside the recording.
#include "app/sheet/part_band.h"

#include <QMouseEvent>
#include <QSignalSpy>
#include <random>

#include "core/error.h"
#include "core/method/measure/measured_part.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace part_band_test {

namespace {

KeyedParts parts_of(double duration_s, TimeSpan measured, bool is_chosen) {
  KeyedParts p;
  p.duration_s = duration_s;
  p.cell_s = duration_s / 200.0;
  p.level_dbfs.assign(200, -20.0F);
  p.keyed = {{{measured}, -20.0}};
  p.chosen_stretch = 0;
  p.measured = measured;
  p.is_chosen = is_chosen;
  return p;
}

/// A band as wide as in the window, and what it asks for.
struct Band {
  PartBand band;
  std::vector<TimeSpan> chosen;
  int automatic = 0;
  int typing = 0;

  Band(const KeyedParts& parts, bool may_change) {
    band.resize(700, 40);
    band.show();
    band.set_parts(parts, may_change);
    QObject::connect(&band, &PartBand::part_chosen, &band,
                     [this](const TimeSpan& part) { chosen.push_back(part); });
    QObject::connect(&band, &PartBand::automatic_asked, &band, [this] { ++automatic; });
    QObject::connect(&band, &PartBand::typing_asked, &band, [this] { ++typing; });
  }
  void drag(double from_x, double to_x) {
    const auto at = [](double x) { return QPoint(static_cast<int>(std::lround(x)), 25); };
    QTest::mousePress(&band, Qt::LeftButton, {}, at(from_x));
    QMouseEvent move(QEvent::MouseMove, at(to_x), band.mapToGlobal(at(to_x)), Qt::NoButton,
                     Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&band, &move);
    QTest::mouseRelease(&band, Qt::LeftButton, {}, at(to_x));
  }
  double second_a_px(double duration) const {
    return duration / (band.x_of(duration) - band.x_of(0));
  }
};

}  // namespace

class PartBandTest : public QObject {
  Q_OBJECT
 private slots:
  void initTestCase() { QVERIFY(prepare_window_tests("even-heron-part-band")); }

  void a_dragged_end_lands_where_it_is_let_go() {
    std::mt19937 random(5);
    std::uniform_real_distribution<double> place(-40.0, 740.0);
    for (const double duration : {0.3, 10.0, 7200.0}) {
      for (int round = 0; round < 60; ++round) {
        const TimeSpan before{0.3 * duration, 0.4 * duration};
        Band b(parts_of(duration, before, false), true);
        const bool is_end = round % 2 == 1;
        const double to = place(random);
        b.drag(b.band.x_of(is_end ? before.end_s() : before.start_s), to);
        QCOMPARE(b.chosen.size(), 1U);
        const TimeSpan after = b.chosen[0];
        const double px = b.second_a_px(duration) + 0.0011;
        QVERIFY(after.start_s >= 0.0 && after.end_s() <= duration + 0.001);
        QVERIFY(after.length_s >= 0.005 * duration - 0.0011);
        const double asked =
            std::clamp((to - b.band.x_of(0)) / (b.band.x_of(1) - b.band.x_of(0)), 0.0, duration);
        // The other end stays; an end drawn beyond it stops just before.
        QVERIFY(std::abs(is_end ? after.start_s - before.start_s : after.end_s() - before.end_s()) <
                0.0021);
        const double least = 0.005 * duration;
        const double expected = is_end ? std::max(asked, before.start_s + least)
                                       : std::min(asked, before.end_s() - least);
        QVERIFY(std::abs((is_end ? after.end_s() : after.start_s) - expected) < 1.5 * px);
        QVERIFY(b.band.accessibleName().contains("chosen"));
      }
    }
  }

  void keys_move_one_end_and_ask() {
    Band b(parts_of(10.0, {2.0, 6.0}, true), true);
    QTest::keyClick(&b.band, Qt::Key_Right);
    QTest::keyClick(&b.band, Qt::Key_Right);
    QTest::keyClick(&b.band, Qt::Key_Left, Qt::ShiftModifier);
    QVERIFY(b.chosen.empty());  // nothing is measured again at every press
    QTest::keyClick(&b.band, Qt::Key_Return);
    QCOMPARE(b.chosen.size(), 1U);
    QVERIFY(b.chosen[0] == (TimeSpan{2.1, 5.85}));
    QCOMPARE(b.typing, 0);
    QTest::keyClick(&b.band, Qt::Key_Return);
    QCOMPARE(b.typing, 1);
    QTest::keyClick(&b.band, Qt::Key_Delete);
    QTest::mouseDClick(&b.band, Qt::LeftButton, {}, {300, 25});
    QCOMPARE(b.automatic, 2);
  }

  /// A part that was found cannot be given back, and a signed record not be changed.
  void nothing_is_asked_where_nothing_may_change() {
    Band found(parts_of(10.0, {2.0, 6.0}, false), true);
    QTest::keyClick(&found.band, Qt::Key_Delete);
    QTest::mouseDClick(&found.band, Qt::LeftButton, {}, {300, 25});
    QCOMPARE(found.automatic, 0);
    Band signed_one(parts_of(10.0, {2.0, 6.0}, true), false);
    for (const Qt::Key key : {Qt::Key_Right, Qt::Key_Return, Qt::Key_Delete, Qt::Key_Backspace})
      QTest::keyClick(&signed_one.band, key);
    signed_one.drag(signed_one.band.x_of(2.0), signed_one.band.x_of(4.0));
    QVERIFY(signed_one.chosen.empty());
    QCOMPARE(signed_one.automatic + signed_one.typing, 0);
    QCOMPARE(signed_one.band.accessibleName(),
             QString("Measured 2.00 to 8.00 s of 10.00 s, chosen"));
  }

  void a_typed_part_is_read_as_it_is_written() {
    std::mt19937 random(8);
    std::uniform_int_distribution<int> ms(0, 600000);
    for (int i = 0; i < 300; ++i) {
      const double a = ms(random) / 1000.0;
      const double b = a + (1 + ms(random)) / 1000.0;
      char text[64];
      const char* form = i % 3 == 0   ? "%.3f to %.3f s"
                         : i % 3 == 1 ? "%.3f s to %.3f s"
                                      : " %.3f to %.3f ";
      std::snprintf(text, sizeof text, form, a, b);
      const TimeSpan part = parse_part(text);
      QVERIFY2(std::abs(part.start_s - a) < 1e-9 && std::abs(part.end_s() - b) < 1e-9, text);
    }
    QVERIFY(std::abs(parse_part("0 to 1.5 min").length_s - 90.0) < 1e-9);
    for (const char* wrong : {"", "to", "4", "4 to", "to 4", "9 to 4 s", "4 to 4 s", "-1 to 3 s",
                              "4 to 5 V", "four to five", "nan to 4 s"})
      QVERIFY_THROWS_EXCEPTION(InputError, parse_part(wrong));
  }
};

HERON_WINDOW_TEST(PartBandTest)

}  // namespace part_band_test

#include "part_band_test.moc"
