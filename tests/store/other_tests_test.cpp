// Tests of other kinds than two-tone in the shack: purity, and noise or speech.
#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/judge/mask_text.h"
#include "core/method/place_name.h"
#include "core/method/purity/purity_json.h"
#include "core/method/purity/purity_settings.h"
#include "core/method/spread/spread_analysis.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/stimulus.h"
#include "store/exchange.h"
#include "store/taking.h"
#include "tests/core/made_chain.h"
#include "tests/core/said.h"
#include "tests/store/made_places.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace other_tests_test {

namespace {

Chain recording_chain(double pad_db) {
  Chain chain = heron::testing::pad_and_sampler(pad_db);
  chain.parts[1].full_scale_dbm = 10.0;
  chain.parts[1].u_db = 0.2;
  return chain;
}

/// A purity test with recordings round the carrier and its harmonics.
struct PurityShack : MadeShack {
  Id purity = 0;
  Id hookup = 0;
  PurityShack() {
    hookup = add_hookup(*shack, "A", recording_chain(40.0));
    Test t;
    t.evaluation_id = evaluation_id;
    t.characteristic = "purity";
    t.title = "Harmonics and spurs";
    t.hookup_id = hookup;
    t.drive = Drive{40.0, false, 14.2e6, 5.0};
    PurityTestSettings settings;
    settings.mask = parse_mask_text("20 to 60 MHz: -50 dBc\n14.21 to 15 MHz: -60 dBc\n", "own");
    t.settings = with_purity_settings(nlohmann::json::object(), settings);
    purity = add_test(*shack, t);
    for (const double center : {14.23e6, 28.43e6, 42.63e6})
      take(add_step(*shack, purity, std::to_string(center / 1e6) + " MHz"), center);
    refresh_headline(*shack, purity);
  }
  void take(Id step, double center, double attenuation_db = 0.0) {
    const auto open = place_recording(center, invented_lines(), attenuation_db);
    const StoredCapture kept = store_capture(shack->captures_folder(), open);
    Attachment attachment;
    attachment.hookup_version_id = latest_version(*shack, hookup).id;
    if (attenuation_db > 0.0) attachment.added = AddedAttenuation{attenuation_db, "10 dB"};
    const Id attached = attach_capture(*shack, step, kept, attachment);
    PurityReadingSettings how;
    how.carrier_hz = 14.2e6;
    how.center_hz = center;
    save_result(*shack, attached, "purity",
                to_json(read_purity(capture_opener(capture_path(*shack, kept.hash)), how)));
  }
};

GeneralTest loaded(const Shack& shack, Id id) {
  return *(load_test(shack, id));
}

/// What is said of a line: "2nd harmonic", or of a non-harmonic "14.25 MHz".
const Answer& line_at(const Result& r, const std::string& where) {
  for (const Answer& a : r.answers) {
    if (a.where == where) return a;
  }
  throw std::runtime_error("no line at " + where);
}

/// A cell of the table of lines.
std::string cell(const Result& r, const std::string& where, const std::string& column) {
  const ResultTable& t = r.tables.at(0);
  for (std::size_t c = 0; c < t.columns.size(); ++c) {
    if (t.columns[c].id == column) return t.rows.at(*line_at(r, where).step).cells.at(c).text;
  }
  throw std::runtime_error("no column " + column);
}

/// Another shack, into which the evaluation of a made one was imported.
struct Elsewhere {
  QTemporaryDir folder;
  std::unique_ptr<Shack> shack;
  Id evaluation_id = 0;
  explicit Elsewhere(const MadeShack& made) {
    const auto zip = made.path() / "out.zip";
    write_packed(pack_evaluation(*made.shack, made.evaluation_id), zip);
    shack = Shack::create(std::filesystem::path(folder.path().toStdString()) / "s", "elsewhere");
    evaluation_id =
        add_unpacked(*shack, unpack_evaluation(zip, shack->captures_folder())).evaluation;
  }
};

SpreadSettings speech_settings() {
  SpreadSettings s;
  s.stimulus = SpreadStimulus::speech_noise;
  return s;
}

CaptureOpener noise_recording(double low_hz, double high_hz, bool notched, std::uint64_t seed) {
  constexpr double kRate = 24000.0;
  std::mt19937_64 random(seed);
  NormalNumbers<double> gauss(0.0, 1.0);
  std::vector<std::complex<float>> x(1U << 17U);
  // Many sinusoids of drawn phase are noise with exact edges.
  constexpr int kTones = 600;
  for (int k = 0; k < kTones; ++k) {
    const double hz = low_hz + (high_hz - low_hz) * (k + 0.5) / kTones;
    if (notched && hz > 1250.0 && hz < 1750.0) continue;
    const double phase = 6.28318530718 * std::uniform_real_distribution<double>(0, 1)(random);
    const std::complex<double> step = std::polar(1.0, 6.28318530718 * hz / kRate);
    std::complex<double> v = std::polar(0.01, phase);
    for (auto& sample : x) {
      sample += std::complex<float>(v);
      v *= step;
    }
  }
  for (auto& sample : x)
    sample += std::complex<float>(static_cast<float>(1e-4 * gauss(random)),
                                  static_cast<float>(1e-4 * gauss(random)));
  return memory_capture(std::move(x), kRate);
}

}  // namespace

