// The session without a window: undo as a property, signed tests, headlines.
#include "app/session/session.h"

#include <QSignalSpy>
#include <QtTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <random>

#include "app/session/shack_edits.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "core/error.h"
#include "core/method/purity/purity_settings.h"
#include "core/method/spread/spread_settings.h"
#include "core/method/two_tone/two_tone_json.h"
#include "store/exchange.h"
#include "tests/app/two_tone_session.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;

namespace session_test {

using heron::testing::MadeShack;

namespace {

/// A made shack, opened in a session at its evaluation.
struct OpenSession : MadeShack {
  Session session;
  OpenSession() {
    shack.reset();
    session.open(folder.path());
    session.show_evaluation(evaluation_id);
  }
};

/// Everything of a test that a person can change, as text.
QString state_of(const Session& session, Id evaluation) {
  QString all;
  for (const Test& t : tests(session.shack(), evaluation)) {
    all += QString::fromStdString(t.title + "|" + t.note + "|" + t.convention + "|" + t.hookup +
                                  "|" + t.conditions + "|" + t.settings.dump() + "|" +
                                  (t.limit ? limit_text(*t.limit) : "none") + "|" + t.signed_by +
                                  "\n");
    for (const Step& s : steps(session.shack(), t.id)) {
      all += QString::fromStdString("  " + s.label + "|" + (s.output ? s.output->typed : "-") +
                                    "|" + (s.capture ? s.capture->hash : "-") + "\n");
    }
  }
  return all;
}

/// Everything in the shack that a person can add, change and remove, as text.
QString shack_state(const Session& session) {
  QString all;
  for (const Device& d : devices(session.shack())) {
    all += QString::fromStdString(d.name + "|" + d.kind + "|" + d.serial + "|" + d.note + "\n");
    for (const Evaluation& e : evaluations(session.shack(), d.id))
      all += QString::fromStdString("  " + e.title + "\n") + state_of(session, e.id);
  }
  return all;
}

/// Undoes everything and does it again; each time it is as it was.
void walk_back_and_forth(Session& session, Id evaluation, const QStringList& states) {
  for (qsizetype i = states.size() - 2; i >= 0; --i) {
    session.undo_stack().undo();
    QCOMPARE(state_of(session, evaluation), states[i]);
  }
  for (qsizetype i = 1; i < states.size(); ++i) {
    session.undo_stack().redo();
    QCOMPARE(state_of(session, evaluation), states[i]);
  }
}

}  // namespace

class SessionTest : public QObject {
  Q_OBJECT
 private slots:
  /// Any sequence of edits, undone, gives the shack as it was; redone, as it became; also on disk.
  void undo_and_redo_are_exact() {
    std::mt19937 random(17);
    for (int round = 0; round < 6; ++round) {
      MadeShack made;
      made.shack.reset();
      Session session;
      session.open(made.folder.path());
      session.show_evaluation(made.evaluation_id);
      QStringList states{state_of(session, made.evaluation_id)};
      for (int i = 0; i < 12; ++i) {
        const auto t = heron::testing::two_tone_of(session);
        if (!t) break;
        const int steps_now = static_cast<int>(t->steps.size());
        const auto step = static_cast<std::size_t>(
            steps_now == 0 ? 0 : static_cast<int>(random() % static_cast<unsigned>(steps_now)));
        const int before = session.undo_stack().count();
        switch (random() % 9) {
          case 0:
            TestEdits(session).set_note(QString("note %1").arg(i));
            break;
          case 1:
            TestEdits(session).set_limit(
                Limit{"own", Sense::at_most, -31.0 - i, "dB", kRePep, 20.0});
            break;
          case 2:
            heron::testing::set_linearity(session, 2.0 * (0.01 * (i + 1)));
            break;
          case 3:
            StepEdits(session).add_step(QString("step %1").arg(i));
            break;
          case 4:
            if (steps_now > 1) StepEdits(session).remove_step(step);
            break;
          case 5:
            if (steps_now > 0)
              StepEdits(session).set_output(step, QString("%1 W").arg(i + 1), 30.0 + i);
            break;
          case 6:
            TestEdits(session).set_hookup(QString("path %1").arg(i));
            break;
          case 7:
            TestEdits(session).set_conditions(QString("conditions %1").arg(i));
            break;
          case 8:
            TestEdits(session).set_convention(i % 2 == 0 ? kReOneTone : kRePep);
            break;
        }
        if (session.undo_stack().count() > before)
          states << state_of(session, made.evaluation_id);
        else  // a note typed on: one step of undo with the note before
          states.last() = state_of(session, made.evaluation_id);
      }
      QCOMPARE(session.undo_stack().count(), states.size() - 1);
      walk_back_and_forth(session, made.evaluation_id, states);
    }
  }

