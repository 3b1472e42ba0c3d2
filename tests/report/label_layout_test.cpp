#include "report/label_layout.h"

#include <QtTest>
#include <random>

#include "tests/test_program.h"

using namespace heron;

namespace label_layout_test {

namespace {

std::vector<LabelBox*> pointers(std::vector<LabelBox>& labels) {
  std::vector<LabelBox*> all;
  for (LabelBox& label : labels) all.push_back(&label);
  return all;
}

int overlaps(const std::vector<LabelBox>& labels, const std::vector<LabelBox>& obstacles) {
  int count = 0;
  for (std::size_t i = 0; i < labels.size(); ++i) {
    for (std::size_t j = i + 1; j < labels.size(); ++j) count += labels[i].overlaps(labels[j]);
    for (const LabelBox& o : obstacles) count += labels[i].overlaps(o);
  }
  return count;
}

}  // namespace

class LabelLayoutTest : public QObject {
  Q_OBJECT
 private slots:
  /// Wherever labels want to be, none lies over another while the column has room for all.
  void labels_do_not_overlap() {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> x(0, 600);
    std::uniform_real_distribution<double> y(-50, 350);
    for (int round = 0; round < 300; ++round) {
      std::vector<LabelBox> labels;
      for (int i = 0; i < 12; ++i) labels.push_back({x(random), y(random), 50, 29});
      const std::vector<LabelBox> obstacles{{x(random), 20, 80, 15}, {0, y(random), 700, 4}};
      spread_labels(pointers(labels), obstacles, 0, 300);
      QCOMPARE(overlaps(labels, obstacles), 0);
      for (const LabelBox& label : labels) QVERIFY(label.y >= 0 && label.y + label.height <= 300);
    }
  }

  void what_is_free_already_stays() {
    std::vector<LabelBox> labels{{0, 10, 50, 29}, {60, 10, 50, 29}, {0, 60, 50, 29}};
    const auto before = labels;
    spread_labels(pointers(labels), {{200, 0, 50, 300}}, 0, 300);
    for (std::size_t i = 0; i < labels.size(); ++i) QCOMPARE(labels[i].y, before[i].y);
  }

  void the_first_has_its_way_and_the_next_moves_as_little_as_it_can() {
    std::vector<LabelBox> labels{{0, 100, 50, 30}, {10, 110, 50, 30}};
    spread_labels(pointers(labels), {}, 0, 300);
    QCOMPARE(labels[0].y, 100.0);
    QCOMPARE(labels[1].y, 130.0);  // 20 down is nearer than 40 up
    labels[1].y = 95;
    spread_labels(pointers(labels), {}, 0, 300);
    QCOMPARE(labels[1].y, 70.0);
  }

  void without_room_a_label_stays_in_sight() {
    std::vector<LabelBox> labels(20, {0, 500, 50, 29});
    spread_labels(pointers(labels), {}, 0, 100);
    for (const LabelBox& label : labels) QVERIFY(label.y >= 0 && label.y + label.height <= 100);
    std::vector<LabelBox> tall{{0, 10, 50, 200}};
    spread_labels(pointers(tall), {}, 0, 100);  // taller than the picture: no crash, at its top
    QCOMPARE(tall[0].y, 0.0);
    spread_labels({}, {}, 0, 100);
  }
};

HERON_TEST(LabelLayoutTest)

}  // namespace label_layout_test

#include "label_layout_test.moc"
