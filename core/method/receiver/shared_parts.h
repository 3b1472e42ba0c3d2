#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/method/method.h"

namespace heron {

/// What a band uses, as somebody knows it from the circuit: "21.2 MHz: X6, coil E, switch 3".
struct BandParts {
  std::string band;
  double frequency_hz = 0.0;
  std::vector<std::string> parts;
};
/// A line each; InputError naming the line.
std::vector<BandParts> parse_band_parts(const std::string& text);
std::string band_parts_text(const std::vector<BandParts>& all);
nlohmann::json to_json(const std::vector<BandParts>& all);
/// A json exception if damaged.
std::vector<BandParts> band_parts_from_json(const nlohmann::json& from);

/// Whether two frequencies are of one band.
bool is_same_band(double a_hz, double b_hz);

/// What may be wrong with a band that hears nothing: parts that no band with a response uses, and
/// those that one that hears clears.
struct Suspects {
  std::vector<std::string> suspect;
  std::vector<std::pair<std::string, std::vector<std::string>>> cleared;  ///< by these bands
};
/// `hears`: of each band of `all`, in its order; one that was not tried clears nothing.
enum class Hearing { unknown, hears, deaf };
Suspects suspects_of(std::size_t deaf, const std::vector<BandParts>& all,
                     const std::vector<Hearing>& hears);
/// "X6 serves no band that hears: check it first." and "Coil E also serves 24.94 MHz, which
/// hears."; the second empty where nothing is cleared.
std::pair<std::string, std::string> suspect_words(const std::string& band,
                                                  const Suspects& suspects);

/// What is said of a deaf band. Without a table of what it uses nothing is guessed.
struct TriedBand {
  double frequency_hz = 0.0;
  Hearing hearing = Hearing::unknown;
};
/// nullopt where nothing is known of what it uses.
std::optional<Suspects> suspects_at(std::optional<double> frequency_hz,
                                    const std::vector<BandParts>& all,
                                    const std::vector<TriedBand>& tried);
Remark deaf_remark(const std::string& band, std::optional<double> frequency_hz,
                   const std::vector<BandParts>& all, const std::vector<TriedBand>& tried);
/// What the table knows of a band; nullptr if nothing.
const BandParts* parts_of(std::optional<double> frequency_hz, const std::vector<BandParts>& all);

/// The setting that holds the table, and how much of it there is.
SettingField band_parts_setting(std::string_view key);
std::string band_parts_words(const nlohmann::json& own, std::string_view key);

}  // namespace heron
