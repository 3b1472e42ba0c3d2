#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// Numbers as instruments write them (IEEE 488.2 NR1 to NR3). SCPI's 9.9E37 means over range and
/// 9.91E37 "not a number": both are refused with those words, as is anything else. InputError names
/// `subject`.
double number_reply(std::string_view text, const std::string& subject);
/// Separated by commas.
std::vector<double> numbers_reply(std::string_view text, const std::string& subject);
/// 1, 0, ON or OFF.
bool switch_reply(std::string_view text, const std::string& subject);

/// "-113,"Undefined header"" in two parts; code 0 is "no error".
struct ErrorReply {
  int code = 0;
  std::string text;
};
ErrorReply error_reply(std::string_view text, const std::string& subject);

/// How samples lie in a block.
enum class SampleCoding { cf32_le, cf32_be, ci16_le, ci16_be, rf32_le, rf32_be };
SampleCoding sample_coding_from_name(const std::string& name);  ///< InputError if unknown
std::size_t bytes_per_value(SampleCoding coding);
/// Values of a block, full scale = 1 for whole numbers; `out` keeps its memory. InputError if the
/// block does not hold whole values, or one is not a number.
void decode_samples(const std::vector<char>& block, SampleCoding coding, const std::string& subject,
                    std::vector<float>& out);

}  // namespace heron
