// Lines of a specification as people type them.
#include "core/method/specification.h"

#include <QtTest>

#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace specification_test {

class SpecificationTest : public QObject {
  Q_OBJECT
 private slots:
  void a_line_is_read_as_it_is_typed() {
    const Limit power = spec_limit("output", "at least 60 W");
    QCOMPARE(power.sense, Sense::at_least);
    QCOMPARE(power.value, 60.0);
    QCOMPARE(power.unit, std::string("W"));
    QCOMPARE(spec_text(power).substr(0, 13), std::string("at least 60 W"));
    QCOMPARE(spec_limit("output", "60").value, 60.0);
    QCOMPARE(spec_limit("output", ">60 W").value, 60.0);
    QVERIFY(std::abs(spec_limit("output", "+50 dBm").value - 100.0) < 1e-9);
    const Limit products = spec_limit("two_tone", "-30 dB re PEP");
    QCOMPARE(products.value, -30.0);
    QVERIFY(spec_text(products).starts_with("at most \u221230 dB"));
    QCOMPARE(spec_limit("two_tone", "at most 30").value, -30.0);  // below, whatever its sign
    QCOMPARE(spec_limit("reference", "\u00b1 0.5 ppm").value, 0.5);
    QCOMPARE(spec_limit("reference", "+-0,5 ppm").sense, Sense::within);
    QVERIFY(std::abs(spec_limit("sensitivity", "0.5 uV").value + 113.01) < 0.02);
    QCOMPARE(spec_limit("phase_noise", "1.0\u00b0").value, 1.0);
    // Judged by a mask on its sheet; the card says one level.
    QCOMPARE(spec_limit("purity", "-43 dBc").value, -43.0);
    QCOMPARE(spec_text(spec_limit("purity", "43")), std::string("at most \u221243 dBc re carrier"));
    for (const auto& [id, typed] : {std::pair{"output", "at most 60 W"},
                                    {"output", "much"},
                                    {"output", ""},
                                    {"two_tone", "at least -30 dB"},
                                    {"loop", "at most 45"},
                                    {"nothing", "1 W"}})
      QVERIFY2(!refusal([&] { spec_limit(id, typed); }).isEmpty(), typed);
  }

  void a_figure_from_elsewhere_keeps_its_convention() {
    const Figure f = spec_figure("two_tone", "-36 dB re one tone", "1 dB");
    QCOMPARE(f.value, -36.0);
    QCOMPARE(f.convention, std::string("re one tone"));
    QCOMPARE(f.expanded(), 1.0);
    QCOMPARE(spec_figure("two_tone", "-36", "").convention, std::string("re PEP"));
    QCOMPARE(spec_figure("output", "25 W", "2").unit, std::string("W"));
    QVERIFY(!refusal([] { spec_figure("output", "25 W", "1 dB"); }).isEmpty());
    QVERIFY(!refusal([] { spec_figure("survey", "-50", ""); }).isEmpty());
  }

  void a_characteristic_is_named_by_its_beginning() {
    QCOMPARE(named_characteristic("Output power")->id, "output");
    QCOMPARE(named_characteristic("sens")->id, "sensitivity");
    QCOMPARE(named_characteristic("two-tone")->id, "two_tone");
    QVERIFY(named_characteristic("f") == nullptr);  // accuracy, response and stability
    QVERIFY(named_characteristic("") == nullptr);
    QVERIFY(named_characteristic("colour") == nullptr);
  }

  /// What is offered can be used as it stands, and belongs to a test of that kind.
  void usual_lines_are_lines() {
    for (const DeviceKind& kind : device_kinds()) {
      QVERIFY(!usual_lines(kind).empty());
      for (const UsualLine& line : usual_lines(kind)) {
        const Limit limit = spec_limit(line.characteristic, std::string(line.limit));
        QVERIFY(limit.span > 0.0 && std::isfinite(limit.value));
        QVERIFY(!line.condition.empty());
        // The round trip through the cell says the same.
        QCOMPARE(spec_limit(line.characteristic, spec_text(limit)).value, limit.value);
      }
    }
  }
};

HERON_TEST(SpecificationTest)

}  // namespace specification_test

#include "specification_test.moc"
