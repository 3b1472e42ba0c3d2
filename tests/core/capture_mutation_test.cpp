// Recordings with bytes changed at random: each is read as finite samples or refused with advice.
#include <QtTest>
#include <filesystem>
#include <fstream>
#include <random>
#include <sndfile.h>

#include "core/error.h"
#include "core/signal/capture.h"
#include "tests/test_program.h"

using namespace heron;
namespace fs = std::filesystem;

namespace capture_mutation_test {

namespace {

std::string bytes_of(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

}  // namespace

class CaptureMutationTest : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  fs::path at(const std::string& name) const {
    return fs::path(folder_.path().toStdString()) / name;
  }
  int read_ = 0;
  int refused_ = 0;

  /// Reads all of it; anything but samples or an InputError fails the test.
  void look_at(const fs::path& path) {
    try {
      const auto reader = open_capture(path);
      const CaptureInfo& info = reader->info();
      QVERIFY(info.frames > 0);
      QVERIFY(std::isfinite(info.sample_rate_hz) && info.sample_rate_hz > 0.0);
      std::vector<float> block(4096);
      std::int64_t frames = 0;
      while (const std::size_t got = reader->read(block)) {
        frames += static_cast<std::int64_t>(got);
        for (std::size_t i = 0; i < got * reader->floats_per_frame(); ++i)
          QVERIFY(std::isfinite(block[i]));
        QVERIFY(frames <= info.frames);
      }
      QCOMPARE(frames, info.frames);
      ++read_;
    } catch (const InputError& error) {
      QVERIFY2(!error.subject.empty() && !error.reason.empty() && !error.advice.empty(),
               error.what());
      ++refused_;
    }
  }

 private slots:
  void init() { read_ = refused_ = 0; }

  void wav_headers_with_changed_bytes_data() {
    QTest::addColumn<int>("format");
    QTest::newRow("16 bit") << (SF_FORMAT_WAV | SF_FORMAT_PCM_16);
    QTest::newRow("24 bit") << (SF_FORMAT_WAV | SF_FORMAT_PCM_24);
    QTest::newRow("float") << (SF_FORMAT_WAV | SF_FORMAT_FLOAT);
    QTest::newRow("rf64") << (SF_FORMAT_RF64 | SF_FORMAT_PCM_16);
    QTest::newRow("w64") << (SF_FORMAT_W64 | SF_FORMAT_PCM_16);
  }
  void wav_headers_with_changed_bytes() {
    QFETCH(int, format);
    std::vector<float> samples(2000);
    for (std::size_t i = 0; i < samples.size(); ++i)
      samples[i] = 0.001F * static_cast<float>(i % 700);
    SF_INFO info{};
    info.samplerate = 48000;
    info.channels = 2;
    info.format = format;
    SNDFILE* file = sf_open(at("good.wav").c_str(), SFM_WRITE, &info);
    QVERIFY(file != nullptr);
    sf_writef_float(file, samples.data(), 1000);
    sf_close(file);
    const std::string good = bytes_of(at("good.wav"));
    std::mt19937 random(2);
    for (int i = 0; i < 400; ++i) {
      std::string bad = good;
      const auto changes = 1 + random() % 4;
      for (unsigned c = 0; c < changes; ++c)
        bad[random() % std::min<std::size_t>(bad.size(), 140)] = static_cast<char>(random());
      if (i % 5 == 0) bad.resize(random() % bad.size());
      std::ofstream(at("bad.wav"), std::ios::binary | std::ios::trunc) << bad;
      look_at(at("bad.wav"));
    }
    QVERIFY(read_ > 20 && refused_ > 20);
  }

  void sigmf_metadata_with_changed_bytes() {
    const std::string meta =
        R"({"global":{"core:datatype":"ci16_le","core:sample_rate":48000,"core:version":"1.0.0",)"
        R"("heron:source_bits":16,"heron:source_name":"x.wav"},)"
        R"("captures":[{"core:sample_start":0,"core:frequency":14200000}],"annotations":[]})";
    std::ofstream(at("bad.sigmf-data"), std::ios::binary) << std::string(8000, '\x21');
    std::mt19937 random(3);
    const std::string likely = "\"{}[]:,.0123456789eE-+truefalsnic_lb";
    for (int i = 0; i < 1500; ++i) {
      std::string bad = meta;
      const auto changes = 1 + random() % 3;
      for (unsigned c = 0; c < changes; ++c) {
        const auto where = random() % bad.size();
        const char with = likely[random() % likely.size()];
        if (random() % 3 == 0)
          bad.insert(where, 1, with);
        else
          bad[where] = with;
      }
      std::ofstream(at("bad.sigmf-meta"), std::ios::binary | std::ios::trunc) << bad;
      look_at(at("bad.sigmf-meta"));
    }
    QVERIFY(read_ > 50 && refused_ > 200);
  }

  void files_that_change_while_they_are_read_do_no_harm() {
    std::vector<float> samples(400000, 0.25F);
    SF_INFO info{};
    info.samplerate = 48000;
    info.channels = 2;
    info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_16;
    SNDFILE* file = sf_open(at("shrinking.wav").c_str(), SFM_WRITE, &info);
    sf_writef_float(file, samples.data(), 200000);
    sf_close(file);
    const auto reader = open_capture(at("shrinking.wav"));
    std::vector<float> block(2000);
    QCOMPARE(reader->read(block), 1000U);
    fs::resize_file(at("shrinking.wav"), 100000);
    std::int64_t frames = 1000;
    try {
      while (const std::size_t got = reader->read(block)) frames += static_cast<std::int64_t>(got);
      QVERIFY(frames < 200000);  // fewer than promised, and said so by whoever counts
    } catch (const InputError& error) {
      QVERIFY(!error.reason.empty());
    }
  }
};

HERON_TEST(CaptureMutationTest)

}  // namespace capture_mutation_test

#include "capture_mutation_test.moc"
