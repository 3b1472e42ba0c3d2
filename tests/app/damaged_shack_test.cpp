#include <QtTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <fcntl.h>
#include <random>
#include <span>
#include <unistd.h>

#include "app/application.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/shell/window_files.h"
#include "store/bench.h"
#include "store/cleanup.h"
#include "store/event.h"
#include "store/hookup.h"
#include "store/instrument.h"
#include "store/reading.h"
#include "store/series.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/core/made_chain.h"
#include "tests/draws.h"
#include "tests/store/older_shack.h"
#include "tests/test_program.h"

using namespace heron;

namespace damaged_shack_test {

using heron::testing::OpenWindow;
namespace fs = std::filesystem;

namespace {

struct Column {
  std::string table;
  std::string name;
};

/// Every column that holds text or JSON.
std::vector<Column> text_columns(const fs::path& file) {
  SQLite::Database db(file.string(), SQLite::OPEN_READONLY);
  std::vector<Column> all;
  SQLite::Statement tables(
      db, "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'");
  while (tables.executeStep()) {
    const std::string table = tables.getColumn(0).getString();
    SQLite::Statement columns(db, "PRAGMA table_info(" + table + ")");
    while (columns.executeStep()) {
      if (columns.getColumn(2).getString() == "TEXT")
        all.push_back({table, columns.getColumn(1).getString()});
    }
  }
  return all;
}

/// Wrong in every way that a stored text can be.
const std::vector<std::string>& wrong_texts() {
  static const std::vector<std::string> texts = {
      "{\"format\":",
      "[]",
      "{}",
      "null",
      "\"text\"",
      "17",
      "[1,2,3]",
      R"({"figure":[],"format":7,"value":"x","parts":{},"spread":[],"purity":[],"ladder":7})"};
  return texts;
}

/// One value somewhere inside a JSON replaced by one of another kind.
std::string mutated(const std::string& text, std::mt19937& random) {
  auto root = nlohmann::json::parse(text, nullptr, false);
  if (root.is_discarded() || !root.is_structured() || root.empty()) return "{";
  nlohmann::json* at = &root;
  while (at->is_structured() && !at->empty()) {
    auto next = at->begin();
    std::advance(next, static_cast<std::ptrdiff_t>(random() % at->size()));
    at = &*next;
    if (random() % 3 == 0) break;
  }
  const nlohmann::json others[] = {
      nullptr, "x", -1e300, nlohmann::json::array(), nlohmann::json::object(), true};
  *at = others[random() % 6];
  return root.dump();
}

}  // namespace

/// A shack of which part is damaged: that part is told, the rest works, and nothing ends the
/// program.
class DamagedShackTest : public QObject {
  Q_OBJECT
  std::unique_ptr<OpenWindow> open_;
  fs::path sound_;
  QTemporaryDir kept_;
  QStringList thrown_;  ///< what came out of the window

  /// One of everything, so that every table has rows.
  void fill() {
    Shack& shack = open_->window->session().shack();
    const Id hookup = add_hookup(shack, "Hook-up A", heron::testing::pad_and_sampler(40.0));
    Drive drive{to_dbm(Watt{30.0}).value, true, 14.2e6, 12.0};
    set_test_hookup_id(shack, open_->made.test_id, hookup);
    set_test_drive(shack, open_->made.test_id, drive);
    add_bench_item(shack, made_item("attenuator"));
    keep_hookup_draft(shack, hookup, heron::testing::pad_and_sampler(30.0));
    keep_instrument(shack, {"generator", "Generator", "127.0.0.1:9", "", "x"});
    add_journal_entry(shack, open_->made.device_id, "fan cleaned");
    vouch(shack, open_->made.test_id,
          {"Both of us", "hand on the switch", "", 44.0, latest_version(shack, hookup).id});
    for (const char* kind : {"purity", "noise", "bandwidth", "output"}) {
      Test t;
      t.evaluation_id = open_->made.evaluation_id;
      t.characteristic = kind;
      t.title = kind;
      if (std::string(kind) == "output")
        t.limit = Limit{"maker", Sense::at_least, 30.0, "W", "", 20.0};
      const Id step = add_step(shack, add_test(shack, t), "30 W");
      if (std::string(kind) != "output") continue;
      for (const TypedField& f : find_method(kind)->fields) {
        if (f.kind == TypedField::Kind::reading)
          add_reading(shack, step, read_typed(f, "3"));
        else
          set_condition(shack, step, condition_typed(f, "3"));
      }
      add_event(shack, open_->made.test_id, {0, "2026-03-02T19:04:00Z", "lid on"});
      Series log;
      log.quantity = "frequency";
      log.unit = "Hz";
      log.samples = {{0.0, 14.2e6}};
      add_series(shack, step, log);
    }
    const Id step = steps(shack, open_->made.test_id)[1].id;
    heron::testing::set_products(shack, step, {TypedProduct{3, "-30", -30.0, kRePep, false}});
    heron::refresh_headline(shack, open_->made.test_id);
  }

