#include <QtTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <fstream>
#include <signal.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include "core/error.h"
#include "store/result_record.h"
#include "store/schema.h"
#include "tests/core/said.h"
#include "tests/store/made_shack.h"
#include "tests/store/two_tone_of.h"
#include "tests/test_program.h"

using namespace heron;

namespace shack_test {

using heron::testing::MadeShack;
using heron::testing::refusal;
namespace fs = std::filesystem;

class ShackTest : public QObject {
  Q_OBJECT
 private slots:
  /// What was read stays in memory, and never longer than it is true.
  void what_was_read_of_a_recording_is_read_again_only_when_it_changed() {
    MadeShack made;
    const auto analysis = [&] {
      return load_test(*made.shack, made.test_id)->evidence.steps[0].analysis;
    };
    const AnalysisPtr first = analysis();
    QVERIFY(first != nullptr && analysis() == first);
    set_test_note(*made.shack, made.test_id, "fan on");
    QVERIFY(analysis() == first);
    // Saved with something else in it, it is read anew.
    const auto record = *load_result(*made.shack, made.capture_id);
    auto other_level = record;
    other_level["products"][0]["level_dbc"] = -21.0;
    save_result(*made.shack, made.capture_id, "two_tone", other_level);
    const AnalysisPtr second = analysis();
    QVERIFY(second != nullptr && second != first);
    // A second connection reads the same once for both.
    QVERIFY(load_test(*made.shack->reader(), made.test_id)->evidence.steps[0].analysis == second);
    // A transaction that fails leaves nothing of what it wrote.
    auto changed = record;
    changed["products"][0]["level_dbc"] = -7.0;
    QVERIFY_EXCEPTION_THROWN(made.shack->write_together([&] {
      save_result(*made.shack, made.capture_id, "two_tone", changed);
      QCOMPARE(heron::testing::load_two_tone_test(*made.shack, made.test_id)
                   .analyses[0]
                   ->products[0]
                   .level_dbc,
               -7.0);
      throw InputError("this", "", "went wrong", "");
    }),
                             InputError);
    QVERIFY(heron::testing::load_two_tone_test(*made.shack, made.test_id)
                .analyses[0]
                ->products[0]
                .level_dbc < -20.0);
    // Nor does it hide what somebody else writes.
    const AnalysisPtr third = analysis();
    {
      SQLite::Database other((made.path() / "shack.sqlite").string(), SQLite::OPEN_READWRITE);
      SQLite::Statement update(other, "UPDATE result SET record_json = ?");
      update.bind(1, changed.dump());
      update.exec();
    }
    QVERIFY(analysis() != third);
    QCOMPARE(heron::testing::load_two_tone_test(*made.shack, made.test_id)
                 .analyses[0]
                 ->products[0]
                 .level_dbc,
             -7.0);
  }

  void everything_is_there_when_it_opens_again() {
    MadeShack made;
    set_test_note(*made.shack, made.test_id, "bias 320 mA");
    sign_test(*made.shack, made.test_id, "Both of us", "2026-03-02T19:04:00Z");
    add_journal_entry(*made.shack, made.device_id, "Bias set");
    made.reopen();
    QCOMPARE(made.shack->place(), std::string("Skerry Point"));
    const Device d = devices(*made.shack).at(0);
    QCOMPARE(d.name, std::string("Reedling 30"));
    QCOMPARE(d.specification.at(0).limit.value, -30.0);
    const heron::testing::TwoToneTest t =
        heron::testing::load_two_tone_test(*made.shack, made.test_id);
    QCOMPARE(t.test.note, std::string("bias 320 mA"));
    QCOMPARE(t.test.signed_by, std::string("Both of us"));
    QCOMPARE(t.steps.size(), 2U);
    QCOMPARE(t.steps[0].output->typed, std::string("30 W"));
    QVERIFY(t.analyses[0] && !t.analyses[1]);
    QVERIFY(std::abs(t.analyses[0]->worst()->level_dbc + 35.0) < 1.0);
    QCOMPARE(t.ladder.rows[0].judgement.verdict, Verdict::pass);
    QCOMPARE(t.test.headline->judgement.verdict, Verdict::pass);
    QCOMPARE(journal(*made.shack, made.device_id).at(0).text, std::string("Bias set"));
  }

