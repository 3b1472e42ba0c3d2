#include <QRectF>
#include <QRegularExpression>
#include <QXmlStreamReader>
#include <QtTest>
#include <random>

#include "core/method/provisional.h"
#include "core/quantity/format.h"
#include "report/csv.h"
#include "report/gather.h"
#include "report/html.h"
#include "report/json.h"
#include "report/plot_svg.h"
#include "report/verdict_svg.h"
#include "store/hookup.h"
#include "tests/store/made_shack.h"
#include "tests/store/two_tone_of.h"
#include "tests/test_program.h"

using namespace heron;

namespace report_test {

using heron::testing::MadeShack;

class ReportTest : public QObject {
  Q_OBJECT
 private slots:
  void a_report_says_what_a_club_asks_for() {
    MadeShack made;
    made.shack->set_operator_name("Both of us");
    set_test_note(*made.shack, made.test_id, "bias <320> mA & \"cold\"");
    sign_test(*made.shack, made.test_id, "Both of us", "2026-03-02T19:04:00Z");
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    const QString html = QString::fromStdString(report_html(d));
    for (const char* words :
         {"Reedling 30", "no. 0412", "Skerry Point", "40 dB power pad, sampler",
          "14.200 MHz, 13.8 V", "dB re PEP", "Marsh club", "IM3, dB", "Pass", "k = 2",
          "Signed off by Both of us, 2026-03-02 19:04 UTC", "<svg", "made.wav"}) {
      QVERIFY2(html.contains(words), words);
    }
    QVERIFY(html.contains("For the owner") && html.contains("In short"));
    QVERIFY(html.contains("bias &lt;320&gt; mA &amp; &quot;cold&quot;"));
    QVERIFY(!html.contains("<320>"));
    // Nothing is fetched from elsewhere.
    QVERIFY(!html.contains("src=") && !html.contains("href="));
    const auto t = heron::testing::load_two_tone_test(*made.shack, made.test_id);
    QVERIFY(html.contains(QString::fromStdString(figure_text_of(t))));
  }

  /// What a reader needs to believe a level: through which parts, how well known, who answered.
  void a_report_says_through_which_parts_a_level_came() {
    MadeShack made;
    Part pad;
    pad.name = "Power <pad>";
    pad.kind = "attenuator";
    pad.gain = Gain({{1e6, -40.0}, {30e6, -40.58}}, "pad");
    pad.u_db = 0.06;
    pad.max_input_w = 5.0;
    pad.calibration = {"2025-11-02", 12.0, std::nullopt};
    Part sampler;
    sampler.name = "Sampler";
    sampler.kind = "instrument";
    sampler.full_scale_dbm = 1.0;
    sampler.linearity_u_db = 0.2;
    Chain chain;
    chain.parts = {pad, sampler};
    const Id hookup = add_hookup(*made.shack, "Bench A", chain);
    Drive drive{44.77, true, 15.5e6, 12.0, "30 W pep", {}, {}};
    set_test_hookup_id(*made.shack, made.test_id, hookup);
    set_test_drive(*made.shack, made.test_id, drive);
    const Id version = latest_version(*made.shack, hookup).id;
    set_step_capture_hookup(*made.shack, made.capture_id, version);
    set_step_output(*made.shack, made.step_id, std::nullopt);
    vouch(*made.shack, made.test_id,
          {"Both of us", "for one second", "2026-03-01T10:00:00Z", 44.77, version});
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    const QString html = QString::fromStdString(report_html(d));
    for (const char* words :
         {"Bench A, version 1", "Power &lt;pad&gt;", "\u221240.29 dB \u00b1 ",
          "calibrated 2025-11-02", "30 W pep at 15.5 MHz, key down 12 s",
          "Both of us at 30 W: for one second", "recorder linearity \u00b1 0.40 dB"})
      QVERIFY2(html.contains(words), words);
    QVERIFY(!html.contains("<pad>"));
    // The level is that at the device, in every export.
    const auto t = heron::testing::load_two_tone_test(*made.shack, made.test_id);
    const double dbm = t.outputs[0]->value;
    bool found = false;
    for (const ReportFigure& f : d.figures)
      found = found || (f.figure.id == "output" && std::abs(f.figure.value - dbm) < 1e-9 &&
                        f.figure.u() > 0.05);
    QVERIFY(found);
  }

