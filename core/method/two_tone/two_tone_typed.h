#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/method/evidence.h"
#include "core/method/two_tone/two_tone.h"

namespace heron {

/// Where the ± of an output comes from that somebody typed without one.
inline constexpr const char* kTypedOutput = "typed output, assumed";

/// One product read off a screen by a person.
struct TypedProduct {
  int order = 3;
  std::string typed;      ///< "-31.5", "<-60"
  double level_db = 0.0;  ///< in `convention`
  std::string convention = kRePep;
  bool is_bound = false;  ///< typed as "at most"
};

/// Reads what was typed for a product: a level below the reference in dB, with or without its minus
/// sign, "< -60" or "≤ −60" for an upper bound. InputError with what works.
TypedProduct parse_product(std::string_view text, int order, const std::string& convention);

/// As it is kept: a reading "im3" to "im15" in dB below the convention's reference.
Reading to_reading(const TypedProduct& product);
/// The reverse; nullopt of any other quantity, InputError where it cannot be one.
std::optional<TypedProduct> product_from(const Reading& reading);
/// All that were typed, in the order of their orders; what cannot be one is left out.
std::vector<TypedProduct> products_of(const std::vector<Reading>& readings);

/// The readings as an analysis of two equal tones; nothing is known of sides, floor or spectrum.
/// `u_db` is the standard uncertainty of one reading.
TwoToneAnalysis analysis_from_readings(const std::vector<TypedProduct>& products, double u_db);

/// A step as typed: what the doubts look at.
struct TypedStep {
  std::string label;
  std::optional<double> output_dbm;
  std::vector<TypedProduct> products;
};

/// A question about one reading; nothing is changed by it.
struct ReadingDoubt {
  std::size_t step = 0;
  int order = 0;  ///< 0 = its output
  std::string text;
};

/// Looks for what goes wrong in reading and typing: an output that does not fit its neighbours (by
/// 6 dB: EMF read as PD; 20 dB: a 10:1 probe; 10 dB: a decimal; 3 dB: mean for peak envelope), an
/// output that falls as drive rises, a product that changes faster with output than its order can.
std::vector<ReadingDoubt> doubt_readings(const std::vector<TypedStep>& steps);

}  // namespace heron
