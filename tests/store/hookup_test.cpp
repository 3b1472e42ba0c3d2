// Hook-ups in the shack: versions that never alter what was taken on them, and who answered for
// what.
#include "store/hookup.h"

#include <QtTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <zip.h>

#include "core/chain/chain_json.h"
#include "core/error.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/quantity/levels.h"
#include "store/bench.h"
#include "store/exchange.h"
#include "store/planned.h"
#include "store/schema.h"
#include "tests/core/made_trace.h"
#include "tests/store/made_shack.h"
#include "tests/store/two_tone_of.h"
#include "tests/test_program.h"

using namespace heron;

namespace hookup_test {

using heron::testing::MadeShack;

namespace {

Chain chain_with(double gain_db, const std::string& calibrated = "") {
  Part pad;
  pad.name = "power pad";
  pad.kind = "attenuator";
  pad.gain = Gain(gain_db);
  pad.u_db = 0.1;
  pad.max_input_w = 20.0;
  pad.time_constant_s = 120.0;
  pad.calibration = {calibrated, 12.0, std::nullopt};
  Part sampler;
  sampler.name = "sampler";
  sampler.kind = "instrument";
  sampler.u_db = 0.2;
  sampler.full_scale_dbm = 0.0;
  sampler.linearity_u_db = 0.3;
  Chain chain;
  chain.parts = {pad, sampler};
  return chain;
}

Drive thirty_watts() {
  Drive drive{to_dbm(Watt{30.0}).value, true, 14.2e6, 12.0};
  drive.typed = "30 W pep";
  return drive;
}

}  // namespace

class HookupTest : public QObject {
  Q_OBJECT
 private slots:
  /// Checks before power hold the program's keys, not what is known of the hook-up.
  void an_open_check_hides_no_unsafe_hook_up() {
    PlannedTest t;
    t.open_gate = 1;
    t.open_gate_words = "First power: 5 of 7";
    QVERIFY(t.keying_obstacle()->is_checklist && !t.hookup_obstacle());
    t.is_hookup_damaged = true;
    QVERIFY(!t.keying_obstacle()->is_checklist && t.hookup_obstacle());
    t.open_gate = 0;
    QVERIFY(t.keying_obstacle() && !t.may_be_keyed());
  }

  void a_version_that_was_used_is_never_altered() {
    MadeShack made;
    Shack& shack = *made.shack;
    const Id hookup = add_hookup(shack, "A", chain_with(-40));
    const Id first = latest_version(shack, hookup).id;
    // Not used yet: written over, and taken back.
    const SavedChain over = save_chain(shack, hookup, chain_with(-41));
    QVERIFY(!over.is_new_version);
    QCOMPARE(latest_version(shack, hookup).id, first);
    unsave_chain(shack, over);
    QCOMPARE(to_json(latest_version(shack, hookup).chain).dump(), to_json(chain_with(-40)).dump());

    set_test_hookup_id(shack, made.test_id, hookup);
    set_step_capture_hookup(shack, made.capture_id, first);
    set_step_output(shack, made.step_id, std::nullopt);
    const auto before = heron::testing::load_two_tone_test(shack, made.test_id).outputs[0];
    QVERIFY(before.has_value());

    const SavedChain saved = save_chain(shack, hookup, chain_with(-50));
    QVERIFY(saved.is_new_version);
    made.reopen();
    const heron::testing::TwoToneTest t =
        heron::testing::load_two_tone_test(*made.shack, made.test_id);
    QCOMPARE(t.outputs[0]->value, before->value);
    QCOMPARE(t.taken_on[0]->number, 1);
    QCOMPARE(t.hookup->number, 2);
    // Not even when the recording is removed: undo may bring it back.
    set_step_capture_removed(*made.shack, made.capture_id, true);
    QVERIFY(is_version_used(*made.shack, first));
    unsave_chain(*made.shack, saved);
    QCOMPARE(latest_version(*made.shack, hookup).number, 1);
  }

