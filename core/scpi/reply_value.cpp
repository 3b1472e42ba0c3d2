#include "core/scpi/reply_value.h"

#include <algorithm>
#include <array>
#include <bit>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <fmt/format.h>

#include "core/error.h"

namespace heron {
namespace {

constexpr double kOverRange = 9.9e37;

[[noreturn]] void refuse_reply(const std::string& subject, const std::string& why,
                               const std::string& todo) {
  throw InputError(subject, "reply", why, todo);
}

std::string_view trimmed(std::string_view text) {
  while (!text.empty() && std::string_view(" \t\r\n").find(text.front()) != std::string_view::npos)
    text.remove_prefix(1);
  while (!text.empty() && std::string_view(" \t\r\n").find(text.back()) != std::string_view::npos)
    text.remove_suffix(1);
  return text;
}

std::string shortened(std::string_view text) {
  return std::string(text.substr(0, 40)) + (text.size() > 40 ? "\u2026" : "");
}

template <class Word>
Word word_at(const char* bytes, bool is_big) {
  Word word;
  std::memcpy(&word, bytes, sizeof word);
  if (is_big == (std::endian::native == std::endian::little)) {
    auto* first = reinterpret_cast<unsigned char*>(&word);
    std::reverse(first, first + sizeof word);
  }
  return word;
}

constexpr std::array<std::pair<const char*, SampleCoding>, 6> kCodings{
    {{"cf32_le", SampleCoding::cf32_le},
     {"cf32_be", SampleCoding::cf32_be},
     {"ci16_le", SampleCoding::ci16_le},
     {"ci16_be", SampleCoding::ci16_be},
     {"rf32_le", SampleCoding::rf32_le},
     {"rf32_be", SampleCoding::rf32_be}}};

bool is_whole(SampleCoding coding) {
  return coding == SampleCoding::ci16_le || coding == SampleCoding::ci16_be;
}

bool is_big_endian(SampleCoding coding) {
  return coding == SampleCoding::cf32_be || coding == SampleCoding::ci16_be ||
         coding == SampleCoding::rf32_be;
}

}  // namespace

double number_reply(std::string_view text, const std::string& subject) {
  std::string_view digits = trimmed(text);
  if (!digits.empty() && digits.front() == '+') digits.remove_prefix(1);
  double value = 0.0;
  const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
  if (digits.empty() || error != std::errc() || end != digits.data() + digits.size() ||
      !std::isfinite(value))
    refuse_reply(subject,
                 fmt::format("a number was expected, \u201c{}\u201d came", shortened(text)),
                 "Test the instrument and compare its profile");
  if (std::abs(std::abs(value) - kOverRange) < 1e34)
    refuse_reply(subject, "it says over range", "Reduce the level or choose a higher range");
  if (std::abs(value) > kOverRange)
    refuse_reply(subject, "it has no valid reading", "Measure it again");
  return value;
}

std::vector<double> numbers_reply(std::string_view text, const std::string& subject) {
  std::vector<double> out;
  while (true) {
    const auto comma = text.find(',');
    out.push_back(number_reply(text.substr(0, comma), subject));
    if (comma == std::string_view::npos) return out;
    text.remove_prefix(comma + 1);
  }
}

bool switch_reply(std::string_view text, const std::string& subject) {
  const std::string_view word = trimmed(text);
  if (word == "1" || word == "ON") return true;
  if (word == "0" || word == "OFF") return false;
  refuse_reply(subject, fmt::format("on or off was expected, \u201c{}\u201d came", shortened(text)),
               "Test the instrument and compare its profile");
}

ErrorReply error_reply(std::string_view text, const std::string& subject) {
  const auto comma = text.find(',');
  ErrorReply reply;
  reply.code =
      static_cast<int>(std::clamp(number_reply(text.substr(0, comma), subject), -1e6, 1e6));
  if (comma == std::string_view::npos) return reply;
  std::string_view words = trimmed(text.substr(comma + 1));
  if (words.size() >= 2 && words.front() == '"' && words.back() == '"')
    words = words.substr(1, words.size() - 2);
  reply.text = shortened(words);
  return reply;
}

SampleCoding sample_coding_from_name(const std::string& name) {
  for (const auto& [known, coding] : kCodings) {
    if (name == known) return coding;
  }
  throw InputError("profile", "coding", "\u201c" + name + "\u201d is not known",
                   "Use cf32_le, cf32_be, ci16_le, ci16_be, rf32_le or rf32_be");
}

std::size_t bytes_per_value(SampleCoding coding) {
  return is_whole(coding) ? 2 : 4;
}

void decode_samples(const std::vector<char>& block, SampleCoding coding, const std::string& subject,
                    std::vector<float>& out) {
  const std::size_t size = bytes_per_value(coding);
  const bool is_complex = coding != SampleCoding::rf32_le && coding != SampleCoding::rf32_be;
  const std::size_t frame = size * (is_complex ? 2 : 1);
  if (block.empty() || block.size() % frame != 0)
    refuse_reply(
        subject,
        fmt::format("a block of {} bytes does not hold whole samples of {}", block.size(), frame),
        "Compare the coding in its profile");
  out.resize(block.size() / size);
  const bool is_big = is_big_endian(coding);
  bool is_finite = true;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const char* at = block.data() + i * size;
    out[i] = is_whole(coding) ? static_cast<float>(word_at<std::int16_t>(at, is_big)) / 32768.0F
                              : word_at<float>(at, is_big);
    is_finite = is_finite && std::isfinite(out[i]);
  }
  if (!is_finite)
    refuse_reply(subject, "a sample is not a number", "Compare the coding in its profile");
}

}  // namespace heron
