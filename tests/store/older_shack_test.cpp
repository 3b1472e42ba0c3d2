// Shacks of every older version, and archives of the first: nothing of them is lost.
#include "tests/store/older_shack.h"

#include <QtTest>

#include "core/error.h"
#include "store/event.h"
#include "store/exchange.h"
#include "store/reading.h"
#include "store/schema.h"
#include "store/series.h"
#include "tests/store/edit_archive.h"
#include "tests/store/made_shack.h"
#include "tests/store/two_tone_of.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;
namespace fs = std::filesystem;

namespace older_shack_test {

namespace {

SQLite::Database opened(const MadeShack& made) {
  return SQLite::Database((made.path() / "shack.sqlite").string(), SQLite::OPEN_READWRITE);
}

/// A typed step, a repeat and a self-test, and an analyser's sweep.
void fill(MadeShack& made) {
  Shack& shack = *made.shack;
  const Id typed = steps(shack, made.test_id)[1].id;
  set_step_output(shack, typed, TypedOutput{"10 W", 40.0, 0.2});
  set_products(shack, typed,
               {{3, "-41.5", -41.5, kRePep, false}, {5, "<-60", -60.0, kReOneTone, true}});
  for (const double added : {0.0, 10.0}) {
    const StoredCapture other =
        store_capture(shack.captures_folder(), two_tones(-35.0, added > 0.0 ? 7 : 8));
    const Id attached = attach_capture(
        shack, made.step_id, other,
        {"2026-03-02T19:04:00Z", 0, AddedAttenuation{added, added > 0.0 ? "10 dB" : ""}});
    save_result(shack, attached, "two_tone",
                to_json(analyse_two_tone(capture_opener(capture_path(shack, other.hash)))));
  }
  add_step(shack, made.test_id, "sweep", std::pair(1e6, 120e6));
  set_test_note(shack, made.test_id, "fan on");
  refresh_headline(shack, made.test_id);
  sign_test(shack, made.test_id, "Both of us", "2026-03-02T19:04:00Z");
}

/// Everything that somebody would see of it.
QStringList seen(const Shack& shack, Id test) {
  const heron::testing::TwoToneTest t = heron::testing::load_two_tone_test(shack, test);
  QStringList all{QString::fromStdString(t.test.note + t.test.signed_by + t.test.signed_at)};
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    const Step& s = t.steps[i];
    QString line = QString::fromStdString(s.label + " " + s.damage);
    if (s.output)
      line += QString(" %1 %2 %3")
                  .arg(QString::fromStdString(s.output->typed))
                  .arg(s.output->dbm)
                  .arg(s.output->u_db);
    for (const TypedProduct& p : t.products(i))
      line += QString::fromStdString(" " + std::to_string(p.order) + p.typed + p.convention) +
              QString(" %1 %2").arg(p.level_db).arg(p.is_bound);
    if (s.sweep_hz) line += QString(" %1 to %2").arg(s.sweep_hz->first).arg(s.sweep_hz->second);
    line += QString(" %1 repeats %2")
                .arg(s.repeats.size())
                .arg(s.self_test ? s.self_test->added->db : 0.0);
    if (s.self_test) line += QString::fromStdString(s.self_test->added->typed);
    if (t.analyses[i])
      line += QString::fromStdString(to_json(*t.analyses[i])["products"].dump()) +
              QString(" %1").arg(t.analyses[i]->repeatability_u_db);
    if (const auto& row = t.ladder.rows[i]; row.worst)
      line += QString::fromStdString(verdict_id(row.judgement.verdict)) +
              QString(" %1 %2").arg(row.worst->value).arg(row.judgement.margin);
    all << line;
  }
  return all;
}

}  // namespace

