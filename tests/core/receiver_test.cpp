#include <QtTest>
#include <numbers>
#include <random>

#include "core/error.h"
#include "core/method/measure/audio_ratio.h"
#include "core/method/method.h"
#include "core/method/receiver/conversion_method.h"
#include "core/method/receiver/indicator.h"
#include "core/method/receiver/receiver_audio.h"
#include "core/method/receiver/receiver_grid.h"
#include "core/method/receiver/sensitivity.h"
#include "core/method/receiver/sensitivity_method.h"
#include "core/method/receiver/shared_parts.h"
#include "core/quantity/levels.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "tests/core/said.h"
#include "tests/draws.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace receiver_test {

namespace {

Figure dbm(double value, double u = 0.45) {
  Figure f;
  f.id = "input";
  f.unit = "dBm";
  f.value = value;
  f.contributions = {{"generator", u, Scope::common}};
  return f;
}

/// A receiver's audio: noise through a band, a tone, and hum.
CaptureOpener audio(double noise_rms, double tone_amplitude, double tone_hz, double seconds,
                    std::uint64_t seed, double hum_amplitude = 0.0, double rate = 12000.0,
                    double low_hz = 300.0, double high_hz = 2700.0) {
  const auto n = static_cast<std::size_t>(seconds * rate);
  std::mt19937_64 random(seed);
  NormalNumbers<double> normal;
  std::vector<double> x(n, 0.0);
  // Gaussian noise in a band: many sinusoids of random phase and amplitude would repeat; a long FIR
  // does not.
  constexpr int kHalf = 400;
  std::vector<double> taps;
  for (int k = -kHalf; k <= kHalf; ++k) {
    const double w = 0.5 + 0.5 * std::cos(std::numbers::pi * k / (kHalf + 1.0));
    const auto part = [&](double hz) {
      const double a = 2.0 * std::numbers::pi * hz / rate;
      return k == 0 ? 2.0 * hz / rate : std::sin(a * k) / (std::numbers::pi * k);
    };
    taps.push_back(w * (part(high_hz) - part(low_hz)));
  }
  double gain = 0.0;
  for (const double t : taps) gain += t * t;
  std::vector<double> white(n + taps.size());
  for (double& v : white) v = normal(random);
  std::vector<float> out(n);
  for (std::size_t i = 0; i < n; ++i) {
    double v = 0.0;
    for (std::size_t k = 0; k < taps.size(); ++k) v += taps[k] * white[i + k];
    const double t = static_cast<double>(i) / rate;
    out[i] =
        static_cast<float>(noise_rms * v / std::sqrt(gain) +
                           tone_amplitude * std::sin(2.0 * std::numbers::pi * tone_hz * t) +
                           hum_amplitude * (std::sin(2.0 * std::numbers::pi * 100.0 * t) +
                                            0.5 * std::sin(2.0 * std::numbers::pi * 300.0 * t)));
  }
  return memory_capture(std::move(out), rate, tone_amplitude > 0.0 ? "signal.wav" : "noise.wav");
}

}  // namespace

class ReceiverTest : public QObject {
  Q_OBJECT

 private slots:
  void an_average_meter_is_corrected_by_its_law() {
    QVERIFY(std::abs(average_of_noise_db() + 1.049) < 5e-4);
    const std::pair<double, double> checks[] = {
        {3.0103, 3.206}, {6.0, 6.532}, {10.0, 10.833}, {15.0, 15.980}, {20.0, 21.027}};
    for (const auto& [truth, read] : checks) {
      QVERIFY2(std::abs(average_meter_rise_db(truth) - read) < 2e-3,
               qPrintable(QString("%1: %2").arg(truth).arg(average_meter_rise_db(truth))));
      QVERIFY(std::abs(true_rise_db(read) - truth) < 3e-3);
    }
    // By drawing: the mean of what is rectified.
    std::mt19937_64 random(3);
    NormalNumbers<double> normal;
    double with = 0.0;
    double without = 0.0;
    const double a = std::sqrt(2.0 * (power_ratio_from_db(10.0) - 1.0));
    constexpr int kDraws = 400000;
    for (int i = 0; i < kDraws; ++i) {
      without += std::abs(normal(random));
      with += std::abs(a * std::sin(0.7 * i) + normal(random));
    }
    QVERIFY(std::abs(20.0 * std::log10(with / without) - 10.833) < 0.03);
  }