  void levels_are_those_at_the_device() {
    MadeShack made;
    Shack& shack = *made.shack;
    const Id hookup = add_hookup(shack, "A", chain_with(-40));
    set_test_hookup_id(shack, made.test_id, hookup);
    set_test_drive(shack, made.test_id, thirty_watts());
    const double recorded =
        heron::testing::load_two_tone_test(shack, made.test_id).analyses[0]->pep_dbfs;
    set_step_capture_hookup(shack, made.capture_id, latest_version(shack, hookup).id);
    set_step_output(shack, made.step_id, std::nullopt);
    const heron::testing::TwoToneTest t = heron::testing::load_two_tone_test(shack, made.test_id);
    QVERIFY(std::abs(t.outputs[0]->value - (recorded + 40.0)) < 1e-9);
    // Pad and sampler are in its budget, the recorder's linearity in that of the products.
    double square = 0.0;
    for (const Contribution& c : t.outputs[0]->contributions) {
      if (c.source == "power pad" || c.source == "sampler") square += c.u * c.u;
    }
    QVERIFY(std::abs(square - 0.05) < 1e-12);
    QCOMPARE(t.analyses[0]->linearity.u_db, 0.3);
    // A typed output that the recording contradicts is questioned, and stays as typed.
    set_step_output(shack, made.step_id, TypedOutput{"5 W", 36.99, 0.1});
    const heron::testing::TwoToneTest typed =
        heron::testing::load_two_tone_test(shack, made.test_id);
    QCOMPARE(typed.outputs[0]->value, 36.99);
    const auto& remarks = typed.analyses[0]->remarks;
    QCOMPARE(std::any_of(remarks.begin(), remarks.end(),
                         [](const Remark& r) { return r.code == "outputs_differ"; }),
             std::abs(t.outputs[0]->value - 36.99) > 0.6);
  }

  void the_age_is_that_of_the_day_of_taking() {
    MadeShack made;
    Shack& shack = *made.shack;
    const Id hookup = add_hookup(shack, "A", chain_with(-40, "2020-01-01"));
    const Id version = latest_version(shack, hookup).id;
    set_test_hookup_id(shack, made.test_id, hookup);
    const Id old = attach_capture(shack, made.step_id, made.stored,
                                  {"2020-07-01T10:00:00Z", version, std::nullopt});
    save_result(shack, old, "two_tone", *load_result(shack, made.capture_id));
    set_step_output(shack, made.step_id, std::nullopt);
    const heron::testing::TwoToneTest t = heron::testing::load_two_tone_test(shack, made.test_id);
    double age = 0.0;
    for (const Contribution& c : t.outputs[0]->contributions) {
      if (c.source.starts_with("calibration age")) age = c.u;
    }
    QVERIFY2(std::abs(age - 0.05) < 0.001, qPrintable(QString::number(age)));  // half an interval
  }

  void a_frequency_outside_a_part_leaves_levels_at_the_recorder_and_says_so() {
    MadeShack made;
    Chain chain = chain_with(-40);
    chain.parts[0].gain = Gain({{1e6, -40.0}, {2e6, -40.5}}, "pad");
    const Id hookup = add_hookup(*made.shack, "A", chain);
    set_test_hookup_id(*made.shack, made.test_id, hookup);
    set_test_drive(*made.shack, made.test_id, thirty_watts());
    set_step_capture_hookup(*made.shack, made.capture_id, latest_version(*made.shack, hookup).id);
    set_step_output(*made.shack, made.step_id, std::nullopt);
    const heron::testing::TwoToneTest t =
        heron::testing::load_two_tone_test(*made.shack, made.test_id);
    QVERIFY(!t.outputs[0].has_value());
    QVERIFY(!t.may_be_keyed());  // what cannot be worked out is not known to be safe
    const auto& remarks = t.analyses[0]->remarks;
    QVERIFY(std::any_of(remarks.begin(), remarks.end(),
                        [](const Remark& r) { return r.code == "not_referred"; }));
    QVERIFY(!t.not_planned.empty());
  }

  void another_planned_frequency_does_not_alter_what_was_taken() {
    MadeShack made;
    Shack& shack = *made.shack;
    Chain chain = chain_with(-40);
    chain.parts[0].gain = Gain({{1e6, -40.0}, {30e6, -46.0}}, "pad");
    const Id hookup = add_hookup(shack, "A", chain);
    set_test_hookup_id(shack, made.test_id, hookup);
    set_test_drive(shack, made.test_id, thirty_watts());
    set_step_capture_hookup(shack, made.capture_id, latest_version(shack, hookup).id);
    set_step_output(shack, made.step_id, std::nullopt);
    const double before = heron::testing::load_two_tone_test(shack, made.test_id).outputs[0]->value;
    const auto pinned = pin_records(shack, made.test_id);
    QCOMPARE(pinned.size(), 1U);
    QCOMPARE(pinned[0].step_capture, made.capture_id);
    Drive other = thirty_watts();
    other.frequency_hz = 3.65e6;
    set_test_drive(shack, made.test_id, other);
    QVERIFY(std::abs(heron::testing::load_two_tone_test(shack, made.test_id).outputs[0]->value -
                     before) < 1e-9);
    unpin_records(shack, pinned);
    QVERIFY(heron::testing::load_two_tone_test(shack, made.test_id).outputs[0]->value <
            before - 1.0);
  }

