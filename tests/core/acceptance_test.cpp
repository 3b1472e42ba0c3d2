// What misses its limit and is good enough all the same.
#include "core/method/acceptance.h"

#include "core/error.h"
#include "core/judge/owner_page.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;
using namespace heron::testing;

namespace acceptance_test {
namespace {

/// A headline so far outside its limit.
Result missing_by(double db, double u_db = 0.5) {
  Answer a;
  a.figure.id = "im3";
  a.figure.value = -30.0 + db;
  a.figure.unit = "dB";
  a.figure.contributions = {{"all", u_db, Scope::independent}};
  a.limit = Limit{"club", Sense::at_most, -30.0, "dB", "", 20.0};
  a.judgement = judge(a.figure, *a.limit);
  Result r;
  r.answers = {a, a};
  return r;
}

Acceptance at(double margin) {
  return {"M. Tern", "never used at full power", "2026-11-01T10:00:00Z", margin};
}

Verdict verdict_after(const Acceptance& a, Result& r) {
  apply_acceptance(a, r);
  return r.answers.front().judgement->verdict;
}

}  // namespace

class AcceptanceTest : public QObject {
  Q_OBJECT
 private slots:
  /// Wherever the same figure stands it is accepted, and nowhere else: in files, and in the row of
  /// its step.
  void it_is_accepted_wherever_it_stands() {
    Result r = missing_by(3.0);
    Answer& answer = r.answers.front();
    answer.step = 1;
    Figure other = answer.figure;
    other.value -= 0.5;
    r.step_figures = {{"30 W", answer.figure, answer.limit, answer.judgement},
                      {"20 W", other, answer.limit, judge(other, *answer.limit)}};
    ResultTable t;
    t.columns = {{"step", "Step", CellKind::name},
                 {"margin", "Margin", CellKind::margin},
                 {"verdict", "Verdict", CellKind::verdict}};
    for (std::size_t i = 0; i < 2; ++i) {
      const auto judged = i == 1 ? answer.judgement : std::optional(judge(other, *answer.limit));
      t.rows.push_back({i, {{"step"}, {"", judged}, verdict_cell(judged, true, false)}});
    }
    r.tables = {t};
    QCOMPARE(verdict_after(at(-3.0), r), Verdict::accepted);
    QCOMPARE(r.step_figures[0].judgement->verdict, Verdict::accepted);
    QCOMPARE(r.step_figures[1].judgement->verdict, Verdict::fail);
    const auto& rows = r.tables.front().rows;
    QCOMPARE(rows[1].cells[1].judgement->verdict, Verdict::accepted);
    QCOMPARE(rows[1].cells[2].text, verdict_word(Verdict::accepted));
    QCOMPARE(rows[0].cells[2].judgement->verdict, Verdict::fail);
    QCOMPARE(rows[0].cells[2].text, verdict_word(Verdict::fail));
    // What has become worse is accepted nowhere.
    Result worse = missing_by(6.0);
    worse.step_figures = {{"30 W", worse.answers.front().figure, worse.answers.front().limit,
                           worse.answers.front().judgement}};
    QCOMPARE(verdict_after(at(-3.0), worse), Verdict::fail);
    QCOMPARE(worse.step_figures[0].judgement->verdict, Verdict::fail);
  }

  void what_misses_its_limit_is_accepted_with_a_name_and_a_reason() {
    Result r = missing_by(3.0);
    QCOMPARE(r.answers.front().judgement->verdict, Verdict::fail);
    QCOMPARE(verdict_after(at(-3.0), r), Verdict::accepted);
    // The figure and its margin are what they were; the other answers are judged as before.
    QCOMPARE(r.answers.front().judgement->margin, -3.0);
    QCOMPARE(r.answers.back().judgement->verdict, Verdict::fail);
    QCOMPARE(r.answers.front().sentence,
             std::string("3.0 dB outside the limit, accepted by M. Tern."));
    QCOMPARE(r.remarks.front().code, std::string("accepted"));
    QCOMPARE(r.remarks.front().text,
             std::string("Accepted by M. Tern on 2026-11-01, 3.0 dB outside the limit: never used "
                         "at full power."));
    // Too close is accepted alike.
    Result close = missing_by(-0.4);
    QCOMPARE(close.answers.front().judgement->verdict, Verdict::too_close);
    QCOMPARE(verdict_after(at(0.4), close), Verdict::accepted);
  }

  void it_holds_until_the_figure_is_worse_than_that() {
    // Within its own U of 1 dB it is the same figure.
    Result same = missing_by(3.9);
    QCOMPARE(verdict_after(at(-3.0), same), Verdict::accepted);
    Result worse_now = missing_by(4.2);
    QCOMPARE(verdict_after(at(-3.0), worse_now), Verdict::fail);
    QCOMPARE(worse_now.remarks.front().code, std::string("no_longer_accepted"));
    QVERIFY(worse_now.remarks.front().text.find("4.2 dB outside now") != std::string::npos);
    // What passes needs none, and says nothing of it.
    Result good = missing_by(-5.0);
    QCOMPARE(verdict_after(at(-3.0), good), Verdict::pass);
    QVERIFY(good.remarks.empty());
    Result nothing;
    apply_acceptance(at(-3.0), nothing);
    QVERIFY(nothing.remarks.empty());
  }

  void it_is_kept_whole_or_refused() {
    const nlohmann::json kept = {{kAcceptedSettings, to_json(at(-3.0))}};
    const auto back = acceptance_of(kept);
    QVERIFY(back && back->by == "M. Tern" && back->margin == -3.0);
    QVERIFY(!acceptance_of(nlohmann::json::object()));
    for (const char* broken : {"by", "reason", "margin"}) {
      nlohmann::json bad = kept;
      bad[kAcceptedSettings][broken] =
          broken == std::string("margin") ? nlohmann::json("much") : nlohmann::json("");
      QVERIFY2(!refusal([&] { acceptance_of(bad); }).isEmpty(), broken);
    }
  }

  /// It is worse than a pass and better than what nobody measured; an owner reads it apart.
  void it_stands_between_passed_and_failed() {
    QCOMPARE(worse(Verdict::accepted, Verdict::pass), Verdict::accepted);
    QCOMPARE(worse(Verdict::accepted, Verdict::not_taken), Verdict::not_taken);
    QCOMPARE(worse(Verdict::fail, Verdict::accepted), Verdict::fail);
    QCOMPARE(verdict_word(Verdict::accepted), std::string("Accepted"));
    const auto page = owner_page({{"Two-tone", "-27 dB", "at most -30 dB", Verdict::accepted},
                                  {"Purity", "-50 dBc", "at most -43 dBc", Verdict::pass}},
                                 {});
    QCOMPARE(page[0].lines[0], std::string("2 of 2 tests measured: 1 keeps to its limit, 1 is "
                                           "accepted as good enough."));
    const auto part = std::find_if(page.begin(), page.end(), [](const OwnerPart& p) {
      return p.head == "Accepted as good enough";
    });
    QVERIFY(part != page.end() && part->lines.size() == 1U);
    for (const OwnerPart& p : page) QVERIFY(p.head != "What the next visit needs");
  }
};

HERON_TEST(AcceptanceTest)

}  // namespace acceptance_test

#include "acceptance_test.moc"