  void typed_readings_make_a_report_without_a_picture() {
    MadeShack made;
    set_step_capture_removed(*made.shack, made.capture_id, true);
    heron::testing::set_products(
        *made.shack, made.step_id,
        {parse_product("-31.5", 3, kRePep), parse_product("<-60", 5, kRePep)});
    refresh_headline(*made.shack, made.test_id);
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    for (const Plot& plot : d.sections[0].plots) QCOMPARE(plot.view, std::string("Over power"));
    const QString html = QString::fromStdString(report_html(d));
    QVERIFY(html.contains("typed by hand"));
    QVERIFY(html.contains("\u221231.5"));
    QVERIFY(html.contains("reading off the screen"));
    QVERIFY(!report_csv(d).empty());
  }

  void the_picture_is_well_formed_and_carries_the_flags() {
    MadeShack made;
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    const std::string svg = plot_svg(d.sections[0].plots.front());
    QXmlStreamReader xml(QByteArray::fromStdString(svg));
    QStringList words;
    while (!xml.atEnd()) {
      if (xml.readNext() == QXmlStreamReader::Characters) words << xml.text().toString();
    }
    QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
    for (const char* w : {"3", "11", "Frequency, kHz",
                          "Limit \xe2\x88\x92"
                          "30 dB"})
      QVERIFY2(words.contains(QString::fromUtf8(w)), w);
    for (const Verdict v :
         {Verdict::pass, Verdict::too_close, Verdict::fail, Verdict::stale, Verdict::not_taken}) {
      QXmlStreamReader mark(QByteArray::fromStdString(verdict_svg(v, 12)));
      while (!mark.atEnd()) mark.readNext();
      QVERIFY(!mark.hasError());
    }
  }

  void csv_and_json_carry_the_same_figures() {
    MadeShack made;
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    const QStringList lines =
        QString::fromStdString(report_csv(d)).split("\r\n", Qt::SkipEmptyParts);
    QCOMPARE(lines.size() - 1, static_cast<qsizetype>(d.figures.size()));
    QCOMPARE(lines[0].split(',').size(), 22);
    // Made for programs: ASCII minus, and where each figure belongs.
    QVERIFY(!QString::fromStdString(report_csv(d)).contains(QChar(0x2212)));
    QVERIFY(lines[1].contains("Reedling 30"));
    const auto json = report_json(d);
    QCOMPARE(json["figures"].size(), d.figures.size());
    QCOMPARE(json["tool"].get<std::string>(), std::string("even-heron"));
    QCOMPARE(json["verdicts"][0]["verdict"].get<std::string>(), std::string("pass"));
    for (std::size_t i = 0; i < d.figures.size(); ++i) {
      QVERIFY(std::abs(lines[static_cast<qsizetype>(i) + 1].split(',')[3].toDouble() -
                       json["figures"][i]["value"].get<double>()) < 1e-3);
    }
  }