  void signal_and_noise_are_told_apart() {
    QVERIFY(std::abs(*sn_of_sn_n(10.0) - 9.542) < 5e-4);
    QVERIFY(std::abs(*sn_of_sn_n(3.0) + 0.021) < 5e-4);
    QVERIFY(!sn_of_sn_n(0.0) && !sn_of_sn_n(-1.0));
    for (const double x : {0.2, 3.0, 12.0})
      QVERIFY(std::abs(sn_n_of_sn(*sn_of_sn_n(x)) - x) < 1e-9);
  }

  void several_readings_are_their_mean_power() {
    const AudioLevel noise = audio_level({48.2, 50.1, 46.9, 51.3, 48.8}, false);
    QVERIFY(std::abs(voltage_ratio_from_db(noise.db) - 49.08) < 0.05);
    QVERIFY(std::abs(noise.spread_db - 0.78) < 0.02);
    QVERIFY(noise.u_db > 0.1 && noise.u_db < 0.25);
    const AudioLevel tone = audio_level({126.0, 129.0, 125.0, 128.0, 127.0}, false);
    QVERIFY(std::abs(tone.db - noise.db - 8.26) < 0.01);
    const AudioLevel between = audio_level_between(46.9, 51.3, false);
    QVERIFY(std::abs(between.db - noise.db) < 0.1 && between.u_db > 0.1);
    QVERIFY(std::abs(audio_level({-20.0, -20.0}, true).db + 20.0) < 1e-9);
    QVERIFY(!refusal([] { audio_level({}, false); }).isEmpty());
    QVERIFY(!refusal([] { audio_level({48.0, 0.0}, false); }).isEmpty());
    // Two-sided: 2 u holds the truth about as often as it says, however few there are.
    std::mt19937_64 random(5);
    NormalNumbers<double> scatter(0.0, 0.04);
    for (const int n : {3, 5}) {
      int inside = 0;
      const int all = draws(4000);
      for (int i = 0; i < all; ++i) {
        std::vector<double> readings;
        for (int k = 0; k < n; ++k) readings.push_back(1.0 + scatter(random));
        const AudioLevel l = audio_level(readings, false);
        if (std::abs(l.db) <= 2.0 * l.u_db) ++inside;
      }
      QVERIFY2(is_share_between(inside, all, 0.94, 0.97), qPrintable(QString::number(inside)));
    }
  }

  void the_level_for_ten_decibels_follows_from_any_ratio() {
    SensitivityReading in;
    in.label = "24.9 MHz";
    in.frequency_hz = 24.94e6;
    in.level = dbm(-113.0);
    in.bandwidth_hz = 2400.0;
    in.off = audio_level({48.2, 50.1, 46.9, 51.3, 48.8}, false);
    in.on = audio_level({126.0, 129.0, 125.0, 128.0, 127.0}, false);
    SensitivityPlan plan;
    plan.limit = Limit{"specification", Sense::at_most, -113.0, "dBm", "", 20.0};
    const SensitivityRow r = sensitivity_of(in, plan);
    QVERIFY(std::abs(*r.sn_n_db - 8.26) < 0.01 && std::abs(*r.sn_db - 7.56) < 0.01);
    QVERIFY2(std::abs(r.for_ten_db->value + 111.02) < 0.02,
             qPrintable(QString::number(r.for_ten_db->value)));
    QVERIFY(std::abs(r.mds->value + 120.56) < 0.02);
    QVERIFY(std::abs(r.noise_figure->value - 19.64) < 0.05);
    QVERIFY(r.for_ten_db->expanded() > 0.9 && r.for_ten_db->expanded() < 1.1);
    QCOMPARE(r.judgement->verdict, Verdict::fail);
    // -130 dBm in 2400 Hz is a noise figure of 10.2 dB.
    in.level = dbm(-130.0);
    in.off = audio_level({0.0}, true);
    in.on = audio_level({3.0103}, true);
    const SensitivityRow mds = sensitivity_of(in, plan);
    QVERIFY(std::abs(mds.mds->value + 130.0) < 1e-3);
    QVERIFY(std::abs(mds.noise_figure->value - 10.2) < 0.01);
    QVERIFY(has_remark(mds.remarks, "ratio_range") && has_remark(mds.remarks, "one_reading"));
    // Without a bandwidth there is no noise figure; nothing that rises is no figure at all.
    in.bandwidth_hz.reset();
    QVERIFY(!sensitivity_of(in, plan).noise_figure);
    in.on = in.off;
    const SensitivityRow none = sensitivity_of(in, plan);
    QVERIFY(!none.for_ten_db && !none.refusal.empty() && has_remark(none.remarks, "no_rise"));
    // Deaf: more than the level that was tried, and a fail if that is too much.
    in.level = dbm(-53.0);
    in.is_deaf = true;
    const SensitivityRow deaf = sensitivity_of(in, plan);
    QCOMPARE(deaf.for_ten_db->bound, Bound::lower);
    QCOMPARE(deaf.judgement->verdict, Verdict::fail);
  }

