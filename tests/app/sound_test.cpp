#include <QtTest>
#include <cmath>
#include <numbers>
#include <thread>

#include "app/live/needle_tone.h"
#include "app/live/sound_ring.h"
#include "app/sheet/reminders.h"
#include "core/error.h"
#include "core/progress.h"
#include "instrument/tone_ear.h"
#include "tests/test_program.h"

using namespace heron;

namespace sound_test {

/// Sound that comes in and goes out, without a sound device.
class SoundTest : public QObject {
  Q_OBJECT

  template <class T>
  static QByteArray bytes(double hz, double rate_hz, int frames, int channels, double full,
                          T zero) {
    QByteArray all;
    for (int i = 0; i < frames; ++i)
      for (int c = 0; c < channels; ++c) {
        const double v = c == 0 ? 0.5 * std::sin(2.0 * std::numbers::pi * hz * i / rate_hz) : 0.25;
        const T sample = static_cast<T>(v * full + zero);
        all.append(reinterpret_cast<const char*>(&sample), sizeof sample);
      }
    return all;
  }

  /// Fed in odd pieces from another thread while somebody listens.
  static double heard(SoundFormat format, const QByteArray& sound) {
    SoundRing ring(format);
    std::jthread feeding([&](const std::stop_token& stop) {
      while (!stop.stop_requested())
        for (qsizetype at = 0; at < sound.size() && !stop.stop_requested(); at += 4099) {
          ring.put(sound.mid(at, 4099));
          std::this_thread::sleep_for(std::chrono::microseconds(200));
        }
    });
    const std::vector<float> seconds = ring.next(0.5, {});
    return heard_hz(seconds, format.rate_hz, std::nullopt);
  }

 private slots:
  void every_layout_gives_its_tone() {
    constexpr double kRate = 48000.0;
    // Whole periods in the piece, so that it can be put in round and round.
    constexpr double kTone = 1000.0;
    constexpr int kFrames = 48000;
    using S = SoundFormat::Sample;
    const double i16 =
        heard({kRate, 1, S::i16}, bytes<std::int16_t>(kTone, kRate, kFrames, 1, 32767.0, 0));
    const double stereo = heard({kRate, 2, S::f32}, bytes<float>(kTone, kRate, kFrames, 2, 1.0, 0));
    const double i32 =
        heard({kRate, 1, S::i32}, bytes<std::int32_t>(kTone, kRate, kFrames, 1, 2147480000.0, 0));
    const double u8 =
        heard({kRate, 1, S::u8}, bytes<std::uint8_t>(kTone, kRate, kFrames, 1, 127.0, 128));
    for (const double hz : {i16, stereo, i32, u8})
      QVERIFY2(std::abs(hz - kTone) < 0.05, qPrintable(QString::number(hz, 'f', 4)));
  }

  void silence_a_closed_input_and_a_stop_end_the_wait() {
    SoundRing none({});
    QVERIFY_THROWS_EXCEPTION(InputError, none.next(0.1, {}));
    SoundRing closed({});
    closed.close("it has stopped");
    QVERIFY_THROWS_EXCEPTION(InputError, closed.next(0.1, {}));
    SoundRing stopped({});
    std::stop_source stop;
    stop.request_stop();
    QVERIFY_THROWS_EXCEPTION(Cancelled, stopped.next(0.1, stop.get_token()));
    // Noise alone is no tone.
    std::vector<float> noise(8000);
    std::uint32_t state = 1;
    for (float& v : noise) {
      state = state * 1664525U + 1013904223U;
      v = static_cast<float>(state >> 8U) / 16777216.0F - 0.5F;
    }
    QVERIFY_THROWS_EXCEPTION(InputError, heard_hz(noise, 8000.0, std::nullopt));
  }

  void the_needle_is_heard_as_far_as_it_is_off() {
    Needle n;
    n.state = Needle::State::hands_off;
    n.tolerance = 5.0;
    QCOMPARE(needle_pitch_hz(n), 0.0);
    n.value = 0.0;
    QCOMPARE(needle_pitch_hz(n), 660.0);
    n.value = 20.0;
    QCOMPARE(needle_pitch_hz(n), 1320.0);
    n.value = -20.0;
    QCOMPARE(needle_pitch_hz(n), 330.0);
    n.value = 1e6;
    QVERIFY(needle_pitch_hz(n) < 1900.0);
    // Under the tool it sounds as where it will jump to.
    n.state = Needle::State::tool_on;
    n.let_go_value = 0.0;
    QCOMPARE(needle_pitch_hz(n), 660.0);
    n.state = Needle::State::no_reading;
    QCOMPARE(needle_pitch_hz(n), 0.0);
  }

  void its_samples_have_that_pitch_and_no_step() {
    constexpr double kRate = 48000.0;
    ToneSamples samples(kRate);
    const auto take = [&](int frames) {
      const QByteArray raw = samples.read(frames * 2);
      std::vector<float> all;
      for (qsizetype i = 0; i + 1 < raw.size(); i += 2) {
        std::int16_t v = 0;
        std::memcpy(&v, raw.constData() + i, 2);
        all.push_back(static_cast<float>(v) / 32768.0F);
      }
      return all;
    };
    for (const float v : take(4800)) QCOMPARE(v, 0.0F);
    samples.set_pitch(660.0);
    std::vector<float> all = take(9600);
    const std::vector<float> steady = take(24000);
    QVERIFY(std::abs(heard_hz(steady, kRate, std::nullopt) - 660.0) < 0.01);
    samples.set_pitch(880.0);
    const std::vector<float> glide = take(9600);
    samples.set_pitch(0.0);
    const std::vector<float> fades = take(24000);
    for (const auto* part : {&steady, &glide, &fades})
      all.insert(all.end(), part->begin(), part->end());
    // 0.2 of full scale at 880 Hz moves by 0.023 from sample to sample.
    for (std::size_t i = 1; i < all.size(); ++i) QVERIFY(std::abs(all[i] - all[i - 1]) < 0.03F);
    QVERIFY(std::abs(all.back()) < 0.001F);
  }

  void what_is_due_is_told_once_and_can_be_forgotten() {
    Reminders reminders;
    reminders.set_minute_ms(4);
    QSignalSpy due(&reminders, &Reminders::due);
    reminders.remind_in(5, "Read again: Drift", 3, 7);
    reminders.remind_in(10, "Read again: Lock", 3, 8);
    QCOMPARE(reminders.waiting(), 2);
    QTRY_COMPARE(due.size(), 2);
    QCOMPARE(due[0][0].toString(), QString("Read again: Drift"));
    QCOMPARE(due[0][2].toLongLong(), 7);
    QTRY_COMPARE(reminders.waiting(), 0);
    reminders.remind_in(2, "Read again", 3, 7);
    reminders.forget_all();
    QTest::qWait(40);
    QCOMPARE(due.size(), 2);
  }
};

HERON_LOOP_TEST(SoundTest)

}  // namespace sound_test

#include "sound_test.moc"
