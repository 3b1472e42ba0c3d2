#include "demo/demo_device.h"

#include <algorithm>

#include "core/method/specification.h"
#include "core/quantity/levels.h"
#include "store/device.h"
#include "store/outside.h"

namespace heron::demo {
namespace {

struct Card {
  const char* name;
  DeviceFacts facts;
  std::vector<std::pair<std::string, std::string>> conditions;  ///< of lines, by characteristic
};

DeviceFacts driven(DeviceFacts facts, double watts) {
  facts.most_drive_dbm = to_dbm(Watt{watts}).value;
  return facts;
}

std::vector<Card> cards() {
  return {{"Reedling 30",
           {"1.8 to 30 MHz", {"CW", "SSB", "FM", "AM", "data"}, "13.8 V, 8 A", "", {}, false},
           {{"output", "full power, each band"},
            {"two_tone", "30 W"},
            {"purity", "30 W"},
            {"reference", "warm, 20 \u00b0C"},
            {"sensitivity", "SSB 2.4 kHz"}}},
          {"Dunlin 6",
           driven({"50 to 52 MHz", {"CW", "SSB", "FM"}, "13.8 V, 3 A", "0.2 W", {}, false}, 0.2),
           {{"output", "full drive"}, {"two_tone", "10 W"}, {"gain", "full drive"}}},
          {"Curlew 120",
           driven({"1.8 to 30 MHz", {"CW", "SSB", "data"}, "48 V, 6 A", "15 W", {}, false}, 15.0),
           {{"output", "12 W drive"}, {"two_tone", "120 W"}, {"gain", "14 MHz"}}},
          {"Ruff 23",
           driven({"1240 to 1300 MHz", {"CW", "SSB", "FM"}, "28 V, 5 A", "5 W", {}, false}, 5.0),
           {{"two_tone", "50 W"},
            {"gain", "1 dB compression, 28 V"},
            {"response", "1240 to 1300 MHz"}}},
          {"Bittern",
           {"1440 MHz", {}, "12 V, 0.3 A", "", {}, false},
           {{"phase_noise", "at 5760 MHz"}, {"reference", "warm"}}},
          {"Godwit",
           {"0.5 to 30 MHz", {"CW", "SSB", "AM"}, "mains, 60 W", "", {}, true},
           {{"sensitivity", "10 dB (S+N)/N, SSB 2.4 kHz"},
            {"indicator", "S9 point"},
            {"conversion", "antenna to second IF"}}}};
}

Id id_of(const Shack& shack, const std::string& name) {
  for (const Device& d : devices(shack))
    if (d.name == name) return d.id;
  return 0;
}

}  // namespace

void add_device_cards(Shack& shack, const std::function<std::string(double)>& days_ago) {
  for (const Card& card : cards()) {
    const Id id = id_of(shack, card.name);
    if (id == 0) continue;
    Device d = device(shack, id);
    d.facts = card.facts;
    set_device(shack, id, d);
    for (SpecLine& line : d.specification)
      for (const auto& [characteristic, words] : card.conditions)
        if (line.characteristic == characteristic) line.condition = words;
    set_specification(shack, id, d.specification);
  }
  const Id reedling = id_of(shack, "Reedling 30");
  add_work(shack, reedling, {"Driver bias set", "180 mA", "320 mA", "R12", "Both of us"},
           days_ago(90));
  OutsideFigure club;
  club.device_id = reedling;
  club.characteristic = "two_tone";
  club.figure = spec_figure("two_tone", "-30 dB re one tone", "1 dB");
  club.figure.label = "Two-tone products";
  club.conditions = "14 MHz, 30 W";
  club.source = "another owner, same production run";
  club.at = days_ago(200);
  add_outside_figure(shack, club);
  const Id ruff = id_of(shack, "Ruff 23");
  add_work(shack, ruff, {"Fan replaced, heatsink cleaned", "", "", "fan 60 mm, 24 V", "Both of us"},
           days_ago(401));
  const Id godwit = id_of(shack, "Godwit");
  add_work(shack, godwit, {"Audio capacitors replaced", "", "", "C14, C15", "Both of us"},
           days_ago(6));
}

}  // namespace heron::demo
