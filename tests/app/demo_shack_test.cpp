// The demo shack as somebody new sees it: every page of it, nothing cut off, and no figure with
// digits that its ± does not carry.
#include <QProcess>
#include <QRegularExpression>

#include "app/paint/figure_text.h"
#include "app/shell/window_files.h"
#include "app/table/figure_table.h"
#include "core/quantity/format.h"
#include "report/gather.h"
#include "report/json.h"
#include "tests/app/open_window.h"
#include "tests/app/two_tone_session.h"
#include "tests/app/whole_words.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace demo_shack_test {

namespace {

int decimals(const QString& number) {
  const qsizetype point = number.indexOf('.');
  return point < 0 ? 0 : static_cast<int>(number.size() - point - 1);
}

int significant_digits(const QString& number) {
  QString digits = number;
  digits.remove('.');
  while (digits.startsWith('0')) digits.remove(0, 1);
  // "± 300" may stand for two digits: trailing zeros before a point are places, not knowledge.
  if (!number.contains('.'))
    while (digits.endsWith('0')) digits.chop(1);
  return static_cast<int>(digits.size());
}

/// Looks at every "value ± uncertainty" in a text; returns how many there were.
int verify_digits(const QString& text) {
  static const QRegularExpression figure(
      QString::fromUtf8("([\\-\u2212]?[0-9]+(?:\\.[0-9]+)?)\\s*\u00b1\\s*([0-9]+(?:\\.[0-9]+)?)"));
  int count = 0;
  auto found = figure.globalMatch(text);
  while (found.hasNext()) {
    const auto match = found.next();
    ++count;
    if (decimals(match.captured(1)) != decimals(match.captured(2)) ||
        significant_digits(match.captured(2)) > 2)
      QTest::qFail(qPrintable("digits: " + match.captured(0)), __FILE__, __LINE__);
  }
  return count;
}

/// What a cell needs that has its mark before the figure; its ± goes where there is no room.
double judged_width(const ResultModel& results, int row, const QString& text) {
  if (results.table().rows[static_cast<std::size_t>(row)].is_foot)
    return QFontMetricsF(strong_label()).horizontalAdvance(text) + 12.0;
  const QString value = text == "measure next" ? QString("next") : text.section(" \u00b1 ", 0, 0);
  return figure_text_width(value, Type::figure_chosen, Type::body) + 30.0;
}

/// Every cell of a table is as wide as what stands in it.
int verify_cells(const FigureTable& table) {
  int count = 0;
  const auto* results = qobject_cast<const ResultModel*>(table.model());
  for (int column = 0; column < table.model()->columnCount(); ++column) {
    const int wide = table.columnWidth(column);
    if (table.isColumnHidden(column) || wide == 0) continue;
    // Names may be as long as somebody likes and are elided; margins are drawn.
    if (column == 0 || (results != nullptr && column == results->margin_column())) continue;
    // So may words that somebody typed; their tool tip has all of them. An axis is drawn.
    if (results != nullptr && results->kind(column) == CellKind::text) continue;
    if (results != nullptr && results->kind(column) == CellKind::axis) {
      for (int row = 0; row < table.model()->rowCount(); ++row)
        if (table.model()->index(row, column).data(Qt::ToolTipRole).toString().isEmpty())
          QTest::qFail("A cell of an axis says nothing in words", __FILE__, __LINE__);
      continue;
    }
    const bool is_verdict = column + 1 == table.model()->columnCount();
    // The head of a margin line is drawn.
    const QString head = table.model()->headerData(column, Qt::Horizontal).toString();
    if (const double needed = QFontMetricsF(type_font(Type::label)).horizontalAdvance(head) + 8.0;
        needed > wide + 1.0 && !head.startsWith("Margin"))
      QTest::qFail(qPrintable(QString("%1: head \u201c%2\u201d needs %3 of %4 px")
                                  .arg(table.accessibleName(), head)
                                  .arg(needed)
                                  .arg(wide)),
                   __FILE__, __LINE__);
    // Lanes are named in them; all of a part stands in its tool tip.
    if (results != nullptr && results->kind(column) == CellKind::parts) continue;
    for (int row = 0; row < table.model()->rowCount(); ++row) {
      const QString text = table.model()->index(row, column).data().toString();
      if (table.columnSpan(row, column) > 1) continue;  // a sentence, with a tool tip
      const double needed = results != nullptr && results->kind(column) == CellKind::judged
                                ? judged_width(*results, row, text)
                                : figure_text_width(text, Type::figure_chosen, Type::body) +
                                      (is_verdict ? 26.0 : 10.0);
      ++count;
      if (needed > wide + 1.0)
        QTest::qFail(qPrintable(QString("%1, column %2: \u201c%3\u201d needs %4 of %5 px")
                                    .arg(table.accessibleName())
                                    .arg(column)
                                    .arg(text)
                                    .arg(needed)
                                    .arg(wide)),
                     __FILE__, __LINE__);
    }
  }
  return count;
}

}  // namespace

