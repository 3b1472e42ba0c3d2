// What tables, rail and shack say, against what the core computed.
#include <QAbstractItemModelTester>
#include <QtTest>

#include "app/paint/age_text.h"
#include "app/shell/course_rail.h"
#include "app/shell/shack_model.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "store/clock.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;

namespace models_test {

using heron::testing::MadeShack;

namespace {

/// A number out of a cell: true minus, "≤".
double number_in(const QString& cell) {
  QString text = cell;
  text.remove(QString::fromUtf8("≤ ")).replace(QString::fromUtf8("−"), "-");
  return text.section(' ', 0, 0).toDouble();
}

std::string days_before_now(int days) {
  return QDateTime::currentDateTimeUtc().addDays(-days).toString(Qt::ISODate).toStdString();
}

}  // namespace

class ModelsTest : public QObject {
  Q_OBJECT
 private slots:
  void the_rail_groups_tests_by_hookup() {
    std::vector<Test> course(4);
    for (std::size_t i = 0; i < course.size(); ++i) {
      course[i].id = static_cast<Id>(i) + 10;
      course[i].title = "Test " + std::to_string(i + 1);
      course[i].hookup = i == 2 ? "probe, counter" : "40 dB pad, sampler";
      course[i].characteristic = "two_tone";
    }
    CourseModel model;
    const QAbstractItemModelTester tester(&model);
    model.set_course(course);
    int heads = 0;
    std::vector<int> numbers;
    for (int r = 0; r < model.rowCount(); ++r) {
      const CourseModel::Row& row = model.row(r);
      const bool selectable = model.flags(model.index(r)).testFlag(Qt::ItemIsSelectable);
      QCOMPARE(selectable, !row.is_head);
      if (row.is_head) {
        ++heads;
        continue;
      }
      numbers.push_back(row.number);
      QCOMPARE(model.row_of(row.test.id), r);
      const QString spoken = model.index(r).data(Qt::AccessibleTextRole).toString();
      QVERIFY2(spoken.contains(QString::fromStdString(row.test.title)), qPrintable(spoken));
    }
    QVERIFY(heads >= 2);
    std::sort(numbers.begin(), numbers.end());
    QVERIFY(numbers == (std::vector<int>{1, 2, 3, 4}));
    QCOMPARE(model.row_of(999), -1);
    // What is worked out from others stands on no hook-up, and takes no letter.
    course[1].characteristic = "reciprocal";
    model.set_course(course);
    QStringList names;
    for (int r = 0; r < model.rowCount(); ++r) {
      if (!model.row(r).is_head) continue;
      names << model.row(r).head;
      QCOMPARE(model.row(r).first_test == 0, model.row(r).head == "Calculated");
    }
    QCOMPARE(names, (QStringList{"Hook-up A", "Calculated", "Hook-up B"}));
    model.set_course({});
    QCOMPARE(model.rowCount(), 0);
  }

  void ages_are_said_in_the_largest_fitting_unit_data() {
    QTest::addColumn<int>("days");
    QTest::addColumn<QString>("words");
    QTest::newRow("now") << 0 << "today";
    QTest::newRow("days") << 3 << "3 d";
    QTest::newRow("weeks") << 43 << "6 wk";
    QTest::newRow("months") << 400 << "13 mo";
  }
  void ages_are_said_in_the_largest_fitting_unit() {
    QFETCH(int, days);
    QFETCH(QString, words);
    QCOMPARE(age_text(days_before_now(days)), words);
    QCOMPARE(is_out_of_date(days_before_now(days)), days > 366);
  }

  void an_old_figure_is_out_of_date_whatever_it_was() {
    for (const Verdict v : {Verdict::pass, Verdict::fail, Verdict::too_close}) {
      Headline h;
      h.judgement.verdict = v;
      h.taken_at = days_before_now(10);
      QCOMPARE(shown_verdict(h, true), v);
      h.taken_at = days_before_now(500);
      QCOMPARE(shown_verdict(h, true), Verdict::stale);
    }
    QCOMPARE(shown_verdict(std::nullopt, true), Verdict::not_taken);
  }

