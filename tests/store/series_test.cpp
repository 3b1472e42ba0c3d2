// Logs on disk: while they grow, from another connection, through an archive, and damaged.
#include "store/series.h"

#include <QtTest>

#include "core/method/live_quantity.h"
#include "store/event.h"
#include "store/exchange.h"
#include "store/general.h"
#include "store/rows.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace series_test {

class SeriesTest : public QObject {
  Q_OBJECT

  /// A shack with a drift test and one log of it.
  struct LoggedShack : MadeShack {
    Id drift_id = 0;
    Id log_step = 0;
    Id log_id = 0;
    LoggedShack() {
      Test t;
      t.evaluation_id = evaluation_id;
      t.characteristic = "drift";
      t.title = "Drift";
      t.settings["drift"] = {{"nominal_hz", 10e6}, {"source_ppm", 0.1}};
      drift_id = add_test(*shack, t);
      log_step = add_step(*shack, drift_id, "Log");
      Series log;
      log.quantity = kCountedFrequency;
      log.unit = "Hz";
      log.instrument = "counter";
      log.started_at = "2026-03-02T06:00:00Z";
      log.remarks = {{"clock_changed", Severity::caution, "The clock was changed.", "Log in UTC"}};
      for (int i = 0; i < 20; ++i) log.samples.push_back({10.0 * i, 10e6 + 2.0});
      log_id = add_series(*shack, log_step, log);
    }
    GeneralTest loaded(const Shack& from) const {
      return load_general_test(from, drift_id, *find_method("drift"));
    }
  };

 private slots:
  void a_log_that_grows_is_read_on() {
    LoggedShack made;
    const auto before = series_of_step(*made.shack, made.log_step);
    QCOMPARE(before.size(), 1U);
    QCOMPARE(before.front()->samples.size(), 20U);
    // Nothing new: nothing is read again.
    QCOMPARE(series_of_step(*made.shack, made.log_step).front().get(), before.front().get());
    append_samples(*made.shack, made.log_id, {{200.0, 10e6 + 3.0}, {210.0, 10e6 + 4.0}});
    const auto after = series_of_step(*made.shack, made.log_step);
    QCOMPARE(after.front()->samples.size(), 22U);
    QVERIFY(after.front()->samples.back().value == 10e6 + 4.0);
    // Who holds the older one keeps it.
    QCOMPARE(before.front()->samples.size(), 20U);
  }

  void another_connection_sees_what_is_on_disk() {
    LoggedShack made;
    const auto reader = made.shack->reader();
    QCOMPARE(series_of_step(*reader, made.log_step).front()->samples.size(), 20U);
    append_samples(*made.shack, made.log_id, {{200.0, 10e6}});
    QCOMPARE(series_of_step(*reader, made.log_step).front()->samples.size(), 21U);
    // All of one moment, whatever is written meanwhile.
    reader->read_together([&] {
      const std::size_t seen = series_of_step(*reader, made.log_step).front()->samples.size();
      append_samples(*made.shack, made.log_id, {{210.0, 10e6}});
      QCOMPARE(series_of_step(*reader, made.log_step).front()->samples.size(), seen);
    });
    QCOMPARE(series_of_step(*reader, made.log_step).front()->samples.size(), 22U);
  }

  void many_logs_push_out_the_older_ones_only_from_memory() {
    LoggedShack made;
    Series log;
    log.quantity = kTemperature;
    log.unit = "\u00b0C";
    std::vector<Id> steps;
    for (int i = 0; i < 60; ++i) {
      steps.push_back(add_step(*made.shack, made.drift_id, std::to_string(i)));
      log.samples = {{0.0, static_cast<double>(i)}};
      add_series(*made.shack, steps.back(), log);
    }
    for (int round = 0; round < 2; ++round)
      for (int i = 0; i < 60; ++i)
        QCOMPARE(series_of_step(*made.shack, steps[static_cast<std::size_t>(i)])
                     .front()
                     ->samples.front()
                     .value,
                 static_cast<double>(i));
    QCOMPARE(series_of_step(*made.shack, made.log_step).front()->samples.size(), 20U);
  }

  void what_was_mended_stays_with_the_log_and_is_told() {
    LoggedShack made;
    made.shack.reset();
    made.reopen();
    const GeneralTest t = made.loaded(*made.shack);
    QCOMPARE(t.evidence.steps.size(), 1U);
    QVERIFY(std::any_of(t.result.remarks.begin(), t.result.remarks.end(),
                        [](const Remark& r) { return r.code == "clock_changed"; }));
    // It has been settled all along.
    QVERIFY(std::abs(t.result.answers.front().figure.value - 0.2) < 1e-6);
    QVERIFY(headline_of(t).has_value());
  }

  void an_archive_carries_logs_and_events() {
    LoggedShack made;
    add_event(*made.shack, made.drift_id, {0, "2026-03-02T06:01:00Z", "lid off"});
    const std::filesystem::path zip = made.path() / "out.zip";
    write_packed(pack_evaluation(*made.shack, made.evaluation_id), zip);
    QTemporaryDir dir;
    const auto other =
        Shack::create(std::filesystem::path(dir.path().toStdString()) / "s", "elsewhere");
    const Id evaluation =
        add_unpacked(*other, unpack_evaluation(zip, other->captures_folder())).evaluation;
    for (const Test& t : tests(*other, evaluation)) {
      if (t.characteristic != "drift") continue;
      const GeneralTest there = load_general_test(*other, t.id, *find_method("drift"));
      QCOMPARE(there.evidence.events.size(), 1U);
      QCOMPARE(there.evidence.steps.front().series.front()->samples.size(), 20U);
      QCOMPARE(there.evidence.steps.front().series.front()->remarks.size(), 1U);
      QCOMPARE(there.result.answers.front().figure.value,
               made.loaded(*made.shack).result.answers.front().figure.value);
      return;
    }
    QFAIL("the test did not arrive");
  }

  void a_damaged_log_is_named_and_the_rest_is_used() {
    LoggedShack made;
    const Id second = add_step(*made.shack, made.drift_id, "more");
    Series log;
    log.quantity = kCountedFrequency;
    log.unit = "Hz";
    log.started_at = "2026-03-02T08:00:00Z";
    for (int i = 0; i < 10; ++i) log.samples.push_back({10.0 * i, 10e6 + 1.0});
    add_series(*made.shack, second, log);
    made.shack->write([&](SQLite::Database& db) {
      db.exec("UPDATE series SET remarks = '{\"no' WHERE id = " + std::to_string(made.log_id));
    });
    const GeneralTest t = made.loaded(*made.shack);
    QCOMPARE(t.steps.front().damage, std::string("log"));
    QVERIFY(t.evidence.steps.front().is_damaged && t.evidence.steps.front().series.empty());
    QVERIFY(std::abs(t.result.answers.front().figure.value - 0.1) < 1e-6);
  }

  void removed_logs_do_not_count() {
    LoggedShack made;
    set_series_removed(*made.shack, made.log_id, true);
    QVERIFY(made.loaded(*made.shack).result.answers.empty());
    set_series_removed(*made.shack, made.log_id, false);
    QVERIFY(!made.loaded(*made.shack).result.answers.empty());
  }
};

HERON_TEST(SeriesTest)

}  // namespace series_test

#include "series_test.moc"
