// The whole story of a device: what work changed, what others found, what is older than the work.
#include "store/story.h"

#include <QtTest>

#include "core/method/specification.h"
#include "tests/store/made_shack.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace story_test {

Headline headline(double value, double u, const std::string& at,
                  const std::string& convention = "re PEP") {
  Headline h;
  h.figure.id = "worst_product";
  h.figure.value = value;
  h.figure.unit = "dB";
  h.figure.convention = convention;
  h.figure.contributions = {{"all", u, Scope::independent}};
  h.taken_at = at;
  h.judgement = judge(h.figure, Limit{"club", Sense::at_most, -30.0, "dB", convention, 20.0});
  return h;
}

class StoryTest : public QObject {
  Q_OBJECT
  std::unique_ptr<MadeShack> made_;
  Shack& shack() { return *made_->shack; }

  Id add_figure(const std::string& title, const Headline& h) {
    const Id e = add_evaluation(shack(), device_, title + h.taken_at, h.taken_at);
    Test t;
    t.evaluation_id = e;
    t.characteristic = "two_tone";
    t.title = title;
    t.conditions = "14.2 MHz, 30 W";
    t.limit = Limit{"club", Sense::at_most, -30.0, "dB", h.figure.convention, 20.0};
    const Id id = add_test(shack(), t);
    set_test_headline(shack(), id, h);
    return id;
  }
  Id device_ = 0;

 private slots:
  void init() {
    made_ = std::make_unique<MadeShack>();
    Device d;
    d.name = "Sluice 100";
    d.kind = "Transceiver";
    device_ = heron::add_device(shack(), d);
  }

  void work_tells_what_it_changed() {
    add_figure("Full power", headline(-25.0, 0.4, "2026-01-10T10:00:00Z"));
    add_work(shack(), device_, {"Bias set", "180 mA", "320 mA", "R12", "A. Operator"},
             "2026-01-11T10:00:00Z");
    add_figure("Full power", headline(-30.5, 0.3, "2026-01-12T10:00:00Z"));
    // A later figure, and one of another test, say nothing of this work.
    add_figure("Full power", headline(-20.0, 0.3, "2026-02-12T10:00:00Z"));
    add_figure("Half power", headline(-50.0, 0.3, "2026-01-12T11:00:00Z"));
    const auto story = device_story(shack(), device_);
    QCOMPARE(story.size(), 5U);
    for (std::size_t i = 1; i < story.size(); ++i) QVERIFY(story[i - 1].at >= story[i].at);
    const StoryRow& work = story[3];
    QCOMPARE(work.kind, StoryRow::Kind::work);
    QCOMPARE(work.title, std::string("Bias set: 180 mA \u2192 320 mA"));
    QCOMPARE(work.detail, std::string("by A. Operator \u00b7 R12"));
    QVERIFY(work.effect.has_value());
    // 5.5 dB, U = 2 hypot(0.4, 0.3) = 1.0: lower is better.
    QVERIFY2(work.effect->words.starts_with("better by 5.5 \u00b1 1.0 dB"),
             work.effect->words.c_str());
    QVERIFY(work.effect->before_margin && std::abs(*work.effect->before_margin + 5.0) < 1e-9);
    QCOMPARE(work.effect->after->margin, 0.5);
    // What is within its uncertainty is no difference.
    add_work(shack(), device_, {"Cover screwed on"}, "2026-02-13T10:00:00Z");
    add_figure("Full power", headline(-20.5, 0.3, "2026-02-14T10:00:00Z"));
    QCOMPARE(device_story(shack(), device_)[1].effect->words, std::string("no difference, re PEP"));
    // What stands on a rough figure says so.
    Headline rough = headline(-35.5, 0.3, "2026-03-02T10:00:00Z");
    rough.is_provisional = true;
    add_work(shack(), device_, {"Pads cleaned"}, "2026-03-01T10:00:00Z");
    add_figure("Full power", rough);
    QCOMPARE(device_story(shack(), device_)[1].effect->words,
             std::string("better by 15.0 \u00b1 0.8 dB, re PEP, provisional"));
    // Two works between two figures: neither can claim it.
    add_work(shack(), device_, {"Fuse replaced"}, "2026-02-13T11:00:00Z");
    for (const StoryRow& row : device_story(shack(), device_))
      if (row.kind == StoryRow::Kind::work && row.title != work.title &&
          row.title != "Pads cleaned")
        QVERIFY(!row.effect);
  }