  void what_is_wrong_in_the_set_up_is_said() {
    SensitivityReading in;
    in.label = "14 MHz";
    in.level = dbm(-113.0);
    in.bandwidth_hz = 2400.0;
    in.off = audio_level({0.0, 0.1, -0.1, 0.05}, true);
    in.on = audio_level({12.0, 12.1, 11.9, 12.0}, true);
    in.half = audio_level({6.65, 6.75, 6.55, 6.65}, true);
    SensitivityPlan plan;
    SensitivityRow r = sensitivity_of(in, plan);
    QVERIFY2(std::abs(r.half_costs_db->value - 6.02) < 0.2,
             qPrintable(QString::number(r.half_costs_db->value)));
    QVERIFY(!has_remark(r.remarks, "not_linear"));
    in.half = audio_level({9.5, 9.6, 9.4, 9.5}, true);  // AGC
    QVERIFY(has_remark(sensitivity_of(in, plan).remarks, "not_linear"));
    in.birdie_db = 3.0;
    QVERIFY(has_remark(sensitivity_of(in, plan).remarks, "birdie"));
    in.level = dbm(-140.0);
    QVERIFY(has_remark(sensitivity_of(in, plan).remarks, "below_thermal"));
  }

  /// The ± of a level for 10 dB holds the truth as often as it says, with readings that scatter.
  void the_level_is_covered_two_sided() {
    std::mt19937_64 random(11);
    NormalNumbers<double> normal;
    int inside = 0;
    const int all = draws(3000);
    for (int i = 0; i < all; ++i) {
      SensitivityReading in;
      in.label = "band";
      const double generator = 0.45 * normal(random);
      in.level = dbm(-113.0);
      const double truth_sn = power_ratio_from_db(8.5);
      std::vector<double> off;
      std::vector<double> on;
      for (int k = 0; k < 5; ++k) {
        off.push_back(1.0 + 0.03 * normal(random));
        on.push_back(std::sqrt(1.0 + truth_sn) * (1.0 + 0.02 * normal(random)));
      }
      in.off = audio_level(off, false);
      in.on = audio_level(on, false);
      in.on->db += 0.1 * normal(random);
      const SensitivityRow r = sensitivity_of(in, {});
      const double truth = -113.0 + generator + kTenDbSn - 8.5;
      if (std::abs(r.for_ten_db->value - truth) <= r.for_ten_db->expanded()) ++inside;
    }
    QVERIFY2(is_share_between(inside, all, 0.94, 0.975), qPrintable(QString::number(inside)));
  }