  void what_was_removed_comes_back_whole() {
    MadeShack made;
    set_step_capture_removed(*made.shack, made.capture_id, true);
    QVERIFY(!heron::testing::load_two_tone_test(*made.shack, made.test_id).analyses[0]);
    set_step_capture_removed(*made.shack, made.capture_id, false);
    QVERIFY(heron::testing::load_two_tone_test(*made.shack, made.test_id).analyses[0].has_value());
    set_step_removed(*made.shack, made.step_id, true);
    QCOMPARE(steps(*made.shack, made.test_id).size(), 1U);
    set_step_removed(*made.shack, made.step_id, false);
    QCOMPARE(steps(*made.shack, made.test_id).at(0).label, std::string("30 W"));
    set_test_removed(*made.shack, made.test_id, true);
    QVERIFY(tests(*made.shack, made.evaluation_id).empty());
  }

  void a_second_instance_reads_only_and_says_so() {
    MadeShack made;
    const auto second = Shack::open(made.path());
    QVERIFY(second->is_read_only());
    QVERIFY(second->why_read_only().find("another window") != std::string::npos);
    QCOMPARE(devices(*second).size(), 1U);
    QVERIFY(refusal([&] {
              add_device(*second, {0, "Bittern", "", "", "", {}});
            }).contains("another window"));
    add_device(*made.shack, {0, "Bittern", "", "", "", {}});
    QCOMPARE(devices(*second).size(), 2U);
    made.shack.reset();
    QVERIFY(!Shack::open(made.path())->is_read_only());
  }

