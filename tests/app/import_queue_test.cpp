// Recordings on their way onto steps, without a window.
#include "app/session/import_queue.h"

#include <QSignalSpy>
#include <QtTest>
#include <fstream>

#include "app/session/test_edits.h"
#include "core/error.h"
#include "tests/app/made_wav.h"
#include "tests/app/two_tone_session.h"
#include "tests/test_program.h"

using namespace heron;

namespace import_queue_test {

using heron::testing::files_in;
using heron::testing::MadeShack;
using heron::testing::write_wav;
namespace fs = std::filesystem;

class ImportQueueTest : public QObject {
  Q_OBJECT
  std::unique_ptr<MadeShack> made_;
  std::unique_ptr<Session> session_;
  std::unique_ptr<ImportQueue> queue_;

  QString file(const char* name) const { return made_->folder.filePath(name); }
  QString made(const char* name, double im3_dbc = -30.0, std::uint64_t seed = 9) const {
    write_wav(file(name), im3_dbc, seed);
    return file(name);
  }
  bool wait() {
    return QTest::qWaitFor([this] { return !queue_->is_busy(); }, 30000);
  }
  std::vector<Step> steps_of(Id test) const { return steps(session_->shack(), test); }

 private slots:
  void init() {
    made_ = std::make_unique<MadeShack>();
    made_->shack.reset();
    session_ = std::make_unique<Session>();
    session_->open(made_->folder.path());
    session_->show_evaluation(made_->evaluation_id);
    queue_ = std::make_unique<ImportQueue>(*session_);
  }
  void cleanup() {
    queue_.reset();
    session_.reset();
    made_.reset();
  }

  void each_file_finds_an_empty_step_or_makes_one_named_like_it() {
    QSignalSpy idle(queue_.get(), &ImportQueue::idle);
    queue_->add({made("first.wav"), made("five watts.wav", -32.0), made("two watts.wav", -34.0)},
                0);
    QVERIFY(wait());
    const auto now = steps_of(made_->test_id);
    QCOMPARE(now.size(), 4U);
    QCOMPARE(now[0].capture->hash, made_->stored.hash);  // taken before: left alone
    QCOMPARE(now[1].label, std::string("10 W"));
    QCOMPARE(now[1].capture->name, std::string("first.wav"));
    QCOMPARE(now[2].label, std::string("five watts"));
    QCOMPARE(now[3].label, std::string("two watts"));
    QCOMPARE(idle.count(), 1);
    // The result is the analysis of just that file.
    const auto analyses = heron::testing::two_tone_of(*session_)->analyses;
    QVERIFY(analyses[2]->find(3, Side::upper)->level_dbc >
            analyses[3]->find(3, Side::upper)->level_dbc + 1.5);
    QCOMPARE(analyses[2]->capture.format, std::string("WAV, 16 bit, I and Q"));
  }

  void recordings_stay_with_the_test_they_were_dropped_on() {
    TestEdits(*session_).add_test("two_tone", "Second", "7 MHz");
    const Id second = session_->test_id();
    session_->show_test(made_->test_id);
    QSignalSpy attached(queue_.get(), &ImportQueue::attached);
    queue_->add({made("a.wav"), made("b.wav", -33.0)}, 1);
    session_->show_test(second);
    TestEdits(*session_).sign(
        "Both of us");  // a signature on what is shown does not stop the other test
    QVERIFY(wait());
    QCOMPARE(attached.count(), 2);
    for (const auto& signal : attached) QCOMPARE(signal[0].toLongLong(), made_->test_id);
    QVERIFY(steps_of(made_->test_id)[1].capture.has_value());
    QVERIFY(steps_of(made_->test_id)[2].capture.has_value());
    QVERIFY(!steps_of(second)[0].capture);
    QCOMPARE(session_->test_id(), second);
  }

