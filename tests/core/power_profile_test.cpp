#include "core/signal/power_profile.h"

#include <QtTest>
#include <atomic>
#include <numeric>
#include <random>
#include <set>
#include <thread>

#include "core/error.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "core/signal/on_threads.h"
#include "core/signal/shifted_capture.h"
#include "tests/test_program.h"

using namespace heron;

namespace power_profile_test {

namespace {

using Samples = std::vector<std::complex<float>>;

Samples tone(double hz, double amplitude, double rate, std::size_t frames) {
  return generate_sinusoids({{hz, {amplitude, 0.0}}}, rate, frames, -300.0, 1);
}

std::vector<float> real_part(const Samples& x) {
  std::vector<float> out;
  for (const auto& v : x) out.push_back(v.real());
  return out;
}

/// Promises more frames than there are.
class TornReader : public CaptureReader {
 public:
  TornReader(double rate, std::int64_t promised, std::int64_t there) : there_(there) {
    info_.name = "torn.wav";
    info_.sample_rate_hz = rate;
    info_.frames = promised;
    info_.is_complex = true;
  }
  void seek(std::int64_t frame) override { at_ = frame; }
  std::size_t read(std::span<float> out) override {
    const auto got = static_cast<std::size_t>(
        std::clamp<std::int64_t>(there_ - at_, 0, static_cast<std::int64_t>(out.size() / 2)));
    std::fill_n(out.begin(), 2 * got, 0.1F);
    at_ += static_cast<std::int64_t>(got);
    return got;
  }

 private:
  std::int64_t there_;
  std::int64_t at_ = 0;
};

Samples all_of(const CaptureOpener& open, std::int64_t from = 0) {
  const auto reader = open();
  reader->seek(from);
  Samples out(static_cast<std::size_t>(reader->info().frames - from));
  const std::size_t got = reader->read({reinterpret_cast<float*>(out.data()), 2 * out.size()});
  out.resize(got);
  return out;
}

}  // namespace

class PowerProfileTest : public QObject {
  Q_OBJECT
 private slots:
  void a_sinusoid_has_the_power_of_its_amplitude_in_every_cell_data() {
    QTest::addColumn<double>("rate");
    QTest::addColumn<int>("frames");
    QTest::newRow("audio") << 48000.0 << 96000;
    QTest::newRow("odd rate and length") << 11025.0 << 23457;
    QTest::newRow("slow") << 400.0 << 4001;
    QTest::newRow("fast") << 2.048e6 << 3000001;
    QTest::newRow("shorter than a cell") << 48000.0 << 100;
  }
  void a_sinusoid_has_the_power_of_its_amplitude_in_every_cell() {
    QFETCH(double, rate);
    QFETCH(int, frames);
    const auto n = static_cast<std::size_t>(frames);
    for (const double amplitude : {1.0, 0.25, 1e-3}) {
      // Four periods fit in 32 frames, the shortest cell there is.
      const Samples x = tone(rate / 8.0, amplitude, rate, n);
      const PowerProfile iq = power_profile(memory_capture(x, rate));
      const PowerProfile audio = power_profile(memory_capture(real_part(x), rate));
      QCOMPARE(iq.power.size(), audio.power.size());
      QVERIFY(iq.power.size() <= 16384);
      QVERIFY(iq.cell_s * static_cast<double>(iq.power.size()) <=
                  static_cast<double>(n) / rate + 1e-9 ||
              iq.power.size() == 1);
      for (const PowerProfile* p : {&iq, &audio}) {
        for (const double power : p->power)
          QVERIFY2(std::abs(power / (amplitude * amplitude) - 1.0) < 0.04,
                   qPrintable(QString::number(power)));
        for (const float peak : p->peak)
          QVERIFY(std::abs(peak / static_cast<float>(amplitude) - 1.0F) < 1e-4F);
      }
    }
  }