  void what_is_no_shack_is_refused_untouched() {
    QTemporaryDir dir;
    const fs::path folder = dir.path().toStdString();
    QVERIFY(refusal([&] { Shack::open(folder); }).contains("no shack"));
    std::ofstream(folder / "shack.sqlite") << "just a letter to a friend";
    QVERIFY(refusal([&] { Shack::open(folder); }).contains("not a shack file"));
    QCOMPARE(fs::file_size(folder / "shack.sqlite"), 25U);
    fs::remove(folder / "shack.sqlite");
    {
      SQLite::Database other((folder / "shack.sqlite").string(),
                             SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
      other.exec("CREATE TABLE recipe(id INTEGER)");
    }
    QVERIFY(refusal([&] { Shack::open(folder); }).contains("another program"));
    fs::remove(folder / "shack.sqlite");
    std::string broken("SQLite format 3\0", 16);
    broken.resize(8192, 'x');
    std::ofstream(folder / "shack.sqlite", std::ios::binary) << broken;
    QVERIFY(!refusal([&] { Shack::open(folder); }).isEmpty());
    fs::remove(folder / "shack.sqlite");
    fs::create_directory(folder / "shack.sqlite");
    QVERIFY(!refusal([&] { Shack::open(folder); }).isEmpty());
  }

  void a_newer_shack_is_left_alone() {
    MadeShack made;
    made.shack.reset();
    {
      SQLite::Database db((made.path() / "shack.sqlite").string(), SQLite::OPEN_READWRITE);
      db.exec("PRAGMA user_version = " + std::to_string(schema_version() + 1));
    }
    QVERIFY(refusal([&] { Shack::open(made.path()); }).contains("newer Even Heron"));
    SQLite::Database db((made.path() / "shack.sqlite").string());
    QCOMPARE(db.execAndGet("PRAGMA user_version").getInt(), schema_version() + 1);
  }

  void a_shack_is_not_made_over_another() {
    MadeShack made;
    QVERIFY(refusal([&] { Shack::create(made.path(), "again"); }).contains("already"));
  }

  /// kill -9 in the middle of writing: every acknowledged reading is there, and the file is sound.
  void a_killed_writer_loses_nothing_acknowledged() {
    for (int round = 0; round < 3; ++round) {
      MadeShack made;
      made.shack.reset();
      int pipe_ends[2];
      QCOMPARE(::pipe(pipe_ends), 0);
      const pid_t child = ::fork();
      if (child == 0) {
        ::close(pipe_ends[0]);
        const auto shack = Shack::open(made.path());
        for (int i = 0;; ++i) {
          const Id id = add_step(*shack, made.test_id, "step " + std::to_string(i));
          set_step_output(*shack, id, TypedOutput{std::to_string(i) + " W", 30.0 + i, 0.1});
          if (::write(pipe_ends[1], &i, sizeof i) != sizeof i) ::_exit(1);
        }
      }
      ::close(pipe_ends[1]);
      int last = -1;
      int acknowledged = 0;
      while (acknowledged < 40 + 17 * round &&
             ::read(pipe_ends[0], &last, sizeof last) == sizeof last)
        ++acknowledged;
      ::kill(child, SIGKILL);
      int more = 0;
      while (::read(pipe_ends[0], &more, sizeof more) == sizeof more) last = more;
      ::close(pipe_ends[0]);
      ::waitpid(child, nullptr, 0);
      const auto shack = Shack::open(made.path());
      QVERIFY(!shack->is_read_only());
      shack->read([](SQLite::Database& db) {
        QCOMPARE(db.execAndGet("PRAGMA integrity_check").getString(), std::string("ok"));
      });
      const auto all = steps(*shack, made.test_id);
      QVERIFY(static_cast<int>(all.size()) >= 2 + last + 1);
      for (int i = 0; i <= last; ++i) {
        const Step& s = all[static_cast<std::size_t>(2 + i)];
        QCOMPARE(s.label, "step " + std::to_string(i));
        QVERIFY(s.output.has_value());
      }
    }
  }

  void a_full_disk_is_told_and_nothing_is_half_done() {
    MadeShack made;
    made.shack->write([](SQLite::Database& db) { db.exec("SELECT 1"); });
    made.shack->read([](SQLite::Database& db) {
      const int pages = db.execAndGet("PRAGMA page_count").getInt();
      db.execAndGet("PRAGMA max_page_count = " + std::to_string(pages + 1));
    });
    const std::string long_note(200000, 'n');
    QVERIFY(refusal([&] {
              set_test_note(*made.shack, made.test_id, long_note);
            }).contains("disk is full"));
    QCOMPARE(test(*made.shack, made.test_id).note, std::string());
    set_step_label(*made.shack, made.step_id, "31 W");
    QCOMPARE(steps(*made.shack, made.test_id).at(0).label, std::string("31 W"));
  }

  void together_is_all_or_nothing() {
    MadeShack made;
    QVERIFY(!refusal([&] {
               made.shack->write_together([&] {
                 add_step(*made.shack, made.test_id, "5 W");
                 throw InputError("a", "", "b", "c");
               });
             }).isEmpty());
    QCOMPARE(steps(*made.shack, made.test_id).size(), 2U);
    made.shack->write_together([&] { add_step(*made.shack, made.test_id, "5 W"); });
    QCOMPARE(steps(*made.shack, made.test_id).size(), 3U);
  }

  void a_damaged_record_is_named() {
    MadeShack made;
    made.shack->write(
        [&](SQLite::Database& db) { db.exec("UPDATE result SET record_json = '{\"format\":'"); });
    made.reopen();
    const heron::testing::TwoToneTest t =
        heron::testing::load_two_tone_test(*made.shack, made.test_id);
    QCOMPARE(t.steps[0].damage, std::string("result"));
    QVERIFY(!t.analyses[0].has_value());
    QVERIFY(t.test.damage.empty());  // the rest of it works
    QCOMPARE(t.steps[0].output->typed, std::string("30 W"));
  }
};

HERON_TEST(ShackTest)

}  // namespace shack_test

#include "shack_test.moc"