class OlderShackTest : public QObject {
  Q_OBJECT
 private slots:
  void every_version_is_brought_up_to_date_data() {
    QTest::addColumn<int>("version");
    for (int v = 1; v < schema_version(); ++v) QTest::addRow("version %d", v) << v;
  }
  void every_version_is_brought_up_to_date() {
    QFETCH(int, version);
    MadeShack made;
    fill(made);
    const QStringList before = seen(*made.shack, made.test_id);
    made.shack.reset();
    {
      auto db = opened(made);
      make_older(db, version);
    }
    made.reopen();
    QStringList now = seen(*made.shack, made.test_id);
    QCOMPARE(now.size(), before.size());
    QCOMPARE(now[0], before[0]);
    // Version 1 knew one recording a step and no typed products; 2 not how attenuation was typed;
    // up to 4 no sweeps.
    if (version >= 5) QCOMPARE(now, before);
    if (version >= 3) QCOMPARE(now.mid(0, 3), before.mid(0, 3));
    QVERIFY(now[1].startsWith("30 W  30 W 44.771 0.1"));
    if (version >= 2) QVERIFY(now[2].contains("3-41.5re PEP -41.5 0 5<-60re one tone -60 1"));
    made.shack->read([](SQLite::Database& db) {
      QCOMPARE(db.execAndGet("PRAGMA user_version").getInt(), schema_version());
      SQLite::Statement wrong(db, "PRAGMA foreign_key_check");
      QVERIFY(!wrong.executeStep());
    });
  }

  /// Typed readings that were damaged already: told as such, and the words are still there.
  void damaged_readings_stay_and_are_told_data() {
    QTest::addColumn<QString>("text");
    for (const char* text :
         {"{\"order\":", "[7]", "7", "[{\"order\":3}]",
          R"([{"order":3,"typed":"x","level_db":-30,"convention":"re nothing"}])",
          R"([{"order":4,"typed":"x","level_db":-30,"convention":"re PEP"}])",
          R"([{"order":"3","typed":"x","level_db":-30,"convention":"re PEP"}])"})
      QTest::newRow(text) << QString(text);
  }
  void damaged_readings_stay_and_are_told() {
    QFETCH(QString, text);
    MadeShack made;
    made.shack.reset();
    {
      auto db = opened(made);
      make_older(db, 6);
      SQLite::Statement update(db, "UPDATE step SET products_json = ?");
      update.bind(1, text.toStdString());
      update.exec();
    }
    made.reopen();
    for (const Step& s : steps(*made.shack, made.test_id)) {
      QCOMPARE(s.damage, std::string("typed readings"));
      QVERIFY(products_of(s.readings).empty());
      QVERIFY(std::any_of(s.readings.begin(), s.readings.end(),
                          [&](const Reading& r) { return r.typed == text.toStdString(); }));
    }
    QVERIFY(heron::testing::load_two_tone_test(*made.shack, made.test_id).analyses[0].has_value());
    // Typing them again heals it.
    const Id step = steps(*made.shack, made.test_id)[1].id;
    set_products(*made.shack, step, {{3, "-30", -30.0, kRePep, false}});
    const Step healed = steps(*made.shack, made.test_id)[1];
    QVERIFY(healed.damage.empty());
    QCOMPARE(products_of(healed.readings).size(), 1U);
  }

  /// A reading whose row is damaged is told, and typing it again heals it.
  void a_damaged_reading_is_typed_again() {
    MadeShack made;
    made.shack->write(
        [](SQLite::Database& db) { db.exec("UPDATE reading SET source = 'nobody'"); });
    Step step = steps(*made.shack, made.test_id)[0];
    QCOMPARE(step.damage, std::string("typed readings"));
    QVERIFY(!step.output);
    set_step_output(*made.shack, made.step_id, TypedOutput{"29 W", 44.6, 0.1});
    step = steps(*made.shack, made.test_id)[0];
    QVERIFY(step.damage.empty());
    QCOMPARE(step.output->typed, std::string("29 W"));
  }

  void an_archive_of_the_first_version_is_read() {
    MadeShack made;
    fill(made);
    const QStringList before = seen(*made.shack, made.test_id);
    const fs::path zip = made.path() / "out.zip";
    write_packed(pack_evaluation(*made.shack, made.evaluation_id), zip);
    rewrite(zip, "evaluation.json", [](const std::string& text) {
      auto root = nlohmann::json::parse(text);
      root["version"] = 1;
      for (auto& s : root["tests"][0]["steps"]) {
        for (const auto& r : s.value("readings", nlohmann::json::array())) {
          if (r["quantity"] == "output")
            s["output"] = {{"typed", r["typed"]}, {"dbm", r["value"]}, {"u_db", r["u"]}};
          else
            s["products"].push_back({{"order", r["quantity"] == "im3" ? 3 : 5},
                                     {"typed", r["typed"]},
                                     {"level_db", r["value"]},
                                     {"convention", r["convention"]},
                                     {"bound", r.contains("bound")}});
        }
        s.erase("readings");
        if (s.contains("conditions"))
          s["sweep_hz"] = {s["conditions"][0]["value"], s["conditions"][1]["value"]};
        s.erase("conditions");
        if (!s.contains("other_captures")) continue;
        for (auto& c : s["other_captures"]) {
          c["added_attenuation_db"] = c["conditions"][0]["value"];
          c["added_attenuation_typed"] = c["conditions"][0].value("typed", "");
          c.erase("conditions");
        }
      }
      return root.dump();
    });
    QTemporaryDir dir;
    const auto other = Shack::create(fs::path(dir.path().toStdString()) / "s", "elsewhere");
    const Id evaluation =
        add_unpacked(*other, unpack_evaluation(zip, other->captures_folder())).evaluation;
    QCOMPARE(seen(*other, tests(*other, evaluation)[0].id), before);
  }

