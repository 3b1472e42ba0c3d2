#include <cstddef>
#include <cstdint>
#include <string_view>
#include <vector>

#include "core/error.h"
#include "core/scpi/command_line.h"
#include "core/scpi/reply_reader.h"
#include "core/scpi/reply_value.h"

/// Replies, cut by their own first byte, as block, line and values.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  if (size == 0) return 0;
  const std::string_view bytes(reinterpret_cast<const char*>(data) + 1, size - 1);
  const std::size_t piece = 1 + data[0] % 61;
  std::vector<char> block;
  for (const bool is_block : {true, false}) {
    try {
      heron::ReplyReader reader =
          is_block ? heron::ReplyReader::block("fuzz", block) : heron::ReplyReader::line("fuzz");
      std::size_t at = 0;
      while (at < bytes.size() && !reader.is_complete()) {
        const auto part = bytes.substr(at, piece);
        // A reader of zero bytes would never end.
        const std::size_t used = reader.feed(part);
        if (used == 0) __builtin_trap();
        at += used;
      }
      if (reader.ends_with_silence()) reader.end_by_silence();
      std::vector<float> samples;
      if (is_block && reader.is_complete())
        heron::decode_samples(block, heron::SampleCoding::ci16_be, "fuzz", samples);
      if (!is_block) heron::numbers_reply(reader.text(), "fuzz");
    } catch (const heron::InputError&) {
    }
  }
  try {
    heron::parse_commands(bytes);
    heron::error_reply(bytes, "fuzz");
  } catch (const heron::InputError&) {
  }
  return 0;
}