  void recordings_of_audio_tell_the_ratio_the_tone_and_the_bandwidth() {
    const ReceiverAudio noise = receiver_audio(audio(0.05, 0.0, 0.0, 10.0, 1));
    const ReceiverAudio signal = receiver_audio(audio(0.05, 0.2, 987.6, 10.0, 2));
    const HeardRatio h = heard_ratio(noise, signal);
    const double truth = 10.0 * std::log10(1.0 + 0.02 / 0.0025);
    QVERIFY2(std::abs(h.sn_n_db - truth) < 3.0 * h.u_db + 0.02,
             qPrintable(QString("%1, %2").arg(h.sn_n_db).arg(truth)));
    QVERIFY(h.u_db > 0.005 && h.u_db < 0.1);
    QVERIFY(std::abs(*h.tone_hz - 987.6) < 0.2);
    QVERIFY2(std::abs(h.bandwidth_hz / 2400.0 - 1.0) < 0.05,
             qPrintable(QString::number(h.bandwidth_hz)));
    QVERIFY(std::abs(*h.sinad_db - truth) < 0.3);
    // Hum is left out and said, and a tone on a multiple of the mains stays a tone.
    const HeardRatio hum = heard_ratio(receiver_audio(audio(0.05, 0.0, 0.0, 10.0, 3, 0.1)),
                                       receiver_audio(audio(0.05, 0.2, 1000.0, 10.0, 4, 0.1)));
    QVERIFY2(std::abs(hum.sn_n_db - truth) < 0.25, qPrintable(QString::number(hum.sn_n_db)));
    QVERIFY(has_remark(hum.remarks, "hum") && std::abs(*hum.tone_hz - 1000.0) < 0.2);
    QVERIFY(has_remark(heard_ratio(noise, receiver_audio(audio(0.08, 0.0, 0.0, 10.0, 5))).remarks,
                       "no_tone"));
    QVERIFY(!refusal([&] {
               heard_ratio(noise, receiver_audio(audio(0.05, 0.1, 900.0, 10.0, 6, 0.0, 8000.0)));
             }).isEmpty());
    // Too loud for the recorder.
    QVERIFY(has_remark(heard_ratio(noise, receiver_audio(audio(0.05, 1.4, 900.0, 10.0, 7))).remarks,
                       "clipped") ||
            receiver_audio(audio(0.05, 1.4, 900.0, 10.0, 7)).peak_dbfs > 0.0);
    const auto back =
        std::dynamic_pointer_cast<const ReceiverAudio>(read_receiver_audio(to_json(noise)));
    QVERIFY(std::abs(heard_ratio(*back, signal).sn_n_db - h.sn_n_db) < 0.005);
    nlohmann::json bad = to_json(noise);
    bad["power"] = nlohmann::json::array({1, 2});
    QVERIFY(!refusal([&] { read_receiver_audio(bad); }).isEmpty());
    bad.erase("power");
    QVERIFY(!refusal([&] { read_receiver_audio(bad); }).isEmpty());
  }

  void the_scatter_of_recorded_ratios_is_what_is_stated() {
    std::vector<double> over;
    const int all = draws(60);
    for (int i = 0; i < all; ++i) {
      const auto seed = static_cast<std::uint64_t>(100 + 2 * i);
      const HeardRatio h = heard_ratio(receiver_audio(audio(0.05, 0.0, 0.0, 2.0, seed)),
                                       receiver_audio(audio(0.05, 0.15, 900.0, 2.0, seed + 1)));
      over.push_back((h.sn_n_db - 10.0 * std::log10(1.0 + 0.01125 / 0.0025)) / h.u_db);
    }
    double squares = 0.0;
    for (const double v : over) squares += v * v / static_cast<double>(over.size());
    if (!kFewDraws) QVERIFY2(squares > 0.5 && squares < 1.9, qPrintable(QString::number(squares)));
  }

  void readings_of_an_indicator_are_typed_as_people_say_them() {
    const std::pair<const char*, double> units[] = {
        {"S7", -12.0},     {"s 8.5", -3.0}, {"S9", 0.0},   {"S9+10", 10.0},
        {"9+20 dB", 20.0}, {"+40", 40.0},   {"S1", -48.0}, {"S0", -54.0}};
    for (const auto& [text, db] : units) {
      const IndicatorReading r = parse_indicator(text);
      QVERIFY2(!r.is_segments && std::abs(r.db - db) < 1e-9, text);
    }
    QVERIFY(parse_indicator("6").is_segments && parse_indicator("6").segments == 6.0);
    for (const char* bad : {"", "S12", "S8+10", "loud", "S9+", "-3", "S9+200"})
      QVERIFY2(!refusal([&] { parse_indicator(bad); }).isEmpty(), bad);
    QCOMPARE(indicator_text(-12.0), std::string("S7"));
    QCOMPARE(indicator_text(-10.2), std::string("S7.3"));
    QCOMPARE(indicator_text(20.0), std::string("S9+20"));
    QCOMPARE(indicator_text(0.0), std::string("S9"));
  }

