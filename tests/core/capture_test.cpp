#include "core/signal/capture.h"

#include <QtTest>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sndfile.h>

#include "core/error.h"
#include "core/read_text.h"
#include "core/signal/capture_range.h"
#include "core/signal/memory_capture.h"
#include "core/signal/wav_header.h"
#include "core/signal/write_wav.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
namespace fs = std::filesystem;

namespace capture_test {

namespace {

std::vector<float> ramp(std::size_t n) {
  std::vector<float> v(n);
  for (std::size_t i = 0; i < n; ++i)
    v[i] = static_cast<float>(static_cast<int>(i * 37 % 200) - 100) / 128.0F;
  return v;
}

void write_wav(const fs::path& path, const std::vector<float>& samples, int channels, int format) {
  SF_INFO info{};
  info.samplerate = 48000;
  info.channels = channels;
  info.format = format;
  SNDFILE* file = sf_open(path.c_str(), SFM_WRITE, &info);
  QVERIFY(file != nullptr);
  sf_writef_float(file, samples.data(), static_cast<sf_count_t>(samples.size()) / channels);
  sf_close(file);
}

std::vector<float> read_all(CaptureReader& reader) {
  std::vector<float> all;
  std::vector<float> block(130);
  while (const std::size_t got = reader.read(block)) {
    all.insert(all.end(), block.begin(),
               block.begin() + static_cast<std::ptrdiff_t>(got * reader.floats_per_frame()));
  }
  return all;
}

QString refusal(const fs::path& path) {
  return heron::testing::refusal([&] {
    const auto reader = open_capture(path);
    std::vector<float> block(1000);
    while (reader->read(block) > 0) {
    }
  });
}

/// JSON with its quotes: keeps the texts below readable.
std::string quoted(std::string text) {
  std::replace(text.begin(), text.end(), '\'', '"');
  return text;
}

void write_text(const fs::path& path, const std::string& text) {
  std::ofstream(path, std::ios::binary) << text;
}

}  // namespace

class CaptureTest : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  fs::path at(const char* name) const { return fs::path(folder_.path().toStdString()) / name; }

  void write_sigmf(const char* stem, const std::string& meta, const std::string& data) {
    write_text(at((std::string(stem) + ".sigmf-meta").c_str()), meta);
    write_text(at((std::string(stem) + ".sigmf-data").c_str()), data);
  }
  static std::string meta(const std::string& type, const std::string& more = "") {
    return quoted(
        "{'global':{'core:datatype':'" + type + "','core:sample_rate':48000" + more +
        "},'captures':[{'core:sample_start':0,'core:frequency':14200000}],'annotations':[]}");
  }

 private slots:
  void wav_formats_are_read_data() {
    QTest::addColumn<int>("format");
    QTest::addColumn<int>("channels");
    QTest::addColumn<double>("step");
    const int containers[] = {SF_FORMAT_WAV, SF_FORMAT_RF64, SF_FORMAT_W64, SF_FORMAT_WAVEX};
    const std::pair<int, double> samples[] = {{SF_FORMAT_PCM_16, 1.0 / 32768},
                                              {SF_FORMAT_PCM_24, 1e-6},
                                              {SF_FORMAT_PCM_32, 1e-7},
                                              {SF_FORMAT_FLOAT, 0.0}};
    for (const int container : containers) {
      for (const auto& [sample, step] : samples) {
        for (const int channels : {1, 2}) {
          QTest::addRow("%x/%x/%d", static_cast<unsigned>(container), static_cast<unsigned>(sample),
                        channels)
              << (container | sample) << channels << step;
        }
      }
    }
  }
  void wav_formats_are_read() {
    QFETCH(int, format);
    QFETCH(int, channels);
    QFETCH(double, step);
    const auto samples = ramp(2000);
    write_wav(at("a.wav"), samples, channels, format);
    const auto reader = open_capture(at("a.wav"));
    QCOMPARE(reader->info().is_complex, channels == 2);
    QCOMPARE(reader->info().frames, 2000 / channels);
    QCOMPARE(reader->info().sample_rate_hz, 48000.0);
    QVERIFY(reader->info().cautions.empty());
    const auto back = read_all(*reader);
    QCOMPARE(back.size(), samples.size());
    for (std::size_t i = 0; i < back.size(); ++i) QVERIFY(std::abs(back[i] - samples[i]) <= step);
    reader->seek(500);
    std::vector<float> some(static_cast<std::size_t>(channels));
    QCOMPARE(reader->read(some), 1U);
    QVERIFY(std::abs(some[0] - samples[500U * static_cast<unsigned>(channels)]) <= step);
  }

