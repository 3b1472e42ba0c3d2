// An analysis works in several threads, and several analyses at once.
#include <QtTest>
#include <thread>

#include "core/error.h"
#include "core/method/two_tone/two_tone.h"
#include "core/method/two_tone/two_tone_json.h"
#include "tests/core/made_analysis.h"
#include "tests/test_program.h"

using namespace heron;

namespace two_tone_threads_test {

using heron::testing::distorted;

class TwoToneThreadsTest : public QObject {
  Q_OBJECT
 private slots:
  void threads_do_not_change_a_figure() {
    const TwoToneSignal s = distorted();
    const auto open = memory_capture(generate_two_tone(s), s.sample_rate_hz);
    TwoToneSettings one;
    one.threads = 1;
    TwoToneSettings four;
    four.threads = 4;
    QVERIFY(to_json(analyse_two_tone(open, one)) == to_json(analyse_two_tone(open, four)));
  }

  void two_analyses_at_once_do_not_disturb_each_other() {
    const TwoToneSignal s = distorted();
    const auto open = memory_capture(generate_two_tone(s), s.sample_rate_hz);
    const auto alone = to_json(analyse_two_tone(open));
    std::vector<nlohmann::json> results(4);
    {
      std::vector<std::jthread> threads;
      for (auto& result : results)
        threads.emplace_back([&] { result = to_json(analyse_two_tone(open)); });
    }
    for (const auto& result : results) QVERIFY(result == alone);
  }

  void it_stops_wherever_it_is_told_to() {
    TwoToneSignal s = distorted();
    s.seconds = 20.0;
    const auto open = memory_capture(generate_two_tone(s), s.sample_rate_hz);
    for (const double at : {0.0, 0.2, 0.7}) {
      std::stop_source stop;
      bool cancelled = false;
      if (at == 0.0) stop.request_stop();
      try {
        analyse_two_tone(
            open, {},
            [&](double f) {
              if (f >= at) stop.request_stop();
            },
            stop.get_token());
      } catch (const Cancelled&) {
        cancelled = true;
      }
      QVERIFY(cancelled);
    }
  }

  void progress_never_runs_backwards_within_one_pass() {
    TwoToneSignal s = distorted();
    s.seconds = 10.0;
    std::vector<double> told;
    analyse_two_tone(memory_capture(generate_two_tone(s), s.sample_rate_hz), {},
                     [&](double f) { told.push_back(f); });
    QVERIFY(told.size() > 2);
    QVERIFY(std::is_sorted(told.begin(), told.end()));
    QVERIFY(told.back() <= 1.0);
  }
};

HERON_TEST(TwoToneThreadsTest)

}  // namespace two_tone_threads_test

#include "two_tone_threads_test.moc"
