#include "instrument/rf_state.h"

#include <QtTest>

#include "instrument/rf_guard.h"
#include "tests/simbench/plain_bench.h"
#include "tests/test_program.h"

using namespace heron;

namespace rf_state_test {

using heron::testing::plain_bench;
using sim::Fault;
using sim::SimServer;

namespace {

/// A generator that can be asked whether its output is on, or one that cannot.
std::unique_ptr<ScpiSession> generator(const SimServer& server, bool can_be_asked) {
  Profile p = generic_profile();
  p.timeout_s = 0.4;
  if (!can_be_asked) p.roles.at(Role::generator).commands.erase("is_output_on");
  auto s =
      std::make_unique<ScpiSession>("generator", parse_address(server.address("generator")), p);
  s->connect();
  return s;
}

bool is_on(const SimServer& server) {
  return ask_rf(*generator(server, true)) == RfState::on;
}

void switch_on(const SimServer& server) {
  auto hand = generator(server, true);
  hand->tell(Role::generator, "set_level", {{"dbm", -30.0}, {"v_rms", 0.007}, {"v_emf", 0.014}});
  hand->tell(Role::generator, "set_tone", {{"hz", 1000.0}});
  hand->tell(Role::generator, "output_on");
  hand->settle();
}

}  // namespace

/// What is said of RF is what the source has said itself.
class RfStateTest : public QObject {
  Q_OBJECT
 private slots:
  void the_state_is_asked_for_and_never_guessed() {
    const SimServer server(plain_bench());
    QVERIFY(ask_rf(*generator(server, true)) == RfState::confirmed_off);
    QVERIFY(ask_rf(*generator(server, false)) == RfState::unknown);
    switch_on(server);
    QVERIFY(ask_rf(*generator(server, true)) == RfState::on);
    QVERIFY(ask_rf(*generator(server, false)) == RfState::unknown);
  }

  void off_is_confirmed_only_by_who_can_be_asked() {
    const SimServer server(plain_bench());
    for (const bool can_be_asked : {true, false}) {
      switch_on(server);
      QVERIFY(is_on(server));
      const RfOff how = switch_rf_off(*generator(server, can_be_asked));
      QVERIFY(how == (can_be_asked ? RfOff::confirmed : RfOff::told));
      QTRY_VERIFY(!is_on(server));
    }
  }

  void one_bad_answer_is_asked_again_data() {
    QTest::addColumn<int>("fault");
    QTest::newRow("garbage") << int(Fault::garbage);
    QTest::newRow("silent") << int(Fault::silent);
    QTest::newRow("closes") << int(Fault::closes);
  }
  void one_bad_answer_is_asked_again() {
    QFETCH(int, fault);
    SimServer server(plain_bench());
    switch_on(server);
    auto source = generator(server, true);
    server.set_fault("generator", static_cast<Fault>(fault));
    QVERIFY(switch_rf_off(*source) == RfOff::confirmed);
    QVERIFY(!is_on(server));
  }

  /// Neither may count as off: not the one that does not answer, and not the one that could not
  /// even be told.
  void a_lost_source_is_not_off_whether_or_not_it_could_be_asked() {
    for (const bool can_be_asked : {true, false}) {
      SimServer server(plain_bench());
      switch_on(server);
      auto source = generator(server, can_be_asked);
      RfGuard guard({source.get()}, 5.0);
      server.pull("generator");
      QVERIFY(switch_rf_off(*source) == RfOff::failed);
      QCOMPARE(guard.off(), std::vector<std::string>{"generator"});
      server.plug("generator");
      QVERIFY(guard.off().empty());
      QTRY_VERIFY(!is_on(server));
    }
  }

  void what_is_no_source_has_no_rf() {
    const SimServer server(plain_bench());
    Profile p = generic_profile();
    std::erase_if(p.roles, [](const auto& role) { return role.first != Role::power_meter; });
    ScpiSession meter("power_meter", parse_address(server.address("power_meter")), p);
    meter.connect();
    QVERIFY(ask_rf(meter) == RfState::unknown);
    QVERIFY(switch_rf_off(meter) == RfOff::failed);
  }
};

HERON_LOOP_TEST(RfStateTest)

}  // namespace rf_state_test

#include "rf_state_test.moc"