  /// Who has only the file can work a figure out again: settings, hook-up, what was read or
  /// recorded at its step, when, and what its uncertainty is made of.
  void files_name_what_a_figure_is_made_of() {
    MadeShack made;
    set_test_conditions(*made.shack, made.test_id, "14.2 MHz, 13.8 V");
    set_step_output(*made.shack, made.step_id, TypedOutput{"30 W", 44.77, 0.1});
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    const nlohmann::json json = report_json(d);
    const nlohmann::json& evidence = json.at("tests").at(0).at("evidence");
    QCOMPARE(evidence.at("method").get<std::string>(), std::string("two_tone"));
    QVERIFY(evidence.at("settings").is_object());
    const nlohmann::json& step = evidence.at("steps").at(0);
    const std::string hash = step.at("recordings").at(0).at("hash");
    QCOMPARE(hash.size(), 64U);
    QVERIFY(std::any_of(step.at("readings").begin(), step.at("readings").end(),
                        [](const nlohmann::json& r) { return r.at("typed") == "30 W"; }));
    bool has_figure = false;
    for (const nlohmann::json& f : json.at("figures")) {
      if (f.at("step") != step.at("step")) continue;
      has_figure = true;
      QCOMPARE(f.at("recordings").at(0).get<std::string>(), hash);
      // Its parts make its uncertainty.
      double sum = 0.0;
      for (const nlohmann::json& c : f.at("budget")) sum += std::pow(c.at("u").get<double>(), 2);
      if (f.at("u").is_number()) QVERIFY(std::abs(std::sqrt(sum) - f.at("u").get<double>()) < 1e-9);
    }
    QVERIFY(has_figure);
    const auto rows = parsed_csv(report_csv(d));
    const auto at = [&](const char* head) {
      return static_cast<std::size_t>(std::find(rows.at(0).begin(), rows.at(0).end(), head) -
                                      rows.at(0).begin());
    };
    QCOMPARE(rows.at(1).at(at("conditions")), std::string("14.2 MHz, 13.8 V"));
    QVERIFY(rows.at(1).at(at("recordings")).find(hash) != std::string::npos);
    QVERIFY(!rows.at(1).at(at("measured_at")).empty());
    QVERIFY(QString::fromStdString(rows.at(1).at(at("budget")))
                .contains(QRegularExpression("[a-z] [0-9]")));
    QVERIFY(rows.at(1).at(at("made_with")).starts_with("Even Heron "));
    // What is to be measured again says so in each of them.
    QVERIFY(rows.at(1).at(at("provisional")).empty() &&
            json.dump().find("provisional") == std::string::npos);
    set_test_settings(*made.shack, made.test_id, {{kProvisionalSettings, "a borrowed meter"}});
    const ReportDocument rough = gather_report(*made.shack, made.evaluation_id);
    QCOMPARE(parsed_csv(report_csv(rough)).at(1).at(at("provisional")), std::string("yes"));
    const nlohmann::json said = report_json(rough);
    QVERIFY(said.at("figures").at(0).at("provisional").get<bool>());
    QVERIFY(said.at("tests").at(0).at("provisional").get<bool>());
  }

  /// Whatever is typed anywhere, the page stays well-formed and runs nothing.
  void hostile_words_stay_words() {
    MadeShack made;
    const std::string hostile =
        "</td><script>alert('x')</script>&amp;\"]]>--><svg onload=1> \xc3\xa9";
    set_test_note(*made.shack, made.test_id, hostile);
    set_test_hookup(*made.shack, made.test_id, hostile);
    set_test_conditions(*made.shack, made.test_id, hostile);
    set_step_label(*made.shack, made.step_id, hostile);
    sign_test(*made.shack, made.test_id, hostile, "2026-03-02T19:04:00Z");
    Limit limit = MadeShack::limit();
    limit.name = hostile;
    set_test_limit(*made.shack, made.test_id, limit);
    add_journal_entry(*made.shack, made.device_id, hostile);
    refresh_headline(*made.shack, made.test_id);
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    QString html = QString::fromStdString(report_html(d));
    QVERIFY(!html.contains("<script") && !html.contains("onload=1>"));
    QVERIFY(html.count("&lt;script&gt;") >= 6);
    // As XML, apart from what HTML writes otherwise.
    html.remove("<!doctype html>");
    html.replace(QRegularExpression("<meta ([^>]*)>"), "<meta \\1/>");
    QXmlStreamReader xml(html);
    while (!xml.atEnd()) xml.readNext();
    QVERIFY2(!xml.hasError(), qPrintable(QString("%1 at line %2, column %3")
                                             .arg(xml.errorString())
                                             .arg(xml.lineNumber())
                                             .arg(xml.columnNumber())));
    const std::string svg = plot_svg(d.sections[0].plots.front());
    QXmlStreamReader picture(QByteArray::fromStdString(svg));
    while (!picture.atEnd()) picture.readNext();
    QVERIFY(!picture.hasError());
    QVERIFY(nlohmann::json::accept(report_json(d).dump()));
  }

  /// Every text comes back from the CSV as it was, quotes, line ends and all (RFC 4180).
  void csv_fields_come_back_as_they_were() {
    std::mt19937 random(1);
    const std::string alphabet = "ab,\"\r\n;=' \xc3\xa9";
    for (int round = 0; round < 200; ++round) {
      ReportDocument d;
      std::string test = "t";
      std::string step = "s";
      for (unsigned i = 0; i < random() % 12; ++i) test += alphabet[random() % alphabet.size()];
      for (unsigned i = 0; i < random() % 12; ++i) step += alphabet[random() % alphabet.size()];
      d.figures.push_back({test, step, {}, "limit", "pass"});
      const auto rows = parsed_csv(report_csv(d));
      QCOMPARE(rows.size(), 2U);
      QCOMPARE(rows[1].size(), rows[0].size());
      QCOMPARE(rows[1][0], test);
      QCOMPARE(rows[1][1], step);
    }
  }