  void the_recorders_own_offset_is_no_power() {
    const double rate = 48000.0;
    std::mt19937_64 random(3);
    Samples x(96000);
    add_noise(x, -80.0, random);
    const Samples burst = tone(1500.0, 0.1, rate, 48000);
    for (std::size_t i = 0; i < burst.size(); ++i) x[24000 + i] += burst[i];
    for (auto& v : x) v += std::complex<float>(0.3F, -0.2F);
    const PowerProfile p = power_profile(memory_capture(x, rate));
    for (std::size_t i = 0; i < p.power.size(); ++i) {
      const double at = static_cast<double>(i) * p.cell_s;
      if (at < 0.49 || at > 1.51) {
        QVERIFY2(p.power[i] < 1e-7, qPrintable(QString::number(p.power[i])));
      } else if (at > 0.51 && at < 1.48) {
        QVERIFY(std::abs(p.power[i] / 0.01 - 1.0) < 0.1);
      }
    }
  }

  void a_carrier_at_zero_that_comes_and_goes_is_power() {
    Samples x(96000);
    for (std::size_t i = 32000; i < 64000; ++i) x[i] = {0.5F, 0.0F};
    const PowerProfile p = power_profile(memory_capture(x, 48000.0));
    QVERIFY(p.power.front() < 1e-12 && p.power.back() < 1e-12);
    QVERIFY(std::abs(p.power[p.power.size() / 2] - 0.25) < 1e-6);
  }

  void clipped_samples_are_counted_once() {
    auto iq = generate_sinusoids({}, 48000.0, 50000, -40.0, 7);
    for (const std::size_t at : {0U, 777U, 1024U, 20000U, 20001U}) iq[at] = {1.0F, 0.0F};
    CaptureInfo about;
    about.bits = 16;
    const PowerProfile p = power_profile(memory_capture(iq, 48000.0, about));
    QCOMPARE(std::accumulate(p.clipped.begin(), p.clipped.end(), std::int64_t{0}), 5);
  }

  void clipped_samples_are_counted_where_they_are() {
    const double rate = 48000.0;
    Samples x(48000, {0.1F, 0.05F});
    std::mt19937_64 random(7);
    std::set<std::size_t> places;
    while (places.size() < 57) places.insert(random() % x.size());
    for (const std::size_t at : places) x[at] = {1.0F, -0.2F};
    CaptureInfo about;
    about.is_float = false;
    about.bits = 16;
    const PowerProfile p = power_profile(memory_capture(x, rate, about));
    QCOMPARE(std::accumulate(p.clipped.begin(), p.clipped.end(), std::int64_t{0}), 57);
    std::vector<std::int64_t> expected(p.clipped.size(), 0);
    for (const std::size_t at : places) {
      const auto cell = static_cast<std::size_t>(static_cast<double>(at) / rate / p.cell_s);
      ++expected[std::min(cell, expected.size() - 1)];
    }
    QVERIFY(p.clipped == expected);
  }

  void the_number_of_threads_changes_nothing() {
    std::mt19937_64 random(2);
    Samples x(7'000'003);
    add_noise(x, -20.0, random);
    const auto open = memory_capture(std::move(x), 1e6);
    const PowerProfile one = power_profile(open, 1);
    for (const unsigned threads : {2U, 5U}) {
      const PowerProfile many = power_profile(open, threads);
      QVERIFY(many.power == one.power && many.peak == one.peak && many.clipped == one.clipped);
    }
    for (const double power : one.power) QVERIFY(std::abs(power / 0.01 - 1.0) < 0.1);
  }

  void a_torn_file_and_a_stop_end_it() {
    const CaptureOpener torn = [] {
      return std::make_unique<TornReader>(1e6, 9'000'000, 5'000'000);
    };
    QVERIFY_THROWS_EXCEPTION(InputError, power_profile(torn));
    std::stop_source stop;
    stop.request_stop();
    const auto open = memory_capture(Samples(1'000'000), 1e6);
    QVERIFY_THROWS_EXCEPTION(Cancelled, power_profile(open, 0, {}, stop.get_token()));
    double last = -1.0;
    power_profile(memory_capture(Samples(20'000'000), 1e6), 2, [&](double f) {
      QVERIFY(f >= 0.0 && f <= 1.0);
      last = std::max(last, f);
    });
    QVERIFY(last > 0.5);
  }