  /// A disk that takes no more: nothing is changed, and no step stands on the stack for it.
  void a_change_that_fails_leaves_no_step_on_the_stack() {
    OpenSession made;
    Session& session = made.session;
    const auto note = [&session, id = made.test_id] { return test(session.shack(), id).note; };
    const auto set_broken = [&session](bool is_broken) {
      session.shack().write([&](SQLite::Database& db) {
        db.exec(is_broken ? "CREATE TEMP TRIGGER broken BEFORE UPDATE OF note ON test BEGIN SELECT "
                            "RAISE(ABORT, 'no'); END"
                          : "DROP TRIGGER broken");
      });
    };
    TestEdits(session).set_convention(kReOneTone);
    QCOMPARE(session.undo_stack().count(), 1);
    set_broken(true);
    QSignalSpy refused(&session, &Session::refused);
    TestEdits(session).set_note("lost");
    QCOMPARE(refused.count(), 1);
    QVERIFY(note().empty());
    QCOMPARE(session.undo_stack().count(), 1);
    set_broken(false);
    TestEdits(session).set_note("kept");
    QCOMPARE(session.undo_stack().count(), 2);
    set_broken(true);
    TestEdits(session).set_note("kept, and typed on");
    QCOMPARE(session.undo_stack().count(), 2);
    session.undo_stack().undo();
    QCOMPARE(refused.count(), 3);
    QCOMPARE(note(), std::string("kept"));
    // The one before it can still be undone.
    QCOMPARE(session.undo_stack().count(), 1);
    set_broken(false);
    session.undo_stack().undo();
    QVERIFY(test(session.shack(), made.test_id).convention != kReOneTone);
    QCOMPARE(note(), std::string("kept"));
  }

  /// The same for tests of every other kind, whose settings hold more than a ladder's.
  void undo_is_exact_for_every_kind_of_test_data() {
    QTest::addColumn<QString>("kind");
    for (const char* kind : {"purity", "noise", "bandwidth"}) QTest::newRow(kind) << kind;
  }
  void undo_is_exact_for_every_kind_of_test() {
    QFETCH(QString, kind);
    std::mt19937 random(23);
    OpenSession made;
    Session& session = made.session;
    QStringList states{state_of(session, made.evaluation_id)};
    TestEdits(session).add_test(kind.toStdString(), "Another", "14.2 MHz");
    QVERIFY(session.planned() != nullptr && !heron::testing::two_tone_of(session));
    states << state_of(session, made.evaluation_id);
    for (int i = 0; i < 30; ++i) {
      const PlannedTest& t = *session.planned();
      const int before = session.undo_stack().count();
      const auto pick = random() % 6;
      if (pick == 0) TestEdits(session).set_note(QString("note %1").arg(i));
      if (pick == 1) StepEdits(session).add_step(QString("%1 MHz").arg(i + 1));
      if (pick == 2 && !t.steps.empty()) StepEdits(session).remove_step(random() % t.steps.size());
      if (pick == 3 && !t.steps.empty())
        StepEdits(session).set_step_label(random() % t.steps.size(), QString("place %1").arg(i));
      if (pick == 4) TestEdits(session).set_conditions(QString("conditions %1").arg(i));
      if (pick == 5 && kind == "purity") {
        PurityTestSettings s = purity_settings_from_json(t.test.settings);
        s.lines.push_back(parse_typed_line(std::to_string(20 + i) + " MHz -50"));
        if (i % 3 == 0) s.mask = Mask{"none", "", {}};
        TestEdits(session).set_settings("lines", with_purity_settings(t.test.settings, s));
      }
      if (pick == 5 && kind != "purity") {
        SpreadSettings s = spread_settings_from_json(t.test.settings);
        s.channel_hz += 100.0;
        s.sideband = i % 2 == 0 ? Sideband::lower : Sideband::upper;
        TestEdits(session).set_settings("channel", with_spread_settings(t.test.settings, s));
      }
      if (session.undo_stack().count() > before)
        states << state_of(session, made.evaluation_id);
      else
        states.last() = state_of(session, made.evaluation_id);
    }
    QVERIFY(states.size() > 12);
    walk_back_and_forth(session, made.evaluation_id, states);
  }