  void an_unsafe_drive_needs_somebody_who_answers() {
    MadeShack made;
    Shack& shack = *made.shack;
    Chain chain = chain_with(-20);
    chain.parts[0].max_input_w = 5.0;
    chain.parts[0].time_constant_s.reset();
    const Id hookup = add_hookup(shack, "A", chain);
    set_test_hookup_id(shack, made.test_id, hookup);
    QVERIFY(heron::testing::load_two_tone_test(shack, made.test_id)
                .may_be_keyed());  // no drive, nothing known
    set_test_drive(shack, made.test_id, thirty_watts());
    heron::testing::TwoToneTest t = heron::testing::load_two_tone_test(shack, made.test_id);
    QVERIFY(!t.planned->is_safe && !t.may_be_keyed());
    vouch(shack, made.test_id,
          {"Both of us", "only for a second", "", thirty_watts().pep_dbm, t.hookup->id});
    made.reopen();
    t = heron::testing::load_two_tone_test(*made.shack, made.test_id);
    QVERIFY(t.may_be_keyed());
    QCOMPARE(t.vouched[0].why, std::string("only for a second"));
    // For this drive and below, on this version only.
    Drive more = thirty_watts();
    more.pep_dbm += 1.0;
    set_test_drive(*made.shack, made.test_id, more);
    QVERIFY(!heron::testing::load_two_tone_test(*made.shack, made.test_id).may_be_keyed());
    more.pep_dbm -= 2.0;
    set_test_drive(*made.shack, made.test_id, more);
    QVERIFY(heron::testing::load_two_tone_test(*made.shack, made.test_id).may_be_keyed());
    QVERIFY_EXCEPTION_THROWN(vouch(*made.shack, made.test_id, {"", "x", "", 1.0, t.hookup->id}),
                             InputError);
  }

  void repeats_make_repeatability_and_a_self_test_convicts_the_recorder() {
    MadeShack made;
    Shack& shack = *made.shack;
    const auto add = [&](double im3_dbc, std::uint64_t seed, double added_db) {
      const StoredCapture c =
          store_capture(shack.captures_folder(), heron::testing::two_tones(im3_dbc, seed));
      const Id id =
          attach_capture(shack, made.step_id, c, {"", 0, AddedAttenuation{added_db, "10 dB more"}});
      save_result(shack, id, "two_tone",
                  to_json(analyse_two_tone(capture_opener(capture_path(shack, c.hash)))));
    };
    QCOMPARE(
        heron::testing::load_two_tone_test(shack, made.test_id).analyses[0]->repeatability_u_db,
        0.0);
    add(-35.6, 7, 0.0);
    const heron::testing::TwoToneTest repeated =
        heron::testing::load_two_tone_test(shack, made.test_id);
    QCOMPARE(repeated.steps[0].capture->id, made.capture_id);  // the step keeps its own
    // Two takes 0.6 dB apart scatter by 0.6/sqrt(2).
    QVERIFY(std::abs(repeated.analyses[0]->repeatability_u_db - 0.424) < 0.05);
    add(-55.0, 8, 10.0);
    const heron::testing::TwoToneTest t = heron::testing::load_two_tone_test(shack, made.test_id);
    QCOMPARE(t.steps[0].self_test->added->typed, std::string("10 dB more"));
    const auto& remarks = t.analyses[0]->remarks;
    QVERIFY(std::any_of(remarks.begin(), remarks.end(),
                        [](const Remark& r) { return r.code == "sampler_made"; }));
  }

