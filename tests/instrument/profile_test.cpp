#include "instrument/profile.h"

#include <QtTest>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>

#include "core/scpi/command_line.h"
#include "instrument/transport.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace profile_test {

using heron::testing::refusal;

namespace {

nlohmann::json generic() {
  std::ifstream file(HERON_PROFILE);
  return nlohmann::json::parse(file);
}

}  // namespace

class ProfileTest : public QObject {
  Q_OBJECT
 private slots:
  void the_one_that_ships_knows_every_role() {
    const Profile& p = generic_profile();
    for (const RoleKind& kind : role_kinds()) {
      for (const RoleCommand& c : kind.commands) {
        const std::string* words = p.find(kind.role, c.id);
        QVERIFY2(words != nullptr, c.id.data());
        // Every placeholder it uses is one that a run fills.
        for (const std::string& name : placeholders(*words))
          QVERIFY(std::string(c.offers).find(name) != std::string::npos);
      }
    }
  }

  void each_required_command_is_missed() {
    for (const RoleKind& kind : role_kinds()) {
      for (const RoleCommand& c : kind.commands) {
        nlohmann::json file = generic();
        file["roles"][std::string(kind.id)]["commands"].erase(std::string(c.id));
        const QString said = refusal([&] { parse_profile(file.dump(), "p.json"); });
        if (c.is_required)
          QVERIFY2(said.contains(c.id.data()) && said.contains(kind.id.data()), qPrintable(said));
        else
          QVERIFY2(said.isEmpty(), qPrintable(said));
      }
    }
  }

  void wrong_ones_are_refused_at_their_place_data() {
    QTest::addColumn<QString>("pointer");
    QTest::addColumn<QString>("value");
    QTest::addColumn<QString>("place");
    const auto row = [](const char* pointer, const char* value, const char* place) {
      QTest::newRow(qPrintable(QString("%1 %2").arg(pointer, value))) << pointer << value << place;
    };
    row("/format", R"("x")", "format");
    row("/version", "3", "version");
    row("/line_ending", R"(";")", "line_ending");
    row("/timeout_s", "0", "timeout_s");
    row("/timeout_s", R"("2")", "timeout_s");
    row("/roles", "{}", "roles");
    row("/roles/kettle", "{}", "kettle");
    row("/roles/sampler/coding", R"("cu8")", "cu8");
    row("/roles/sampler/commands", "null", "commands");
    row("/roles/sampler/commands/read", R"("READ")", "read");
    row("/roles/sampler/commands/read", R"("  ")", "read");
    row("/roles/sampler/commands/read", "7", "read");
    row("/roles/sampler/commands/dance", R"("D?")", "dance");
    row("/roles/sampler/commands/set_center", R"("F {volt}")", "volt");
    row("/roles/sampler/commands/set_center", R"("F? {hz}")", "set_center");
    row("/roles/sampler/commands/set_center", R"("F\n{hz}")", "set_center");
  }
  void wrong_ones_are_refused_at_their_place() {
    QFETCH(QString, pointer);
    QFETCH(QString, value);
    QFETCH(QString, place);
    nlohmann::json file = generic();
    file[nlohmann::json::json_pointer(pointer.toStdString())] =
        nlohmann::json::parse(value.toStdString());
    const QString said = refusal([&] { parse_profile(file.dump(), "p.json"); });
    QVERIFY2(said.startsWith("p.json") && said.contains(place), qPrintable(said));
  }
  void what_is_no_json_is_refused() {
    QVERIFY(refusal([] { parse_profile("{", "p.json"); }).contains("JSON"));
    QVERIFY(!refusal([] { parse_profile("[]", "p.json"); }).isEmpty());
  }

  void addresses() {
    const auto tcp = parse_address("192.168.1.20:5026");
    QVERIFY(tcp.host_or_port == "192.168.1.20" && tcp.number == 5026 && !tcp.is_serial);
    QCOMPARE(parse_address("bench-counter").number, 5025);
    const auto six = parse_address("[::1]:7");
    QVERIFY(six.host_or_port == "::1" && six.number == 7);
    const auto serial = parse_address(" /dev/ttyUSB0 115200 ");
    QVERIFY(serial.is_serial && serial.number == 115200 && serial.host_or_port == "/dev/ttyUSB0");
    QCOMPARE(parse_address(serial.text()).number, 115200);
    for (const char* wrong :
         {"", ":5025", "host:0", "host:99999", "host:x", "a b", "[::1:7", "/dev/ttyUSB0 fast"})
      QVERIFY2(refusal([&] { parse_address(wrong); }).contains("192.168"), wrong);
  }
};

HERON_TEST(ProfileTest)

}  // namespace profile_test

#include "profile_test.moc"