  void a_signed_test_refuses_what_changes_its_figures() {
    OpenSession made;
    Session& session = made.session;
    TestEdits(session).sign("Both of us");
    const QString before = state_of(session, made.evaluation_id);
    QSignalSpy refused(&session, &Session::refused);
    TestEdits(session).set_note("x");
    TestEdits(session).set_limit(std::nullopt);
    heron::testing::set_linearity(session, 1.0);
    StepEdits(session).add_step("5 W");
    StepEdits(session).remove_capture(0);
    StepEdits(session).set_output(0, "1 W", 30.0);
    QCOMPARE(refused.count(), 6);
    QCOMPARE(state_of(session, made.evaluation_id), before);
    QCOMPARE(session.shack().operator_name(), std::string("Both of us"));
    TestEdits(session).set_convention(kReOneTone);  // only how it is shown
    QCOMPARE(refused.count(), 6);
    TestEdits(session).take_back_signature();
    TestEdits(session).set_note("x");
    QCOMPARE(heron::testing::two_tone_of(session)->test.note, std::string("x"));
  }

  void the_headline_follows_every_edit() {
    OpenSession made;
    Session& session = made.session;
    QCOMPARE(session.course()[0].headline->judgement.verdict, Verdict::pass);
    TestEdits(session).set_limit(Limit{"strict", Sense::at_most, -60.0, "dB", kRePep, 20.0});
    QCOMPARE(session.course()[0].headline->judgement.verdict, Verdict::fail);
    StepEdits(session).remove_capture(0);
    QVERIFY(!session.course()[0].headline);
    session.undo_stack().undo();
    session.undo_stack().undo();
    QCOMPARE(session.course()[0].headline->judgement.verdict, Verdict::pass);
    heron::testing::set_linearity(session, 40.0);
    QCOMPARE(session.course()[0].headline->judgement.verdict, Verdict::too_close);
  }

  /// Devices and evaluations: any sequence of what the shack offers, one press each.
  void devices_evaluations_and_imports_are_undone_one_press_each() {
    MadeShack made;
    made.shack.reset();
    Session session;
    session.open(made.folder.path());
    const auto state = [&] { return shack_state(session); };
    QStringList states{state()};
    const auto did = [&](const char* what) {
      QVERIFY2(state() != states.last(), what);
      states << state();
      QCOMPARE(session.undo_stack().count(), states.size() - 1);
      QVERIFY(!session.undo_stack().undoText().isEmpty());
    };
    const Id bittern = ShackEdits(session).add_device({0, "Bittern", "synthesizer", "", "", {}});
    did("device");
    const Id first = ShackEdits(session).add_evaluation(bittern, "As received");
    QVERIFY(first != 0);
    did("first evaluation");
    QCOMPARE(evaluation(session.shack(), first).device_id, bittern);
    ShackEdits(session).set_device(bittern,
                                   {0, "Bittern II", "synthesizer", "no. 2", "noisy supply", {}});
    did("edit");
    const Id second = ShackEdits(session).add_evaluation(bittern, "After filtering");
    did("evaluation");
    session.show_evaluation(second);
    QCOMPARE(session.course().size(), 1U);
    ShackEdits(session).rename_evaluation(second, "After better filtering");
    did("rename");
    ShackEdits(session).remove_evaluation(second);
    did("removal");
    QCOMPARE(session.evaluation_id(), 0);  // what was shown is gone
    const auto unpacked = [&] {
      const auto file = made.path() / "out.zip";
      write_packed(pack_evaluation(session.shack(), made.evaluation_id), file);
      return std::make_shared<UnpackedEvaluation>(
          unpack_evaluation(file, session.shack().captures_folder()));
    }();
    QVERIFY(same_evaluation(session.shack(), *unpacked) == made.evaluation_id);
    ShackEdits(session).import_evaluation("out.zip", unpacked);
    did("import");
    ShackEdits(session).remove_device(made.device_id);
    did("device gone");
    QVERIFY(!same_evaluation(session.shack(), *unpacked));
    for (qsizetype i = states.size() - 2; i >= 0; --i) {
      session.undo_stack().undo();
      QCOMPARE(state(), states[i]);
    }
    for (qsizetype i = 1; i < states.size(); ++i) {
      session.undo_stack().redo();
      QCOMPARE(state(), states[i]);
    }
  }