class DemoShackTest : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  std::unique_ptr<MainWindow> window_;

 private slots:
  void initTestCase() {
    QVERIFY(prepare_window_tests("even-heron-demo"));
    QSettings().clear();
    // A demo that was just made is taken as it is, so that it is not made again under sanitizers.
    QString folder = qEnvironmentVariable("HERON_DEMO_SHACK");
    if (folder.isEmpty()) {
      QProcess make;
      make.start(HERON_MAKE_DEMO, {folder_.path()});
      QVERIFY(make.waitForFinished(200000));
      QCOMPARE(make.exitCode(), 0);
      folder = folder_.path();
    }
    window_ = std::make_unique<MainWindow>();
    QVERIFY(window_->open_shack(folder));
    window_->show();
  }
  void cleanupTestCase() { window_.reset(); }

  void every_sheet_is_whole_and_rounded_to_its_uncertainty_data() { add_widths_and_themes(); }
  void every_sheet_is_whole_and_rounded_to_its_uncertainty() {
    QFETCH(int, width);
    QFETCH(bool, dark);
    window_->set_dark(dark);
    window_->resize(width, 800);
    int figures = 0;
    int cells = 0;
    int sheets = 0;
    const Shack& shack = window_->session().shack();
    for (const Device& d : devices(shack)) {
      for (const Evaluation& e : evaluations(shack, d.id)) {
        for (const Test& t : tests(shack, e.id)) {
          window_->show_evaluation(e.id, t.id);
          QCoreApplication::processEvents();
          ++sheets;
          verify_whole_words(*window_, 10);
          for (const QLabel* label : window_->findChildren<QLabel*>())
            if (label->isVisible()) figures += verify_digits(label->text());
          for (const FigureTable* table : window_->findChildren<FigureTable*>()) {
            if (!table->isVisible()) continue;
            figures += verify_digits(table->as_text(false));
            cells += verify_cells(*table);
          }
          if (QTest::currentTestFailed())
            QFAIL(qPrintable(QString::fromStdString(d.name + ", " + t.title)));
        }
      }
    }
    QVERIFY(sheets >= 5 && cells > 60 && figures > 10);
  }

  void every_report_is_rounded_to_its_uncertainty() {
    window_->resize(1280, 800);
    int figures = 0;
    const Shack& shack = window_->session().shack();
    for (const Device& d : devices(shack)) {
      for (const Evaluation& e : evaluations(shack, d.id)) {
        window_->show_evaluation(e.id);
        const QString path = folder_.filePath("report.html");
        QVERIFY(heron::testing::exported(*window_, path));
        QFile file(path);
        QVERIFY(file.open(QIODevice::ReadOnly));
        QString text = QString::fromUtf8(file.readAll());
        text.replace(QRegularExpression("<[^>]*>"), "|");
        text.replace("&nbsp;", " ");
        figures += verify_digits(text);
      }
    }
    QVERIFY2(figures > 40, qPrintable(QString::number(figures)));
  }

  /// One result, told three times.
  void screen_report_and_command_line_say_the_same() {
    window_->resize(1280, 800);
    const Shack& shack = window_->session().shack();
    int remarks = 0;
    int sentences = 0;
    int proposals = 0;
    for (const Device& d : devices(shack)) {
      for (const Evaluation& e : evaluations(shack, d.id)) {
        const ReportDocument report = gather_report(shack, e.id);
        const nlohmann::json printed = report_json(report);
        const auto all = tests(shack, e.id);
        QCOMPARE(report.sections.size(), all.size());
        for (std::size_t i = 0; i < all.size(); ++i) {
          window_->show_evaluation(e.id, all[i].id);
          QCoreApplication::processEvents();
          const ReportSection& section = report.sections[i];
          const nlohmann::json& line = printed.at("tests").at(i);
          QCOMPARE(line.at("remarks").size(), section.remarks.size());
          for (std::size_t k = 0; k < section.remarks.size(); ++k)
            QCOMPARE(line.at("remarks")[k].at("text").get<std::string>(), section.remarks[k].text);
          QCOMPARE(line.at("sentence").get<std::string>(), section.judgement_sentence);
          const GeneralTest* general = window_->session().general();
          if (general == nullptr) continue;
          MethodSheet* sheet = window_->sheet();
          const QString screen = sheet->remarks()->text();
          QString cards = sheet->proposals()->accessibleName();
          // Cards of another view stand there.
          for (std::size_t v = 1; v < general->result.views.size(); ++v) {
            sheet->show_view(static_cast<int>(v));
            cards += sheet->proposals()->accessibleName();
          }
          sheet->show_view(0);
          for (const Remark& r : section.remarks) {
            const QString text = QString::fromStdString(r.text);
            const bool is_card = r.code == "proposal";
            proposals += is_card ? 1 : 0;
            const QString place = is_card ? cards : screen;
            QVERIFY2(place.contains(text), qPrintable(text + " is not in " + place));
            ++remarks;
          }
          if (general->result.answers.empty()) continue;
          QCOMPARE(sheet->verdict()->content().sentence,
                   QString::fromStdString(section.judgement_sentence));
          QCOMPARE(
              general->result.remarks_at(general->headline_item(), general->result.first_view())
                      .size() +
                  general->result.cards.size(),
              section.remarks.size());
          ++sentences;
        }
      }
    }
    QVERIFY2(remarks > 20 && sentences >= 4 && proposals >= 1,
             qPrintable(QString("%1 %2 %3").arg(remarks).arg(sentences).arg(proposals)));
  }

  /// A table given to a spreadsheet: plain numbers, one width of row, no formulas.
  void every_exported_table_is_plain() {
    const Shack& shack = window_->session().shack();
    for (const Device& d : devices(shack)) {
      for (const Evaluation& e : evaluations(shack, d.id)) {
        window_->show_evaluation(e.id);
        const QString path = folder_.filePath("table.csv");
        QVERIFY(heron::testing::exported(*window_, path));
        QFile file(path);
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QString text = QString::fromUtf8(file.readAll());
        QVERIFY(text.contains(QString::fromStdString(d.name)));
        static const QRegularExpression numeric(QString::fromUtf8("(?:^|,)\u2212[0-9]"),
                                                QRegularExpression::MultilineOption);
        QVERIFY2(!numeric.match(text).hasMatch(), qPrintable(numeric.match(text).captured(0)));
        static const QRegularExpression formula("(?:^|,)\"?[=+@]",
                                                QRegularExpression::MultilineOption);
        QVERIFY(!formula.match(text).hasMatch());
      }
    }
  }
};

HERON_WINDOW_TEST(DemoShackTest)

}  // namespace demo_shack_test

#include "demo_shack_test.moc"