  void a_trace_is_kept_and_comes_back_with_its_evaluation() {
    MadeShack made;
    Shack& shack = *made.shack;
    const std::string csv = heron::testing::made_trace();
    const SpectrumTrace trace = parse_trace(csv, "analyser.csv");
    const StoredCapture stored = store_trace(shack.captures_folder(), csv, trace.name, 9);
    QVERIFY(stored.is_new && !store_trace(shack.captures_folder(), csv, trace.name, 9).is_new);
    const Id step = steps(shack, made.test_id)[1].id;
    const Id hookup = add_hookup(shack, "A", chain_with(-40));
    set_test_hookup_id(shack, made.test_id, hookup);
    set_test_drive(shack, made.test_id, thirty_watts());
    const Id capture =
        attach_capture(shack, step, stored,
                       {"2026-03-01T10:00:00Z", latest_version(shack, hookup).id, std::nullopt});
    save_result(shack, capture, "two_tone", to_json(analyse_trace(trace)));
    heron::testing::set_products(shack, made.step_id, {parse_product("-31", 3, kRePep)});
    vouch(shack, made.test_id, {"Both of us", "brief", "", 44.8, latest_version(shack, hookup).id});
    const heron::testing::TwoToneTest before =
        heron::testing::load_two_tone_test(shack, made.test_id);
    QVERIFY(std::abs(before.outputs[1]->value - (-7.0 + 6.02 + 40.0)) < 0.1);

    const auto zip = made.path() / "out.zip";
    write_packed(pack_evaluation(shack, made.evaluation_id), zip);
    MadeShack other;
    const auto unpacked = unpack_evaluation(zip, other.shack->captures_folder());
    const Id evaluation = add_unpacked(*other.shack, unpacked).evaluation;
    const heron::testing::TwoToneTest after =
        heron::testing::load_two_tone_test(*other.shack, tests(*other.shack, evaluation)[0].id);
    QCOMPARE(after.outputs[1]->value, before.outputs[1]->value);
    QCOMPARE(after.taken_on[1]->name, std::string("A"));
    QCOMPARE(to_json(after.hookup->chain).dump(), to_json(before.hookup->chain).dump());
    QCOMPARE(after.products(0).size(), 1U);
    QCOMPARE(after.vouched.size(), 1U);
    QCOMPARE(after.test.drive->typed, std::string("30 W pep"));
    // A second time the same hook-up is the same one.
    add_unpacked(*other.shack, unpack_evaluation(zip, other.shack->captures_folder()));
    QCOMPARE(hookups(*other.shack).size(), 1U);
  }

  void an_amplifier_behind_is_predicted_from_its_own_ladder() {
    MadeShack made;
    Shack& shack = *made.shack;
    const auto typed = [&](Id test, const char* label, double watt, double im3) {
      const Id step = add_step(shack, test, label);
      set_step_output(shack, step, TypedOutput{label, to_dbm(Watt{watt}).value, 0.1});
      heron::testing::set_products(shack, step, {parse_product(std::to_string(im3), 3, kRePep)});
    };
    Test t;
    t.evaluation_id = made.evaluation_id;
    t.characteristic = "two_tone";
    t.title = "exciter";
    t.limit = MadeShack::limit();
    const Id exciter = add_test(shack, t);
    typed(exciter, "5 W", 5, -45);
    typed(exciter, "20 W", 20, -33);
    const Id curlew = add_device(shack, {0, "Curlew 120", "", "", "", {}});
    t.evaluation_id = add_evaluation(shack, curlew, "alone");
    const Id alone = add_test(shack, t);
    typed(alone, "4 W", 40, -40);
    typed(alone, "16 W", 120, -30);
    set_test_driving(shack, exciter, alone, 0);
    const heron::testing::TwoToneTest loaded = heron::testing::load_two_tone_test(shack, exciter);
    QCOMPARE(loaded.evidence.driven->name, std::string("Curlew 120"));
    QVERIFY(!loaded.driven.points.empty());
    QVERIFY(loaded.driven.exciter_at_limit_dbm.has_value());
    set_test_driving(shack, exciter, 0, 0);
    QVERIFY(heron::testing::load_two_tone_test(shack, exciter).driven.points.empty());
  }

  void the_bench_keeps_its_things() {
    MadeShack made;
    BenchItem item = made_item("cable");
    item.part.gain = Gain(-0.1);
    const Id id = add_bench_item(*made.shack, item);
    item.part.name = "Cable, 2 m";
    set_bench_item(*made.shack, id, item);
    set_bench_item_retired(*made.shack, id, true);
    made.reopen();
    const auto all = bench(*made.shack);
    QCOMPARE(all.size(), 1U);
    QVERIFY(all[0].is_retired);
    QCOMPARE(all[0].part().bench_id, bench_name(id));
    item.part.gain = Gain(3.0);
    QVERIFY_EXCEPTION_THROWN(set_bench_item(*made.shack, id, item), InputError);
    set_bench_item_removed(*made.shack, id, true);
    QVERIFY(bench(*made.shack).empty());
    QVERIFY_EXCEPTION_THROWN(bench_entry(*made.shack, 99), InputError);
  }
};

HERON_TEST(HookupTest)

}  // namespace hookup_test

#include "hookup_test.moc"