  void the_first_failure_ends_all_threads_and_is_the_one_told() {
    for (const unsigned threads : {1U, 2U, 4U, 0U}) {
      std::atomic<int> running{0};
      std::atomic<bool> has_failed{false};
      try {
        on_threads(threads, 4, [&](const std::stop_token& failed) {
          if (running++ == 0) {
            has_failed = true;
            throw InputError("the first", "", "it is torn", "Copy it again");
          }
          while (!failed.stop_requested()) std::this_thread::yield();
          throw Cancelled();
        });
        QFAIL("nothing was thrown");
      } catch (const InputError& error) {
        QCOMPARE(error.subject, std::string("the first"));
      }
      QVERIFY(has_failed && running <= 4);
      if (threads == 1) QCOMPARE(running.load(), 1);
    }
    std::atomic<int> count{0};
    on_threads(8, 3, [&](const std::stop_token&) { ++count; });
    QCOMPARE(count.load(), 3);
    count = 0;
    on_threads(3, 100, [&](const std::stop_token&) { ++count; });
    QCOMPARE(count.load(), 3);
  }

  void progress_of_parts_fills_the_whole() {
    std::vector<double> told;
    const Progress whole = [&](double f) { told.push_back(f); };
    progress_between(whole, 0.0, 0.25)(1.0);
    progress_between(progress_between(whole, 0.5, 1.0), 0.5, 1.0)(0.5);
    QCOMPARE(told, (std::vector<double>{0.25, 0.875}));
    QVERIFY(!progress_between({}, 0.0, 0.5));
  }

  void shifting_there_and_back_is_nothing() {
    const double rate = 96000.0;
    const Samples x =
        generate_sinusoids({{700.0, {0.3, 0.1}}, {-9000.0, {0.1, 0.0}}}, rate, 50000, -50.0, 3);
    const auto open = memory_capture(x, rate);
    for (const double hz : {0.0, 1234.5, -30000.0}) {
      const Samples back = all_of(shifted_capture(shifted_capture(open, hz), -hz));
      QCOMPARE(back.size(), x.size());
      for (std::size_t i = 0; i < x.size(); ++i) QVERIFY(std::abs(back[i] - x[i]) < 1e-6F);
      // From any place on it is the same.
      const Samples shifted = all_of(shifted_capture(open, hz));
      for (const std::int64_t from : {1, 255, 256, 40001}) {
        const Samples part = all_of(shifted_capture(open, hz), from);
        QCOMPARE(part.size(), x.size() - static_cast<std::size_t>(from));
        for (std::size_t i = 0; i < part.size(); ++i)
          QVERIFY(std::abs(part[i] - shifted[i + static_cast<std::size_t>(from)]) < 1e-6F);
      }
    }
  }

  void a_shifted_line_stands_still_at_zero() {
    const double rate = 48000.0;
    const Samples x = tone(5000.0, 0.5, rate, 48000);
    for (const auto& v : all_of(shifted_capture(memory_capture(x, rate), 5000.0)))
      QVERIFY(std::abs(v - std::complex<float>(0.5F, 0.0F)) < 1e-5F);
    // Real audio keeps the amplitude of its positive half; the other one turns at twice the rate.
    Samples sum(1, {0.0F, 0.0F});
    for (const auto& v : all_of(shifted_capture(memory_capture(real_part(x), rate), 5000.0)))
      sum[0] += v / 48000.0F;
    QVERIFY(std::abs(sum[0] - std::complex<float>(0.5F, 0.0F)) < 1e-3F);
  }
};

HERON_LOOP_TEST(PowerProfileTest)

}  // namespace power_profile_test

#include "power_profile_test.moc"
