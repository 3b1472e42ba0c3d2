// The shack's tables against their documentation, and what the smaller stores promise.
#include "store/schema.h"

#include <QtTest>
#include <SQLiteCpp/SQLiteCpp.h>

#include "core/error.h"
#include "tests/store/made_shack.h"
#include "tests/store/two_tone_of.h"
#include "tests/test_program.h"

using namespace heron;

namespace schema_test {

using heron::testing::MadeShack;

class SchemaTest : public QObject {
  Q_OBJECT

  static QStringList column(const SQLite::Database& db, const std::string& sql, int index) {
    QStringList values;
    SQLite::Statement query(db, sql);
    while (query.executeStep())
      values << QString::fromStdString(query.getColumn(index).getString());
    return values;
  }

 private slots:
  void every_table_is_documented() {
    MadeShack made;
    QFile file(HERON_DOCS "/shack-schema.md");
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QString text = QString::fromUtf8(file.readAll());
    made.shack->read([&](const SQLite::Database& db) {
      const QStringList tables = column(
          db, "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'",
          0);
      QVERIFY(tables.size() >= 9);
      for (const QString& table : tables)
        QVERIFY2(text.contains("| `" + table + "` |"), qPrintable(table));
      // ... and what the documentation names exists.
      const QRegularExpression row("^\\| `([a-z_]+)` \\|", QRegularExpression::MultilineOption);
      auto found = row.globalMatch(text);
      while (found.hasNext()) {
        const QString name = found.next().captured(1);
        QVERIFY2(tables.contains(name), qPrintable(name));
      }
      QVERIFY(text.contains(QString("Tables, version %1").arg(schema_version())));
    });
  }

  void times_are_utc_and_keys_are_enforced() {
    MadeShack made;
    made.shack->read([&](const SQLite::Database& db) {
      const QRegularExpression iso("^\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\dZ$");
      for (const char* where : {"created_at FROM device", "started_at FROM evaluation",
                                "added_at FROM capture", "taken_at FROM step_capture"}) {
        for (const QString& time : column(db, std::string("SELECT ") + where, 0))
          QVERIFY2(iso.match(time).hasMatch(), qPrintable(time));
      }
      QVERIFY(column(db, "PRAGMA foreign_key_check", 0).isEmpty());
      QCOMPARE(column(db, "PRAGMA integrity_check", 0), QStringList{"ok"});
      QCOMPARE(column(db, "PRAGMA foreign_keys", 0), QStringList{"1"});
      QCOMPARE(column(db, "PRAGMA journal_mode", 0), QStringList{"wal"});
      QCOMPARE(column(db, "PRAGMA synchronous", 0), QStringList{"2"});
    });
    QVERIFY_EXCEPTION_THROWN(add_step(*made.shack, 4711, "of no test"), InputError);
    QVERIFY_EXCEPTION_THROWN(add_evaluation(*made.shack, 4711, "of no device"), InputError);
    QVERIFY_EXCEPTION_THROWN(add_device(*made.shack, {}), InputError);  // without a name
  }

  void what_is_not_there_is_named() {
    MadeShack made;
    QVERIFY_EXCEPTION_THROWN(device(*made.shack, 99), InputError);
    QVERIFY_EXCEPTION_THROWN(evaluation(*made.shack, 99), InputError);
    QVERIFY_EXCEPTION_THROWN(test(*made.shack, 99), InputError);
    try {
      device(*made.shack, 99);
    } catch (const InputError& error) {
      QVERIFY(!error.reason.empty() && !error.advice.empty());
    }
  }

  void a_specification_is_replaced_by_characteristic() {
    MadeShack made;
    Limit gain{"maker", Sense::at_least, 18.0, "dB", "", 6.0};
    set_specification(*made.shack, made.device_id, "gain", {gain});
    set_specification(*made.shack, made.device_id, "two_tone",
                      {MadeShack::limit(), {"strict", Sense::at_most, -40, "dB", kRePep, 20}});
    made.reopen();
    const Device d = device(*made.shack, made.device_id);
    QCOMPARE(d.specification.size(), 3U);
    set_specification(*made.shack, made.device_id, "two_tone", {});
    const Device now = device(*made.shack, made.device_id);
    QCOMPARE(now.specification.size(), 1U);
    QVERIFY(to_json(now.specification[0].limit) == to_json(gain));
  }