  void a_scale_is_judged_unit_by_unit() {
    std::vector<IndicatorPoint> points;
    const std::pair<double, const char*> read[] = {
        {-110.5, "S1"}, {-103.8, "S3"},   {-96.2, "S5"},   {-87.6, "S7"},
        {-78.4, "S9"},  {-59.8, "S9+20"}, {-38.6, "S9+40"}};
    for (const auto& [level, text] : read) points.push_back({level, 0.35, parse_indicator(text)});
    const IndicatorScale s = indicator_scale(points, kS9Hf);
    QVERIFY(std::abs(s.s9->value + 78.4) < 1e-9 && std::abs(s.s9_error->value - 5.4) < 1e-9);
    QVERIFY(std::abs(s.errors_db.front() + 10.5) < 1e-9 && std::abs(s.errors_db[5] - 6.8) < 1e-9);
    QVERIFY(std::abs(s.slopes.front().db_per_unit - 3.35) < 1e-9);
    QVERIFY(std::abs(s.slopes.back().db_per_unit - 10.6) < 1e-9 && s.slopes.back().is_over_s9);
    QCOMPARE(range_words(s),
             std::string("stingy up to S5: shows too little; generous from S7: shows "
                         "too much"));
    // Between readings; a change that is read off it is what its own scale makes of it.
    QVERIFY(std::abs(*level_of_reading(s, -6.0) + 83.0) < 1e-9);
    QVERIFY(!level_of_reading(s, 50.0) && !level_of_reading(s, -54.0));
    QVERIFY(std::abs(true_change(s, -12.0, 0.0)->value - 9.2) < 1e-9);
    QVERIFY(!true_change(s, -12.0, 60.0));
    // An ideal one has nothing to say.
    std::vector<IndicatorPoint> ideal;
    for (int u = 1; u <= 9; ++u)
      ideal.push_back({kS9Hf - 6.0 * (9 - u), 0.3, parse_indicator("S" + std::to_string(u))});
    QVERIFY(range_words(indicator_scale(ideal, kS9Hf)).empty());
    QVERIFY(indicator_scale(ideal, kS9Hf).s9.has_value());
    ideal.pop_back();
    const IndicatorScale open = indicator_scale(ideal, kS9Hf);
    QVERIFY(!open.s9 && has_remark(open.remarks, "s9_not_enclosed"));
    ideal.front().reading = parse_indicator("4");
    QVERIFY(!refusal([&] { indicator_scale(ideal, kS9Hf); }).isEmpty());
    QVERIFY(!refusal([&] { indicator_scale({ideal.back()}, kS9Hf); }).isEmpty());
    // S9 alone says where S9 is.
    const IndicatorScale alone = indicator_scale({{-78.4, 0.4, parse_indicator("S9")}}, kS9Hf);
    QCOMPARE(alone.s9->value, -78.4);
    QCOMPARE(alone.s9_error->value, kS9Hf + 78.4);
    QVERIFY(alone.slopes.empty());
    QCOMPARE(usual_s9_dbm(14e6), kS9Hf);
    QCOMPARE(usual_s9_dbm(144e6), kS9Vhf);
  }

  void what_a_deaf_band_shares_is_suspected_or_cleared() {
    const auto parts = parse_band_parts(
        "14.2 MHz: X5, coil D, switch 2\n21.2 MHz: X6, coil E, switch 3\n24.94 MHz: X7, coil E, "
        "switch 3\n28.5 MHz: X8, coil E, switch 3\n");
    QCOMPARE(parts.size(), 4U);
    QCOMPARE(band_parts_text(parse_band_parts(band_parts_text(parts))), band_parts_text(parts));
    QCOMPARE(band_parts_from_json(to_json(parts))[1].parts[0], std::string("X6"));
    using H = Hearing;
    const Suspects one = suspects_of(1, parts, {H::hears, H::deaf, H::hears, H::hears});
    QCOMPARE(one.suspect.size(), 1U);
    QCOMPARE(suspect_words("21.2 MHz", one),
             std::pair(std::string("X6 serves no band that hears: check it first."),
                       std::string("Coil E and switch 3 also serve 24.94 MHz and 28.5 MHz, which "
                                   "hear.")));
    // All that share it are deaf: then it is suspect, too; what was not tried clears nothing.
    const Suspects three = suspects_of(1, parts, {H::hears, H::deaf, H::deaf, H::unknown});
    QCOMPARE(three.suspect.size(), 3U);
    QVERIFY(three.cleared.empty());
    for (const char* bad : {"X6, coil E", "somewhere: X6", "21 MHz:", "21 MHz: ,"})
      QVERIFY2(!refusal([&] { parse_band_parts(bad); }).isEmpty(), bad);
  }

