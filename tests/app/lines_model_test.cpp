// Lines of a specification as a grid that is typed and pasted into, with what was measured of them.
#include "app/device/lines_model.h"

#include <QSignalSpy>

#include "app/device/story_model.h"
#include "core/error.h"
#include "core/method/specification.h"
#include "store/clock.h"
#include "tests/app/open_window.h"
#include "tests/test_program.h"

using namespace heron;

namespace lines_model_test {
namespace {

constexpr double kYearS = 366.0 * 86400.0;

KnownFigure known(const char* characteristic, double value, double u, const char* unit,
                  const char* convention, const std::string& at = utc_now()) {
  KnownFigure k;
  k.characteristic = characteristic;
  k.headline.figure.value = value;
  k.headline.figure.unit = unit;
  k.headline.figure.convention = convention;
  k.headline.figure.contributions = {{"all", u, Scope::independent}};
  k.headline.taken_at = at;
  k.headline.judgement.verdict = Verdict::fail;  // by whatever its test was judged
  return k;
}

Device device_with(const std::vector<std::pair<const char*, const char*>>& lines) {
  Device d;
  d.id = 7;
  d.name = "Sluice 100";
  for (const auto& [characteristic, limit] : lines) {
    SpecLine line{characteristic, spec_limit(characteristic, limit), {}};
    line.limit.name = "maker";
    d.specification.push_back(line);
  }
  return d;
}

}  // namespace

class LinesModelTest : public QObject {
  Q_OBJECT
  LinesModel model_;
  std::vector<SpecLine> written_;
  int writes_ = 0;

  void show(const Device& device, const std::vector<KnownFigure>& figures = {},
            const std::vector<KnownFigure>& before = {},
            LinesModel::Rows rows = LinesModel::Rows::all, bool can_edit = true) {
    model_.set_device(device, figures, before, rows, can_edit);
  }
  QString text(int row, int column) const { return model_.index(row, column).data().toString(); }
  bool type(int row, int column, const QString& typed) {
    return model_.setData(model_.index(row, column), typed, Qt::EditRole);
  }

 private slots:
  void initTestCase() {
    connect(&model_, &LinesModel::changed, this,
            [this](const QString&, const std::vector<SpecLine>& lines) {
              written_ = lines;
              ++writes_;
            });
  }
  void init() {
    written_.clear();
    writes_ = 0;
  }

  /// A line is judged by itself, whatever its test was judged by; told otherwise, by the test.
  void a_line_judges_the_last_figure() {
    const Device d = device_with({{"output", "60 W"},
                                  {"two_tone", "-30"},
                                  {"reference", "0.5 ppm"},
                                  {"sensitivity", "-113 dBm"}});
    show(d,
         {known("output", 66.0, 0.5, "W", "PEP"), known("two_tone", -29.8, 0.3, "dB", "re PEP"),
          known("reference", -0.2, 0.05, "ppm", ""), known("output", 20.0, 0.5, "W", "PEP")},
         {known("output", 58.0, 0.5, "W", "PEP")});
    const auto& lines = model_.lines();
    QCOMPARE(lines[0].verdict(), Verdict::pass);
    QVERIFY(lines[0].before.has_value() && *lines[0].before < 0.0);
    QCOMPARE(lines[1].verdict(), Verdict::too_close);
    QCOMPARE(lines[2].verdict(), Verdict::pass);
    QCOMPARE(lines[3].verdict(), Verdict::not_taken);
    QCOMPARE(text(3, LinesModel::kFigure), QString());
    QCOMPARE(text(0, LinesModel::kLimit), QString("at least 60 W"));
    // Another unit cannot be judged by the line: what its test said stands.
    show(d, {known("output", 47.0, 0.1, "dBm", "PEP")});
    QCOMPARE(model_.lines()[0].verdict(), Verdict::fail);
    // A year later it says nothing any more, whatever it was.
    show(d, {known("output", 66.0, 0.5, "W", "PEP", utc_after(utc_now(), -kYearS))});
    QCOMPARE(model_.lines()[0].verdict(), Verdict::stale);
    KnownFigure provisional = known("output", 66.0, 0.5, "W", "PEP");
    provisional.headline.is_provisional = true;
    show(d, {provisional});
    QVERIFY(model_.index(0, LinesModel::kVerdict)
                .data(Qt::AccessibleTextRole)
                .toString()
                .endsWith(", provisional"));
  }

  void rows_can_be_failing_or_due_only() {
    const Device d =
        device_with({{"output", "60 W"}, {"two_tone", "-30"}, {"sensitivity", "-113 dBm"}});
    const std::vector<KnownFigure> figures{known("output", 40.0, 0.5, "W", "PEP"),
                                           known("two_tone", -45.0, 0.3, "dB", "re PEP")};
    show(d, figures, {}, LinesModel::Rows::failing);
    QCOMPARE(model_.filled_rows(), 1);
    QCOMPARE(text(0, 0), QString("Output power"));
    show(d, figures, {}, LinesModel::Rows::due);
    QCOMPARE(model_.filled_rows(), 1);
    QCOMPARE(text(0, 0), QString("Sensitivity"));
    // Typed into a row that is shown alone, it is that line that changes.
    QVERIFY(type(0, LinesModel::kLimit, "-120 dBm"));
    QCOMPARE(written_.size(), 3U);
    QCOMPARE(written_[2].limit.value, -120.0);
    QCOMPARE(written_[2].limit.name, std::string("maker"));
    QCOMPARE(written_[0].limit.value, 60.0);
  }

