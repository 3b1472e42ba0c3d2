#include "demo/demo_frequency.h"

#include <cmath>
#include <random>

#include "core/method/acceptance.h"
#include "core/method/live_quantity.h"
#include "core/method/method.h"
#include "core/signal/normal_numbers.h"
#include "demo/typed_step.h"
#include "store/clock.h"
#include "store/evaluation.h"
#include "store/event.h"
#include "store/loaded.h"
#include "store/reading.h"
#include "store/series.h"
#include "store/step.h"

namespace heron::demo {

void add_reference(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("reference");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Frequency accuracy";
  t.conditions = "40 min warm, cover on, receiving";
  t.limit = Limit{"maker", Sense::within, 0.5, "ppm", "", 0.5};
  t.limit->typed = "0.5 ppm";
  t.settings["frequency"] = {
      {"way", "counter"},    {"gate_s", 10.0},
      {"timebase_ppm", 0.1}, {"ageing_ppm", 0.02},
      {"months", 18.0},      {"bands_hz", {3.65e6, 7.1e6, 14.2e6, 21.2e6, 28.4e6, 50.2e6}}};
  const Id test = add_test(shack, t);
  const char* const read[][3] = {{"test point, probe 10:1", "20 MHz", "19.9999936 MHz"},
                                 {"test point again", "20 MHz", "19.9999938 MHz"},
                                 {"key down into the tap", "28.4 MHz", "28.3999910 MHz"}};
  for (const auto& [label, nominal, counted] : read)
    type_step(shack, test, method, label, {{"Nominal", nominal}, {"Counted", counted}}, at);
  refresh_headline(shack, test);
}

void add_beat_notes(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("reference");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Frequency accuracy";
  t.conditions = "2 h warm, standard-frequency transmission";
  t.limit = Limit{"handbook", Sense::within, 10.0, "ppm", "", 10.0};
  t.limit->typed = "10 ppm";
  nlohmann::json map;
  for (const SettingField& f : method.settings)
    if (f.key == "map")
      map = f.text.parse(
          "5 MHz = 50 reference \u2212 45 second\n10 MHz = 55 reference \u2212 45 second\n15 MHz = "
          "60 reference \u2212 45 second");
  t.settings["frequency"] = {{"way", "beat_note"}, {"source_ppm", 0.001},  {"path_ppm", 0.02},
                             {"tone_u_hz", 1.0},   {"dial_step_hz", 10.0}, {"map", map}};
  const Id test = add_test(shack, t);
  const char* const read[][4] = {{"5 MHz USB", "5 MHz", "4.999 MHz", "736 Hz"},
                                 {"5 MHz LSB", "5 MHz", "5.001 MHz", "1266 Hz"},
                                 {"10 MHz USB", "10 MHz", "9.999 MHz", "702 Hz"},
                                 {"15 MHz USB", "15 MHz", "14.999 MHz", "674 Hz"}};
  for (const auto& [label, carrier, dial, tone] : read)
    type_step(shack, test, method, label, {{"Nominal", carrier}, {"Dial", dial}, {"Tone", tone}},
              at);
  refresh_headline(shack, test);
  // It misses its handbook by far, and is good enough for what it is used for.
  t.settings[kAcceptedSettings] =
      to_json(Acceptance{"both operators", "its dial is read against the marker every 100 kHz", at,
                         heron::test(shack, test).headline->judgement.margin});
  set_test_settings(shack, test, t.settings);
  refresh_headline(shack, test);
}

namespace {

/// How an oscillator comes to rest.
struct WarmUpStory {
  double start_ppm;  ///< above where it settles
  double tau_s;
  double case_from_c;
  double case_to_c;
};

constexpr double kNominalHz = 20e6;
constexpr double kSettledPpm = -0.31;
constexpr double kPerKelvinPpm = 0.012;
constexpr double kEveryS = 24.0;
constexpr double kLengthS = 90.0 * 60.0;
constexpr double kCaseTauS = 1100.0;

void add_log(Shack& shack, Id test, const WarmUpStory& story, const std::string& at) {
  std::mt19937_64 random(4711);
  NormalNumbers<double> normal(0.0, 1.0);
  Series counted;
  counted.quantity = kCountedFrequency;
  counted.unit = "Hz";
  counted.instrument = "reference counter";
  counted.started_at = at;
  Series temperature = counted;
  temperature.quantity = kTemperature;
  temperature.unit = "\u00b0C";
  temperature.instrument = "case thermometer";
  double wander = 0.0;
  int number = 0;
  for (double t = 0.0; t <= kLengthS; t += kEveryS) {
    const double warm = story.case_to_c +
                        (story.case_from_c - story.case_to_c) * std::exp(-t / kCaseTauS) +
                        0.8 * std::sin(t / 900.0);
    wander += 0.02 * (0.2 * normal(random) - wander);
    double ppm = kSettledPpm + story.start_ppm * std::exp(-t / story.tau_s) +
                 kPerKelvinPpm * (warm - story.case_to_c) + wander + 0.03 * normal(random);
    // Now and then the count slips.
    if (++number % 53 == 0) ppm += 0.4;
    const double hz = kNominalHz * (1.0 + 1e-6 * ppm);
    counted.samples.push_back({t, std::round(hz * 100.0) / 100.0});
    temperature.samples.push_back({t, std::round(10.0 * warm) / 10.0});
  }
  const Id step = add_step(shack, test, "Cold start");
  add_series(shack, step, counted);
  add_series(shack, step, temperature);
}

Id add_drift_test(Shack& shack, Id evaluation, const std::string& title,
                  const std::string& conditions, Id compared, const WarmUpStory& story,
                  const std::string& at) {
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "drift";
  t.title = title;
  t.conditions = conditions;
  t.limit = Limit{"maker", Sense::within, 0.5, "ppm", "", 0.5};
  t.limit->typed = "0.5 ppm";
  t.settings["drift"] = {{"nominal_hz", kNominalHz},
                         {"source_ppm", 0.1},
                         {"settle_ppm", 0.1},
                         {"settle_limit_s", 1800.0},
                         {"bands_hz", {3.65e6, 7.1e6, 14.2e6, 21.2e6, 28.4e6, 50.2e6}}};
  if (compared != 0) t.settings[kComparedWith] = compared;
  const Id test = add_test(shack, t);
  add_log(shack, test, story, at);
  return test;
}

}  // namespace

void add_drift(Shack& shack, Id evaluation, const std::string& at) {
  const std::string before = utc_after(at, -3.0 * 86400.0);
  const Id first =
      add_drift_test(shack, evaluation, "Drift from cold", "off for 14 h before, cover on", 0,
                     {1.55, 520.0, 20.5, 31.5}, before);
  add_event(shack, first, {0, utc_after(before, 3600.0), "turned over"});
  refresh_headline(shack, first);
  const Id second = add_drift_test(shack, evaluation, "Drift, heater fitted",
                                   "off for 12 h before, cover on, oscillator heated", first,
                                   {0.62, 170.0, 21.0, 33.0}, at);
  refresh_headline(shack, second);
}

void add_stability(Shack& shack, Id evaluation, const std::string& at) {
  constexpr double kLimitTo = 100.0;
  constexpr double kWhitePpb = 1.3;
  constexpr double kWalkPpb = 0.035;
  constexpr int kSeconds = 3600;
  constexpr double kDigits = 100.0;  // of a hertz
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "stability";
  t.title = "Frequency stability";
  t.conditions = "2 h warm, cover on, heater fitted";
  t.limit = Limit{"need", Sense::at_most, 0.002, "ppm", "", 0.002};
  t.limit->typed = "2 ppb";
  t.settings["stability"] = {
      {"nominal_hz", kNominalHz}, {"limit_to_s", kLimitTo}, {"band_hz", 50.2e6}};
  const Id test = add_test(shack, t);
  std::mt19937_64 random(815);
  NormalNumbers<double> normal(0.0, 1.0);
  Series counted;
  counted.quantity = kCountedFrequency;
  counted.unit = "Hz";
  counted.instrument = "reference counter";
  counted.started_at = at;
  double walk = 0.0;
  for (int i = 0; i < kSeconds; ++i) {
    walk += kWalkPpb * normal(random);
    const double ppb = 1e3 * kSettledPpm + walk + kWhitePpb * normal(random);
    const double hz = kNominalHz * (1.0 + 1e-9 * ppb);
    counted.samples.push_back({static_cast<double>(i), std::round(hz * kDigits) / kDigits});
  }
  add_series(shack, add_step(shack, test, "An hour"), counted);
  refresh_headline(shack, test);
}

void add_adjust(Shack& shack, Id evaluation, const std::string& at) {
  constexpr double kShiftHz = 1.8;
  const Method& method = *find_method("adjust");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Adjust the reference";
  t.conditions = "62 min warm, lid off for the trimmer";
  t.limit = Limit{"need", Sense::within, 0.25, "ppm", "", 0.5};
  t.limit->typed = "0.25 ppm";
  t.settings["adjust"] = {{"nominal_hz", kNominalHz},
                          {"source_ppm", 0.1},
                          {"shift_hz", kShiftHz},
                          {"u_shift_hz", 0.6},
                          {"original", "3 o\u2019clock, menu 41"}};
  const Id test = add_test(shack, t);
  type_step(shack, test, method, "Test point", {{"Nominal", "20 MHz"}, {"Found", "19.9999937 MHz"}},
            at);
  struct Turn {
    bool is_tool;
    int seconds;
    double from_hz;  ///< as the counter reads
    double to_hz;
  };
  const Turn turns[] = {{false, 14, -8.1, -8.1}, {true, 16, -9.2, -6.6},  {false, 14, -5.3, -5.3},
                        {true, 14, -6.4, -3.9},  {false, 10, -3.0, -3.0}, {true, 16, -4.1, -0.9},
                        {false, 14, 0.2, 0.2},   {true, 16, -0.8, -3.7},  {false, 12, -2.6, -2.6}};
  std::mt19937_64 random(7);
  NormalNumbers<double> normal(0.0, 0.12);
  Series counted;
  counted.quantity = kCountedFrequency;
  counted.unit = "Hz";
  counted.instrument = "reference counter";
  counted.started_at = at;
  int second = 0;
  for (const Turn& turn : turns) {
    if (second > 0)
      add_event(shack, test, {0, utc_after(at, second), turn.is_tool ? kToolOn : kHandsOff});
    for (int i = 0; i < turn.seconds; ++i) {
      const double share = static_cast<double>(i) / std::max(1, turn.seconds - 1);
      const double hz = kNominalHz + std::lerp(turn.from_hz, turn.to_hz, share) + normal(random);
      counted.samples.push_back({static_cast<double>(second++), std::round(100.0 * hz) / 100.0});
    }
  }
  add_series(shack, add_step(shack, test, "Log"), counted);
  refresh_headline(shack, test);
}

void add_lock(Shack& shack, Id evaluation, const std::string& at) {
  constexpr double kOffsetHz = 12.0;
  constexpr int kMostDb = 16;
  const Method& method = *find_method("lock");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Lock margin";
  t.conditions = "10 MHz from the oven through a 4-way splitter and 3 dB";
  t.limit = Limit{"own limit", Sense::at_least, 6.0, "dB", "", 20.0};
  t.settings["lock"] = {{"nominal_hz", 10e6},  {"output_dbm", 13.0},     {"lowest_dbm", -5.0},
                        {"highest_dbm", 10.0}, {"offset_hz", kOffsetHz}, {"shared", true},
                        {"restored", false}};
  t.settings["lock"]["between"] = {{{"name", "Splitter"}, {"gain_db", -6.6}},
                                   {{"name", "3 dB pad"}, {"gain_db", -3.0}},
                                   {{"name", "Attenuator"}, {"gain_db", -0.1}}};
  const Id test = add_test(shack, t);
  std::mt19937_64 random(99);
  NormalNumbers<double> normal(0.0, 1.0);
  const auto take = [&](int db, bool is_falling) {
    // An injection lock lets go where its range is as narrow as the offset.
    const double last_db = is_falling ? 10.3 : 8.3;
    const double ratio = std::pow(10.0, -(db - last_db) / 20.0);
    const bool is_lost = ratio < 1.0;
    const double offset = is_lost ? kOffsetHz * std::sqrt(1.0 - ratio * ratio) : 0.0;
    const double near_db = std::max(0.0, db - (last_db - 2.4));
    const double scatter = is_lost ? 0.04 * kOffsetHz * ratio : 0.002 * std::pow(6.0, near_db);
    const Id step =
        add_step(shack, test, std::to_string(db) + (is_falling ? " dB, falling" : " dB, rising"));
    for (int k = 0; k < 3; ++k) {
      Reading r;
      r.quantity = kCountedFrequency;
      r.unit = "Hz";
      r.value = 10e6 + std::round(1e3 * (offset + scatter * normal(random))) / 1e3;
      r.source = ReadingSource::live;
      r.instrument = "reference counter";
      r.at = at;
      add_reading(shack, step, r);
    }
  };
  for (int db = 0; db <= kMostDb; ++db) take(db, true);
  for (int db = kMostDb - 1; db >= 0; --db) take(db, false);
  refresh_headline(shack, test);
}

}  // namespace heron::demo