  void unknown_chunks_are_skipped_and_truncation_is_told() {
    write_wav(at("b.wav"), ramp(20000), 2, SF_FORMAT_WAV | SF_FORMAT_PCM_16);
    std::ifstream in(at("b.wav"), std::ios::binary);
    std::string bytes{std::istreambuf_iterator<char>(in), {}};
    // An unknown chunk between the header and the data.
    std::string odd = bytes;
    odd.insert(12, std::string("zzzz\x05\0\0\0hello\0", 14));
    write_text(at("odd.wav"), odd);
    QCOMPARE(open_capture(at("odd.wav"))->info().frames, 10000);
    // Cut in the middle of a frame.
    write_text(at("cut.wav"), bytes.substr(0, 20003));
    const auto cut = open_capture(at("cut.wav"));
    QVERIFY(cut->info().frames > 4900 && cut->info().frames < 5000);
    QCOMPARE(cut->info().cautions.size(), 1U);
    QCOMPARE(static_cast<std::int64_t>(read_all(*cut).size()), 2 * cut->info().frames);
    const auto chunk = find_wav_data(at("cut.wav"));
    QCOMPARE(chunk->claimed_bytes, 40000U);
    QVERIFY(chunk->present_bytes < 20000U);
  }

  void sigmf_types_are_read() {
    write_sigmf("i16", meta("ci16_le"), std::string("\x00\x40\x00\xc0", 4));
    auto reader = open_capture(at("i16.sigmf-data"));
    QCOMPARE(*reader->info().center_hz, 14.2e6);
    auto v = read_all(*reader);
    QCOMPARE(v, (std::vector<float>{0.5F, -0.5F}));
    write_sigmf("i16b", meta("ri16_be"), std::string("\x40\x00\xc0\x00", 4));
    QCOMPARE(read_all(*open_capture(at("i16b.sigmf-meta"))), (std::vector<float>{0.5F, -0.5F}));
    write_sigmf("i8", meta("ci8"), std::string("\x40\xc0", 2));
    QCOMPARE(read_all(*open_capture(at("i8.sigmf-meta"))), (std::vector<float>{0.5F, -0.5F}));
    write_sigmf("u8", meta("cu8"), std::string("\xc0\x40", 2));
    QCOMPARE(read_all(*open_capture(at("u8.sigmf-meta"))), (std::vector<float>{0.5F, -0.5F}));
    const float f[2] = {0.25F, -0.125F};
    write_sigmf("f32", "\xef\xbb\xbf" + meta("rf32_le"),
                std::string(reinterpret_cast<const char*>(f), 8));
    QCOMPARE(read_all(*open_capture(at("f32.sigmf-meta"))), (std::vector<float>{0.25F, -0.125F}));
    const double d[2] = {0.25, -0.125};
    write_sigmf("f64", meta("cf64_le"), std::string(reinterpret_cast<const char*>(d), 16));
    QCOMPARE(read_all(*open_capture(at("f64.sigmf-meta"))), (std::vector<float>{0.25F, -0.125F}));
    write_sigmf("odd", meta("ci16_le"), std::string(7, '\x01'));
    const auto odd = open_capture(at("odd.sigmf-meta"));
    QCOMPARE(odd->info().frames, 1);
    QCOMPARE(odd->info().cautions.size(), 1U);
  }

