#include "demo/demo_amplifier.h"

#include <cmath>
#include <fmt/format.h>

#include "core/method/method.h"
#include "core/quantity/levels.h"
#include "demo/typed_step.h"
#include "store/evaluation.h"
#include "store/loaded.h"

namespace heron::demo {
namespace {

using nlohmann::json;

// One amplifier: small-signal gain, how it saturates, and what it draws.
constexpr double kGainDb = 14.40;
constexpr double kCornerDbm = 33.4;
constexpr double kSharpness = 3.0;
constexpr double kIdleA = 0.50;
constexpr double kSlopeA = 0.534;  // per square root of W

double output_dbm(double drive_dbm) {
  const double down =
      10.0 / kSharpness *
      std::log10(1.0 + std::pow(10.0, kSharpness * (drive_dbm - kCornerDbm) / 10.0));
  return drive_dbm + kGainDb - down;
}

double amperes(double dbm) {
  return kIdleA + kSlopeA * std::sqrt(to_watt(Dbm{dbm}).value);
}

std::string dbm_text(double dbm) {
  return fmt::format("{:.2f} dBm", dbm);
}

void add_first_power(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("first_power");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "First power";
  t.conditions = "28 V, closed load";
  const Id test = add_test(shack, t);
  const char* said[] = {"150 W load, tightened",
                        "53 dB tap and meter",
                        "28 V, limited to 4.5 A",
                        "3 W, driver set to 0.1 W",
                        "fan runs",
                        "",
                        "cover on"};
  std::size_t i = 0;
  for (const std::string& check : method.plan({}).steps) {
    const bool is_idle = *said[i] == 0;
    type_step(shack, test, method, check, {{is_idle ? "A" : "Seen to", is_idle ? "0.52" : said[i]}},
              at);
    ++i;
  }
  refresh_headline(shack, test);
}

void add_gain(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("gain");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Gain and compression";
  t.conditions = "1296.2 MHz, 28 V, closed load";
  t.limit = Limit{"own wish", Sense::at_least, 47.0, "dBm", "", 20.0};
  t.limit->typed = "+47 dBm";
  t.settings["amplifier"] = {
      {"specified_gain_db", 13.0},    {"rated_input_dbm", to_dbm(Watt{3.0}).value},
      {"rated_input_typed", "3 W"},   {"rated_output_dbm", to_dbm(Watt{60.0}).value},
      {"rated_output_typed", "60 W"}, {"nominal_v", 28.0},
      {"supply_limit_a", 4.5},        {"output_expanded_db", 0.3}};
  const Id test = add_test(shack, t);
  struct Row {
    const char* label;
    const char* in;
    const char* out;
    const char* after;
    const char* volts;
    const char* amperes;
    const char* second;
    const char* third;
  };
  const Row rows[] = {{"0.1 W", "20.00", "34.42", "20.01", "27.8", "1.39", "", ""},
                      {"0.2 W", "23.01", "37.39", "23.01", "27.8", "1.75", "-71.5", ""},
                      {"0.5 W", "26.99", "41.37", "27.00", "27.7", "2.48", "-68.2", "-77"},
                      {"1.0 W", "30.00", "44.28", "30.01", "27.5", "3.26", "-64.9", "-73.8"},
                      {"2.0 W", "33.01", "46.58", "33.04", "27.4", "4.10", "-61.3", "-70.1"},
                      {"2.5 W", "33.98", "47.08", "34.02", "27.4", "4.31", "-59.7", "-68.9"},
                      {"3.0 W", "34.77", "47.32", "34.82", "27.4", "4.42", "-58.6", "-68.0"}};
  type_step(shack, test, method, "no drive", {{"V", "28.0"}, {"A", "0.52"}}, at);
  for (const Row& r : rows)
    type_step(shack, test, method, r.label,
              {{"Frequency", "1296.2 MHz"},
               {"In", std::string(r.in) + " dBm"},
               {"Output", std::string(r.out) + " dBm"},
               {"In after", std::string(r.after) + " dBm"},
               {"V", r.volts},
               {"A", r.amperes},
               {"2nd, dBc", r.second},
               {"3rd, dBc", r.third},
               {"Key-down", "4 s"}},
              at);
  refresh_headline(shack, test);
}

/// Below the band less drive arrives; above it the output network lets less out.
void add_response(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("response");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Frequency response";
  t.conditions = "28 V, into the closed load";
  t.limit = Limit{"maker", Sense::at_least, 13.0, "dB", "", 20.0};
  t.limit->typed = "13 dB";
  t.settings["amplifier"] = {
      {"most_slope_db", 1.5},
      {"bands",
       json::array({{{"name", "All of 23 cm"}, {"from_hz", 1240e6}, {"to_hz", 1300e6}},
                    {{"name", "Television"}, {"from_hz", 1243e6}, {"to_hz", 1260e6}},
                    {{"name", "Satellite"}, {"from_hz", 1260e6}, {"to_hz", 1270e6}},
                    {{"name", "Narrow band"}, {"from_hz", 1296e6}, {"to_hz", 1296.8e6}}})}};
  const Id test = add_test(shack, t);
  for (const double watt : {0.2, 2.0}) {
    const double drive = to_dbm(Watt{watt}).value;
    for (double mhz = 1204.0; mhz <= 1344.0; mhz += 4.0) {
      const double below = std::max(0.0, 1290.0 - mhz) / 50.0;
      const double beyond = std::max(0.0, mhz - 1300.0) / 22.0;
      const double arriving = drive - 1.15 * std::pow(below, 2.0);
      const double out = output_dbm(arriving) - 1.0 * std::pow(beyond, 1.95);
      type_step(shack, test, method, fmt::format("{:g} MHz, {:g} W", mhz, watt),
                {{"Frequency", fmt::format("{:g} MHz", mhz)},
                 {"In", dbm_text(drive + 0.05 * std::sin(mhz / 9.0))},
                 {"Output", dbm_text(out + 0.05 * std::sin(mhz / 9.0))},
                 {"V", "27.5"},
                 {"A", fmt::format("{:.2f}", amperes(output_dbm(arriving)))}},
                at);
    }
  }
  refresh_headline(shack, test);
}

}  // namespace

void add_ruff(Shack& shack, Id evaluation, const std::string& at) {
  add_first_power(shack, evaluation, at);
  add_gain(shack, evaluation, at);
  add_response(shack, evaluation, at);
}

void add_curlew(Shack& shack, Id evaluation, Id hookup, const std::string& at) {
  const Method& method = *find_method("gain");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Gain and compression";
  t.conditions = "14.200 MHz, 48 V, one meter";
  t.limit = Limit{"maker", Sense::at_least, 11.0, "dB", "", 20.0};
  t.limit->typed = "11 dB";
  t.hookup_id = hookup;
  t.settings["amplifier"] = {{"levels_in", "w"},
                             {"rated_input_dbm", to_dbm(Watt{12.0}).value},
                             {"rated_input_typed", "12 W"},
                             {"rated_output_dbm", to_dbm(Watt{120.0}).value},
                             {"rated_output_typed", "120 W"},
                             {"one_meter", true},
                             {"nominal_v", 48.0},
                             {"supply_limit_a", 10.0}};
  const Id test = add_test(shack, t);
  const char* rows[][5] = {{"0.5 W", "0.502 W", "5.01 W", "47.9", "1.36"},
                           {"2 W", "2.01 W", "20.0 W", "47.8", "2.31"},
                           {"4 W", "4.02 W", "39.7 W", "47.7", "3.09"},
                           {"8 W", "8.00 W", "78.2 W", "47.5", "4.17"},
                           {"12 W", "12.0 W", "115 W", "47.4", "4.95"}};
  for (const auto& r : rows)
    type_step(shack, test, method, r[0],
              {{"Frequency", "14.2 MHz"},
               {"In", r[1]},
               {"Output", r[2]},
               {"In after", r[1]},
               {"V", r[3]},
               {"A", r[4]}},
              at);
  refresh_headline(shack, test);
}

}  // namespace heron::demo
