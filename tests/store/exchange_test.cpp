#include "store/exchange.h"

#include <QtTest>
#include <fstream>

#include "core/error.h"
#include "tests/store/edit_archive.h"
#include "tests/store/made_shack.h"
#include "tests/store/two_tone_of.h"
#include "tests/test_program.h"

using namespace heron;

namespace exchange_test {

using heron::testing::files_in;
using heron::testing::MadeShack;
using heron::testing::rewrite;
namespace fs = std::filesystem;

namespace {

Id import_from(Shack& shack, const fs::path& zip) {
  return add_unpacked(shack, unpack_evaluation(zip, shack.captures_folder())).evaluation;
}

}  // namespace

class ExchangeTest : public QObject {
  Q_OBJECT
 private slots:
  void an_evaluation_travels_between_shacks() {
    MadeShack made;
    sign_test(*made.shack, made.test_id, "Both of us", "2026-03-02T19:04:00Z");
    const fs::path zip = made.path() / "out.zip";
    PackedEvaluation packed = pack_evaluation(*made.shack, made.evaluation_id);
    packed.texts.emplace_back("figures.csv", "a,b\n");
    write_packed(packed, zip);
    QTemporaryDir dir;
    const auto other = Shack::create(fs::path(dir.path().toStdString()) / "s", "elsewhere");
    const Id id = import_from(*other, zip);
    const auto list = tests(*other, id);
    QCOMPARE(list.size(), 1U);
    QCOMPARE(list[0].signed_by, std::string("Both of us"));
    const heron::testing::TwoToneTest t = heron::testing::load_two_tone_test(*other, list[0].id);
    QVERIFY(to_json(*t.analyses[0]) ==
            to_json(*heron::testing::load_two_tone_test(*made.shack, made.test_id).analyses[0]));
    QVERIFY(fs::exists(capture_path(*other, made.stored.hash)));
    QCOMPARE(devices(*other).size(), 1U);
    import_from(*other, zip);
    QCOMPARE(devices(*other).size(), 1U);  // the same device, a second evaluation
    QCOMPARE(evaluations(*other, devices(*other)[0].id).size(), 2U);
  }

  /// What the device is goes along; a file of before, which knew nothing of it, is read as well.
  void what_the_device_is_goes_along() {
    MadeShack made;
    Device d = device(*made.shack, made.device_id);
    d.facts = {"1.8 to 30 MHz", {"CW", "SSB"}, "13.8 V", "5 W", 37.0, true};
    set_device(*made.shack, d.id, d);
    d.specification.front().condition = "full power";
    set_specification(*made.shack, d.id, d.specification);
    const fs::path zip = made.path() / "out.zip";
    write_packed(pack_evaluation(*made.shack, made.evaluation_id), zip);
    QTemporaryDir dir;
    const auto other = Shack::create(fs::path(dir.path().toStdString()) / "s", "elsewhere");
    import_from(*other, zip);
    const Device there = devices(*other).at(0);
    QVERIFY(there.facts == d.facts);
    QCOMPARE(there.specification.front().condition, std::string("full power"));
    rewrite(zip, "evaluation.json", [](const std::string& text) {
      auto json = nlohmann::json::parse(text);
      json["device"].erase("facts");
      for (auto& line : json["device"]["specification"]) line.erase("condition");
      return json.dump();
    });
    QTemporaryDir third;
    const auto older = Shack::create(fs::path(third.path().toStdString()) / "s", "elsewhere");
    import_from(*older, zip);
    QVERIFY(devices(*older).at(0).facts == DeviceFacts{});
  }

