#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "core/method/receiver/shared_parts.h"
#include "core/method/result.h"

namespace heron {

inline constexpr const char* kGridSettings = "receiver";
inline constexpr const char* kGridParts = "parts";
inline constexpr const char* kGridFillBy = "fill_by";

/// What has to be connected for a test: those of one kind need no change between them.
enum class GridHookup { none, audio, intermediate, transmitter };

/// A column: which figures of which test it shows. The first one ranks the bands.
struct GridColumn {
  const char* method;
  const char* figure;  ///< its id; empty = any
  const char* judged;  ///< whose verdict counts; empty = its own
  const char* head;
  const char* what;  ///< "S9"
  int minutes;       ///< that one band takes
  GridHookup hookup;
  const char* new_step;  ///< behind the band in the name of a step to be added; nullptr = none is

  /// "7.1 MHz, S9"; empty where the test is opened alone.
  std::string step_of(const std::string& band) const {
    return new_step == nullptr ? std::string() : band + new_step;
  }
};
inline constexpr std::size_t kSensitivityColumn = 0;
inline constexpr std::size_t kIndicatorColumn = 1;
inline constexpr std::size_t kDialColumn = 2;
inline constexpr std::size_t kGainColumn = 3;
inline constexpr std::size_t kOutputColumn = 4;
inline constexpr std::array<GridColumn, 5> kGridColumns{
    {{"sensitivity", "sensitivity", "", "For 10 dB, dBm", "Sensitivity", 3, GridHookup::audio, ""},
     {"indicator", "s9_level", "s9_error", "S9 at, dBm", "S9", 2, GridHookup::audio, ", S9"},
     {"reference", "", "", "Dial, ppm", "Dial", 1, GridHookup::audio, nullptr},
     {"conversion", "conversion_gain", "", "IF gain, dB", "Gain", 2, GridHookup::intermediate, ""},
     {"output", "output", "", "Output, dBm", "Output power", 1, GridHookup::transmitter, ""}}};

struct GridCell {
  std::optional<Figure> figure;
  std::optional<Judgement> judgement;
  std::optional<CellLink> from;
  std::optional<Limit> limit;  ///< that it is judged by
  std::string read_at;         ///< UTC, ISO 8601; empty = not known
};
struct GridBand {
  std::string name;
  double frequency_hz = 0.0;
  std::array<GridCell, kGridColumns.size()> cells;
  std::optional<Figure> attenuator = std::nullopt;  ///< the last step of it that was substituted
  Hearing hearing() const;
};

/// What the tests of an evaluation say of a receiver, rising in frequency.
struct GridReading {
  std::vector<BandParts> parts;
  bool is_by_band = false;  ///< filled band by band, not test by test
  std::vector<GridBand> bands;
  std::array<bool, kGridColumns.size()> has_test{};
  std::array<long long, kGridColumns.size()> tests{};  ///< the last of each

  /// What no test is about has no column, but the two that every receiver has.
  bool has_column(std::size_t column) const { return column < kDialColumn || has_test[column]; }
  /// Of a deaf band nothing more can be received before it hears.
  bool is_to_do(std::size_t band, std::size_t column) const;
  std::vector<TriedBand> tried() const;  ///< of all bands, whether they hear
};
/// InputError if damaged.
GridReading read_grid(const Evidence& evidence);

}  // namespace heron