  /// Opens it and looks at everything; returns how many rows are told to be damaged.
  int look_at_everything() {
    try {
      return looked();
    } catch (const std::exception& error) {
      thrown_ << QString::fromUtf8(error.what());
      return 1;
    }
  }

  int looked() {
    MainWindow& w = *open_->window;
    if (!w.open_shack(QString::fromStdString(open_->made.path().string()))) return 1;
    int told = 0;
    w.show_shack();
    for (const Device& d : devices(w.session().shack())) {
      told += d.damage.empty() ? 0 : 1;
      for (const Evaluation& e : evaluations(w.session().shack(), d.id)) {
        w.show_evaluation(e.id);
        for (const Test& t : std::vector<Test>(w.session().course())) {
          told += t.damage.empty() ? 0 : 1;
          w.show_evaluation(e.id, t.id);
          if (const PlannedTest* shown = w.session().planned()) {
            told += shown->test.damage.empty() ? 0 : 1;
            for (const Step& s : shown->steps) told += s.damage.empty() ? 0 : 1;
          }
          w.sheet()->grab();
        }
        w.show_hookup(0, w.session().test_id());
      }
    }
    w.show_bench();
    for (const BenchEntry& entry : bench(w.session().shack())) told += entry.damage.empty() ? 0 : 1;
    w.open_level_desk();
    w.open_level_desk();
    QApplication::processEvents();
    return told;
  }

  /// Runs SQL on the closed shack.
  void damage(const std::function<void(SQLite::Database&)>& change) {
    open_->window.reset();
    put_back_closed();
    SQLite::Database db((open_->made.path() / "shack.sqlite").string(), SQLite::OPEN_READWRITE);
    db.exec("PRAGMA ignore_check_constraints = ON");
    change(db);
  }
  void put_back_closed() {
    for (const char* ending : {"", "-wal", "-shm"}) {
      std::error_code error;
      fs::remove(open_->made.path() / (std::string("shack.sqlite") + ending), error);
    }
    fs::copy_file(sound_, open_->made.path() / "shack.sqlite",
                  fs::copy_options::overwrite_existing);
  }

 private slots:
  void initTestCase() {
    QVERIFY(heron::testing::prepare_window_tests("even-heron-damage-test"));
    open_ = std::make_unique<OpenWindow>();
    fill();
    open_->window.reset();
    sound_ = fs::path(kept_.filePath("sound.sqlite").toStdString());
    {
      SQLite::Database db((open_->made.path() / "shack.sqlite").string(), SQLite::OPEN_READWRITE);
      db.exec("PRAGMA wal_checkpoint(TRUNCATE)");
    }
    fs::copy_file(open_->made.path() / "shack.sqlite", sound_);
  }
  void cleanupTestCase() { open_.reset(); }