class OtherTestsTest : public QObject {
  Q_OBJECT
 private slots:
  void recordings_of_several_places_are_one_answer_at_the_device() {
    PurityShack made;
    const GeneralTest t = loaded(*made.shack, made.purity);
    const Result& r = t.result;
    QVERIFY(!r.answers.empty());
    // -10 dBFS of +10 dBm full scale behind 40 dB: +40 dBm.
    QVERIFY(std::abs(r.output->value - 40.0) < 0.05);
    QVERIFY(std::abs(line_at(r, "2nd harmonic").figure.value + 40.0) < 0.05);
    QCOMPARE(line_at(r, "2nd harmonic").judgement->verdict, Verdict::fail);
    QCOMPARE(line_at(r, "3rd harmonic").judgement->verdict, Verdict::pass);
    QCOMPARE(cell(r, "14.25 MHz", "line"), std::string("non-harmonic"));
    QCOMPARE(r.cards.size(), std::size_t{1});
    const ProposalCard& card = r.cards[0];
    QCOMPARE(card.choices[card.shown].after.verdict, Verdict::pass);
    // Each line is in the recording of its place; the worst is what the test is about.
    QCOMPARE(t.headline_step(), std::optional(std::size_t{1}));
    QCOMPARE(r.step_of(line_at(r, "3rd harmonic").step), std::optional(std::size_t{2}));
    QCOMPARE(r.items[0].name, std::string("carrier"));
    const Test headline = test(*made.shack, made.purity);
    QCOMPARE(headline.headline->at, std::string("2nd harmonic"));
    QCOMPARE(headline.headline_limit()->value, -50.0);
    QCOMPARE(headline.headline->judgement.verdict, Verdict::fail);
  }

  void another_hookup_version_does_not_alter_what_was_taken() {
    PurityShack made;
    const double before = loaded(*made.shack, made.purity).result.output->value;
    save_chain(*made.shack, made.hookup, recording_chain(50.0));
    const Result r = loaded(*made.shack, made.purity).result;
    QCOMPARE(r.output->value, before);
    QCOMPARE(cell(r, "2nd harmonic", "correction"), std::string("0.0"));
    // What is taken from now on is referred through the new one, and still fits.
    made.take(steps(*made.shack, made.purity)[1].id, 28.43e6, 0.0);
    const Result mixed = loaded(*made.shack, made.purity).result;
    QCOMPARE(cell(mixed, "2nd harmonic", "correction"), std::string("+10.0"));
    QVERIFY(std::abs(line_at(mixed, "2nd harmonic").figure.value + 30.0) < 0.05);
  }

  void the_attenuation_test_finds_the_instruments_own_line() {
    PurityShack made;
    // With 10 dB more everything falls by 10 dB: the device's. Claimed 5 dB, it looks like the
    // instrument's.
    made.take(steps(*made.shack, made.purity)[1].id, 28.43e6, 10.0);
    GeneralTest t = loaded(*made.shack, made.purity);
    QVERIFY(t.evidence.steps[1].second_take.has_value());
    QVERIFY(!has_remark(t.result.remarks, "self_test_wanted"));
    QCOMPARE(cell(t.result, "2nd harmonic", "line"), std::string("2nd harmonic"));
    t.evidence.steps[1].second_take->added_db = 5.0;
    const Result doubted = t.method->evaluate(t.evidence);
    QCOMPARE(cell(doubted, "28.4 MHz", "line"), std::string("instrument"));
    QVERIFY(has_remark(doubted.remarks, "made_by_instrument"));
    QVERIFY(doubted.answers.front().where != "2nd harmonic");
  }