  void both_files_of_a_pair_are_one_recording() {
    const fs::path captures = session_->shack().captures_folder();
    QStringList pair;
    for (const char* ending : {".sigmf-meta", ".sigmf-data"}) {
      const fs::path copy = made_->path() / (std::string("mine") + ending);
      fs::copy(captures / (made_->stored.hash + ending), copy);
      pair << QString::fromStdString(copy.string());
    }
    queue_->add(pair, 1);
    QVERIFY(wait());
    QCOMPARE(steps_of(made_->test_id).size(), 2U);
    // The same samples are kept once, whatever the file was called.
    QCOMPARE(steps_of(made_->test_id)[1].capture->hash, made_->stored.hash);
    QCOMPARE(files_in(captures), 2U);
    // The data file alone says where its other half is.
    queue_->add({pair[1]}, 0);
    QVERIFY(wait());
    QCOMPARE(steps_of(made_->test_id).size(), 3U);
  }

  void a_step_is_taken_again_and_undo_brings_the_first_recording_back() {
    queue_->replace(made("again.wav", -20.0), 0);
    QVERIFY(wait());
    QCOMPARE(steps_of(made_->test_id).size(), 2U);
    QCOMPARE(steps_of(made_->test_id)[0].capture->name, std::string("again.wav"));
    QCOMPARE(session_->course()[0].headline->judgement.verdict, Verdict::fail);
    session_->undo_stack().undo();
    QCOMPARE(steps_of(made_->test_id)[0].capture->hash, made_->stored.hash);
    QCOMPARE(session_->course()[0].headline->judgement.verdict, Verdict::pass);
  }

  void a_bad_file_among_good_ones_is_named_and_the_others_arrive() {
    std::ofstream(file("bad.wav").toStdString()) << "RIFF\x10\x00\x00\x00WAVEjunk";
    std::ofstream(file("letter.wav").toStdString()) << "not a recording at all";
    QSignalSpy failed(queue_.get(), &ImportQueue::several_failed);
    queue_->add({made("a.wav"), file("bad.wav"), made("c.wav", -33.0), file("letter.wav")}, 1);
    QVERIFY(wait());
    QCOMPARE(failed.count(), 1);
    const QStringList reasons = failed[0][0].toStringList();
    QCOMPARE(reasons.size(), 2);
    QVERIFY(reasons[0].contains("bad.wav") && reasons[1].contains("neither a WAV nor a SigMF"));
    // What could not be read makes no step.
    const auto now = steps_of(made_->test_id);
    QCOMPARE(now.size(), 3U);
    QVERIFY(now[1].capture && now[2].capture);
    QCOMPARE(now[2].label, std::string("c"));
    // The whole batch is one press of undo, and comes back with one.
    session_->undo_stack().undo();
    QCOMPARE(steps_of(made_->test_id).size(), 2U);
    QVERIFY(!steps_of(made_->test_id)[1].capture);
    session_->undo_stack().redo();
    QCOMPARE(steps_of(made_->test_id).size(), 3U);
    QVERIFY(steps_of(made_->test_id)[2].capture);
  }

  void stopping_keeps_nothing_and_forgets_what_waits() {
    QSignalSpy told(queue_.get(), &ImportQueue::told);
    const std::size_t before = files_in(session_->shack().captures_folder());
    queue_->add({made("a.wav"), made("b.wav", -33.0), made("c.wav", -34.0)}, 1);
    queue_->cancel();
    QVERIFY(wait());
    const auto now = steps_of(made_->test_id);
    const bool first_made_it = now[1].capture.has_value();  // it may have been done already
    QVERIFY(first_made_it || told.count() == 1);
    for (std::size_t i = 2; i < now.size(); ++i) QVERIFY(!now[i].capture);
    QCOMPARE(files_in(session_->shack().captures_folder()), before + (first_made_it ? 2 : 0));
  }

  void what_may_not_be_changed_is_refused_at_once() {
    QSignalSpy failed(queue_.get(), &ImportQueue::failed);
    TestEdits(*session_).sign("Both of us");
    queue_->add({made("a.wav")}, 1);
    QVERIFY(!queue_->is_busy());
    QVERIFY(failed[0][0].toString().contains("signed off by Both of us"));
    Session reader;
    reader.open(made_->folder.path());
    reader.show_evaluation(made_->evaluation_id);
    ImportQueue other(reader);
    QSignalSpy refused(&other, &ImportQueue::failed);
    other.add({file("a.wav")}, 1);
    QVERIFY(!other.is_busy());
    QVERIFY(refused[0][0].toString().contains("another window"));
    QCOMPARE(steps_of(made_->test_id).size(), 2U);
  }

