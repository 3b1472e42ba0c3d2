// Tables of text as people and instruments write them.
#include "core/csv_table.h"

#include <QtTest>
#include <random>

#include "core/error.h"
#include "core/quantity/typed_number.h"
#include "tests/test_program.h"

using namespace heron;

namespace csv_table_test {

class CsvTableTest : public QObject {
  Q_OBJECT
 private slots:
  void separators_quotes_and_line_ends_are_found_out() {
    for (const char* text :
         {"a,b\n1,2\n3,4\n", "a;b\n1;2\n3;4\n", "a\tb\n1\t2\n3\t4", "a,b\r\n1,2\r\n3,4\r\n",
          "\xEF\xBB\xBF"
          "a,b\r1,2\r3,4\r",
          "a, b\n\n 1 , 2 \n\n3,4\n   \n", "\"a\",\"b\"\n\"1\",\"2\"\n3,4\n"}) {
      const CsvTable t = parse_csv(text, "t.csv");
      QCOMPARE(t.heads, (std::vector<std::string>{"a", "b"}));
      QCOMPARE(t.rows.size(), 2U);
      QCOMPARE(t.rows[0].cells, (std::vector<std::string>{"1", "2"}));
      QCOMPARE(t.rows[1].cells, (std::vector<std::string>{"3", "4"}));
    }
  }

  void a_separator_inside_quotes_is_text() {
    const CsvTable t = parse_csv("name,level\n\"30 W, new bias\",-30\n", "t.csv");
    QCOMPARE(t.rows[0].cells[0], std::string("30 W, new bias"));
    QCOMPARE(t.rows[0].cells.size(), 2U);
  }

  void conditions_stand_in_comments() {
    const CsvTable t =
        parse_csv("# RBW: 10 Hz\n! supply = 13.8 V\n# only words\nf,l\n1,2\n", "t.csv");
    QCOMPARE(t.conditions.at("rbw"), std::string("10 Hz"));
    QCOMPARE(t.conditions.at("supply"), std::string("13.8 V"));
    QCOMPARE(t.conditions.size(), 2U);
    QCOMPARE(t.rows[0].line, std::size_t{5});  // lines are those of the file
  }

  void heads_are_optional_and_found_by_name() {
    const CsvTable with = parse_csv("Setting;POUT_W\nfull;30\n", "t.csv");
    QCOMPARE(*with.column("pout_w"), std::size_t{1});
    QVERIFY(!with.column("capture"));
    QCOMPARE(CsvTable::cell(with.rows[0], with.column("setting")), std::string("full"));
    QVERIFY(CsvTable::cell(with.rows[0], with.column("capture")).empty());
    const CsvTable bare = parse_csv("1,2\n3,4\n", "t.csv");
    QVERIFY(bare.heads.empty());
    QCOMPARE(bare.rows.size(), 2U);
    const CsvTable shorter = parse_csv("a,b,c\n1\n", "t.csv");
    QVERIFY(CsvTable::cell(shorter.rows[0], shorter.column("c")).empty());
  }

  void what_is_no_table_is_named() {
    for (const std::string& text : {std::string(), std::string("# only a comment\n"),
                                    std::string("a,b\n"), std::string("a\0b,c\n1,2\n", 10)}) {
      try {
        parse_csv(text, "in.csv");
        QFAIL("accepted");
      } catch (const InputError& error) {
        QCOMPARE(error.subject, std::string("in.csv"));
        QVERIFY(!error.advice.empty());
      }
    }
  }

  /// Whatever numbers are written in whatever style, they come back.
  void numbers_survive_every_style() {
    std::mt19937 random(2);
    std::uniform_real_distribution<double> value(-1e6, 1e6);
    const char separators[] = {',', ';', '\t'};
    for (int i = 0; i < 300; ++i) {
      const char separator = separators[i % 3];
      const bool comma = separator != ',' && i % 2 == 0;
      const bool quoted = i % 5 == 0;
      std::vector<double> written;
      std::string text = "x";
      text += separator;
      text += "y";
      for (int k = 0; k < 6; ++k) {
        written.push_back(value(random));
        std::string cell = QString::number(written.back(), 'f', 6).toStdString();
        if (comma) std::replace(cell.begin(), cell.end(), '.', ',');
        if (quoted) cell = "\"" + cell + "\"";
        text += k % 2 == 0 ? (i % 2 == 0 ? "\n" : "\r\n") : std::string(1, separator);
        text += cell;
      }
      const CsvTable t = parse_csv(text, "t.csv");
      QCOMPARE(t.rows.size(), 3U);
      for (std::size_t k = 0; k < written.size(); ++k) {
        const auto number = parse_number(t.rows[k / 2].cells[k % 2]);
        QVERIFY2(number.has_value(), text.c_str());
        QVERIFY(std::abs(*number - written[k]) < 1e-5);
      }
    }
  }
};

HERON_TEST(CsvTableTest)

}  // namespace csv_table_test

#include "csv_table_test.moc"
