#include "report/document.h"

namespace heron {

std::vector<std::string> reading_rules() {
  return {
      "\u00b1 is the 95 % interval (expanded uncertainty, k = 2). \u2264 marks an upper bound: "
      "noise hides the value, "
      "which is at most this.",
      "A figure passes only if its whole interval is on the good side of the limit, and fails only "
      "if the whole is on "
      "the bad side; else it is too close to call.",
      "dB re one tone: relative to the mean power of the two equal tones. dB re PEP: relative to "
      "peak envelope power, "
      "6.02 dB lower for equal tones.",
      "Odd products of the audio source itself fall on the upper products of a transmitter: its "
      "own purity must be known.",
  };
}

std::string readable_time(const std::string& utc) {
  if (utc.size() < 16 || utc[10] != 'T') return utc;
  return utc.substr(0, 10) + " " + utc.substr(11, 5) + " UTC";
}

}  // namespace heron