  void a_test_signed_meanwhile_keeps_its_evidence_and_the_copy_goes() {
    const std::size_t before = files_in(session_->shack().captures_folder());
    QSignalSpy attached(queue_.get(), &ImportQueue::attached);
    QSignalSpy refused(session_.get(), &Session::refused);
    queue_->add({made("late.wav", -20.0)}, 1);
    TestEdits(*session_).sign("Both of us");
    QVERIFY(wait());
    QCOMPARE(attached.count(), 0);
    QCOMPARE(refused.count(), 1);
    QVERIFY(!steps_of(made_->test_id)[1].capture);
    QCOMPARE(files_in(session_->shack().captures_folder()), before);
  }

  void a_recording_never_lands_in_another_shack() {
    QTemporaryDir elsewhere;
    QSignalSpy attached(queue_.get(), &ImportQueue::attached);
    queue_->add({made("a.wav")}, 1);
    session_->create(elsewhere.filePath("s"), "elsewhere");
    QVERIFY(wait());
    QCOMPARE(attached.count(), 0);
    QVERIFY(devices(session_->shack()).empty());
    QCOMPARE(files_in(made_->path() / "captures"), 2U);  // nor stays where nothing names it
  }

  void deleting_the_queue_in_the_middle_is_safe() {
    queue_->add({made("a.wav"), made("b.wav", -31.0)}, 1);
    queue_.reset();
    QCOMPARE(session_->course().size(), 1U);
    TestEdits(*session_).set_note("still here");
    QCOMPARE(heron::testing::two_tone_of(*session_)->test.note, std::string("still here"));
  }

  void a_job_reports_progress_and_its_end() {
    BackgroundJob job("work", [](const Progress& progress, const std::stop_token&) {
      for (int i = 0; i <= 4; ++i) progress(i / 4.0);
    });
    QSignalSpy progressed(&job, &BackgroundJob::progressed);
    QSignalSpy finished(&job, &BackgroundJob::finished);
    job.start();
    QVERIFY(finished.wait(5000));
    // Not each step is told, so that nothing queues up, but always the end.
    QVERIFY(!progressed.isEmpty() && progressed.count() <= 5);
    QCOMPARE(progressed.last()[0].toDouble(), 1.0);
  }

  void a_job_says_why_it_failed_data() {
    QTest::addColumn<int>("kind");
    QTest::newRow("bad input") << 0;
    QTest::newRow("anything else") << 1;
    QTest::newRow("stopped") << 2;
  }
  void a_job_says_why_it_failed() {
    QFETCH(int, kind);
    BackgroundJob job("tape.wav", [kind](const Progress&, const std::stop_token& stop) {
      if (kind == 0) throw InputError("tape.wav", "byte 12", "it is torn", "Mend it");
      if (kind == 1) throw std::runtime_error("no memory");
      while (!stop.stop_requested()) std::this_thread::yield();
      throw Cancelled();
    });
    QSignalSpy failed(&job, &BackgroundJob::failed);
    QSignalSpy cancelled(&job, &BackgroundJob::cancelled);
    job.start();
    if (kind == 2) {
      job.cancel();
      QVERIFY(cancelled.wait(5000));
      return;
    }
    QVERIFY(failed.wait(5000));
    QVERIFY(failed[0][0].toString().contains("tape.wav"));
    QCOMPARE(failed[0][0].toString(), kind == 0 ? QString("tape.wav, byte 12: it is torn")
                                                : QString("tape.wav could not be processed"));
    QVERIFY(!failed[0][1].toString().isEmpty());
  }
};

HERON_WINDOW_TEST(ImportQueueTest)

}  // namespace import_queue_test

#include "import_queue_test.moc"
