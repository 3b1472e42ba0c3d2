// Tests worked out beside whoever edits them: the newest request wins, each is of one moment.
#include "store/evaluator.h"

#include <QtTest>

#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;

namespace evaluator_test {

using heron::testing::MadeShack;

namespace {

constexpr std::chrono::minutes kLong{10};

}  // namespace

class EvaluatorTest : public QObject {
  Q_OBJECT
 private slots:
  /// While somebody writes as fast as the disk allows: what comes is never torn, never older than
  /// what came before, and in the end the newest.
  void what_comes_is_of_one_moment_and_never_goes_back() {
    MadeShack made;
    std::atomic<int> told = 0;
    Evaluator evaluator(*made.shack, [&] { ++told; });
    constexpr int kEdits = 60;
    int newest = -1;
    int came = 0;
    const auto look = [&] {
      for (const Evaluator::Done& done : evaluator.take()) {
        QVERIFY2(done.failure.empty(), done.failure.c_str());
        QVERIFY(done.loaded && done.is_changed);
        const Test& t = done.loaded->test;
        QCOMPARE(t.note, t.conditions);
        QVERIFY(std::stoi(t.note) > newest);
        newest = std::stoi(t.note);
        QCOMPARE(done.loaded->result.answers.size(), std::size_t(1));
        QVERIFY(t.headline && t.headline->figure.value < -20.0);
        ++came;
      }
    };
    for (int i = 0; i < kEdits; ++i) {
      made.shack->write_together([&] {
        set_test_note(*made.shack, made.test_id, std::to_string(i));
        set_test_conditions(*made.shack, made.test_id, std::to_string(i));
      });
      evaluator.ask(made.test_id, true);
      if (i % 7 == 0) std::this_thread::sleep_for(std::chrono::milliseconds(3));
      look();
    }
    QVERIFY(evaluator.wait(kLong));
    look();
    QCOMPARE(newest, kEdits - 1);
    QVERIFY(came <= kEdits && told >= came);
    QVERIFY(!evaluator.is_busy() && evaluator.take().empty());
  }

  void of_many_requests_for_a_test_one_answer_comes() {
    MadeShack made;
    Test other;
    other.evaluation_id = made.evaluation_id;
    other.characteristic = "two_tone";
    other.title = "Another";
    const Id empty = add_test(*made.shack, other);
    Evaluator evaluator(*made.shack, [] {});
    evaluator.ask(made.test_id, true);
    for (int i = 0; i < 20; ++i) {
      evaluator.ask(empty, false);
      evaluator.ask(made.test_id, false);
    }
    QVERIFY(evaluator.wait(kLong));
    const auto all = evaluator.take();
    QCOMPARE(all.size(), std::size_t(2));
    for (const auto& done : all) {
      QVERIFY(done.loaded.has_value());
      // That its headline has to be written is not forgotten when it is asked for again.
      QCOMPARE(done.is_changed, done.test == made.test_id);
    }
  }

  void what_cannot_be_read_says_so_and_the_next_one_comes() {
    MadeShack made;
    Evaluator evaluator(*made.shack, [] {});
    evaluator.ask(made.test_id + 1000, false);
    QVERIFY(evaluator.wait(kLong));
    auto all = evaluator.take();
    QCOMPARE(all.size(), std::size_t(1));
    QVERIFY(!all[0].loaded && !all[0].failure.empty());
    evaluator.ask(made.test_id, false);
    QVERIFY(evaluator.wait(kLong));
    all = evaluator.take();
    QVERIFY(all.size() == 1 && all[0].loaded);
  }

  void it_ends_at_once_with_work_waiting() {
    MadeShack made;
    for (int i = 0; i < 10; ++i) {
      Evaluator evaluator(*made.shack, [] {});
      for (int k = 0; k < 5; ++k) evaluator.ask(made.test_id, true);
    }
    QVERIFY(load_test(*made.shack, made.test_id).has_value());
  }

  /// A shack that was made read-only by another window is read there too.
  void it_reads_a_shack_that_another_window_writes() {
    MadeShack made;
    const auto second = Shack::open(made.path());
    QVERIFY(second->is_read_only());
    Evaluator evaluator(*second, [] {});
    set_test_note(*made.shack, made.test_id, "by the other window");
    evaluator.ask(made.test_id, false);
    QVERIFY(evaluator.wait(kLong));
    const auto all = evaluator.take();
    QVERIFY(all.size() == 1 && all[0].loaded);
    QCOMPARE(all[0].loaded->test.note, std::string("by the other window"));
  }
};

HERON_LOOP_TEST(EvaluatorTest)

}  // namespace evaluator_test

#include "evaluator_test.moc"
