#include <QtTest>
#include <cstring>
#include <random>

#include "core/scpi/command_line.h"
#include "core/scpi/reply_reader.h"
#include "core/scpi/reply_value.h"
#include "tests/core/said.h"
#include "tests/test_program.h"

using namespace heron;

namespace scpi_test {

using heron::testing::refusal;

class ScpiTest : public QObject {
  Q_OBJECT
 private slots:
  void blocks_come_out_whole_however_they_are_cut() {
    std::mt19937 random(1);
    for (const std::size_t size :
         {std::size_t{0}, std::size_t{1}, std::size_t{10}, std::size_t{999}, std::size_t{70000}}) {
      std::string data(size, '\0');
      for (char& c : data) c = static_cast<char>(random());
      const std::string sent = block_header(size) + data + "\r\n";
      for (const std::size_t piece :
           {std::size_t{1}, std::size_t{3}, std::size_t{4096}, sent.size()}) {
        std::vector<char> got;
        ReplyReader reader = ReplyReader::block("sampler", got);
        for (std::size_t at = 0; at < sent.size(); at += piece) {
          QVERIFY(!reader.is_complete());
          const std::string_view part = std::string_view(sent).substr(at, piece);
          QCOMPARE(reader.feed(part), part.size());
        }
        QVERIFY(reader.is_complete());
        QVERIFY(std::string(got.begin(), got.end()) == data);
      }
    }
  }

  void what_follows_belongs_to_the_next_reply() {
    std::vector<char> block;
    ReplyReader reader = ReplyReader::block("sampler", block);
    QCOMPARE(reader.feed("#15hello\n42\n"), std::size_t{9});
    QVERIFY(reader.is_complete());
    ReplyReader line = ReplyReader::line("counter");
    QCOMPARE(line.feed("  42 \r\n7\n"), std::size_t{7});
    QCOMPARE(line.text(), std::string("42"));
  }

  void a_block_without_length_ends_with_silence() {
    std::vector<char> block;
    ReplyReader reader = ReplyReader::block("sampler", block);
    reader.feed("#0ab\n");
    QVERIFY(reader.ends_with_silence());
    reader.feed("cd");
    QVERIFY(!reader.ends_with_silence());
    QVERIFY(!refusal([&] { reader.end_by_silence(); }).isEmpty());
    reader.feed("\n");
    reader.end_by_silence();
    QVERIFY(reader.is_complete());
    QCOMPARE(std::string(block.begin(), block.end()), std::string("ab\ncd"));
  }

  void garbage_is_no_block_data() {
    QTest::addColumn<QString>("sent");
    for (const char* sent : {"hello\n", "#x1\n", "#2a5", "#9999999999", "#15helloX"})
      QTest::newRow(sent) << sent;
  }
  void garbage_is_no_block() {
    QFETCH(QString, sent);
    std::vector<char> block;
    ReplyReader reader = ReplyReader::block("sampler", block);
    const QString said = refusal([&] { reader.feed(sent.toStdString()); });
    QVERIFY2(said.startsWith("sampler"), qPrintable(said));
    QVERIFY(!reader.is_complete());
  }

  void numbers_and_what_is_none() {
    QCOMPARE(number_reply(" +1.25E+01 ", "x"), 12.5);
    QCOMPARE(number_reply("-7", "x"), -7.0);
    QVERIFY(refusal([] { number_reply("9.9E37", "meter"); }).contains("over range"));
    QVERIFY(refusal([] { number_reply("-9.9E+37", "meter"); }).contains("over range"));
    QVERIFY(refusal([] { number_reply("9.91E37", "meter"); }).contains("no valid"));
    for (const char* none : {"", "abc", "1.2.3", "12 dBm", "nan", "inf", "1e999", "0x10"})
      QVERIFY2(!refusal([&] { number_reply(none, "meter"); }).isEmpty(), none);
    QVERIFY(numbers_reply("1,-2.5,3e2", "x") == (std::vector<double>{1.0, -2.5, 300.0}));
    QVERIFY(!refusal([] { numbers_reply("1,,3", "x"); }).isEmpty());
    QVERIFY(switch_reply("ON", "x") && switch_reply(" 1", "x") && !switch_reply("0\n", "x"));
    QVERIFY(!refusal([] { switch_reply("2", "x"); }).isEmpty());
    const ErrorReply error = error_reply("-113,\"Undefined header\"", "x");
    QVERIFY(error.code == -113 && error.text == "Undefined header");
    QCOMPARE(error_reply("+0,\"No error\"", "x").code, 0);
  }

  void samples_in_every_coding() {
    std::vector<float> out;
    for (const char* name : {"cf32_le", "cf32_be", "rf32_le", "rf32_be"}) {
      const float values[2] = {0.5F, -0.25F};
      std::vector<char> block(sizeof values);
      std::memcpy(block.data(), values, sizeof values);
      if (QString(name).endsWith("be")) {
        std::reverse(block.begin(), block.begin() + 4);
        std::reverse(block.begin() + 4, block.end());
      }
      decode_samples(block, sample_coding_from_name(name), "x", out);
      QVERIFY(out == (std::vector<float>{0.5F, -0.25F}));
    }
    decode_samples({0, 64, 0, static_cast<char>(-64)}, SampleCoding::ci16_le, "x", out);
    QVERIFY(out == (std::vector<float>{0.5F, -0.5F}));
    QVERIFY(refusal([&] {
              decode_samples(std::vector<char>(7), SampleCoding::cf32_le, "x", out);
            }).contains("whole samples"));
    QVERIFY(refusal([&] {
              decode_samples(std::vector<char>(8, '\xff'), SampleCoding::cf32_le, "x", out);
            }).contains("not a number"));
    QVERIFY(refusal([] { sample_coding_from_name("cu8"); }).contains("cu8"));
  }

  void commands_are_parted_and_filled() {
    const auto commands = parse_commands(" :sour:freq 14.2e6 , 3; *IDN?;;OUTP off");
    QCOMPARE(commands.size(), std::size_t{3});
    QVERIFY(commands[0].header == "SOUR:FREQ" && !commands[0].is_query);
    QVERIFY(commands[0].arguments == (std::vector<std::string>{"14.2e6", "3"}));
    QVERIFY(commands[1].header == "*IDN" && commands[1].is_query);
    QCOMPARE(filled("F {hz},{dbm}", {{"hz", 14200000.25}, {"dbm", -3.0}}, "x"),
             std::string("F 14200000.25,-3"));
    QVERIFY(refusal([] { filled("F {volt}", {}, "generator"); }).contains("volt"));
    // What goes out comes back as it was, to the last bit.
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> any(-1e10, 1e10);
    for (int i = 0; i < 1000; ++i) {
      const double v = any(random);
      QCOMPARE(number_reply(filled("{v}", {{"v", v}}, "x"), "x"), v);
    }
  }
};

HERON_TEST(ScpiTest)

}  // namespace scpi_test

#include "scpi_test.moc"