  void hostile_sigmf_is_refused_by_key_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<QString>("names");
    QTest::newRow("not json") << QByteArray("{\"global\": ") << "byte";
    QTest::newRow("array") << QByteArray("[1,2]") << "global";
    QTest::newRow("global is text") << QByteArray("{\"global\":\"x\"}") << "global";
    QTest::newRow("no type") << QByteArray("{\"global\":{\"core:sample_rate\":1}}")
                             << "core:datatype";
    QTest::newRow("odd type") << QByteArray(meta("cq17_xx").c_str()) << "core:datatype";
    QTest::newRow("no rate") << QByteArray("{\"global\":{\"core:datatype\":\"cf32_le\"}}")
                             << "core:sample_rate";
    QTest::newRow("rate 0")
        << QByteArray(quoted("{'global':{'core:datatype':'cf32_le','core:sample_rate':0}}").c_str())
        << "core:sample_rate";
    QTest::newRow("rate text")
        << QByteArray(
               quoted("{'global':{'core:datatype':'cf32_le','core:sample_rate':'fast'}}").c_str())
        << "core:sample_rate";
    QTest::newRow("rate huge")
        << QByteArray(
               quoted("{'global':{'core:datatype':'cf32_le','core:sample_rate':1e300}}").c_str())
        << "core:sample_rate";
    QTest::newRow("channels") << QByteArray(meta("cf32_le", ",'core:num_channels':2").c_str())
                              << "core:num_channels";
    QTest::newRow("header") << QByteArray(
                                   quoted("{'global':{'core:datatype':'cf32_le','core:sample_rate':"
                                          "1e6},'captures':[{'core:header_bytes':-4}]}")
                                       .c_str())
                            << "core:header_bytes";
    QTest::newRow("captures")
        << QByteArray(
               quoted("{'global':{'core:datatype':'cf32_le','core:sample_rate':1e6},'captures':7}")
                   .c_str())
        << "captures";
    QTest::newRow("deep") << QByteArray(200000, '[') << "byte";
  }
  void hostile_sigmf_is_refused_by_key() {
    QFETCH(QByteArray, text);
    QFETCH(QString, names);
    write_sigmf("bad", text.toStdString(), std::string(64, '\0'));
    const QString message = refusal(at("bad.sigmf-meta"));
    QVERIFY2(message.contains(names), qPrintable(message));
  }

  void unusable_files_are_refused_with_a_reason() {
    QVERIFY(refusal(at("absent.wav")).contains("no such file"));
    QVERIFY(refusal(fs::path(folder_.path().toStdString())).contains("folder"));
    write_text(at("empty.wav"), "");
    QVERIFY(refusal(at("empty.wav")).contains("empty"));
    write_text(at("text.wav"), "This is a letter, not a recording.");
    QVERIFY(refusal(at("text.wav")).contains("neither a WAV nor a SigMF"));
    write_text(at("lying.wav"), std::string("RIFF\xff\xff\xff\x7fWAVEfmt \xff\xff\xff\xff", 20));
    QVERIFY(!refusal(at("lying.wav")).isEmpty());
    write_text(at("head.wav"), "RIFF");
    QVERIFY(!refusal(at("head.wav")).isEmpty());
    write_wav(at("six.wav"), ramp(600), 6, SF_FORMAT_WAV | SF_FORMAT_PCM_16);
    QVERIFY(refusal(at("six.wav")).contains("6 channels"));
    write_wav(at("none.wav"), {}, 2, SF_FORMAT_WAV | SF_FORMAT_PCM_16);
    QVERIFY(refusal(at("none.wav")).contains("no samples"));
    write_wav(at("mulaw.wav"), ramp(600), 2, SF_FORMAT_WAV | SF_FORMAT_ULAW);
    QVERIFY(refusal(at("mulaw.wav")).contains("compressed"));
    write_text(at("lonely.sigmf-meta"), meta("ci16_le"));
    QVERIFY(refusal(at("lonely.sigmf-meta")).contains(".sigmf-data"));
    write_text(at("orphan.sigmf-data"), "1234");
    QVERIFY(refusal(at("orphan.sigmf-data")).contains(".sigmf-meta"));
    write_sigmf("hollow", meta("ci16_le"), "");
    QVERIFY(refusal(at("hollow.sigmf-meta")).contains("no samples"));
    QVERIFY(refusal("/dev/null").contains("not an ordinary file"));
  }

  void a_sample_that_is_not_a_number_is_named() {
    for (const float bad :
         {std::numeric_limits<float>::quiet_NaN(), std::numeric_limits<float>::infinity()}) {
      auto samples = ramp(4000);
      samples[2 * 1234 + 1] = bad;
      write_wav(at("nan.wav"), samples, 2, SF_FORMAT_WAV | SF_FORMAT_FLOAT);
      QVERIFY(refusal(at("nan.wav")).contains("sample 1234"));
    }
  }

  void a_range_is_a_recording_of_its_own() {
    const auto samples = ramp(4000);
    const auto part = capture_range(memory_capture(samples, 1000.0), 1.0, 0.5)();
    QCOMPARE(part->info().frames, 500);
    const auto got = read_all(*part);
    QVERIFY(std::equal(got.begin(), got.end(), samples.begin() + 1000));
    QCOMPARE(capture_range(memory_capture(samples, 1000.0), 3.5, 9.0)()->info().frames, 500);
    QVERIFY_EXCEPTION_THROWN(capture_range(memory_capture(samples, 1000.0), 4.0, 1.0)(),
                             InputError);
    QVERIFY_EXCEPTION_THROWN(capture_range(memory_capture(samples, 1000.0), -1.0, 1.0)(),
                             InputError);
  }

  void what_is_written_is_read_back() {
    std::vector<std::complex<float>> iq(3000);
    for (std::size_t i = 0; i < iq.size(); ++i)
      iq[i] = {static_cast<float>(static_cast<int>(i % 201) - 100) / 128.0F, 0.25F};
    heron::write_wav(memory_capture(iq, 62500.0), at("iq.wav"));
    const auto back = open_capture(at("iq.wav"));
    QCOMPARE(back->info().sample_rate_hz, 62500.0);
    QVERIFY(back->info().is_complex);
    const auto samples = read_all(*back);
    QCOMPARE(samples.size(), 2 * iq.size());
    for (std::size_t i = 0; i < iq.size(); ++i)
      QVERIFY(std::abs(samples[2 * i] - iq[i].real()) <= 1.0F / 32768.0F);
    heron::write_wav(memory_capture(std::vector<float>(500, 0.5F), 8000.0), at("audio.wav"));
    QVERIFY(!open_capture(at("audio.wav"))->info().is_complex);
    QVERIFY(heron::testing::refusal([&] {
              heron::write_wav(memory_capture(iq, 48000.0), "/nowhere/at/all.wav");
            }).contains("all.wav"));
    QVERIFY(heron::testing::refusal([&] {
              heron::write_wav(memory_capture(iq, 48000.0), "/dev/full");
            }).contains("/dev/full"));
  }

  void texts_are_read_without_their_mark_and_within_bounds() {
    write_text(at("mark.txt"), "\xef\xbb\xbfhello");
    QCOMPARE(read_text(at("mark.txt"), 1), std::string("hello"));
    write_text(at("big.txt"), std::string(1100000, 'x'));
    QVERIFY(heron::testing::refusal([&] { read_text(at("big.txt"), 1); }).contains("1 MB"));
    QVERIFY(heron::testing::refusal([&] { read_text(at("none.txt"), 1); }).contains("none.txt"));
    QVERIFY(heron::testing::refusal([&] { read_text(at("."), 1); }).contains("folder"));
  }
};

HERON_TEST(CaptureTest)

}  // namespace capture_test

#include "capture_test.moc"
