#include "demo/demo_shack.h"

#include <cmath>
#include <ctime>
#include <filesystem>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/provisional.h"
#include "core/method/two_tone/two_tone.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/quantity/levels.h"
#include "core/signal/write_wav.h"
#include "demo/demo_amplifier.h"
#include "demo/demo_bench.h"
#include "demo/demo_device.h"
#include "demo/demo_frequency.h"
#include "demo/demo_noise.h"
#include "demo/demo_output.h"
#include "demo/demo_purity.h"
#include "demo/demo_receiver.h"
#include "demo/demo_spread.h"
#include "demo/demo_touch.h"
#include "demo/ladder_recording.h"
#include "store/capture_files.h"
#include "store/clock.h"
#include "store/device.h"
#include "store/evaluation.h"
#include "store/hookup.h"
#include "store/instrument.h"
#include "store/loaded.h"
#include "store/result_record.h"
#include "store/step.h"

namespace heron {
namespace {

using demo::RecordedStep;
using demo::RecordingConditions;

// Of the time that it takes.
constexpr double kBenchShare = 0.02;
constexpr double kReedlingShare = 0.5;
constexpr double kOthersShare = 0.9;

std::string days_ago(double days) {
  const std::time_t then = std::time(nullptr) - static_cast<std::time_t>(days * 86400.0);
  std::tm parts{};
  gmtime_r(&then, &parts);
  char text[32];
  std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%SZ", &parts);
  return text;
}

Limit pep_limit(const std::string& name, double value) {
  return {name, Sense::at_most, value, "dB", kRePep, 20.0};
}

struct DemoTest {
  std::string title;
  std::string conditions;
  Limit limit;
  RecordingConditions recording;
  std::vector<RecordedStep> steps;
  double days = 0.0;
  std::string signed_by;
  std::string note;
  Id hookup = 0;
  double drive_w = 30.0;
  double key_down_s = 12.0;
  std::string provisional = {};  ///< why it is to be repeated
};

/// Which hook-up belongs to what.
struct DemoHookups {
  Id pad;     ///< 40 dB pad and step attenuator: time-limited at 30 W
  Id load;    ///< the big load with its tap
  Id unsafe;  ///< a 5 W pad straight to the sampler
};

Drive drive_of(const DemoTest& demo) {
  Drive drive{to_dbm(Watt{demo.drive_w}).value, true, demo.recording.center_hz, demo.key_down_s};
  drive.typed = fmt::format("{:g} W pep", demo.drive_w);
  return drive;
}

Id add_two_tone(Shack& shack, Id evaluation, const DemoTest& demo, std::uint64_t seed) {
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "two_tone";
  t.title = demo.title;
  t.hookup_id = demo.hookup;
  if (demo.hookup != 0) t.drive = drive_of(demo);
  t.conditions = demo.conditions;
  t.convention = kRePep;
  t.limit = demo.limit;
  t.note = demo.note;
  TwoToneSettings settings;
  settings.linearity_u_db = 0.35;
  t.settings = to_json(settings);
  if (!demo.provisional.empty()) t.settings[kProvisionalSettings] = demo.provisional;
  const Id test = add_test(shack, t);
  for (const RecordedStep& recorded : demo.steps) {
    const Id step = add_step(shack, test, recorded.label);
    if (recorded.products_dbc.empty()) continue;
    RecordingConditions conditions = demo.recording;
    conditions.recorded_at = days_ago(demo.days);
    const StoredCapture stored =
        store_capture(shack.captures_folder(), demo::record_step(recorded, conditions, seed++));
    Attachment attachment{conditions.recorded_at, 0, std::nullopt};
    if (demo.hookup != 0) attachment.hookup_version_id = latest_version(shack, demo.hookup).id;
    const Id attached = attach_capture(shack, step, stored, attachment);
    const TwoToneAnalysis analysis =
        analyse_two_tone(capture_opener(capture_path(shack, stored.hash)), settings);
    save_result(shack, attached, "two_tone", to_json(analysis));
    set_step_output(shack, step,
                    TypedOutput{fmt::format("{:g} W", recorded.watts_pep),
                                to_dbm(Watt{recorded.watts_pep}).value, 0.1});
  }
  refresh_headline(shack, test);
  if (!demo.signed_by.empty()) sign_test(shack, test, demo.signed_by, days_ago(demo.days));
  return test;
}

/// The full-power step again with 10 dB more before the sampler: the device's products stay.
void add_self_test(Shack& shack, Id test) {
  const Step step = steps(shack, test).front();
  RecordingConditions conditions;
  conditions.full_scale_watts_pep *= 10.0;
  conditions.recorded_at = days_ago(0.01);
  const StoredCapture stored = store_capture(
      shack.captures_folder(),
      demo::record_step({"30 W, 10 dB more", 30.2, {-26.2, -25.4, -32.9, -42.6}}, conditions, 177));
  Attachment attachment{conditions.recorded_at,
                        latest_version(shack, heron::test(shack, test).hookup_id).id,
                        AddedAttenuation{10.0, "10 dB"}};
  const Id attached = attach_capture(shack, step.id, stored, attachment);
  save_result(shack, attached, "two_tone",
              to_json(analyse_two_tone(capture_opener(capture_path(shack, stored.hash)))));
}

std::vector<RecordedStep> reedling_steps() {
  return {
      {"30 W", 30.2, {-26.2, -25.4, -32.9, -42.6}}, {"20 W", 20.1, {-28.2, -28.9, -37.2, -49.0}},
      {"10 W", 10.0, {-33.5, -37.2, -45.9, -57.0}}, {"5 W", 5.0, {-44.2, -46.9, -55.0, -70.0}},
      {"2 W", 2.0, {-40.6, -49.0, -60.0, -75.0}},   {"1 W", 1.0, {-42.9, -55.0, -66.0, -80.0}}};
}

Id add_reedling(Shack& shack, const DemoHookups& hookups) {
  Device d{0,
           "Reedling 30",
           "HF transceiver",
           "no. 0412",
           "30 W, 13.8 V. Splatters on full power.",
           {{"output", {"maker", Sense::at_least, 30.0, "W", "PEP", 20.0}},
            {"two_tone", pep_limit("Marsh club", -30.0)},
            {"purity", {"generic mask", Sense::at_most, -50.0, "dBc", "re carrier", 20.0}},
            {"reference", {"maker", Sense::within, 0.5, "ppm", "", 0.5}},
            {"sensitivity", {"maker", Sense::at_most, -123.0, "dBm", "PD", 20.0}}}};
  const Id device = add_device(shack, d);

  const Id before = add_evaluation(shack, device, "As received", days_ago(96));
  DemoTest received{
      "Two-tone products",
      "14.200 MHz, 13.8 V, bias as found",
      pep_limit("Marsh club", -30.0),
      {},
      {{"30 W", 29.1, {-20.9, -19.8, -27.0, -35.0}}, {"10 W", 10.0, {-26.0, -31.0, -40.0, -50.0}}},
      96,
      "Both of us",
      "Bias current 180 mA, far too low.",
      hookups.pad};
  add_two_tone(shack, before, received, 900);

  const Id spring = add_evaluation(shack, device, "Before Skerry Point", days_ago(0.2));
  set_evaluation_goal(shack, spring, "Is it clean and on frequency for Skerry Point?");
  DemoTest main_test{"Two-tone products",
                     "14.200 MHz, 13.8 V, bias 320 mA",
                     pep_limit("Marsh club", -30.0),
                     {},
                     reedling_steps(),
                     0.01,
                     "",
                     "",
                     hookups.pad};
  const Id main_id = add_two_tone(shack, spring, main_test, 100);
  add_self_test(shack, main_id);
  DemoTest low_band{
      "Two-tone, 80 m",
      "3.650 MHz, 13.8 V",
      pep_limit("Marsh club", -30.0),
      {},
      {{"30 W", 31.0, {-29.5, -33.0, -41.0, -50.0}}, {"10 W", 10.1, {-38.0, -44.0, -52.0, -60.0}}},
      0.05,
      "Both of us",
      "",
      hookups.pad};
  low_band.recording.center_hz = 3.65e6;
  add_two_tone(shack, spring, low_band, 200);
  DemoTest battery{
      "Two-tone, weak battery",
      "14.200 MHz, 11.8 V: a battery at its end",
      pep_limit("Marsh club", -30.0),
      {},
      {{"20 W", 19.2, {-18.5, -22.0, -30.0, -41.0}}, {"10 W", 10.0, {-29.0, -34.5, -44.0, -55.0}}},
      0.04,
      "",
      "",
      hookups.pad,
      20.0};
  add_two_tone(shack, spring, battery, 300);
  DemoTest live{
      "Two-tone, from the instruments",
      "14.200 MHz, 13.8 V, after the repair",
      pep_limit("Marsh club", -30.0),
      {},
      {{"28 W", 28, {}}, {"20 W", 20, {}}, {"12 W", 12, {}}, {"6 W", 6, {}}, {"3 W", 3, {}}},
      0,
      "",
      "",
      hookups.pad};
  add_two_tone(shack, spring, live, 350);
  demo::add_output(shack, spring, days_ago(0.0095));
  demo::add_noise(shack, spring, hookups.pad, days_ago(0.009));
  demo::add_purity(shack, spring, hookups.pad, 30.2, days_ago(0.008));
  demo::add_bandwidth(shack, spring, hookups.pad, days_ago(0.007));
  demo::add_reference(shack, spring, days_ago(0.006));
  demo::add_drift(shack, spring, days_ago(0.1));
  demo::add_adjust(shack, spring, days_ago(0.06));
  demo::add_stability(shack, spring, days_ago(0.05));
  demo::add_indicator(shack, spring, days_ago(0.04));
  DemoTest planned{"Two-tone, compressor",
                   "14.200 MHz, 13.8 V, compressor on",
                   pep_limit("Marsh club", -30.0),
                   {},
                   {{"30 W", 30, {}}, {"20 W", 20, {}}, {"10 W", 10, {}}},
                   0,
                   "",
                   "",
                   hookups.unsafe};
  add_two_tone(shack, spring, planned, 400);
  return main_id;
}

void add_others(Shack& shack, const DemoHookups& hookups, Id reedling_test) {
  const Id dunlin =
      add_device(shack, {0,
                         "Dunlin 6",
                         "Transverter, 50 MHz",
                         "no. 0118",
                         "",
                         {{"output", {"maker", Sense::at_least, 10.0, "W", "PEP", 20.0}},
                          {"two_tone", pep_limit("Marsh club", -30.0)},
                          {"gain", {"maker", Sense::at_least, 18.0, "dB", "", 10.0}}}});
  DemoTest clean{
      "Two-tone products",
      "50.150 MHz, 13.8 V",
      pep_limit("Marsh club", -30.0),
      {},
      {{"10 W", 10.2, {-32.1, -40.0, -50.0, -61.0}}, {"5 W", 5.1, {-40.0, -50.0, -60.0, -70.0}}},
      42,
      "Both of us",
      ""};
  clean.recording.full_scale_watts_pep = 25.0;
  clean.recording.center_hz = 50.15e6;
  clean.provisional = "taken with a friend's sampler, calibration not known";
  add_two_tone(shack, add_evaluation(shack, dunlin, "Winter check", days_ago(42)), clean, 500);

  const Id curlew =
      add_device(shack, {0,
                         "Curlew 120",
                         "HF linear amplifier",
                         "no. 0031",
                         "120 W, 48 V, driven by the Reedling 30.",
                         {{"output", {"maker", Sense::at_least, 120.0, "W", "PEP", 20.0}},
                          {"two_tone", pep_limit("Marsh club", -30.0)},
                          {"gain", {"maker", Sense::at_least, 11.0, "dB", "", 10.0}}}});
  const Id spring = add_evaluation(shack, curlew, "Before Skerry Point", days_ago(3));
  DemoTest alone{"Two-tone, alone",
                 "14.200 MHz, 48 V, from a clean exciter",
                 pep_limit("Marsh club", -30.0),
                 {},
                 {{"12 W", 118, {-23.8, -28.0, -37.0, -48.0}},
                  {"8 W", 80.5, {-28.0, -34.0, -44.0, -55.0}},
                  {"4 W", 40, {-34.0, -42.0, -51.0, -62.0}},
                  {"2 W", 19.8, {-39.0, -48.0, -57.0, -68.0}}},
                 3,
                 "",
                 "",
                 hookups.load,
                 120.0,
                 30.0};
  alone.recording.full_scale_watts_pep = 300.0;
  const Id alone_id = add_two_tone(shack, spring, alone, 600);
  DemoTest pair{"Two-tone, behind the Reedling",
                "14.200 MHz, 48 V, driven by the Reedling 30",
                pep_limit("Marsh club", -30.0),
                {},
                {{"12 W", 117, {-21.6, -26.0, -35.0, -46.0}},
                 {"8 W", 80, {-25.6, -31.5, -41.0, -52.0}},
                 {"4 W", 39.6, {-31.5, -39.0, -48.0, -59.0}}},
                3,
                "",
                "",
                hookups.load,
                120.0,
                30.0};
  pair.recording.full_scale_watts_pep = 300.0;
  const Id pair_id = add_two_tone(shack, spring, pair, 650);
  demo::add_curlew(shack, spring, 0, days_ago(3));
  set_test_driving(shack, reedling_test, alone_id, pair_id);
  refresh_headline(shack, reedling_test);

  const Id ruff =
      add_device(shack, {0,
                         "Ruff 23",
                         "Amplifier, 1296 MHz",
                         "no. 0077",
                         "60 W, 28 V.",
                         {{"two_tone", pep_limit("Marsh club", -30.0)},
                          {"gain", {"maker", Sense::at_least, 47.0, "dBm", "", 20.0}},
                          {"response", {"maker", Sense::at_least, 13.0, "dB", "", 20.0}}}});
  DemoTest old{"Two-tone products",
               "1296.2 MHz, 28 V",
               pep_limit("Marsh club", -30.0),
               {},
               {{"50 W", 51, {-28.0, -36.0, -46.0, -57.0}}},
               400,
               "Both of us",
               ""};
  old.recording.full_scale_watts_pep = 110.0;
  old.recording.center_hz = 1296.2e6;
  add_two_tone(shack, add_evaluation(shack, ruff, "After the fan was replaced", days_ago(400)), old,
               700);
  demo::add_ruff(shack, add_evaluation(shack, ruff, "Before Skerry Point", days_ago(2)),
                 days_ago(2));

  const Id bittern =
      add_device(shack, {0,
                         "Bittern",
                         "Synthesizer, 1440 MHz",
                         "home-built",
                         "Times 4 to 5760 MHz for the beacon.",
                         {{"phase_noise", {"own wish", Sense::at_most, 1.0, "\u00b0", "", 1.0}},
                          {"reference", {"own wish", Sense::within, 0.5, "ppm", "", 0.5}}}});
  const Id beacon = add_evaluation(shack, bittern, "Before Skerry Point", days_ago(1));
  demo::add_touch_test(shack, beacon, days_ago(1));
  demo::add_phase_noise(shack, beacon, days_ago(1));
  demo::add_noise_family(shack, beacon, days_ago(1));
  demo::add_loop(shack, beacon);
  demo::add_reciprocal(shack, beacon);
  demo::add_lock(shack, beacon, days_ago(1));
  const Id godwit =
      add_device(shack, {0,
                         "Godwit",
                         "General-coverage receiver",
                         "refurbished",
                         "Valves and a mains transformer: mind the high voltage.",
                         {{"sensitivity", {"handbook", Sense::at_most, -113.0, "dBm", "PD", 20.0}},
                          {"indicator", {"handbook", Sense::within, 6.0, "dB", "", 20.0}},
                          {"conversion", {"handbook", Sense::at_least, 34.0, "dB", "", 20.0}}}});
  const Id as_it_came = add_evaluation(shack, godwit, "As it came", days_ago(9));
  demo::add_survey(shack, as_it_came, days_ago(9));
  set_evaluation_goal(shack, as_it_came, "Which bands live, and what is worth mending first?");
  set_evaluation_end(shack, as_it_came,
                     EvaluationEnd{days_ago(9), true, "21 MHz hears nothing",
                                   "Mend what only it uses, then measure every band"});
  const Id overhaul = add_evaluation(shack, godwit, "After the overhaul", days_ago(1.5));
  demo::add_sensitivity(shack, overhaul, days_ago(1.5));
  demo::add_old_indicator(shack, overhaul, days_ago(1.5));
  demo::add_conversion(shack, overhaul, days_ago(1.5));
  demo::add_beat_notes(shack, overhaul, days_ago(1.5));
  demo::add_receiver_grid(shack, overhaul);
  demo::add_device_cards(shack, [](double days) { return days_ago(days); });
}

}  // namespace

void demo::make_demo_shack(const std::filesystem::path& folder, const Progress& progress,
                           const std::stop_token& stop) {
  const auto step = [&](double share) {
    if (stop.stop_requested()) throw Cancelled();
    if (progress) progress(share);
  };
  const auto shack = Shack::create(folder, "Skerry Point");
  shack->set_operator_name("Both of us");
  set_simulation_seed(*shack, 412);
  const auto bench = demo::add_bench(*shack);
  const DemoHookups hookups{
      demo::add_hookup_of(*shack, bench, "40 dB pad, step attenuator, sampler",
                          {"Power pad, 40 dB", "Cable, 2 m", "Step attenuator", "Sampler"}, 1.07),
      demo::add_hookup_of(*shack, bench, "Dummy load with tap, sampler",
                          {"Dummy load, 53 dB tap", "Cable, 0.5 m", "Sampler"}, 1.2),
      demo::add_hookup_of(*shack, bench, "20 dB pad straight to the sampler",
                          {"Pad, 20 dB", "Sampler"}, 1.07)};
  step(kBenchShare);
  const Id reedling_test = add_reedling(*shack, hookups);
  step(kReedlingShare);
  add_others(*shack, hookups, reedling_test);
  step(kOthersShare);
  const auto recordings = folder / "recordings to try";
  std::filesystem::create_directories(recordings);
  demo::write_files_to_try(recordings);
  write_wav(demo::record_step({"30 W", 30.0, {-29.0, -30.5, -38.0, -50.0}}, {}, 77),
            (recordings / "Reedling 30 W, new bias.wav").string());
  step(1.0);
}

}  // namespace heron
