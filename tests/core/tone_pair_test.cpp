#include "core/method/two_tone/tone_pair.h"

#include <QtTest>

#include "tests/test_program.h"

using namespace heron;

namespace tone_pair_test {

class TonePairTest : public QObject {
  Q_OBJECT
 private slots:
  void known_pairs_are_judged() {
    QVERIFY(!tone_pair_collisions(900, 1800).empty());
    QVERIFY(tone_pair_collisions(650, 1850).empty());
    // 3 x 700 = 2100 against 2 x 1400 - 700 = 2100.
    const auto collisions = tone_pair_collisions(700, 1400);
    QVERIFY(std::any_of(collisions.begin(), collisions.end(), [](const ToneCollision& c) {
      return c.audio.find("3 x 700") == 0 && c.distance_hz == 0.0;
    }));
  }

  void suggestions_are_usable_and_inside_the_passband() {
    const auto pairs = suggest_tone_pairs(300, 2700);
    QVERIFY(!pairs.empty());
    for (const auto& [f1, f2] : pairs) {
      QVERIFY(f1 >= 300 && f2 <= 2700 && f1 < f2);
      QVERIFY(tone_pair_collisions(f1, f2).empty());
    }
    QVERIFY(suggest_tone_pairs(300, 320).empty());
  }

  void a_collision_is_closer_than_three_bandwidths() {
    // Moving f2 off 2 x f1 by d moves the third order upper product away from 3 x f1 by 2 d.
    QVERIFY(!tone_pair_collisions(700, 1410, 10.0).empty());
    QVERIFY(tone_pair_clearance(650, 1850) >= 100.0);
  }
};

HERON_TEST(TonePairTest)

}  // namespace tone_pair_test

#include "tone_pair_test.moc"
