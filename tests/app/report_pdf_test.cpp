// The PDF, read back with pdftotext: what is on which page, and that nothing is torn.
#include "app/export/report_pdf.h"

#include <QProcess>
#include <QtTest>

#include "app/export/table_layout.h"
#include "app/theme/dress.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "report/gather.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;

namespace report_pdf_test {

using heron::testing::MadeShack;

namespace {

QStringList pages_of(const QString& pdf) {
  QProcess process;
  process.start("pdftotext", {"-layout", pdf, "-"});
  process.waitForFinished(20000);
  QStringList pages = QString::fromUtf8(process.readAllStandardOutput()).split('\f');
  if (!pages.isEmpty() && pages.last().trimmed().isEmpty()) pages.removeLast();
  return pages;
}

QString plain(const std::string& text) {
  return QString::fromStdString(text);
}

}  // namespace

class ReportPdfTest : public QObject {
  Q_OBJECT
  std::unique_ptr<MadeShack> made_;
  QTemporaryDir folder_;

  QStringList written(const ReportDocument& document) {
    const QString path = folder_.filePath("report.pdf");
    write_report_pdf(document, path);
    return pages_of(path);
  }
  ReportDocument document() const { return gather_report(*made_->shack, made_->evaluation_id); }

 private slots:
  void initTestCase() {
    QVERIFY(dress(*qApp));
    made_ = std::make_unique<MadeShack>();
    set_test_note(*made_->shack, made_->test_id, "bias 320 mA, fan off");
  }

  /// Whatever a table holds, no cell and no head is cut off.
  void every_cell_of_a_table_has_its_room_data() {
    QTest::addColumn<int>("columns");
    QTest::addColumn<int>("length");
    for (const int columns : {2, 6, 8, 10}) {
      for (const int length : {3, 9, 14}) {
        if (columns * length <= 72)
          QTest::newRow(qPrintable(QString("%1 of %2").arg(columns).arg(length)))
              << columns << length;
      }
    }
  }
  void every_cell_of_a_table_has_its_room() {
    QFETCH(int, columns);
    QFETCH(int, length);
    ReportTable table;
    table.words = {1};
    for (int c = 0; c < columns; ++c)
      table.heads.push_back(std::string(static_cast<std::size_t>(length), 'M'));
    for (int r = 0; r < 5; ++r) {
      std::vector<std::string> row;
      for (int c = 0; c < columns; ++c)
        row.push_back(std::string(static_cast<std::size_t>(1 + (length * (r + c)) % length), '8'));
      row[static_cast<std::size_t>(r % columns)] =
          std::string(static_cast<std::size_t>(length), '8');
      table.rows.push_back(row);
      table.verdicts.push_back(Verdict::pass);
    }
    constexpr double kWidth = 487.0;  // A4 without its margins
    const TableLayout layout = lay_out_table(table, kWidth);
    QCOMPARE(layout.edges.size(), static_cast<std::size_t>(columns) + 1);
    QVERIFY(layout.edges.back() <= kWidth + 1e-6);
    for (std::size_t c = 0; c < table.heads.size(); ++c) {
      const double room = layout.box(c, 0.0, 16.0).width();
      QVERIFY(QFontMetricsF(layout.head).horizontalAdvance(plain(table.heads[c])) <= room);
      const double mark = c + 1 == table.heads.size() ? kVerdictMark : 0.0;
      for (const auto& row : table.rows)
        QVERIFY2(QFontMetricsF(layout.font(c)).horizontalAdvance(plain(row[c])) + mark <= room,
                 row[c].c_str());
    }
    QVERIFY(layout.alignment(1) & Qt::AlignLeft);
    QVERIFY(columns < 4 || (layout.alignment(2) & Qt::AlignRight));
  }

  void it_says_all_that_the_document_says() {
    const ReportDocument d = document();
    const QStringList pages = written(d);
    QVERIFY(!pages.isEmpty());
    const QString all = pages.join('\n');
    for (const auto& [name, value] : d.device)
      QVERIFY2(value.empty() || all.contains(plain(value)), value.c_str());
    for (const ReportSection& s : d.sections) {
      for (const std::string& words : {s.title, s.question, s.answer, s.note}) {
        QVERIFY2(all.contains(plain(words)), words.c_str());
      }
      for (const auto& row : s.table.rows) {
        for (const std::string& cell : row) QVERIFY2(all.contains(plain(cell)), cell.c_str());
      }
      for (const Remark& r : s.remarks)
        QVERIFY2(all.contains(plain(r.text).section(' ', 0, 3)), r.text.c_str());
    }
    QVERIFY(all.contains("Not signed off"));
    QVERIFY(all.contains("How to read this"));
    QVERIFY(all.contains("k = 2"));
  }