  /// From a spreadsheet: all of it, or nothing.
  void a_block_is_pasted_whole_or_not_at_all() {
    show(device_with({{"output", "60 W"}}));
    model_.put_block("pasted", 1, 0,
                     {{"Two-tone products", "-30", "30 W", "club"},
                      {"Sensitivity", "0.5 uV", "SSB", "handbook"},
                      {"Frequency accuracy", "+-0,5 ppm"}});
    QCOMPARE(writes_, 1);
    QCOMPARE(written_.size(), 4U);
    QCOMPARE(written_[1].limit.name, std::string("club"));
    QCOMPARE(written_[1].condition, std::string("30 W"));
    QVERIFY(std::abs(written_[2].limit.value + 113.01) < 0.02);
    QCOMPARE(written_[3].limit.name, std::string("own wish"));
    QVERIFY_EXCEPTION_THROWN(
        model_.put_block("pasted", 1, 0, {{"Two-tone products", "-30"}, {"Colour", "red"}}),
        InputError);
    QCOMPARE(writes_, 1);
    // Emptied names take their lines away.
    show(device_with({{"output", "60 W"}, {"two_tone", "-30"}, {"sensitivity", "-113 dBm"}}));
    model_.put_block("emptied", 0, 0, {{""}, {""}});
    QCOMPARE(written_.size(), 1U);
    QCOMPARE(written_[0].characteristic, std::string("sensitivity"));
  }

  /// A named line waits for its limit, says what that looks like, and can be dropped.
  void a_line_waits_for_its_limit() {
    show(device_with({}));
    QSignalSpy begun(&model_, &LinesModel::begun);
    QVERIFY(type(0, 0, "sensi"));
    QCOMPARE(begun.count(), 1);
    QCOMPARE(writes_, 0);
    QCOMPARE(text(0, 0), QString("Sensitivity"));
    QVERIFY(text(0, LinesModel::kLimit).contains("such as"));
    QVERIFY(!(model_.index(0, LinesModel::kSource).flags() & Qt::ItemIsEditable));
    QSignalSpy refused(&model_, &LinesModel::refused);
    QVERIFY(!type(0, LinesModel::kLimit, "soon"));
    QCOMPARE(refused.count(), 1);
    QVERIFY(type(0, 0, ""));
    QCOMPARE(text(0, 0), QString("a new line"));
    QVERIFY(!type(0, 0, "f"));  // three begin so
    QCOMPARE(writes_, 0);
    // What is read-only offers nothing.
    show(device_with({{"output", "60 W"}}), {}, {}, LinesModel::Rows::all, false);
    QCOMPARE(model_.rowCount(), 1);
    QVERIFY(!(model_.index(0, 0).flags() & Qt::ItemIsEditable));
  }

  /// Each row of a story says in words what its marks show.
  void a_story_is_told_in_words() {
    StoryModel story;
    StoryRow work{StoryRow::Kind::work, utc_now(), 3, "Bias set", "by A. Operator", {}, {}};
    work.effect =
        StoryEffect{"Gain 13.9 \u2192 14.4 dB", "better by 0.5 \u00b1 0.1 dB", {}, {}, 20.0};
    story.set_rows(
        {work,
         {StoryRow::Kind::evaluation,
          utc_after(utc_now(), -20.0 * 86400.0),
          4,
          "Spring",
          "3 of 4 measured",
          Verdict::fail,
          {}},
         {StoryRow::Kind::outside, "2026-01-02T12:00:00Z", 5, "Gain 14 dB, club", {}, {}, {}}});
    QCOMPARE(story.index(0, StoryModel::kAge).data().toString(), QString("today"));
    QCOMPARE(story.index(1, StoryModel::kAge).data().toString(), QString("2 wk"));
    QCOMPARE(story.index(2, StoryModel::kAge).data(Qt::ToolTipRole).toString(),
             QString("2026-01-02"));
    QCOMPARE(story.index(0, StoryModel::kWhat).data().toString(),
             QString("Work done: Bias set. by A. Operator"));
    QVERIFY(story.index(0, StoryModel::kEffect).data().toString().contains("better by 0.5"));
    QCOMPARE(story.index(1, StoryModel::kEffect).data().toString(), QString("Fail"));
    QVERIFY(story.index(2, StoryModel::kWhat).data().toString().startsWith("From elsewhere: Gain"));
  }
};

HERON_WINDOW_TEST(LinesModelTest)

}  // namespace lines_model_test

#include "lines_model_test.moc"
