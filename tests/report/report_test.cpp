#include <QXmlStreamReader>
#include <QtTest>

#include "core/quantity/format.h"
#include "report/csv.h"
#include "report/gather.h"
#include "report/html.h"
#include "report/json.h"
#include "report/spectrum_svg.h"
#include "report/verdict_svg.h"
#include "tests/store/made_shack.h"

using namespace heron;
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
    QVERIFY(html.contains("bias &lt;320&gt; mA &amp; &quot;cold&quot;"));
    QVERIFY(!html.contains("<320>"));
    // Nothing is fetched from elsewhere.
    QVERIFY(!html.contains("src=") && !html.contains("href="));
    const auto t = load_two_tone_test(*made.shack, made.test_id);
    QVERIFY(html.contains(QString::fromStdString(figure_text_of(t))));
  }

  void the_picture_is_well_formed_and_carries_the_flags() {
    MadeShack made;
    const ReportDocument d = gather_report(*made.shack, made.evaluation_id);
    const std::string svg = spectrum_svg(*d.sections[0].picture);
    QXmlStreamReader xml(QByteArray::fromStdString(svg));
    QStringList words;
    while (!xml.atEnd()) {
      if (xml.readNext() == QXmlStreamReader::Characters) words << xml.text().toString();
    }
    QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
    for (const char* w : {"3", "11", "kHz",
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
    QCOMPARE(lines[0].split(',').size(), 11);
    const auto json = report_json(d);
    QCOMPARE(json["figures"].size(), d.figures.size());
    QCOMPARE(json["tool"].get<std::string>(), std::string("even-heron"));
    QCOMPARE(json["verdicts"][0]["verdict"].get<std::string>(), std::string("pass"));
    for (std::size_t i = 0; i < d.figures.size(); ++i) {
      QVERIFY(std::abs(lines[static_cast<qsizetype>(i) + 1].split(',')[3].toDouble() -
                       json["figures"][i]["value"].get<double>()) < 1e-3);
    }
  }

  void a_spreadsheet_is_given_no_formulas() {
    ReportDocument d;
    d.figures.push_back({"=cmd()", "a,\"b\"", {}, "", ""});
    const QString csv = QString::fromStdString(report_csv(d));
    QVERIFY(csv.contains("'=cmd()") && csv.contains("\"a,\"\"b\"\"\""));
  }

 private:
  static std::string figure_text_of(const TwoToneTest& t) {
    return figure_text(product_figure(*t.analyses[0], *t.analyses[0]->worst(), kRePep));
  }
};

QTEST_APPLESS_MAIN(ReportTest)
#include "report_test.moc"