  void damaged_files_are_refused_and_change_nothing_data() {
    QTest::addColumn<QString>("what");
    for (const char* what :
         {"not a zip", "no json", "bad json", "wrong format", "format is a number", "newer",
          "missing key", "evil hash", "wrong recording"})
      QTest::newRow(what) << what;
  }
  void damaged_files_are_refused_and_change_nothing() {
    QFETCH(QString, what);
    MadeShack made;
    const fs::path zip = made.path() / "out.zip";
    write_packed(pack_evaluation(*made.shack, made.evaluation_id), zip);
    const auto edit = [&](const std::function<void(nlohmann::json&)>& change) {
      rewrite(zip, "evaluation.json", [&](const std::string& text) {
        auto json = nlohmann::json::parse(text);
        change(json);
        return json.dump();
      });
    };
    if (what == "not a zip") std::ofstream(zip) << "PK but no";
    if (what == "no json")
      rewrite(zip, ("captures/" + made.stored.hash + ".sigmf-meta").c_str(),
              [](auto t) { return t; }),
          edit([](auto& j) { j = nlohmann::json::array(); });
    if (what == "bad json")
      rewrite(zip, "evaluation.json",
              [](const std::string&) { return std::string("{\"format\":"); });
    if (what == "wrong format") edit([](auto& j) { j["format"] = "something"; });
    if (what == "format is a number") edit([](auto& j) { j["format"] = 7; });
    if (what == "newer") edit([](auto& j) { j["version"] = 99; });
    if (what == "missing key") edit([](auto& j) { j["tests"][0].erase("title"); });
    if (what == "evil hash")
      edit([](auto& j) { j["tests"][0]["steps"][0]["capture"]["hash"] = "../../../etc/passwd"; });
    if (what == "wrong recording")
      rewrite(zip, ("captures/" + made.stored.hash + ".sigmf-data").c_str(), [](std::string t) {
        t[100] ^= 1;
        return t;
      });
    QTemporaryDir dir;
    const auto other = Shack::create(fs::path(dir.path().toStdString()) / "s", "elsewhere");
    QVERIFY_EXCEPTION_THROWN(import_from(*other, zip), InputError);
    QVERIFY(devices(*other).empty());
  }

  void progress_rises_to_the_end() {
    MadeShack made;
    const fs::path zip = made.path() / "out.zip";
    std::vector<double> out;
    std::vector<double> in;
    write_packed(pack_evaluation(*made.shack, made.evaluation_id), zip,
                 [&](double f) { out.push_back(f); });
    QTemporaryDir dir;
    const auto other = Shack::create(fs::path(dir.path().toStdString()) / "s", "elsewhere");
    unpack_evaluation(zip, other->captures_folder(), [&](double f) { in.push_back(f); });
    for (const auto& told : {out, in}) {
      QVERIFY(told.size() >= 2);
      QVERIFY(std::is_sorted(told.begin(), told.end()));
      QVERIFY(told.front() >= 0.0 && std::abs(told.back() - 1.0) < 1e-9);
    }
  }

  void stopping_leaves_nothing_behind() {
    MadeShack made;
    std::stop_source stop;
    stop.request_stop();
    const fs::path zip = made.path() / "out.zip";
    const auto packed = pack_evaluation(*made.shack, made.evaluation_id);
    const std::size_t before = files_in(made.path());
    QVERIFY_EXCEPTION_THROWN(write_packed(packed, zip, {}, stop.get_token()), Cancelled);
    QCOMPARE(files_in(made.path()), before);
    write_packed(packed, zip);
    QTemporaryDir dir;
    const auto other = Shack::create(fs::path(dir.path().toStdString()) / "s", "elsewhere");
    QVERIFY_EXCEPTION_THROWN(unpack_evaluation(zip, other->captures_folder(), {}, stop.get_token()),
                             Cancelled);
    QCOMPARE(files_in(other->captures_folder()), 0U);
    QVERIFY(!fs::exists(other->folder() / ".importing"));
  }

  void an_unwritable_place_is_told() {
    MadeShack made;
    QVERIFY_EXCEPTION_THROWN(
        write_packed(pack_evaluation(*made.shack, made.evaluation_id), "/nowhere/at/all.zip"),
        InputError);
  }
};

HERON_TEST(ExchangeTest)

}  // namespace exchange_test

#include "exchange_test.moc"