  /// Of two tests of a kind the first of the newest plan is what the shack shows; when they were
  /// measured says which came before some work.
  void card_and_shack_take_the_same_figure() {
    const Id old = add_evaluation(shack(), device_, "spring", "2026-01-01T10:00:00Z");
    const Id now = add_evaluation(shack(), device_, "autumn", "2026-02-01T10:00:00Z");
    const auto add = [&](Id evaluation, const char* title, double value, const char* at) {
      Test t;
      t.evaluation_id = evaluation;
      t.characteristic = "two_tone";
      t.title = title;
      t.limit = Limit{"club", Sense::at_most, -30.0, "dB", "re PEP", 20.0};
      const Id id = add_test(shack(), t);
      set_test_headline(shack(), id, headline(value, 0.3, at));
    };
    add(old, "20 m", -28.0, "2026-01-01T11:00:00Z");
    add(now, "20 m", -31.0, "2026-02-01T11:00:00Z");
    add(now, "80 m", -40.0, "2026-02-01T12:00:00Z");  // later, and not the first
    const auto all = known_figures(shack(), device_);
    QCOMPARE(all.size(), 3U);
    QCOMPARE(all[0].headline.figure.value, -31.0);
    QCOMPARE(all[1].title, std::string("80 m"));
    QCOMPARE(known_figures(shack(), device_, old).size(), 1U);
    add_work(shack(), device_, {"Bias set"}, "2026-01-15T10:00:00Z");
    for (const StoryRow& row : device_story(shack(), device_))
      if (row.kind == StoryRow::Kind::work)
        QVERIFY2(row.effect && row.effect->words.starts_with("better by 3.0"),
                 row.effect ? row.effect->words.c_str() : "none");
    // Without a limit nothing is better: only how it went is said.
    for (const Evaluation& e : evaluations(shack(), device_))
      for (const Test& t : tests(shack(), e.id)) set_test_limit(shack(), t.id, std::nullopt);
    for (const StoryRow& row : device_story(shack(), device_))
      if (row.kind == StoryRow::Kind::work)
        QVERIFY2(row.effect->words.starts_with("\u22123.0"), row.effect->words.c_str());
  }

  void a_figure_from_elsewhere_stands_beside_the_own_one() {
    OutsideFigure f;
    f.device_id = device_;
    f.characteristic = "two_tone";
    f.figure = spec_figure("two_tone", "-30 dB re one tone", "1 dB");
    f.conditions = "7 MHz, 25 W";
    f.source = "club test";
    f.at = "2026-01-01T12:00:00Z";
    const Id id = add_outside_figure(shack(), f);
    auto story = device_story(shack(), device_);
    QCOMPARE(story.size(), 1U);
    QCOMPARE(story[0].detail, std::string("7 MHz, 25 W"));  // nothing to stand beside
    add_figure("Full power", headline(-30.5, 0.3, "2026-01-12T10:00:00Z"));
    story = device_story(shack(), device_);
    // Conditions first; -30 dB re one tone is -36.0 re PEP, and own is 5.5 dB worse.
    QVERIFY2(story[1].detail.starts_with("There 7 MHz, 25 W, here 14.2 MHz, 30 W. Own"),
             story[1].detail.c_str());
    QVERIFY(story[1].detail.find("theirs \u221236.0 re PEP: worse by 5.5") != std::string::npos);
    set_outside_figure_removed(shack(), id, true);
    QCOMPARE(device_story(shack(), device_).size(), 1U);
    set_outside_figure_removed(shack(), id, false);
    QCOMPARE(outside_figures(shack(), device_).at(0).figure.expanded(), 1.0);
  }

  void what_is_older_than_the_work_is_told() {
    SpecLine line{"two_tone", {"club", Sense::at_most, -30.0, "dB", "re PEP", 20.0}, "30 W"};
    set_specification(shack(), device_, {line});
    QCOMPARE(device(shack(), device_).specification.at(0).condition, std::string("30 W"));
    add_figure("Full power", headline(-31.0, 0.3, "2026-01-10T10:00:00Z"));
    QVERIFY(device_remarks(shack(), device(shack(), device_)).empty());
    add_work(shack(), device_, {"Bias set"}, "2026-01-11T10:00:00Z");
    const auto remarks = device_remarks(shack(), device(shack(), device_));
    QCOMPARE(remarks.size(), 1U);
    QCOMPARE(remarks[0].text, std::string("Two-tone was measured before \u201cBias set\u201d."));
    // The card is edited: open tests are told, signed ones stay as they are.
    Test t;
    t.characteristic = "two_tone";
    t.limit = line.limit;
    QVERIFY(!limit_edited_remark(device(shack(), device_), t));
    line.limit.value = -36.0;
    set_specification(shack(), device_, {line});
    QVERIFY(limit_edited_remark(device(shack(), device_), t)->text.find("\u221236") !=
            std::string::npos);
    t.signed_at = "2026-01-12T10:00:00Z";
    QVERIFY(!limit_edited_remark(device(shack(), device_), t));
    t.signed_at.clear();
    t.limit->name = "own limit";  // somebody chose another one on purpose
    QVERIFY(!limit_edited_remark(device(shack(), device_), t));
  }

  void what_a_device_is_comes_back() {
    Device d = device(shack(), device_);
    d.facts = {"1.8 to 30 MHz", {"CW", "SSB"}, "13.8 V", "5 W", 37.0, true};
    set_device(shack(), device_, d);
    const std::string photo("\xff\xd8\0\x01 picture", 12);
    set_device_photo(shack(), device_, photo);
    set_device_retired(shack(), device_, "2026-03-01T00:00:00Z");
    made_->reopen();
    const Device now = device(shack(), device_);
    QVERIFY(now.facts == d.facts);
    QCOMPARE(device_photo(shack(), device_), photo);
    QCOMPARE(now.retired_at, std::string("2026-03-01T00:00:00Z"));
    set_device_retired(shack(), device_, "");
    set_device_photo(shack(), device_, "");
    QVERIFY(device(shack(), device_).retired_at.empty() && device_photo(shack(), device_).empty());
    // A damaged record costs only itself.
    shack().write([&](SQLite::Database& db) {
      db.exec("UPDATE device SET facts_json = '[7' WHERE id = " + std::to_string(device_));
    });
    QVERIFY(device(shack(), device_).damage.find("what it is") != std::string::npos);
    QCOMPARE(device(shack(), device_).name, std::string("Sluice 100"));
  }
};

HERON_TEST(StoryTest)

}  // namespace story_test

#include "story_test.moc"
