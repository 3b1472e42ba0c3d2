#pragma once

#include <cstdint>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/method/analysis.h"
#include "core/quantity/figure.h"

namespace heron {

/// Where a reading came from.
enum class ReadingSource { typed, live, imported, derived };
/// When it was read, of the step: several of one quantity are normal.
enum class ReadingRole { before, at, after };

/// One scalar that somebody or something read.
struct Reading {
  std::int64_t id = 0;   ///< 0 = not kept yet
  std::string quantity;  ///< id of a reading field: "output", "supply_voltage", "im3"
  double value = 0.0;
  std::string unit;
  double u = 0.0;  ///< standard uncertainty, in the unit; 0 = not stated
  std::string convention = {};
  Bound bound = Bound::none;
  std::string typed = {};  ///< as it was typed, where it was
  ReadingSource source = ReadingSource::typed;
  ReadingRole role = ReadingRole::at;
  std::string at = {};          ///< UTC, ISO 8601; empty = not known
  std::string instrument = {};  ///< what showed it
  bool is_provisional = false;
};

/// Under what a step, or one recording on it, was taken.
struct Condition {
  std::string quantity;  ///< id of a condition field: "frequency", "added_attenuation"
  double value = 0.0;
  std::string unit;
  std::string typed = {};

  bool operator==(const Condition&) const = default;
};

/// A moment with words on the time axis of a test.
struct Event {
  std::int64_t id = 0;
  std::string at;  ///< UTC, ISO 8601
  std::string text;
};

/// A long log of one quantity; grows while it is taken.
struct Series {
  struct Sample {
    double seconds = 0.0;  ///< since it was started
    double value = 0.0;
  };
  std::int64_t id = 0;
  std::string quantity;
  std::string unit;
  std::string instrument;
  std::string started_at;  ///< UTC, ISO 8601
  std::vector<Sample> samples;
  std::vector<Remark> remarks = {};  ///< what was mended or left out when it was read from a file
};
using SeriesPtr = std::shared_ptr<const Series>;

/// The recording of a step once more, with more attenuation before the recorder: what falls by more
/// than that is the recorder's own.
struct SecondTake {
  AnalysisPtr analysis = nullptr;
  double added_db = 0.0;
  std::optional<Chain> path = std::nullopt;
};

/// One step of a test with everything that was read at it.
struct EvidenceStep {
  std::string label;
  std::vector<Condition> conditions;
  std::vector<Reading> readings;             ///< in the order they were kept
  std::vector<SeriesPtr> series = {};        ///< logs, in the order they were begun
  AnalysisPtr analysis = nullptr;            ///< of its recording, by the method
  std::optional<Chain> path = std::nullopt;  ///< what that was made through; else as recorded
  std::optional<SecondTake> second_take = std::nullopt;
  std::vector<AnalysisPtr> repeats = {};  ///< the same recorded once again, on the same hook-up
  bool is_damaged = false;                ///< part of it cannot be read
  std::optional<Figure> beside = std::nullopt;  ///< of `Method::beside` at a step of this name
};

struct Evidence;
/// A test of another kind in the same evaluation.
struct Neighbour {
  std::string method;
  std::shared_ptr<const Evidence> evidence;
  long long test = 0;  ///< which it is, for who opens it
};
/// What the tested device drives, with tests of the same kind of it.
struct DrivenDevice {
  std::string name;
  std::shared_ptr<const Evidence> alone;  ///< its steps are called like their drive
  std::shared_ptr<const Evidence> both;   ///< of both together; nullptr = not measured
};

/// What was done and read in one test, whatever it measures.
struct Evidence {
  nlohmann::json settings;  ///< of the test, by the method's own fields
  std::optional<Limit> limit;
  std::vector<EvidenceStep> steps;
  std::vector<Event> events = {};
  std::optional<Drive> drive = std::nullopt;            ///< as planned
  std::optional<double> most_drive_dbm = std::nullopt;  ///< that the device's input takes
  std::optional<Chain> hookup = std::nullopt;  ///< for what is read next, and for what was typed
  std::string convention = {};  ///< that ratios are shown in; empty = as the method usually does
  std::optional<DrivenDevice> driven = std::nullopt;
  std::shared_ptr<const Evidence> compared = nullptr;  ///< another test of this kind
  std::string compared_name = {};                      ///< "Ruff 23, before the new bias"
  bool is_compared_on_same =
      false;  ///< both were read in the same way: what that is off by cancels
  std::shared_ptr<const Evidence> companion = nullptr;  ///< of `Method::companion`
  std::vector<Neighbour> neighbours = {};               ///< of `Method::sees`
  std::optional<Figure> linear_output = std::nullopt;  ///< of another test, `Method::linear_output`
};

/// The last reading of a quantity and role; nullptr if there is none.
const Reading* find_reading(const std::vector<Reading>& readings, const std::string& quantity,
                            ReadingRole role = ReadingRole::at);
/// A reading as a figure; its uncertainty is called by what it was read with.
Figure to_figure(const Reading& reading, const std::string& label);

/// The first condition of a quantity; nullptr if there is none.
const Condition* find_condition(const std::vector<Condition>& conditions,
                                const std::string& quantity);

std::string source_name(ReadingSource source);  ///< "typed"
std::string role_name(ReadingRole role);        ///< "before"
std::string bound_name(Bound bound);            ///< "upper"; empty = none
/// The reverse; InputError if unknown.
ReadingSource source_from_name(const std::string& name);
ReadingRole role_from_name(const std::string& name);
Bound bound_from_name(const std::string& name);

}  // namespace heron
