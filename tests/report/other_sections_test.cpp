// Purity, noise and bandwidth as sheets of paper.
#include <QtTest>

#include "core/judge/mask_text.h"
#include "core/method/purity/purity_json.h"
#include "core/method/purity/purity_settings.h"
#include "report/csv.h"
#include "report/gather.h"
#include "report/html.h"
#include "report/json.h"
#include "tests/store/made_places.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace other_sections_test {

namespace {

const ReportSection* section_called(const ReportDocument& d, const std::string& title) {
  for (const ReportSection& s : d.sections) {
    if (s.title == title) return &s;
  }
  return nullptr;
}

Id add_purity_with(MadeShack& made, const std::vector<double>& centers) {
  Test t;
  t.evaluation_id = made.evaluation_id;
  t.characteristic = "purity";
  t.title = "Harmonics <and> spurs";
  t.note = "long & thin";
  PurityTestSettings settings;
  settings.carrier_hz = 14.2e6;
  settings.is_same_gain = true;
  settings.mask = parse_mask_text("20 to 60 MHz: -50 dBc", "Marsh <club>");
  t.settings = with_purity_settings(nlohmann::json::object(), settings);
  const Id id = add_test(*made.shack, t);
  for (const double center : centers) {
    const StoredCapture kept =
        store_capture(made.shack->captures_folder(), place_recording(center, invented_lines()));
    PurityReadingSettings how;
    how.carrier_hz = 14.2e6;
    how.center_hz = center;
    const Id attached =
        attach_capture(*made.shack, add_step(*made.shack, id, std::to_string(center)), kept);
    save_result(*made.shack, attached, "purity",
                to_json(read_purity(capture_opener(capture_path(*made.shack, kept.hash)), how)));
  }
  return id;
}

}  // namespace

class OtherSectionsTest : public QObject {
  Q_OBJECT
 private slots:
  void a_purity_test_lists_each_line_with_its_limit() {
    MadeShack made;
    const Id id = add_purity_with(made, {14.23e6, 28.43e6, 42.63e6});
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    const ReportSection* s = section_called(d, "Harmonics <and> spurs");
    QVERIFY(s != nullptr);
    QVERIFY2(s->answer.find("re carrier") != std::string::npos, s->answer.c_str());
    QVERIFY(s->answer_label.find("2nd harmonic") != std::string::npos);
    QCOMPARE(s->judgement.verdict, Verdict::fail);
    QCOMPARE(s->table.rows.size(), load_test(*made.shack, id)->result.items.size());
    for (const auto& row : s->table.rows) QCOMPARE(row.size(), s->table.heads.size());
    QCOMPARE(s->table.verdicts.size(), s->table.rows.size());
    const QString html = QString::fromStdString(report_html(d));
    for (const char* words : {"Marsh &lt;club&gt;", "check the rules of your own licence",
                              "long &amp; thin", "28.400", "low-pass filter"})
      QVERIFY2(html.contains(words), words);
    QVERIFY(!html.contains("<club>"));
    // The plot and the answer stand on paper as they do on the screen.
    QVERIFY(html.contains("Worst line: 2nd harmonic"));
    QVERIFY(html.contains("carrier = 0 dBc"));
    int judged = 0;
    for (const ReportFigure& f : d.figures)
      judged += f.test == s->title && f.verdict == "fail" ? 1 : 0;
    QCOMPARE(judged, 1);
  }

  void what_cannot_be_put_together_says_why() {
    MadeShack made;
    add_purity_with(made, {28.43e6});
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    const ReportSection* s = section_called(d, "Harmonics <and> spurs");
    QCOMPARE(s->answer, std::string("not measured"));
    QVERIFY(std::any_of(s->remarks.begin(), s->remarks.end(),
                        [](const Remark& r) { return r.code == "obstacle"; }));
  }

  void tests_without_evidence_are_said_to_be_not_taken() {
    MadeShack made;
    for (const char* kind : {"purity", "noise", "bandwidth", "drift"}) {
      Test t;
      t.evaluation_id = made.evaluation_id;
      t.characteristic = kind;
      t.title = kind;
      const Id id = add_test(*made.shack, t);
      add_step(*made.shack, id, "10 W");
    }
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    QCOMPARE(d.sections.size(), std::size_t{5});
    for (const char* kind : {"purity", "noise", "bandwidth", "drift"}) {
      const ReportSection* s = section_called(d, kind);
      QVERIFY2(s != nullptr && s->answer == "not measured", kind);
      QVERIFY(!s->question.empty());
      QCOMPARE(s->judgement.verdict, Verdict::not_taken);
    }
    QCOMPARE(section_called(d, "noise")->table.rows[0].back(), std::string("not measured"));
    QVERIFY(!report_html(d).empty());
  }
};

HERON_TEST(OtherSectionsTest)

}  // namespace other_sections_test

#include "other_sections_test.moc"