  /// Whatever is done to devices, evaluations, tests and hook-ups, in any order: each press of undo
  /// takes back exactly one of them, with a word, and redo brings it again.
  void any_sequence_of_shack_edits_is_exact() {
    for (unsigned seed = 1; seed <= 8; ++seed) {
      std::mt19937 random(seed);
      MadeShack made;
      const auto file = made.path() / "out.zip";
      write_packed(pack_evaluation(*made.shack, made.evaluation_id), file);
      made.shack.reset();
      Session session;
      session.open(made.folder.path());
      const auto unpacked = std::make_shared<UnpackedEvaluation>(
          unpack_evaluation(file, session.shack().captures_folder()));
      QStringList states{shack_state(session)};
      QSignalSpy gone(&session, &Session::evaluation_gone);
      for (int i = 0; i < 25; ++i) {
        const auto all = devices(session.shack());
        const int before = session.undo_stack().count();
        const Id one = all.empty() ? 0 : all[random() % all.size()].id;
        const auto jobs = one == 0 ? std::vector<Evaluation>{} : evaluations(session.shack(), one);
        const Id job = jobs.empty() ? 0 : jobs[random() % jobs.size()].id;
        switch (random() % 9) {
          case 0:
            ShackEdits(session).add_device(
                {0, "Device " + std::to_string(i), "amplifier", "", "", {}});
            break;
          case 1:
            if (one != 0)
              ShackEdits(session).set_device(
                  one, {0, "Renamed " + std::to_string(i), "exciter", "no. 7", "a note", {}});
            break;
          case 2:
            if (one != 0 && all.size() > 1) ShackEdits(session).remove_device(one);
            break;
          case 3:
            if (one != 0) ShackEdits(session).add_evaluation(one, QString("Evaluation %1").arg(i));
            break;
          case 4:
            if (job != 0) ShackEdits(session).rename_evaluation(job, QString("Again %1").arg(i));
            break;
          case 5:
            if (job != 0) ShackEdits(session).remove_evaluation(job);
            break;
          case 6:
            ShackEdits(session).import_evaluation("out.zip", unpacked);
            break;
          case 7:
            if (job != 0) {
              session.show_evaluation(job);
              TestEdits(session).add_test("two_tone", QString("Ladder %1").arg(i), "14.2 MHz");
            }
            break;
          case 8:
            if (session.evaluation_id() != 0 && session.course().size() > 1)
              TestEdits(session).remove_test(session.course().back().id);
            break;
        }
        if (session.undo_stack().count() == before) {
          QCOMPARE(shack_state(session), states.last());
          continue;
        }
        QVERIFY(!session.undo_stack().undoText().isEmpty());
        states << shack_state(session);
        QCOMPARE(session.undo_stack().count(), states.size() - 1);
        // What is shown is never something that is gone.
        if (session.evaluation_id() != 0)
          QVERIFY(evaluation(session.shack(), session.evaluation_id()).id != 0);
      }
      QVERIFY(states.size() > 8);
      for (qsizetype i = states.size() - 2; i >= 0; --i) {
        session.undo_stack().undo();
        QCOMPARE(shack_state(session), states[i]);
      }
      for (qsizetype i = 1; i < states.size(); ++i) {
        session.undo_stack().redo();
        QCOMPARE(shack_state(session), states[i]);
      }
      // And what is on disk is what was shown.
      const QString last = shack_state(session);
      Session again;
      again.open(made.folder.path());
      QCOMPARE(shack_state(again), last);
    }
  }

  void another_part_of_a_recording_can_be_undone() {
    OpenSession made;
    Session& session = made.session;
    const TimeSpan whole = heron::testing::two_tone_of(session)->analyses[0]->parts->measured;
    TwoToneSettings settings;
    settings.part = TimeSpan{0.5, 1.0};
    StepEdits(session).set_analysis(
        made.test_id, made.capture_id,
        {"two_tone",
         to_json(analyse_two_tone(capture_opener(capture_path(session.shack(), made.stored.hash)),
                                  settings))});
    QVERIFY(heron::testing::two_tone_of(session)->analyses[0]->parts->measured ==
            (TimeSpan{0.5, 1.0}));
    QVERIFY(heron::testing::two_tone_of(session)->analyses[0]->parts->is_chosen);
    session.undo_stack().undo();
    QVERIFY(heron::testing::two_tone_of(session)->analyses[0]->parts->measured == whole);
    session.undo_stack().redo();
    QVERIFY(heron::testing::two_tone_of(session)->analyses[0]->parts->is_chosen);
  }

  void a_limit_becomes_a_line_of_the_specification() {
    OpenSession made;
    Session& session = made.session;
    TestEdits(session).set_limit(Limit{"own", Sense::at_most, -36.0, "dB", kRePep, 20.0});
    TestEdits(session).keep_limit_as_specification();
    QCOMPARE(device(session.shack(), made.device_id).specification.size(), 2U);
    session.undo_stack().undo();
    QCOMPARE(device(session.shack(), made.device_id).specification.size(), 1U);
  }
};

HERON_WINDOW_TEST(SessionTest)

}  // namespace session_test

#include "session_test.moc"