  void every_text_column_may_hold_anything() {
    QSignalSpy wrong(qobject_cast<Application*>(qApp), &Application::went_wrong);
    // Under the sanitizers one in five, so that every kind of text meets every table.
    constexpr int kEvery = heron::testing::kFewDraws ? 5 : 1;
    int tried = 0;
    int shacks = 0;
    QStringList bad;
    for (const Column& column : text_columns(sound_)) {
      // Where JSON is expected every kind of it is tried; elsewhere one odd text is like another.
      const std::size_t kinds = column.name.ends_with("_json") ? wrong_texts().size() : 1;
      for (const std::string& text : std::span(wrong_texts()).first(kinds)) {
        if (++tried % kEvery != 0) continue;
        const std::string sql = "UPDATE " + column.table + " SET " + column.name + " = ?";
        int changed = 0;
        damage([&sql, &text, &changed](SQLite::Database& db) {
          SQLite::Statement update(db, sql);
          update.bind(1, text);
          try {
            changed = update.exec();
          } catch (const SQLite::Exception&) {
            return;  // a key or a constraint holds
          }
        });
        if (changed == 0) continue;
        open_->window = std::make_unique<MainWindow>();
        open_->window->show();
        look_at_everything();
        ++shacks;
        for (const auto& told : std::as_const(wrong)) thrown_ << told[0].toString();
        wrong.clear();
        for (const QString& what : std::exchange(thrown_, {}))
          bad << QString::fromStdString(column.table + "." + column.name + " = " + text + ": ") +
                     what;
      }
    }
    QVERIFY2(bad.isEmpty(), qPrintable(bad.join('\n')));
    QVERIFY2(shacks > 100 / kEvery, qPrintable(QString::number(shacks)));
  }

  void json_that_is_nearly_right_is_told_or_used() {
    QSignalSpy wrong(qobject_cast<Application*>(qApp), &Application::went_wrong);
    std::mt19937 random(7);
    const Column columns[] = {{"test", "headline_json"},        {"test", "limit_json"},
                              {"test", "drive_json"},           {"test", "settings_json"},
                              {"result", "record_json"},        {"reading", "quantity"},
                              {"spec_line", "limit_json"},      {"bench_item", "record_json"},
                              {"hookup_version", "chain_json"}, {"hookup_draft", "chain_json"}};
    for (int turn = 0; turn < 60; turn += heron::testing::kFewDraws ? 5 : 1) {
      const Column& column = columns[static_cast<std::size_t>(turn) % std::size(columns)];
      std::string put;
      const std::string where = " WHERE " + column.name + " IS NOT NULL";
      const std::string select =
          "SELECT " + column.name + " FROM " + column.table + where + " LIMIT 1";
      const std::string set = "UPDATE " + column.table + " SET " + column.name + " = ?" + where;
      damage([&put, &random, &select, &set](SQLite::Database& db) {
        SQLite::Statement now(db, select);
        if (!now.executeStep()) return;
        put = mutated(now.getColumn(0).getString(), random);
        now.reset();
        SQLite::Statement update(db, set);
        update.bind(1, put);
        update.exec();
      });
      open_->window = std::make_unique<MainWindow>();
      open_->window->show();
      look_at_everything();
      for (const auto& told : std::as_const(wrong)) thrown_ << told[0].toString();
      QVERIFY2(thrown_.isEmpty(),
               qPrintable(thrown_.join('\n') + " from " +
                          QString::fromStdString(column.table + "." + column.name + " = " +
                                                 put.substr(0, 400))));
    }
  }

  void a_damaged_part_is_shown_as_damaged_and_the_rest_works_data() {
    QTest::addColumn<QString>("sql");
    const char* columns[] = {
        "test SET headline_json",   "test SET limit_json",        "test SET drive_json",
        "test SET settings_json",   "result SET record_json",     "reading SET source",
        "spec_line SET limit_json", "bench_item SET record_json", "hookup_version SET chain_json"};
    for (const char* c : columns) QTest::newRow(c) << QString("UPDATE %1 = '[7]'").arg(c);
  }
  void a_damaged_part_is_shown_as_damaged_and_the_rest_works() {
    QFETCH(QString, sql);
    damage([&](SQLite::Database& db) { db.exec(sql.toStdString()); });
    open_->window = std::make_unique<MainWindow>();
    open_->window->show();
    QVERIFY(look_at_everything() > 0);
    MainWindow& w = *open_->window;
    w.show_evaluation(open_->made.evaluation_id, open_->made.test_id);
    QVERIFY(w.session().planned() != nullptr);
    QCOMPARE(w.session().planned()->steps.size(), 2U);
    TestEdits(w.session()).set_note("still writable");
    QCOMPARE(heron::test(w.session().shack(), open_->made.test_id).note,
             std::string("still writable"));
  }