  void the_journal_keeps_its_order() {
    MadeShack made;
    for (int i = 0; i < 5; ++i)
      add_journal_entry(*made.shack, made.device_id, "done " + std::to_string(i));
    made.reopen();
    const auto entries = journal(*made.shack, made.device_id);
    QCOMPARE(entries.size(), 5U);
    for (std::size_t i = 0; i < 5; ++i) QCOMPARE(entries[i].text, "done " + std::to_string(i));
  }

  void a_removed_device_is_out_of_sight_and_comes_back_whole() {
    MadeShack made;
    set_device_removed(*made.shack, made.device_id, true);
    QVERIFY(devices(*made.shack).empty());
    made.reopen();
    set_device_removed(*made.shack, made.device_id, false);
    QCOMPARE(devices(*made.shack).size(), 1U);
    QCOMPARE(evaluations(*made.shack, made.device_id).size(), 1U);
    QVERIFY(heron::testing::load_two_tone_test(*made.shack, made.test_id).analyses[0].has_value());
  }

  void steps_keep_their_order_and_the_latest_recording_counts() {
    MadeShack made;
    for (const char* label : {"5 W", "2 W", "1 W"}) add_step(*made.shack, made.test_id, label);
    made.reopen();
    QStringList labels;
    for (const Step& s : steps(*made.shack, made.test_id))
      labels << QString::fromStdString(s.label);
    QCOMPARE(labels, (QStringList{"30 W", "10 W", "5 W", "2 W", "1 W"}));
    const StoredCapture second =
        store_capture(made.shack->captures_folder(), heron::testing::two_tones(-20.0, 5));
    const Id attached = attach_capture(*made.shack, made.step_id, second);
    QCOMPARE(steps(*made.shack, made.test_id)[0].capture->hash, second.hash);
    set_step_capture_removed(*made.shack, attached, true);
    QCOMPARE(steps(*made.shack, made.test_id)[0].capture->hash, made.stored.hash);
    set_step_capture_removed(*made.shack, made.capture_id, true);
    QVERIFY(!steps(*made.shack, made.test_id)[0].capture);
  }

  void typed_words_survive_whatever_they_are() {
    MadeShack made;
    for (const std::string& words :
         {std::string("31,5 W"), std::string("'; DROP TABLE step; --"), std::string(20000, 'x'),
          std::string("\xe2\x88\x92 \xc2\xb5V \xf0\x9f\x93\xa1"), std::string("line\nline\ttab")}) {
      set_test_note(*made.shack, made.test_id, words);
      set_step_output(*made.shack, made.step_id, TypedOutput{words, 44.8, 0.1});
      made.reopen();
      QCOMPARE(test(*made.shack, made.test_id).note, words);
      QCOMPARE(steps(*made.shack, made.test_id)[0].output->typed, words);
    }
  }

  /// The headline in the shack is that of the highest output taken, in any order of taking.
  void the_headline_is_that_of_the_highest_output() {
    MadeShack made;
    const Id step = steps(*made.shack, made.test_id)[1].id;
    const StoredCapture loud =
        store_capture(made.shack->captures_folder(), heron::testing::two_tones(-15.0, 6));
    const Id capture = attach_capture(*made.shack, step, loud);
    save_result(*made.shack, capture, "two_tone",
                to_json(analyse_two_tone(capture_opener(capture_path(*made.shack, loud.hash)))));
    set_step_output(*made.shack, step, TypedOutput{"10 W", 40.0, 0.1});
    refresh_headline(*made.shack, made.test_id);
    QCOMPARE(test(*made.shack, made.test_id).headline->at, std::string("30 W"));
    QCOMPARE(test(*made.shack, made.test_id).headline->judgement.verdict, Verdict::pass);
    set_step_output(*made.shack, step, TypedOutput{"40 W", 46.02, 0.1});
    const heron::testing::TwoToneTest t =
        heron::testing::two_tone_of(*refresh_headline(*made.shack, made.test_id));
    QCOMPARE(t.test.headline->at, std::string("10 W"));  // the label; its output is the higher now
    QCOMPARE(test(*made.shack, made.test_id).headline->judgement.verdict, Verdict::fail);
  }
};

HERON_TEST(SchemaTest)

}  // namespace schema_test

#include "schema_test.moc"