  void a_spreadsheet_keeps_levels_and_drops_formulas() {
    ReportDocument d;
    d.figures.push_back({"-10 dB", "-1+cmd|' /C calc'!A0", {}, "@x", ""});
    const auto rows = parsed_csv(report_csv(d));
    QCOMPARE(rows[1][0], std::string("-10 dB"));
    QCOMPARE(rows[1][1], std::string("'-1+cmd|' /C calc'!A0"));
    QCOMPARE(rows[1][9], std::string("'@x"));
  }

  /// At any scale of the picture no level lies over a tone's name or another level.
  void labels_of_the_picture_are_apart() {
    std::mt19937 random(4);
    std::uniform_real_distribution<double> level(-75.0, -12.0);
    for (int round = 0; round < 60; ++round) {
      Plot plot;
      plot.x.range = std::pair(-8000.0, 10000.0);
      PlotPanel panel{{"dB", "", false, std::pair(-100.0, 0.0)}, {}};
      PlotLayer tones{PlotLayer::Kind::label, "", 1, true, {{650, -6}, {1850, -6.1}}};
      tones.points[0].word = "650 Hz  \u22126.0";
      tones.points[0].is_left = true;
      tones.points[1].word = "1850 Hz  \u22126.1";
      PlotLayer limit{PlotLayer::Kind::mask, "", 1, true, {{-8000, -30}, {10000, -30}}};
      PlotLayer pennants{PlotLayer::Kind::pennant, "", 1, true, {}};
      for (int k = 0; k < 10; ++k) {
        const int order = 3 + 2 * (k / 2);
        const bool upper = k % 2 == 1;
        PlotPoint p{upper ? 1850.0 + 600 * (order - 1) : 650.0 - 600 * (order - 1), level(random)};
        p.word = std::to_string(order);
        p.is_left = !upper;
        if (k == round % 10) p.verdict = Verdict::fail;
        pennants.points.push_back(p);
      }
      panel.layers = {limit, tones, pennants};
      plot.panels.push_back(panel);
      std::vector<QRectF> boxes;
      QXmlStreamReader xml(QByteArray::fromStdString(plot_svg(plot)));
      while (!xml.atEnd()) {
        if (xml.readNext() != QXmlStreamReader::StartElement || xml.name() != u"rect") continue;
        const auto at = [&](const char* name) {
          return xml.attributes().value(QLatin1String(name)).toDouble();
        };
        if (at("height") == 13) boxes.emplace_back(at("x"), at("y"), at("width"), 13);
      }
      QCOMPARE(boxes.size(), 10U);
      for (std::size_t i = 0; i < boxes.size(); ++i) {
        for (std::size_t j = i + 1; j < boxes.size(); ++j) QVERIFY(!boxes[i].intersects(boxes[j]));
      }
    }
  }

  void a_spreadsheet_is_given_no_formulas() {
    ReportDocument d;
    d.figures.push_back({"=cmd()", "a,\"b\"", {}, "", ""});
    const QString csv = QString::fromStdString(report_csv(d));
    QVERIFY(csv.contains("'=cmd()") && csv.contains("\"a,\"\"b\"\"\""));
  }

 private:
  static std::vector<std::vector<std::string>> parsed_csv(const std::string& text) {
    std::vector<std::vector<std::string>> rows(1);
    std::string field;
    bool quoted = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
      const char c = text[i];
      if (quoted) {
        if (c == '"' && i + 1 < text.size() && text[i + 1] == '"')
          field += text[++i];
        else if (c == '"')
          quoted = false;
        else
          field += c;
      } else if (c == '"') {
        quoted = true;
      } else if (c == ',' || c == '\r') {
        rows.back().push_back(field);
        field.clear();
      } else if (c == '\n') {
        rows.emplace_back();
      } else {
        field += c;
      }
    }
    if (rows.back().empty()) rows.pop_back();
    return rows;
  }
  static std::string figure_text_of(const heron::testing::TwoToneTest& t) {
    return figure_text(product_figure(*t.analyses[0], *t.analyses[0]->worst(), kRePep));
  }
};

HERON_TEST(ReportTest)

}  // namespace report_test

#include "report_test.moc"