  void a_shack_that_cannot_be_opened_is_not_tried_again() {
    damage([](SQLite::Database& db) { db.exec("PRAGMA user_version = 4000"); });
    open_->window = std::make_unique<MainWindow>();
    const QString folder = QString::fromStdString(open_->made.path().string());
    QSettings().setValue("shack/folder", folder);
    QVERIFY(!open_->window->open_shack(folder));
    QVERIFY(QSettings().value("shack/folder").toString() != folder);
    // And one that the program did not survive.
    QSettings().setValue("shack/folder", folder);
    QSettings().setValue("shack/opening", folder);
    open_->window->files()->open_last_shack(folder);
    QVERIFY(!open_->window->session().is_open());
    open_->window->show();
    QVERIFY(open_->window->messages()->text().contains("ended while it opened"));
    QSettings().remove("shack/folder");
  }

  void an_exception_under_the_event_loop_is_shown_and_the_program_goes_on() {
    QSignalSpy wrong(qobject_cast<Application*>(qApp), &Application::went_wrong);
    QTest::ignoreMessage(QtWarningMsg, QRegularExpression("not caught"));
    QTimer::singleShot(0, qApp, [] { throw std::runtime_error("inner words"); });
    QTRY_COMPARE(wrong.count(), 1);
    QVERIFY(!wrong[0][0].toString().contains("inner words"));
  }

  void a_folder_that_cannot_be_written_to_opens_for_reading() {
    damage([](SQLite::Database& db) {
      // As it lies on a read-only disk: an older version, with changes still in its log.
      heron::testing::make_older(db, 5);
      db.exec("UPDATE shack SET place = 'Lighthouse'");
    });
    // The superuser may write anywhere; a folder in the lock's place refuses even that.
    const fs::path lock = open_->made.path() / "shack.lock";
    fs::remove(lock);
    fs::create_directory(lock);
    open_->window = std::make_unique<MainWindow>();
    open_->window->show();
    MainWindow& w = *open_->window;
    QVERIFY(w.open_shack(QString::fromStdString(open_->made.path().string())));
    QVERIFY(w.session().shack().is_read_only());
    QCOMPARE(w.session().shack().place(), std::string("Lighthouse"));
    w.show_evaluation(open_->made.evaluation_id, open_->made.test_id);
    QVERIFY(heron::testing::two_tone_of(w.session())->analyses[0].has_value());
    QVERIFY(w.messages()->text().contains("cannot be written to"));
    TestEdits(w.session()).set_note("no");
    QVERIFY(heron::test(w.session().shack(), open_->made.test_id).note != "no");
    open_->window.reset();
    fs::remove(lock);
    // Nothing of it was touched.
    SQLite::Database db((open_->made.path() / "shack.sqlite").string(), SQLite::OPEN_READONLY);
    QCOMPARE(db.execAndGet("PRAGMA user_version").getInt(), 5);
  }

  void clean_up_takes_away_only_what_nothing_uses() {
    put_back_closed();
    open_->window = std::make_unique<MainWindow>();
    MainWindow& w = *open_->window;
    QVERIFY(w.open_shack(QString::fromStdString(open_->made.path().string())));
    Shack& shack = w.session().shack();
    const auto files = [&] {
      return std::distance(fs::directory_iterator(shack.captures_folder()),
                           fs::directory_iterator());
    };
    const auto before = files();
    QVERIFY(before > 0);
    QVERIFY(find_unused_captures(shack).files.empty());
    w.show_evaluation(open_->made.evaluation_id, open_->made.test_id);
    StepEdits(w.session()).remove_capture(0);
    const UnusedCaptures unused = find_unused_captures(shack);
    QCOMPARE(unused.hashes.size(), 1U);
    QVERIFY(unused.bytes > 1000);
    w.session().undo_stack().undo();  // in use again
    QVERIFY(find_unused_captures(shack).files.empty());
    w.session().undo_stack().redo();
    remove_unused_captures(shack, unused);
    QCOMPARE(files(), before - static_cast<std::ptrdiff_t>(unused.files.size()));
    QVERIFY(find_unused_captures(shack).files.empty());
  }
};

HERON_TEST_IN(DamagedShackTest, heron::Application application(argc, argv);)

}  // namespace damaged_shack_test

#include "damaged_shack_test.moc"
