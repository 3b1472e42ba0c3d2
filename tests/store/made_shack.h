#pragma once

#include <QTemporaryDir>
#include <filesystem>
#include <map>
#include <memory>

#include "core/method/two_tone/two_tone.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/signal/generate.h"
#include "core/signal/memory_capture.h"
#include "store/capture_files.h"
#include "store/device.h"
#include "store/evaluation.h"
#include "store/loaded.h"
#include "store/result_record.h"
#include "store/shack.h"
#include "store/step.h"

namespace heron::testing {

/// A short recording of two tones with IM3 near the given level (dBc).
inline CaptureOpener made_two_tones(double im3_dbc, std::uint64_t seed) {
  TwoToneSignal s;
  s.seconds = 2.0;
  s.amplitude = 0.25;
  s.nonlinearity.coefficients = {-std::pow(10.0, im3_dbc / 20.0) / (0.25 * 0.25)};
  s.noise_dbfs = -60.0;
  s.bits = 16;
  s.seed = seed;
  CaptureInfo about;
  about.name = "made.wav";
  about.format = "WAV, 16 bit, I and Q";
  return memory_capture(generate_two_tone(s), s.sample_rate_hz, about);
}
/// The same, made once a program: it takes longer than most tests that ask for it.
inline CaptureOpener two_tones(double im3_dbc = -35.0, std::uint64_t seed = 1) {
  static std::map<std::pair<double, std::uint64_t>, CaptureOpener> made;
  CaptureOpener& open = made[{im3_dbc, seed}];
  if (!open) open = made_two_tones(im3_dbc, seed);
  return open;
}
/// What is found in two_tones() as it is stored, worked out once a program.
inline const nlohmann::json& record_of_two_tones(const std::filesystem::path& stored) {
  static const nlohmann::json record = to_json(analyse_two_tone(capture_opener(stored)));
  return record;
}

inline std::size_t files_in(const std::filesystem::path& folder) {
  return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(folder),
                                                std::filesystem::directory_iterator()));
}

/// A shack with one device, one evaluation, one two-tone test of two steps, the first taken.
struct MadeShack {
  QTemporaryDir folder;
  std::unique_ptr<Shack> shack;
  Id device_id = 0;
  Id evaluation_id = 0;
  Id test_id = 0;
  Id step_id = 0;
  Id capture_id = 0;
  StoredCapture stored;

  std::filesystem::path path() const { return folder.path().toStdString(); }

  MadeShack() {
    shack = Shack::create(path(), "Skerry Point");
    device_id = add_device(
        *shack, {0, "Reedling 30", "HF transceiver", "no. 0412", "", {{"two_tone", limit()}}});
    evaluation_id = add_evaluation(*shack, device_id, "Before Skerry Point");
    Test t;
    t.evaluation_id = evaluation_id;
    t.characteristic = "two_tone";
    t.title = "Two-tone products";
    t.hookup = "40 dB power pad, sampler";
    t.conditions = "14.200 MHz, 13.8 V";
    t.convention = kRePep;
    t.limit = limit();
    test_id = add_test(*shack, t);
    step_id = add_step(*shack, test_id, "30 W");
    add_step(*shack, test_id, "10 W");
    stored = store_capture(shack->captures_folder(), two_tones());
    capture_id = attach_capture(*shack, step_id, stored);
    save_result(*shack, capture_id, "two_tone",
                record_of_two_tones(capture_path(*shack, stored.hash)));
    set_step_output(*shack, step_id, TypedOutput{"30 W", 44.771, 0.1});
    refresh_headline(*shack, test_id);
  }
  static Limit limit() { return {"Marsh club", Sense::at_most, -30.0, "dB", kRePep, 20.0}; }
  void reopen() {
    shack.reset();
    shack = Shack::open(path());
  }
};

}  // namespace heron::testing
