#include "core/signal/decimated_capture.h"

#include <QtTest>
#include <numbers>

#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "tests/test_program.h"

using namespace heron;

namespace decimated_capture_test {

namespace {

std::vector<std::complex<float>> all_of(const CaptureOpener& open, std::int64_t from = 0) {
  const auto reader = open();
  reader->seek(from);
  std::vector<std::complex<float>> out(static_cast<std::size_t>(reader->info().frames - from));
  auto* floats = reinterpret_cast<float*>(out.data());
  const std::size_t got = reader->read({floats, 2 * out.size()});
  out.resize(got);
  return out;
}

}  // namespace

class DecimatedCaptureTest : public QObject {
  Q_OBJECT
 private slots:
  void keeps_its_band_and_nothing_else_data() {
    QTest::addColumn<int>("halvings");
    for (const int m : {1, 2, 3, 6}) QTest::addRow("%d", m) << m;
  }
  void keeps_its_band_and_nothing_else() {
    QFETCH(int, halvings);
    const double rate = 640000.0;
    const double low = std::ldexp(rate, -halvings);
    const std::size_t frames = 131072;
    // What is inside keeps its amplitude, its phase and its place in time.
    for (const double part : {0.0, 0.11, -0.27, 0.395}) {
      const double f = part * low;
      const auto open =
          memory_capture(generate_sinusoids({{f, {0.5, 0.0}}}, rate, frames, -300.0, 1), rate);
      const auto y = all_of(decimated_capture(open, halvings));
      QCOMPARE(y.size(), frames >> halvings);
      for (std::size_t n = y.size() / 4; n < 3 * y.size() / 4; ++n) {
        const double phase = 2.0 * std::numbers::pi * f * static_cast<double>(n) / low;
        // Each stage may ripple by a millionth, and single precision rounds.
        const double wrong = std::abs(std::complex<double>(y[n]) - std::polar(0.5, phase));
        QVERIFY2(wrong < 0.5e-6 * halvings + 1e-6, qPrintable(QString::number(wrong)));
      }
    }
    // What would fold into the band is 120 dB down.
    for (const double part : {0.61, -0.75, 1.0, 1.3}) {
      if (std::abs(part * low) > 0.5 * rate) continue;
      const auto open = memory_capture(
          generate_sinusoids({{part * low, {0.5, 0.0}}}, rate, frames, -300.0, 1), rate);
      const auto y = all_of(decimated_capture(open, halvings));
      for (std::size_t n = y.size() / 4; n < 3 * y.size() / 4; ++n)
        QVERIFY2(std::abs(y[n]) < 1.5e-6F, qPrintable(QString::number(std::abs(y[n]))));
    }
  }

  void a_seek_gives_the_same_samples() {
    const double rate = 96000.0;
    const auto open = memory_capture(
        generate_sinusoids({{700.0, {0.3, 0.1}}, {-900.0, {0.1, 0.0}}}, rate, 200000, -40.0, 3),
        rate);
    const CaptureOpener low = decimated_capture(open, 3);
    const auto whole = all_of(low);
    for (const std::int64_t from : {1, 7, 1000, 12345, 24990}) {
      const auto part = all_of(low, from);
      QCOMPARE(part.size(), whole.size() - static_cast<std::size_t>(from));
      for (std::size_t i = 0; i < part.size(); ++i)
        QVERIFY(std::abs(part[i] - whole[i + static_cast<std::size_t>(from)]) < 1e-6F);
    }
  }
};

HERON_LOOP_TEST(DecimatedCaptureTest)

}  // namespace decimated_capture_test

#include "decimated_capture_test.moc"