  void every_page_has_its_number_and_the_devices_name() {
    const QStringList pages = written(document());
    for (qsizetype i = 0; i < pages.size(); ++i) {
      QVERIFY2(pages[i].contains(QString("page %1").arg(i + 1)), qPrintable(pages[i].right(300)));
      QVERIFY(pages[i].contains("Reedling 30"));
    }
  }

  void a_long_table_repeats_its_head_and_tears_no_row() {
    ReportDocument d = document();
    ReportTable& table = d.sections[0].table;
    const std::vector<std::string> model = table.rows.front();
    table.rows.clear();
    table.verdicts.clear();
    for (int i = 0; i < 150; ++i) {
      std::vector<std::string> row = model;
      row[0] = "step " + std::to_string(1000 + i);
      table.rows.push_back(row);
      table.verdicts.push_back(i % 2 == 0 ? Verdict::pass : Verdict::fail);
    }
    const QStringList pages = written(d);
    QVERIFY(pages.size() >= 3);
    int rows = 0;
    for (const QString& page : pages) {
      const qsizetype here = page.count(QRegularExpression("step 1[0-9]{3}\\b"));
      rows += static_cast<int>(here);
      // Every page that carries rows carries the head above them, once.
      if (here > 0) {
        QCOMPARE(page.count("Worst, dB"), 1);
        QVERIFY(page.indexOf("Worst, dB") < page.indexOf(QRegularExpression("step 1[0-9]{3}\\b")));
      }
      // A row is whole: label and verdict stand in one line.
      for (const QString& line : page.split('\n')) {
        if (!line.contains(QRegularExpression("step 1[0-9]{3}\\b"))) continue;
        QVERIFY2(line.contains("Pass") || line.contains("Fail"), qPrintable(line));
      }
    }
    QCOMPARE(rows, 150);
  }

  void a_title_never_stands_alone_at_the_foot_of_a_page() {
    // Sections of every length, so that some title comes near the end of a page.
    for (int filler = 0; filler < 12; ++filler) {
      ReportDocument d = document();
      const ReportSection model = d.sections[0];
      d.sections.clear();
      for (int i = 0; i < 6; ++i) {
        ReportSection s = model;
        s.title = "Section " + std::to_string(i);
        s.plots.clear();
        for (int line = 0; line < filler * (i + 1) % 9; ++line)
          s.conditions.emplace_back("Condition " + std::to_string(line), "as told");
        d.sections.push_back(s);
      }
      for (const QString& page : written(d)) {
        for (int i = 0; i < 6; ++i) {
          const qsizetype at = page.indexOf(QString("Section %1").arg(i));
          if (at >= 0) QVERIFY2(page.indexOf(plain(model.answer), at) >= 0, qPrintable(page));
        }
      }
    }
  }

  void long_words_and_odd_letters_stay_inside_the_page() {
    ReportDocument d = document();
    d.sections[0].note = std::string(40, 'x') + " " + std::string(3000, 'y') +
                         " \xc3\xa9\xe2\x88\x92\xce\xa9 end of note";
    d.sections[0].remarks.assign(60, Remark{"r", Severity::note,
                                            "A remark that is long enough to need a second line "
                                            "on paper, with 12 dB in it, and a tail.",
                                            "Do it"});
    const QStringList pages = written(d);
    QVERIFY(pages.size() >= 2);
    QCOMPARE(pages.join('\n').count("A remark that is long"), 60);
    QVERIFY(pages.join('\n').contains("end of note"));
  }

  void what_cannot_be_written_is_told_and_the_old_file_stays() {
    const QString path = folder_.filePath("kept.pdf");
    write_report_pdf(document(), path);
    const qint64 size = QFileInfo(path).size();
    QVERIFY_EXCEPTION_THROWN(write_report_pdf(document(), "/nowhere/at/all.pdf"), InputError);
    QVERIFY_EXCEPTION_THROWN(write_report_pdf(document(), "/dev/full/x.pdf"), InputError);
    QVERIFY_EXCEPTION_THROWN(write_report_pdf(document(), "/dev/null"), InputError);
    QVERIFY_EXCEPTION_THROWN(write_report_pdf(document(), folder_.path()), InputError);
    QCOMPARE(QFileInfo(path).size(), size);
    QCOMPARE(QDir(folder_.path()).entryList(QDir::Files | QDir::Hidden).filter(".part").size(), 0);
  }

  void an_evaluation_without_tests_is_a_report_too() {
    ReportDocument d = document();
    d.sections.clear();
    d.figures.clear();
    const QStringList pages = written(d);
    QCOMPARE(pages.size(), 1);
    QVERIFY(pages[0].contains("Reedling 30"));
  }
};

HERON_WINDOW_TEST(ReportPdfTest)

}  // namespace report_pdf_test

#include "report_pdf_test.moc"
