#include <QtTest>
#include <csignal>
#include <fstream>
#include <random>
#include <sndfile.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include "core/error.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;

namespace capture_files_test {

using heron::testing::files_in;
using heron::testing::MadeShack;
namespace fs = std::filesystem;

namespace {

std::vector<float> all_samples(const CaptureOpener& open) {
  const auto reader = open();
  std::vector<float> all;
  std::vector<float> block(4096);
  while (const std::size_t got = reader->read(block)) {
    all.insert(all.end(), block.begin(),
               block.begin() + static_cast<std::ptrdiff_t>(got * reader->floats_per_frame()));
  }
  return all;
}

}  // namespace

class CaptureFilesTest : public QObject {
  Q_OBJECT
 private slots:
  void a_copy_is_the_recording_to_the_last_bit_data() {
    QTest::addColumn<int>("format");
    QTest::addColumn<int>("channels");
    QTest::newRow("16 bit I/Q") << (SF_FORMAT_WAV | SF_FORMAT_PCM_16) << 2;
    QTest::newRow("24 bit audio") << (SF_FORMAT_WAV | SF_FORMAT_PCM_24) << 1;
    QTest::newRow("float I/Q") << (SF_FORMAT_RF64 | SF_FORMAT_FLOAT) << 2;
  }
  void a_copy_is_the_recording_to_the_last_bit() {
    QFETCH(int, format);
    QFETCH(int, channels);
    MadeShack made;
    const fs::path wav = made.path() / "in.wav";
    SF_INFO info{};
    info.samplerate = 44100;
    info.channels = channels;
    info.format = format;
    SNDFILE* file = sf_open(wav.c_str(), SFM_WRITE, &info);
    std::mt19937 random(5);
    std::uniform_real_distribution<float> sample(-1.0F, 0.9999F);
    std::vector<float> samples(20000);
    for (float& v : samples) v = sample(random);
    sf_writef_float(file, samples.data(), static_cast<sf_count_t>(samples.size()) / channels);
    sf_close(file);
    const StoredCapture stored = store_capture(made.shack->captures_folder(), capture_opener(wav));
    const auto copy = capture_opener(capture_path(*made.shack, stored.hash));
    QVERIFY(all_samples(copy) == all_samples(capture_opener(wav)));
    QCOMPARE(copy()->info().sample_rate_hz, 44100.0);
    QCOMPARE(copy()->info().is_complex, channels == 2);
    QCOMPARE(copy()->info().name, std::string("in.wav"));
    QCOMPARE(copy()->info().bits, capture_opener(wav)()->info().bits);
  }

  void the_same_recording_is_kept_once() {
    MadeShack made;
    const std::size_t before = files_in(made.shack->captures_folder());
    QCOMPARE(store_capture(made.shack->captures_folder(), testing::two_tones()).hash,
             made.stored.hash);
    QCOMPARE(files_in(made.shack->captures_folder()), before);
    QVERIFY(store_capture(made.shack->captures_folder(), testing::two_tones(-35.0, 2)).hash !=
            made.stored.hash);
    QCOMPARE(files_in(made.shack->captures_folder()), before + 2);
  }

  void stopping_leaves_nothing_behind() {
    MadeShack made;
    const std::size_t before = files_in(made.shack->captures_folder());
    std::stop_source stop;
    stop.request_stop();
    QVERIFY_EXCEPTION_THROWN(
        store_capture(made.shack->captures_folder(), testing::two_tones(-30), {}, stop.get_token()),
        Cancelled);
    QCOMPARE(files_in(made.shack->captures_folder()), before);
  }

  /// A file-size limit stands in for a full disk: the write fails in the middle.
  void a_full_disk_leaves_nothing_behind() {
    MadeShack made;
    const fs::path folder = made.shack->captures_folder();
    const std::size_t before = files_in(folder);
    const pid_t child = ::fork();
    if (child == 0) {
      ::signal(SIGXFSZ, SIG_IGN);
      const rlimit limit{100000, 100000};
      ::setrlimit(RLIMIT_FSIZE, &limit);
      try {
        store_capture(folder, testing::two_tones(-28));
      } catch (const InputError& error) {
        ::_exit(std::string(error.what()).find("disk is full") != std::string::npos ? 7 : 1);
      }
      ::_exit(2);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    QVERIFY(WIFEXITED(status));
    QCOMPARE(WEXITSTATUS(status), 7);
    QCOMPARE(files_in(folder), before);
  }

  void a_killed_import_is_cleared_away() {
    MadeShack made;
    std::ofstream(made.shack->captures_folder() / ".incoming-123-data") << "half";
    made.reopen();
    QVERIFY(!fs::exists(made.shack->captures_folder() / ".incoming-123-data"));
  }
};

HERON_TEST(CaptureFilesTest)

}  // namespace capture_files_test

#include "capture_files_test.moc"