  void the_grid_shows_what_the_tests_say_and_where_it_points() {
    const auto band = [](const char* label, const char* off, const char* on, const char* level) {
      EvidenceStep s;
      s.label = label;
      for (const TypedField& f : sensitivity_method().fields) {
        if (f.head == "Level") s.readings.push_back(read_typed(f, level));
        if (f.head == "Noise only") s.readings.push_back(read_typed(f, off));
        if (f.head == "Tone and noise") s.readings.push_back(read_typed(f, on));
      }
      return s;
    };
    auto heard = std::make_shared<Evidence>();
    heard->settings["sensitivity"] = sensitivity_method().usual_settings();
    heard->limit = Limit{"own", Sense::at_most, -113.0, "dBm", "", 20.0};
    heard->steps = {band("7.1 MHz", "50 51 49 mV", "363 361 365 mV", "-113 dBm"),
                    band("14.2 MHz", "50 51 49 mV", "385 383 387 mV", "-113 dBm"),
                    band("21.2 MHz", "50 51 49 mV", "nothing", "-53 dBm"),
                    band("24.94 MHz", "50 51 49 mV", "129 128 130 mV", "-113 dBm"),
                    band("28.5 MHz", "50 51 49 mV", "370 368 372 mV", "-113 dBm")};
    auto gains = std::make_shared<Evidence>();
    const std::pair<const char*, const char*> outs[] = {
        {"7.1 MHz", "-14 dBm"}, {"14.2 MHz", "-13.7 dBm"}, {"24.95 MHz", "-22.1 dBm"}};
    for (const auto& [label, out] : outs) {
      EvidenceStep s;
      s.label = label;
      for (const TypedField& f : conversion_method().fields) {
        if (f.head == "Input") s.readings.push_back(read_typed(f, "-53 dBm"));
        if (f.head == "At the IF") s.readings.push_back(read_typed(f, out));
      }
      gains->steps.push_back(s);
    }
    Evidence e;
    const Method& grid = receiver_grid_method();
    QVERIFY(grid.evaluate(e).plots.front().empty_words.find("each band is a row") !=
            std::string::npos);
    e.neighbours = {{"sensitivity", heard}, {"conversion", gains}};
    Result r = grid.evaluate(e);
    QCOMPARE(r.items.size(), 5U);  // 24.94 and 24.95 MHz are one band
    QCOMPARE(r.facts[0].value, std::string("4 of 5"));
    QVERIFY(r.answers.front().head == "Weakest, 24.94 MHz");
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QVERIFY(has_remark(r.remarks, "front_loss") && has_remark(r.remarks, "deaf"));
    QVERIFY(!has_remark(r.remarks, "suspect"));  // nothing is guessed
    const auto& row = r.tables.front().rows[3];
    QCOMPARE(row.cells.front().text, std::string("24.94 MHz"));
    QCOMPARE(row.cells.size(), r.tables.front().columns.size());
    QCOMPARE(row.cells.back().judgement->verdict, Verdict::fail);
    e.settings["receiver"] = grid.usual_settings();
    e.settings["receiver"]["parts"] =
        to_json(parse_band_parts("21.2 MHz: X6, coil E\n24.94 MHz: X7, coil E"));
    r = grid.evaluate(e);
    QVERIFY(has_remark(r.remarks, "suspect"));
    // Weak both ways by the same points to what both share.
    auto power = std::make_shared<Evidence>();
    const std::pair<const char*, const char*> watts[] = {
        {"7.1 MHz", "30 W"}, {"14.2 MHz", "30 W"}, {"24.94 MHz", "3.2 W"}, {"28.5 MHz", "29 W"}};
    for (const auto& [label, w] : watts) {
      EvidenceStep s;
      s.label = label;
      for (const TypedField& f : find_method("output")->fields)
        if (f.head == "Cold") s.readings.push_back(read_typed(f, w, "PEP"));
      power->steps.push_back(s);
    }
    e.neighbours.push_back({"output", power});
    r = grid.evaluate(e);
    QVERIFY(has_remark(r.remarks, "both_ways"));
  }
};

HERON_LOOP_TEST(ReceiverTest)

}  // namespace receiver_test

#include "receiver_test.moc"