  void without_a_carrier_it_says_what_is_missing() {
    PurityShack made;
    set_step_capture_removed(*made.shack, steps(*made.shack, made.purity)[0].capture->id, true);
    const Result r = loaded(*made.shack, made.purity).result;
    QVERIFY(r.answers.empty() && r.items.empty());
    QVERIFY(has_remark(r.remarks, "obstacle"));
    QVERIFY2(r.remarks[0].text.find("14.2") != std::string::npos, r.remarks[0].text.c_str());
    QVERIFY(!r.remarks[0].action.empty());
    QVERIFY(r.plots[0].empty_words.find("14.2") != std::string::npos);
    refresh_headline(*made.shack, made.purity);
    QVERIFY(!test(*made.shack, made.purity).headline);
  }

  void settings_read_back_and_damage_is_refused() {
    PurityTestSettings s;
    s.carrier_hz = 14.201e6;
    s.mask = Mask{"none", "", {}};
    s.power_dbm = 44.8;
    s.power_typed = "30 W";
    s.lines = {parse_typed_line("28.4 MHz < -60 dBm")};
    const auto json = with_purity_settings({{"other", 1}}, s);
    QCOMPARE(json.at("other").get<int>(), 1);
    const PurityTestSettings back = purity_settings_from_json(json);
    QVERIFY(back.mask && back.mask->is_none());
    QCOMPARE(back.power_typed, std::string("30 W"));
    QCOMPARE(back.lines.size(), std::size_t{1});
    QVERIFY(back.lines[0].is_bound && !back.lines[0].is_dbc);
    auto damaged = json;
    damaged["purity"]["lines"][0].erase("level");
    QVERIFY_THROWS_EXCEPTION(InputError, purity_settings_from_json(damaged));
    QCOMPARE(named_frequency_hz("h2_28,4_mhz"), std::optional(28.4e6));
    QVERIFY(!named_frequency_hz("second"));
  }

  void noise_and_speech_are_judged_by_what_they_are_about() {
    MadeShack made;
    Test t;
    t.evaluation_id = made.evaluation_id;
    t.characteristic = "bandwidth";
    t.title = "Occupied bandwidth";
    t.limit = Limit{"own", Sense::at_most, 2000.0, "Hz", hold_name(Hold::average), 1000.0};
    t.settings = with_spread_settings(nlohmann::json::object(), speech_settings());
    const Id wide = add_test(*made.shack, t);
    for (const auto& [label, high] : {std::pair{"narrow", 2100.0}, {"wide", 2700.0}}) {
      const Id step = add_step(*made.shack, wide, label);
      const StoredCapture kept =
          store_capture(made.shack->captures_folder(), noise_recording(300.0, high, false, 3));
      const Id attached = attach_capture(*made.shack, step, kept);
      save_result(*made.shack, attached, "spread",
                  to_json(analyse_spread(capture_opener(capture_path(*made.shack, kept.hash)),
                                         speech_settings())));
    }
    const auto widths = *(refresh_headline(*made.shack, wide));
    const Answer* narrow = widths.result.answer_at(0, "average");
    QVERIFY(std::abs(narrow->figure.value - 0.99 * 1800.0) < 15.0);
    QCOMPARE(narrow->judgement->verdict, Verdict::pass);
    QCOMPARE(widths.result.answer_at(1, "average")->judgement->verdict, Verdict::fail);
    // What the average has to keep says nothing about max-hold.
    QVERIFY(!widths.result.answer_at(1, "max-hold")->judgement);
    QCOMPARE(test(*made.shack, wide).headline->at, std::string("wide"));

    // Notched noise is about its notch; a step called like one of the two-tone test stands beside.
    t.characteristic = "noise";
    t.limit = Limit{"own", Sense::at_least, 20.0, "dB", kNoisePowerRatio, 20.0};
    t.settings = nlohmann::json::object();
    const Id notched = add_test(*made.shack, t);
    const Id step = add_step(*made.shack, notched, "30 W");
    const StoredCapture kept =
        store_capture(made.shack->captures_folder(), noise_recording(300.0, 2700.0, true, 4));
    const Id attached = attach_capture(*made.shack, step, kept);
    save_result(*made.shack, attached, "spread",
                to_json(analyse_spread(capture_opener(capture_path(*made.shack, kept.hash)), {})));
    const GeneralTest noise = *(load_test(*made.shack, notched));
    const auto& kept_analysis =
        dynamic_cast<const SpreadAnalysis&>(*noise.evidence.steps[0].analysis);
    QVERIFY(kept_analysis.noise.has_value());
    QCOMPARE(noise.result.answers[0].judgement->verdict, Verdict::pass);
    QCOMPARE(noise.evidence.steps[0].beside->convention, std::string(kRePep));
    // A limit for another figure judges nothing.
    set_test_limit(*made.shack, notched, Limit{"x", Sense::at_most, -30.0, "dB", "re channel", 20});
    const auto again = *(load_test(*made.shack, notched));
    QVERIFY(!again.result.answers[0].judgement);
    auto damaged = to_json(kept_analysis);
    damaged["average"].erase("rbw_hz");
    QVERIFY_THROWS_EXCEPTION(InputError, spread_from_json(damaged));
    QVERIFY(to_json(spread_from_json(to_json(kept_analysis))) == to_json(kept_analysis));
  }

