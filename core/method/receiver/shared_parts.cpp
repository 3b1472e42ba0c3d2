#include "core/method/receiver/shared_parts.h"

#include <algorithm>
#include <cmath>
#include <sstream>

#include "core/error.h"
#include "core/method/place_name.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr double kSameBand = 0.06;

std::string listed(const std::vector<std::string>& all) {
  std::string words;
  for (std::size_t i = 0; i < all.size(); ++i)
    words += (i == 0 ? "" : i + 1 == all.size() ? " and " : ", ") + all[i];
  return words;
}

std::string capitalised(std::string words) {
  if (!words.empty() && words.front() >= 'a' && words.front() <= 'z')
    words.front() = static_cast<char>(words.front() - 'a' + 'A');
  return words;
}

bool has_part(const BandParts& band, const std::string& part) {
  return std::any_of(band.parts.begin(), band.parts.end(),
                     [&](const std::string& p) { return lower_case(p) == lower_case(part); });
}

}  // namespace

bool is_same_band(double a_hz, double b_hz) {
  return a_hz > 0.0 && b_hz > 0.0 && std::abs(a_hz / b_hz - 1.0) < kSameBand;
}

std::vector<BandParts> parse_band_parts(const std::string& text) {
  std::vector<BandParts> all;
  std::istringstream lines(text);
  std::size_t number = 0;
  for (std::string line; std::getline(lines, line);) {
    ++number;
    const std::string typed = normalised_typing(line);
    if (typed.empty()) continue;
    const auto refuse = [&](const std::string& why) {
      throw InputError("line " + std::to_string(number), "", why,
                       "Type it like \u201c21.2 MHz: X6, coil E, switch 3\u201d");
    };
    const auto colon = typed.find(':');
    if (colon == std::string::npos) refuse("it has no colon behind the band");
    BandParts band;
    band.band = normalised_typing(typed.substr(0, colon));
    const auto hz = named_frequency_hz(band.band);
    if (!hz) refuse("its band is no frequency");
    band.frequency_hz = *hz;
    std::istringstream parts(typed.substr(colon + 1));
    for (std::string part; std::getline(parts, part, ',');)
      if (const std::string name = normalised_typing(part); !name.empty())
        band.parts.push_back(name);
    if (band.parts.empty()) refuse("it names no part");
    all.push_back(std::move(band));
  }
  return all;
}

std::string band_parts_text(const std::vector<BandParts>& all) {
  std::string text;
  for (const BandParts& band : all) {
    text += band.band + ":";
    for (std::size_t i = 0; i < band.parts.size(); ++i)
      text += (i == 0 ? " " : ", ") + band.parts[i];
    text += "\n";
  }
  return text;
}

nlohmann::json to_json(const std::vector<BandParts>& all) {
  nlohmann::json out = nlohmann::json::array();
  for (const BandParts& band : all) out.push_back({band.band, band.frequency_hz, band.parts});
  return out;
}

std::vector<BandParts> band_parts_from_json(const nlohmann::json& from) {
  std::vector<BandParts> all;
  if (!from.is_array()) return all;
  for (const nlohmann::json& one : from) all.push_back({one.at(0), one.at(1), one.at(2)});
  return all;
}

Suspects suspects_of(std::size_t deaf, const std::vector<BandParts>& all,
                     const std::vector<Hearing>& hears) {
  Suspects s;
  for (const std::string& part : all[deaf].parts) {
    std::vector<std::string> by;
    for (std::size_t i = 0; i < all.size(); ++i)
      if (i != deaf && hears[i] == Hearing::hears && has_part(all[i], part))
        by.push_back(all[i].band);
    if (by.empty())
      s.suspect.push_back(part);
    else
      s.cleared.emplace_back(part, std::move(by));
  }
  return s;
}

std::pair<std::string, std::string> suspect_words(const std::string& band, const Suspects& s) {
  std::string words;
  if (s.suspect.empty()) {
    words = "All that " + band + " uses serves a band that hears, too: look at what joins it.";
  } else {
    words = capitalised(listed(s.suspect)) + (s.suspect.size() == 1 ? " serves " : " serve ") +
            "no band that " + "hears: check " + (s.suspect.size() == 1 ? "it" : "them") + " first.";
  }
  std::vector<std::string> parts;
  std::vector<std::string> bands;
  for (const auto& [part, by] : s.cleared) {
    parts.push_back(part);
    for (const std::string& b : by)
      if (std::find(bands.begin(), bands.end(), b) == bands.end()) bands.push_back(b);
  }
  if (parts.empty()) return {words, ""};
  return {words, capitalised(listed(parts)) +
                     (parts.size() == 1 ? " also serves " : " also serve ") + listed(bands) +
                     ", which " + (bands.size() == 1 ? "hears." : "hear.")};
}

const BandParts* parts_of(std::optional<double> frequency_hz, const std::vector<BandParts>& all) {
  const auto own = std::find_if(all.begin(), all.end(), [&](const BandParts& p) {
    return frequency_hz && is_same_band(*frequency_hz, p.frequency_hz);
  });
  return own == all.end() ? nullptr : &*own;
}

std::optional<Suspects> suspects_at(std::optional<double> frequency_hz,
                                    const std::vector<BandParts>& all,
                                    const std::vector<TriedBand>& tried) {
  const BandParts* own = parts_of(frequency_hz, all);
  if (own == nullptr) return std::nullopt;
  std::vector<Hearing> hears(all.size(), Hearing::unknown);
  for (std::size_t i = 0; i < all.size(); ++i)
    for (const TriedBand& t : tried)
      if (is_same_band(t.frequency_hz, all[i].frequency_hz)) hears[i] = t.hearing;
  return suspects_of(static_cast<std::size_t>(own - all.data()), all, hears);
}

Remark deaf_remark(const std::string& band, std::optional<double> frequency_hz,
                   const std::vector<BandParts>& all, const std::vector<TriedBand>& tried) {
  const auto suspects = suspects_at(frequency_hz, all, tried);
  if (!suspects)
    return {"deaf", Severity::note, band + " hears nothing.",
            "Enter what the bands share, to see what it alone uses"};
  const auto [first, why] = suspect_words(band, *suspects);
  return {"suspect", Severity::note,
          band + " hears nothing. " + first + (why.empty() ? "" : " " + why),
          "Check these parts, then read the band again"};
}

SettingField band_parts_setting(std::string_view key) {
  return {.kind = SettingField::Kind::text,
          .key = key,
          .head = "What the bands share",
          .hint =
              "A line each: \u201c21.2 MHz: X6, coil E, switch 3\u201d. A part that no "
              "band with a response uses is suspect when a band is deaf.",
          .text = {.parse = [](const std::string& text) { return to_json(parse_band_parts(text)); },
                   .written =
                       [](const nlohmann::json& kept) {
                         return band_parts_text(band_parts_from_json(kept));
                       },
                   .understood =
                       [](const nlohmann::json& kept) {
                         return std::to_string(kept.size()) +
                                (kept.size() == 1 ? " band" : " bands");
                       }}};
}

std::string band_parts_words(const nlohmann::json& own, std::string_view key) {
  const auto found = own.find(key);
  const std::size_t n = found == own.end() ? 0 : found->size();
  return n == 0 ? "not entered" : std::to_string(n) + (n == 1 ? " band" : " bands");
}

}  // namespace heron
