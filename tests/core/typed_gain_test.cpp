#include <QtTest>

#include "core/method/amplifier/amplifier.h"
#include "core/method/method.h"
#include "core/quantity/levels.h"
#include "tests/core/made_chain.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace typed_gain_test {

/// Readings of an amplifier as they are typed: at the device, or behind its hook-up.
class TypedGainTest : public QObject {
  Q_OBJECT

 private slots:
  /// Through the method: typed at the meter, in volts through a probe, and with one meter.
  void typed_readings_are_referred_through_the_hook_up() {
    const Method& m = *find_method("gain");
    Evidence e;
    e.hookup = pad_and_sampler(30.0);
    e.drive = Drive{40.0, false, 14.2e6, std::nullopt};
    const double path = total_gain_db(*e.hookup, 14.2e6);
    e.settings["amplifier"] = {{"read_by", "power_meter"}, {"meter_offset_db", 10.0}};
    const auto step = [&](const char* in, const std::string& out) {
      EvidenceStep s;
      s.label = in;
      const auto field = [&](std::string_view quantity) -> const TypedField& {
        for (const TypedField& f : m.fields)
          if (f.quantity == quantity) return f;
        return m.fields.front();
      };
      s.readings = {read_typed(field("drive"), in), read_typed(field("output"), out)};
      return s;
    };
    e.steps = {step("10 dBm", "+15.0 dBm"), step("20 dBm", "+25.0 dBm")};
    const Result r = m.evaluate(e);
    // 15 dBm is 10 dB more than is there; the hook-up takes its loss.
    QVERIFY(std::abs(r.step_outputs[0]->value - (5.0 - path)) < 1e-9);
    e.settings["amplifier"] = {{"read_by", "rms_volts"}, {"probe", "10"}};
    e.steps = {step("10 dBm", "0.1 V"), step("20 dBm", "0.316 V")};
    const double volts_dbm = to_dbm(Watt{0.01 / 50.0}).value;
    QVERIFY(std::abs(m.evaluate(e).step_outputs[0]->value - (volts_dbm + 20.0 - path)) < 1e-9);
    // Before it is read, what the instrument should show stands with the step.
    e.settings["amplifier"] = {{"read_by", "rms_volts"}, {"specified_gain_db", 10.0 - path}};
    e.steps = {step("10 dBm", "0.1 V"), step("20 dBm", "0.1 V")};
    e.steps[1].readings.pop_back();
    std::string expected;
    for (const StepRemarks& s : m.evaluate(e).step_remarks)
      if (s.step == 1) expected = s.remarks.front().text;
    QVERIFY2(expected.find("expect 7.07 V RMS") != std::string::npos, expected.c_str());
    // The same chain twice: its ± is no longer in the gain.
    e.settings["amplifier"] = {{"read_by", "power_meter"}, {"one_meter", true}};
    e.steps = {step("-10 dBm", "+4.0 dBm"), step("0 dBm", "+14.0 dBm")};
    const Result one = m.evaluate(e);
    QVERIFY(std::abs(one.step_figures.front().figure.value - 14.0) < 1e-9);
    QVERIFY(one.step_figures.front().figure.u() < 0.08);
  }

  /// Nobody knows what is between: nothing is worked out, and the row says why.
  void levels_that_cannot_be_referred_are_left_out() {
    const Method& m = *find_method("gain");
    Evidence e;
    e.settings["amplifier"] = {{"read_by", "power_meter"}};
    const auto field = [&](std::string_view quantity) -> const TypedField& {
      return *std::find_if(m.fields.begin(), m.fields.end(),
                           [&](const TypedField& f) { return f.quantity == quantity; });
    };
    EvidenceStep step;
    step.label = "2 W";
    step.readings = {read_typed(field("drive"), "2 W"), read_typed(field("output"), "+7 dBm")};
    EvidenceStep idle;
    idle.label = "no drive";
    idle.readings = {read_typed(field("supply_current"), "0.5 A")};
    e.steps = {step, idle};
    Result r = m.evaluate(e);
    QVERIFY(r.answers.empty() && !r.step_outputs.front());
    QVERIFY(has_remark(r.remarks, "row"));
    QCOMPARE(r.tables.front().rows.front().cells.back().text, std::string("left out"));
    bool has_idle = false;
    for (const StepFigure& f : r.step_figures)
      has_idle = has_idle || f.figure.label == "Quiescent current";
    QVERIFY(has_idle);
    e.hookup = pad_and_sampler(40.0);
    e.hookup->parts.front().is_gain_known = false;
    QVERIFY(m.evaluate(e).answers.empty());
    e.hookup->parts.front().is_gain_known = true;
    r = m.evaluate(e);
    QVERIFY(!r.answers.empty() && std::abs(r.step_outputs.front()->value - 47.0) < 1e-9);
    e.settings["amplifier"] = {{"read_by", "device"}};
    e.hookup.reset();
    e.steps.front().readings.back() = read_typed(field("output"), "50 W");
    QVERIFY(!m.evaluate(e).answers.empty());
    // No current is no efficiency.
    e.steps.front().readings.push_back(read_typed(field("supply_voltage"), "28 V"));
    e.steps.front().readings.push_back(read_typed(field("supply_current"), "0 A"));
    for (const StepFigure& f : m.evaluate(e).step_figures) QVERIFY(std::isfinite(f.figure.value));
  }

  void bare_numbers_mean_what_is_set() {
    const Method& m = *find_method("gain");
    const TypedField* output = nullptr;
    const TypedField* again = nullptr;
    for (const TypedField& f : m.fields) {
      if (f.quantity == "output") output = &f;
      if (f.quantity == "second_output") again = &f;
    }
    nlohmann::json settings;
    QCOMPARE(with_bare_unit(m, *output, settings, "47.3"), std::string("47.3 dBm"));
    settings["amplifier"]["levels_in"] = "w";
    QCOMPARE(with_bare_unit(m, *output, settings, "53"), std::string("53 W"));
    QCOMPARE(with_bare_unit(m, *output, settings, "53 mW"), std::string("53 mW"));
    settings["amplifier"]["read_by"] = "pp_volts";
    QCOMPARE(with_bare_unit(m, *output, settings, "0.4"), std::string("0.4 Vpp"));
    QVERIFY(m.bare_unit(*again, settings).empty());
    QVERIFY(!refusal([&] { read_typed(*output, "loud"); }).isEmpty());
  }
};

HERON_TEST(TypedGainTest)

}  // namespace typed_gain_test

#include "typed_gain_test.moc"