  void a_sweep_stays_one_whatever_it_is_called() {
    PurityShack made;
    const Id step = add_step(*made.shack, made.purity, "Harmonics", std::pair{1.4e6, 78.1e6});
    QVERIFY(swept_hz(steps(*made.shack, made.purity).back()) == std::pair(1.4e6, 78.1e6));
    set_step_label(*made.shack, step, "Everything at once");
    made.reopen();
    QVERIFY(swept_hz(steps(*made.shack, made.purity).back()) == std::pair(1.4e6, 78.1e6));
    // One that somebody called so is one as well; a recording is none.
    Step named;
    named.label = sweep_name(1e6, 120e6);
    QVERIFY(swept_hz(named) == std::pair(1e6, 120e6));
    named.label = "14.2 MHz";
    QVERIFY(!swept_hz(named));
    QVERIFY(!steps(*made.shack, made.purity)[0].sweep_hz);
  }

  void how_it_is_taken_reads_back() {
    TakingSettings t;
    QVERIFY(taking_settings_from_json({{"other", 1}}) == t);
    t.length_s = 2.5;
    t.rate_hz = 96e3;
    t.most_drive_dbm = -22.0;
    const auto json = with_taking_settings({{"other", 1}}, t);
    QCOMPARE(json.at("other").get<int>(), 1);
    QVERIFY(taking_settings_from_json(json) == t);
    // A file from elsewhere cannot ask for hours of carrier, or for all the drive there is.
    const TakingSettings odd = taking_settings_from_json(
        {{"taking",
          {{"length_s", 1e6}, {"rate_hz", -1.0}, {"settle_s", 1e9}, {"most_drive_dbm", 90.0}}}});
    QVERIFY(odd == TakingSettings());
    QVERIFY(taking_settings_from_json({{"taking", "loud"}}) == TakingSettings());
  }

  void a_stimulus_of_ones_own_travels_along() {
    MadeShack made;
    Test t;
    t.evaluation_id = made.evaluation_id;
    t.characteristic = "noise";
    t.title = "Speech";
    SpreadSettings settings;
    settings.stimulus = SpreadStimulus::own_recording;
    settings.own_name = "reading.wav";
    settings.own_hash = store_capture(made.shack->captures_folder(), two_tones(-20.0, 5)).hash;
    t.settings = with_spread_settings({}, settings);
    add_test(*made.shack, t);
    const Elsewhere other(made);
    const auto kept =
        spread_settings_from_json(tests(*other.shack, other.evaluation_id).back().settings);
    QCOMPARE(kept.own_hash, settings.own_hash);
    QCOMPARE(capture_opener(capture_path(*other.shack, kept.own_hash))()->info().frames,
             two_tones(-20.0, 5)()->info().frames);
    // Gone from the disk: said before anything is written.
    std::filesystem::remove(capture_path(*made.shack, settings.own_hash));
    QVERIFY_THROWS_EXCEPTION(
        InputError,
        write_packed(pack_evaluation(*made.shack, made.evaluation_id), made.path() / "again.zip"));
    // A name that leads out of the folder is none.
    auto json = with_spread_settings({}, settings);
    json["spread"]["own_hash"] = "../../shack";
    QVERIFY(spread_settings_from_json(json).own_hash.empty());
  }

  void all_kinds_travel_between_shacks() {
    PurityShack made;
    add_step(*made.shack, made.purity, "Everything at once", std::pair{1.4e6, 78.1e6});
    const Elsewhere other(made);
    const auto list = tests(*other.shack, other.evaluation_id);
    QCOMPARE(list.size(), std::size_t{2});
    const GeneralTest t = loaded(*other.shack, list[1].id);
    const Result before = loaded(*made.shack, made.purity).result;
    QCOMPARE(t.result.items.size(), before.items.size());
    QCOMPARE(line_at(t.result, "2nd harmonic").figure.value,
             line_at(before, "2nd harmonic").figure.value);
    QCOMPARE(list[1].headline_limit()->value, -50.0);
    QVERIFY(t.steps.back().sweep_hz == std::pair(1.4e6, 78.1e6));
    QVERIFY(!t.steps.front().sweep_hz);
  }
};

HERON_TEST(OtherTestsTest)

}  // namespace other_tests_test

#include "other_tests_test.moc"
