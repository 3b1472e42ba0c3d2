#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/judge/remark.h"
#include "core/quantity/figure.h"

namespace heron {

inline constexpr double kSUnitDb = 6.0;  ///< of level, below S9

/// What an indicator shows: S units and dB over S9, or so many segments of a bar.
struct IndicatorReading {
  bool is_segments = false;
  double db = 0.0;  ///< of S units: re S9, 6 dB a unit below it
  double segments = 0.0;
  double s_units() const { return db < 0.0 ? 9.0 + db / kSUnitDb : 9.0; }
};
/// "S7", "s 8.5", "S9+10", "9+20 dB", "+20", "6" (segments). InputError with what works.
IndicatorReading parse_indicator(std::string_view text);
/// "S7.3", "S9+12"; whole where it is.
std::string indicator_text(double reading_db);

/// One level at the input and what is shown for it.
struct IndicatorPoint {
  double level_dbm = 0.0;
  double u_db = 0.0;  ///< standard, of the level and of how it is read
  IndicatorReading reading;
  std::optional<double> goes_out_dbm =
      std::nullopt;                ///< of a segment: where it goes out coming down
  bool is_without_signal = false;  ///< lit all the time: unjudged
};

/// Between two readings.
struct IndicatorSlope {
  double from_db = 0.0;  ///< readings re S9
  double to_db = 0.0;
  double db_per_unit = 0.0;  ///< of level: per S unit, over S9 per 10 dB that is shown
  bool is_over_s9 = false;
};

/// Where it shows too much or too little by more than its U.
struct IndicatorRange {
  bool is_generous = false;
  double from_db = 0.0;  ///< readings re S9
  double to_db = 0.0;
};

struct IndicatorScale {
  std::vector<IndicatorPoint> points;  ///< rising in level
  std::vector<double> errors_db;       ///< indicated less true, one a point
  std::optional<Figure> s9;            ///< level at which it shows S9, dBm; nullopt = not enclosed
  std::optional<Figure> s9_error;      ///< the true S9 less that: above 0 it comes too early
  std::vector<IndicatorSlope> slopes;
  std::vector<IndicatorRange> ranges;
  bool is_segments = false;
  std::vector<Remark> remarks;
};
/// The scale of one band against S9 = `s9_dbm`. InputError where S units and segments are mixed, or
/// there are fewer than two readings.
IndicatorScale indicator_scale(std::vector<IndicatorPoint> points, double s9_dbm);

/// The level that a reading means by its measured scale; nullopt outside of it.
std::optional<double> level_of_reading(const IndicatorScale& scale, double reading_db);

/// Of a level change that was read off the indicator: what it truly is, as its own scale was
/// measured there. nullopt outside.
std::optional<Figure> true_change(const IndicatorScale& scale, double from_db, double to_db);

/// "generous from S6: shows too much; stingy up to S5: shows too little"; empty where it is right.
std::string range_words(const IndicatorScale& scale);

inline constexpr double kS9Hf = -73.0;   ///< dBm, 50 uV PD (IARU Region 1)
inline constexpr double kS9Vhf = -93.0;  ///< from 30 MHz on
double usual_s9_dbm(double frequency_hz);

}  // namespace heron
