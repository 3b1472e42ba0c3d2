// What tables, rail and shack say, against what the core computed.
#include <QAbstractItemModelTester>
#include <QtTest>
#include <random>

#include "app/shell/course_rail.h"
#include "app/shell/shack_model.h"
#include "app/table/ladder_model.h"
#include "app/table/product_model.h"
#include "core/method/method_table.h"
#include "core/quantity/format.h"
#include "store/clock.h"
#include "tests/store/made_ladder.h"
#include "tests/store/made_shack.h"

using namespace heron;
using heron::testing::made_analysis;
using heron::testing::made_test;
using heron::testing::MadeShack;

namespace {

const Limit kLimit{"Marsh club", Sense::at_most, -30.0, "dB", kRePep, 20.0};

/// A number out of a cell: true minus, "≤".
double number_in(const QString& cell) {
  QString text = cell;
  text.remove(QString::fromUtf8("≤ ")).replace(QString::fromUtf8("−"), "-");
  return text.section(' ', 0, 0).toDouble();
}

std::string days_before_now(int days) {
  return QDateTime::currentDateTimeUtc().addDays(-days).toString(Qt::ISODate).toStdString();
}

std::vector<double> random_levels(std::mt19937& random) {
  std::uniform_real_distribution<double> level(-95.0, -15.0);
  std::vector<double> levels(10);
  for (double& v : levels) v = level(random);
  return levels;
}

}  // namespace

class ModelsTest : public QObject {
  Q_OBJECT
 private slots:
  /// For any ladder, each cell is the higher side of its order, and the bold one is the worst.
  void ladder_cells_are_the_worse_side_in_both_conventions() {
    std::mt19937 random(5);
    for (int round = 0; round < 40; ++round) {
      const TwoToneAnalysis a = made_analysis(random_levels(random));
      const TwoToneTest t =
          made_test({a, std::nullopt, made_analysis(random_levels(random))}, kLimit);
      for (const char* convention : {kReOneTone, kRePep}) {
        LadderModel model;
        const QAbstractItemModelTester tester(&model);
        model.set_test(t, convention);
        QCOMPARE(model.rowCount(), 3);
        const LadderModel::Row& row = model.row(0);
        const bool pep = QString(convention) == kRePep;
        for (int k = 0; k < LadderModel::kOrders; ++k) {
          const TwoToneProduct* p = a.worse_side(3 + 2 * k);
          const double level = pep ? p->level_db_pep : p->level_dbc;
          QVERIFY(std::abs(number_in(row.im[k]) - level) <= 0.0501);
          QCOMPARE(row.im[k].startsWith(QString::fromUtf8("≤")), p->is_bound);
          QCOMPARE(row.im_side[k], p->side == Side::lower ? 1 : 2);
        }
        const TwoToneProduct* worst = a.worst();
        QVERIFY(std::abs(number_in(row.worst) - (pep ? worst->level_db_pep : worst->level_dbc)) <
                0.51);
        QCOMPARE(row.deciding, worst->order <= 9 ? (worst->order - 3) / 2 : -1);
        QVERIFY(!model.row(1).is_taken);
        QVERIFY(model.row(1).worst.isEmpty());
        QVERIFY(model.index(1, LadderModel::kVerdict).data().toString() == "not measured");
      }
    }
  }

  void the_margin_does_not_depend_on_the_convention() {
    std::mt19937 random(6);
    for (int round = 0; round < 20; ++round) {
      const TwoToneTest t = made_test({made_analysis(random_levels(random))}, kLimit);
      LadderModel one;
      LadderModel pep;
      one.set_test(t, kReOneTone);
      pep.set_test(t, kRePep);
      QVERIFY(std::abs(one.row(0).mark.margin - pep.row(0).mark.margin) < 1e-9);
      QCOMPARE(one.row(0).mark.verdict, pep.row(0).mark.verdict);
    }
  }

  void the_sweet_spot_is_the_highest_output_that_passes() {
    const auto at = [](double dbc) { return made_analysis({dbc, dbc - 1, dbc - 20, dbc - 20}); };
    const TwoToneTest t = made_test({at(-50), at(-40), at(-20)}, kLimit);
    LadderModel model;
    model.set_test(t, kRePep);
    QVERIFY(!model.row(0).is_sweet_spot && model.row(1).is_sweet_spot &&
            !model.row(2).is_sweet_spot);
    QCOMPARE(model.index(2, LadderModel::kVerdict).data().toString(), QString("Fail"));
    QCOMPARE(model.index(1, LadderModel::kOutputPep).data().toString(), QString("20.0"));
  }

  void without_a_limit_nothing_is_judged() {
    LadderModel model;
    model.set_test(made_test({made_analysis({-40, -41})}, std::nullopt), kRePep);
    QVERIFY(!model.row(0).has_limit);
    QVERIFY(!model.row(0).worst.isEmpty());
    for (int c = 0; c < model.columnCount(); ++c)
      QVERIFY(!model.index(0, c).data().toString().contains("Pass"));
  }

  void products_are_listed_by_order_and_side() {
    std::mt19937 random(7);
    const TwoToneAnalysis a = made_analysis(random_levels(random));
    ProductModel model;
    const QAbstractItemModelTester tester(&model);
    model.set_analysis(&a);
    QCOMPARE(model.rowCount(), 10);
    int worst_rows = 0;
    for (int r = 0; r < model.rowCount(); ++r) {
      const TwoToneProduct& p = model.product(r);
      QCOMPARE(model.row_of(p.order, p.side == Side::upper), r);
      QCOMPARE(model.index(r, ProductModel::kName).data().toString(),
               QString::fromStdString(product_name(p)));
      const double one = number_in(model.index(r, ProductModel::kOneTone).data().toString());
      const double pep = number_in(model.index(r, ProductModel::kPep).data().toString());
      QVERIFY(std::abs(one - p.level_dbc) < 0.51 && std::abs(one - pep - 6.02) < 0.12);
      worst_rows += model.is_worst(r) ? 1 : 0;
      if (model.is_worst(r)) QCOMPARE(p.level_dbc, a.worst()->level_dbc);
    }
    QCOMPARE(worst_rows, 1);
    QCOMPARE(model.row_of(13, true), -1);
    model.set_analysis(nullptr);
    QCOMPARE(model.rowCount(), 0);
  }

  void heads_name_their_units() {
    LadderModel ladder;
    ladder.set_test(made_test({made_analysis({-40, -41})}, kLimit), kRePep);
    const auto head = [](const QAbstractItemModel& m, int c) {
      return m.headerData(c, Qt::Horizontal, Qt::DisplayRole).toString();
    };
    QVERIFY(head(ladder, LadderModel::kOutputPep).contains("W"));
    QVERIFY(head(ladder, LadderModel::kWorst).contains("dB"));
    ProductModel products;
    QVERIFY(head(products, ProductModel::kFrequency).contains("Hz"));
    for (const int c : {ProductModel::kOneTone, ProductModel::kPep, ProductModel::kUncertainty,
                        ProductModel::kFloor})
      QVERIFY2(head(products, c).contains("dB"), qPrintable(head(products, c)));
  }

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
};

QTEST_MAIN(ModelsTest)
#include "models_test.moc"