  void readings_conditions_series_and_events_come_back_and_travel() {
    MadeShack made;
    Shack& shack = *made.shack;
    Reading supply{0, "supply_voltage", 13.52, "V", 0.02};
    supply.source = ReadingSource::live;
    supply.role = ReadingRole::before;
    supply.at = "2026-03-02T19:04:10Z";
    supply.instrument = "supply";
    supply.is_provisional = true;
    const Id kept = add_reading(shack, made.step_id, supply);
    supply.role = ReadingRole::after;
    supply.value = 13.31;
    add_reading(shack, made.step_id, supply);
    set_condition(shack, made.step_id, {"frequency", 14.2e6, "Hz", "14.2 MHz"});
    set_condition(shack, made.step_id, {"frequency", 7.1e6, "Hz", "7.1 MHz"});
    Series s;
    s.quantity = "frequency";
    s.unit = "Hz";
    s.started_at = "2026-03-02T19:00:00Z";
    s.samples = {{0.0, 1.0}, {1.0, 2.0}};
    const Id series = add_series(shack, made.step_id, s);
    append_samples(shack, series, {{2.5, 3.0}});
    add_event(shack, made.test_id, {0, "2026-03-02T19:05:00Z", "lid on"});
    const Id gone = add_event(shack, made.test_id, {0, "2026-03-02T19:06:00Z", "lid off"});
    set_event_removed(shack, gone, true);
    const auto check = [](const Shack& in, Id test) {
      const Step step = steps(in, test)[0];
      QCOMPARE(step.readings.size(), 3U);
      const Reading& r = step.readings[1];
      QVERIFY(r.quantity == "supply_voltage" && r.value == 13.52 && r.unit == "V" && r.u == 0.02);
      QVERIFY(r.source == ReadingSource::live && r.role == ReadingRole::before);
      QVERIFY(r.at == "2026-03-02T19:04:10Z" && r.instrument == "supply" && r.is_provisional);
      QVERIFY(step.readings[2].role == ReadingRole::after);
      QCOMPARE(step.output->typed, std::string("30 W"));
      QCOMPARE(step.conditions.size(), 1U);
      QVERIFY((step.conditions[0] == Condition{"frequency", 7.1e6, "Hz", "7.1 MHz"}));
      const auto logs = series_of_step(in, step.id);
      QCOMPARE(logs.size(), 1U);
      QCOMPARE(logs[0]->samples.size(), 3U);
      QVERIFY(logs[0]->samples[2].seconds == 2.5 && logs[0]->samples[2].value == 3.0);
      QCOMPARE(events(in, test).size(), 1U);
      QCOMPARE(events(in, test)[0].text, std::string("lid on"));
    };
    made.reopen();
    check(*made.shack, made.test_id);
    const fs::path zip = made.path() / "out.zip";
    write_packed(pack_evaluation(*made.shack, made.evaluation_id), zip);
    QTemporaryDir dir;
    const auto other = Shack::create(fs::path(dir.path().toStdString()) / "s", "elsewhere");
    const Id evaluation =
        add_unpacked(*other, unpack_evaluation(zip, other->captures_folder())).evaluation;
    check(*other, tests(*other, evaluation)[0].id);
    // What a person removes stays out of sight and comes back.
    set_reading_removed(*made.shack, kept, true);
    QCOMPARE(steps(*made.shack, made.test_id)[0].readings.size(), 2U);
    set_reading_removed(*made.shack, kept, false);
    check(*made.shack, made.test_id);
    set_series_removed(*made.shack, series, true);
    QVERIFY(series_of_step(*made.shack, made.step_id).empty());
  }
};

HERON_TEST(OlderShackTest)

}  // namespace older_shack_test

#include "older_shack_test.moc"
