#include "demo/demo_receiver.h"

#include "core/method/method_table.h"
#include "core/method/receiver/shared_parts.h"
#include "demo/typed_step.h"
#include "store/loaded.h"

namespace heron::demo {

void add_sensitivity(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("sensitivity");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Sensitivity";
  t.conditions = "SSB 2.4 kHz, AGC off, volume not moved";
  t.limit = Limit{"handbook", Sense::at_most, -113.0, "dBm", "PD", 20.0};
  t.settings["sensitivity"] = method.usual_settings();
  t.settings["sensitivity"]["level_in"] = "uv_emf";
  t.settings["sensitivity"]["bandwidth_hz"] = 2400.0;
  const Id test = add_test(shack, t);
  struct Band {
    const char* label;
    const char* level;
    const char* off;
    const char* on;
    const char* half;
  };
  for (const Band& b :
       {Band{"1.85 MHz", "1.0 uV emf", "52.1 50.4 53.0 51.2 52.6 mV", "301 296 299 303 298 mV", ""},
        Band{"3.65 MHz", "1.0 uV emf", "49.3 51.0 50.2 48.8 50.6 mV", "333 329 331 335 327 mV", ""},
        Band{"7.1 MHz", "1.0 uV emf", "50.8 49.6 51.5 50.0 50.9 mV", "367 363 369 365 366 mV", ""},
        Band{"10.12 MHz", "1.0 uV emf", "50.1 51.9 50.7 49.9 51.2 mV", "311 306 309 313 308 mV",
             ""},
        Band{"14.2 MHz", "1.0 uV emf", "49.5 50.9 48.7 50.3 49.9 mV", "387 383 389 385 386 mV",
             "199 196 201 198 197 mV"},
        Band{"21.2 MHz", "1 mV emf", "47.9 48.6 mV", "nothing", ""},
        Band{"24.94 MHz", "1.0 uV emf", "48.2 50.1 46.9 51.3 48.8 mV", "126 129 125 128 127 mV",
             "74.5 77.0 72.9 76.1 75.0 mV"},
        Band{"28.5 MHz", "1.0 uV emf", "49.6 51.1 48.9 50.5 50.4 mV", "171 173 169 172 170 mV",
             ""}})
    type_step(shack, test, method, b.label,
              {{"Level", b.level},
               {"Noise only", b.off},
               {"Tone and noise", b.on},
               {"At half the input", b.half}},
              at);
  refresh_headline(shack, test);
}

void add_survey(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("survey");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "First hearing";
  t.conditions = "As it came, brought up slowly";
  t.settings["survey"] = method.usual_settings();
  t.settings["survey"]["parts"] = to_json(parse_band_parts(
      "14.2 MHz: X5, coil D, switch 2\n21.2 MHz: X6, coil E, switch 3\n24.94 MHz: X7, coil E, "
      "switch 3\n28.5 MHz: X8, coil E, switch 3"));
  const Id test = add_test(shack, t);
  struct Band {
    const char* label;
    const char* dial;
    const char* lowest;
    const char* shows;
    const char* position;
    const char* provisional;
    const char* notes;
  };
  for (const Band& b :
       {Band{"1.85 MHz", "1.8501 MHz", "0.3 uV", "S1", "SSB, wide", "", ""},
        Band{"3.65 MHz", "3.6502 MHz", "0.2 uV", "S2", "SSB, wide", "", ""},
        Band{"7.1 MHz", "7.1003 MHz", "0.2 uV", "S2", "SSB, wide", "",
             "dial slips when turned fast"},
        Band{"14.2 MHz", "14.1999 MHz", "0.2 uV", "S3", "SSB, wide", "", ""},
        Band{"21.2 MHz", "", "nothing at -53 dBm", "S0", "SSB, wide", "",
             "silent, no noise either"},
        Band{"24.94 MHz", "24.9404 MHz", "2 uV", "S0", "SSB, wide", "cold, drifting", ""},
        Band{"28.5 MHz", "28.5006 MHz", "0.8 uV", "S0", "SSB, wide", "", "switch crackles"}})
    type_step(shack, test, method, b.label,
              {{"Dial there", b.dial},
               {"Lowest heard", b.lowest},
               {"Shows", b.shows},
               {"Mode or filter", b.position},
               {"Provisional", b.provisional},
               {"Notes", b.notes}},
              at);
  refresh_headline(shack, test);
}

void add_conversion(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("conversion");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Conversion gain";
  t.conditions = "AGC off, 10:1 probe at the second IF";
  t.limit = Limit{"handbook", Sense::at_least, 34.0, "dB", "", 20.0};
  t.settings["conversion"] = method.usual_settings();
  t.settings["conversion"]["probe"] = 10.0;
  const Id test = add_test(shack, t);
  struct Band {
    const char* label;
    const char* out;
    const char* low_out;
  };
  for (const Band& b : {Band{"7.1 MHz", "-34.0 dBm", ""}, Band{"10.12 MHz", "-38.4 dBm", ""},
                        Band{"14.2 MHz", "-33.7 dBm", "-43.6 dBm"},
                        Band{"24.94 MHz", "-42.1 dBm", ""}, Band{"28.5 MHz", "-36.1 dBm", ""}}) {
    const bool is_repeated = b.low_out[0] != 0;
    type_step(shack, test, method, b.label,
              {{"Input", "1 mV emf"},
               {"At the IF", b.out},
               {"Input, lower", is_repeated ? "-63 dBm" : ""},
               {"IF, lower", b.low_out}},
              at);
  }
  refresh_headline(shack, test);
}

void add_receiver_grid(Shack& shack, Id evaluation) {
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "receiver";
  t.title = "Receiver grid";
  t.conditions = "After the overhaul";
  t.settings["receiver"]["parts"] = to_json(parse_band_parts(
      "1.85 MHz: X1, coil A, switch 1\n3.65 MHz: X2, coil B, switch 1\n7.1 MHz: X3, coil C, "
      "switch 2\n10.12 MHz: X4, coil C, switch 2\n14.2 MHz: X5, coil D, switch 2\n21.2 MHz: X6, "
      "coil E, switch 3\n24.94 MHz: X7, coil E, switch 3\n28.5 MHz: X8, coil E, switch 3"));
  refresh_headline(shack, add_test(shack, t));
}

namespace {

struct ShownLevel {
  const char* label;
  const char* dbm;
};

void add_indicator_test(Shack& shack, Id evaluation, const std::string& at,
                        const std::string& conditions, const Limit& limit,
                        const std::vector<ShownLevel>& levels) {
  const Method& method = *find_method("indicator");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Signal indicator";
  t.conditions = conditions;
  t.limit = limit;
  t.settings["indicator"] = method.usual_settings();
  t.settings["indicator"]["handbook_dbm"] = -79.0;
  const Id test = add_test(shack, t);
  for (const ShownLevel& l : levels)
    type_step(shack, test, method, l.label, {{"Level", l.dbm}}, at);
  refresh_headline(shack, test);
}

}  // namespace

void add_indicator(Shack& shack, Id evaluation, const std::string& at) {
  add_indicator_test(shack, evaluation, at, "SSB, AGC slow, preamplifier off, read rising",
                     {"own wish", Sense::within, 3.0, "dB", "", 10.0},
                     {{"14.2 MHz, S1", "-110.5"},
                      {"14.2 MHz, S3", "-103.8"},
                      {"14.2 MHz, S5", "-96.2"},
                      {"14.2 MHz, S7", "-87.6"},
                      {"14.2 MHz, S9", "-78.4"},
                      {"14.2 MHz, S9+20", "-59.8"},
                      {"14.2 MHz, S9+40", "-38.6"},
                      {"3.65 MHz, S5", "-97.0"},
                      {"3.65 MHz, S9", "-79.4"},
                      {"3.65 MHz, S9+20", "-60.9"},
                      {"28.5 MHz, S5", "-93.1"},
                      {"28.5 MHz, S9", "-75.2"},
                      {"28.5 MHz, S9+20", "-56.4"}});
}

void add_old_indicator(Shack& shack, Id evaluation, const std::string& at) {
  add_indicator_test(shack, evaluation, at, "SSB, AGC fast, needle read rising",
                     {"handbook", Sense::within, 6.0, "dB", "", 20.0},
                     {{"1.85 MHz, S9", "-76.9"},
                      {"3.65 MHz, S9", "-77.8"},
                      {"7.1 MHz, S9", "-78.6"},
                      {"14.2 MHz, S5", "-97.4"},
                      {"14.2 MHz, S7", "-89.1"},
                      {"14.2 MHz, S9", "-78.9"},
                      {"14.2 MHz, S9+20", "-56.2"},
                      {"24.94 MHz, S9", "-70.5"},
                      {"28.5 MHz, S9", "-76.4"}});
}

}  // namespace heron::demo