  void the_shack_filters_what_is_due_and_what_fails() {
    MadeShack made;
    // A second device that fails, and a third measured long ago.
    const auto add = [&](const std::string& name, double im3_dbc, int days) {
      const Id d = add_device(*made.shack,
                              {0, name, "amplifier", "", "", {{"two_tone", MadeShack::limit()}}});
      const Id e = add_evaluation(*made.shack, d, "job");
      Test t;
      t.evaluation_id = e;
      t.characteristic = "two_tone";
      t.title = "Two-tone";
      t.convention = kRePep;
      t.limit = MadeShack::limit();
      const Id test = add_test(*made.shack, t);
      const Id step = add_step(*made.shack, test, "full");
      const StoredCapture stored =
          store_capture(made.shack->captures_folder(),
                        heron::testing::two_tones(im3_dbc, static_cast<std::uint64_t>(days) + 2));
      const Id capture = attach_capture(*made.shack, step, stored, {days_before_now(days)});
      save_result(
          *made.shack, capture, "two_tone",
          to_json(analyse_two_tone(capture_opener(capture_path(*made.shack, stored.hash)))));
      refresh_headline(*made.shack, test);
    };
    add("Curlew", -15.0, 1);
    add("Ruff", -40.0, 500);
    ShackModel model;
    const QAbstractItemModelTester tester(&model);
    model.load(*made.shack, ShackModel::Filter::all);
    QCOMPARE(model.rowCount(), 3);
    QCOMPARE(model.failing_count(), 1);
    QCOMPARE(model.due_count(), 1);
    int two_tone_column = 0;
    for (int c = 1; c + 1 < model.columnCount(); ++c) {
      if (model.characteristic(c).id == "two_tone") two_tone_column = c;
    }
    QVERIFY(two_tone_column > 0);
    for (int r = 0; r < 3; ++r) {
      const ShackCell& cell = model.row(r).cells[static_cast<std::size_t>(two_tone_column - 1)];
      const std::string& name = model.row(r).device.name;
      QCOMPARE(cell_verdict(cell), name == "Curlew" ? Verdict::fail
                                   : name == "Ruff" ? Verdict::stale
                                                    : Verdict::pass);
      QVERIFY(std::abs(number_in(cell_figure(*cell.headline)) - cell.headline->figure.value) <
              0.06);
      // The words of the cell carry the verdict, for those who cannot see the shape.
      const QString words = model.index(r, two_tone_column).data().toString();
      QVERIFY2(words.contains(QString::fromStdString(verdict_word(cell_verdict(cell)))),
               qPrintable(words));
    }
    model.load(*made.shack, ShackModel::Filter::failing);
    QCOMPARE(model.rowCount(), 1);
    QCOMPARE(model.row(0).device.name, std::string("Curlew"));
    model.load(*made.shack, ShackModel::Filter::due);
    QCOMPARE(model.rowCount(), 1);
    QCOMPARE(model.row(0).device.name, std::string("Ruff"));
    QCOMPARE(model.all_rows().size(), 3U);
  }

  /// Columns are what somebody asks: a lone receiver is not shown what amplifiers are asked.
  void the_shack_has_columns_for_what_is_asked() {
    QTemporaryDir folder;
    const auto made = Shack::create(folder.filePath("shack").toStdString(), "Skerry Point");
    Shack& shack = *made;
    ShackModel model;
    const auto columns = [&] {
      model.load(shack, ShackModel::Filter::all);
      std::set<std::string_view> all;
      for (int c = 1; c + 1 < model.columnCount(); ++c) all.insert(model.characteristic(c).id);
      return all;
    };
    QVERIFY(columns().contains("gain") && columns().contains("sensitivity"));
    const Id receiver = add_device(shack, {0, "Godwit", "General-coverage receiver", "", "", {}});
    QVERIFY(columns().contains("sensitivity") && !columns().contains("gain"));
    // What its card or a test asks takes the place of what its kind usually is asked.
    set_specification(shack, receiver,
                      {{"indicator", {"handbook", Sense::within, 6.0, "dB", "", 20.0}}});
    QCOMPARE(columns(), std::set<std::string_view>{"indicator"});
    Test t;
    t.evaluation_id = add_evaluation(shack, receiver, "job");
    t.characteristic = "conversion";
    add_test(shack, t);
    QCOMPARE(columns(), (std::set<std::string_view>{"conversion", "indicator"}));
  }
};

HERON_WINDOW_TEST(ModelsTest)

}  // namespace models_test

#include "models_test.moc"
