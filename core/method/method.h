#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/csv_table.h"
#include "core/judge/mask.h"
#include "core/method/evidence.h"
#include "core/method/result.h"
#include "core/method/run_recipe.h"
#include "core/progress.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/capture.h"
#include "core/signal/trace_csv.h"

namespace heron {

/// One thing that is typed of a step, as a column of the grid of readings.
struct TypedField {
  enum class Kind { reading, condition };
  Kind kind = Kind::reading;
  std::string_view quantity = {};  ///< id of what is kept
  ReadingRole role = ReadingRole::at;
  std::string_view head = {};  ///< "Output, cold"
  std::string_view hint = {};  ///< what it means and where it is read
  Quantity asked = Quantity::level;
  std::string_view unit = {};        ///< it is kept in
  std::string_view typed_unit = {};  ///< of a bare number; empty = `unit`
  std::string_view convention = {};
  double u = 0.0;              ///< standard uncertainty of a typed one, in `unit`
  double u_relative = 0.0;     ///< and as a share of it
  int width = 90;              ///< px
  std::string_view live = {};  ///< what an instrument shows for it, of `live_quantities`
  bool is_two_tone = false;    ///< a level is that of two equal tones
  std::string_view csv = {};   ///< its columns in a file: "pout_dbm|pout_w"; empty = none
  /// How it is read where a quantity alone does not say; InputError with what works.
  Reading (*read)(const TypedField& field, const std::string& typed,
                  const std::string& convention) = nullptr;
  /// On the keyboard, of the chosen step: what is typed then.
  struct Key {
    char key = 0;
    std::string_view typed = {};
  };
  std::vector<Key> keys = {};
};

/// One of the things that a setting may be.
struct SettingChoice {
  std::string_view id = {};
  std::string_view words = {};
  std::string_view file = {};  ///< it needs a recording of the user's own, kept as "FILE_hash"
};

/// Lines of text that mean something; each InputError names the line.
struct SettingText {
  nlohmann::json (*parse)(const std::string& text) = nullptr;
  std::string (*written)(const nlohmann::json& kept) = nullptr;     ///< the reverse
  std::string (*understood)(const nlohmann::json& kept) = nullptr;  ///< "3 lines. The last: ..."
};

/// One thing that is set for a whole test, kept under its key among the method's settings.
struct SettingField {
  enum class Kind { choice, quantity, range, flag, text };
  Kind kind = Kind::choice;
  std::string_view key = {};
  std::string_view group = {};  ///< what it is offered under; empty = by itself
  std::string_view head = {};   ///< "Channel width"; of a flag what it says
  std::string_view hint = {};
  std::vector<SettingChoice> choices = {};
  Quantity asked = Quantity::frequency;
  std::string_view unit = {};
  std::string_view typed_unit = {};  ///< of a bare number; empty = none
  std::string_view typed_key = {};   ///< where what was typed is kept
  std::string_view none = {};        ///< says that it is left open; empty = it cannot be
  std::string_view example = {};     ///< while it is open
  SettingText text = {};
  bool is_evidence = false;    ///< stands with the recordings, not with the settings
  bool is_two_tone = false;    ///< a level is that of two equal tones
  std::string_view view = {};  ///< it belongs to this view of the result; empty = to all
  bool is_switch = false;      ///< of a choice: chosen often, so it stands beside the others
  char key_press = 0;          ///< on the keyboard, for its next choice; 0 = none
};

/// What somebody typed into a cell of a table of results. A row behind the last is a new one; a
/// name that was emptied takes its row away.
struct TypedCell {
  std::size_t row = 0;
  std::string column;  ///< id
  std::string typed;
  std::optional<std::pair<double, double>> span = std::nullopt;  ///< dragged instead of typed
};

/// Steps that a test of this kind is usually made of, with the settings that go with them.
struct StepPlan {
  std::string words;  ///< "Plan the carrier and harmonics 2 to 7"
  std::vector<std::string> steps;
  nlohmann::json settings;  ///< all of the test's
};

/// What is known of a recording or trace before it is analysed.
struct TakeContext {
  nlohmann::json settings;  ///< of the test
  std::string step;         ///< what its step is called
  std::optional<Drive> drive;
  std::optional<double> full_scale_dbm;  ///< of what took it
  std::optional<TimeSpan> part;          ///< that somebody chose; else the method finds it
};

/// What instruments read again and again; nothing is keyed.
struct LogRecipe {
  /// A step of the test at which a step attenuator stands so.
  struct Stop {
    std::string step;
    double attenuation_db = 0.0;
  };
  std::string stop_condition;  ///< as which its attenuation is kept
  std::vector<Stop> stops;     ///< one after the other; empty = one long log
  std::size_t readings = 5;    ///< at each stop
  double settle_s = 2.0;       ///< before them
  std::optional<double> reference_dbm = std::nullopt;  ///< of an outside reference, nothing added
  std::vector<std::string> quantities;  ///< of `live_quantities`; the first has to answer
  double every_s = 1.0;
  double length_s = 600.0;                          ///< without stops
  std::optional<double> nominal_hz = std::nullopt;  ///< what is counted should be
  std::optional<double> tone_hz = std::nullopt;     ///< what is heard should be
  bool is_upper = true;                             ///< sideband of it
  std::string step;                                 ///< that a new log goes to, if it has none yet
  std::string refusal;                              ///< why it cannot be; empty = it can
  std::string what_to_do;
};

/// What is asked for a limit of a test.
struct LimitField {
  std::string head = {};
  std::string hint = {};
  std::string label = {};
  std::string example = {};
  Quantity asked = Quantity::power;
  std::string unit = {};
  Sense sense = Sense::at_least;
  std::string convention = {};
  bool is_depth = false;          ///< a magnitude, whichever sign it is typed with
  double span = 20.0;             ///< full scale of the margin line, at least
  double span_share = 0.0;        ///< and at least this share of the limit
  std::vector<Limit> usual = {};  ///< to choose from
};
/// The limit that somebody typed.
Limit limit_of(const LimitField& field, double value, const std::string& typed);

/// What ratios may be relative to.
struct Convention {
  std::string_view id;     ///< "re PEP"
  std::string_view words;  ///< "PEP"
};

/// One row: all that is special of what a test measures. Whatever else reads, shows, prints and
/// keeps a test does it through this.
struct Method {
  std::string_view id = {};
  std::string_view step_head = {};     ///< what a step is called: "Band and setting"
  std::string_view step_example = {};  ///< "14 MHz, full power"
  std::string_view first_step = {};    ///< that a new test begins with; empty = none
  std::vector<TypedField> fields = {};
  std::string_view settings_key = {};  ///< where its settings are among those of a test
  std::vector<SettingField> settings = {};
  nlohmann::json (*usual_settings)() = nullptr;  ///< all of them, by their keys
  /// All of a test's, as older versions kept them, in today's places; nullptr = they never moved.
  nlohmann::json (*renewed_settings)(nlohmann::json settings) = nullptr;
  /// The most telling of them in a word or two.
  std::string (*setting_words)(const Evidence& evidence) = nullptr;
  /// Why settings cannot be; empty if they can. Each takes all settings of a test.
  std::string (*check)(const nlohmann::json& settings) = nullptr;
  /// What a bare number in a column is in with these settings, empty where it is not asked for;
  /// nullptr = what the field says.
  std::string_view (*bare_unit)(const TypedField& field, const nlohmann::json& settings) = nullptr;
  LimitField (*limit)(const Evidence& evidence) = nullptr;
  std::vector<Convention> conventions = {};  ///< to choose from; the last is the usual one
  /// Where limits are a mask instead: the one in force. Kept among the settings as "mask": absent =
  /// the usual one, null = none.
  Mask (*mask)(const Evidence& evidence) = nullptr;
  std::string_view caution = {};  ///< before anything is keyed; empty = none of its own
  std::string_view caution_head = "Before keying";
  std::string_view beside = {};     ///< method whose figure at a step of the same name is shown too
  std::string_view companion = {};  ///< method whose first test in the same evaluation is seen too
  /// Methods whose tests in the same evaluation are seen too, all of them.
  std::vector<std::string_view> sees = {};
  // Recordings, where they are evidence of it: how one is analysed, in the background, and how what
  // it said is read again (InputError if damaged).
  std::string_view record = {};         ///< what the shack calls its records
  std::string_view record_format = {};  ///< what they call themselves
  nlohmann::json (*analyse)(const CaptureOpener& open, const TakeContext& context,
                            const Progress& progress, const std::stop_token& stop) = nullptr;
  nlohmann::json (*analyse_trace)(const SpectrumTrace& trace, const TakeContext& context) = nullptr;
  /// Of a table in a file whose columns are the method's own; null = it is none of these.
  nlohmann::json (*analyse_table)(const CsvTable& table, const TakeContext& context) = nullptr;
  AnalysisPtr (*read_record)(const nlohmann::json& record) = nullptr;
  /// A record with what it lacks written into it as it is planned now, so that another plan does
  /// not alter its figures; null = it lacks nothing.
  nlohmann::json (*pinned)(const nlohmann::json& record, const Drive& drive) = nullptr;
  /// All recordings together are one answer: rows are what was found, not the steps.
  bool is_joint = false;
  bool is_typed_first = false;  ///< although recordings are evidence too
  std::string (*evidence_words)(const Evidence& evidence) = nullptr;  ///< "3 recordings, 2 typed"
  std::string_view step_hint = {};  ///< what the name of a step is used for
  /// What a recording with more attenuation before the recorder tells; empty = nothing.
  std::string_view self_test_hint = {};
  /// What is known of other tests is worked out further: nothing is hooked up for it.
  bool is_calculated = false;
  bool has_repeats = false;           ///< the same recorded again says how well it repeats
  bool has_live_view = false;         ///< what comes out can be looked at while it is adjusted
  std::string_view driven_view = {};  ///< where what it drives is shown; empty = never
  /// What it has to be set to so that what it drives gives an output, and what that comes to;
  /// InputError if that was not measured.
  SettingProposal (*for_output)(const Evidence& evidence, double wanted_dbm) = nullptr;
  StepPlan (*plan)(const Evidence& evidence) = nullptr;
  /// All settings of the test after a cell of its results was typed into; InputError with what
  /// works.
  nlohmann::json (*cell_typed)(const Evidence& evidence, const TypedCell& cell) = nullptr;
  /// All settings of the test after a value was tried that is not built, of the result's
  /// `what_ifs`; InputError with what works.
  nlohmann::json (*tried)(const Evidence& evidence, const WhatIfMove& move) = nullptr;
  /// All settings of the test after something was done from one second of its recording to another,
  /// noted while it was taken; nullptr = that is not noted.
  nlohmann::json (*event_noted)(const Evidence& evidence, double from_s, double to_s,
                                const std::string& words) = nullptr;
  /// The highest output at which its limit is met, dBm PEP, a lower bound where that was not
  /// reached, with the limit as its label; nullopt where that was not measured.
  std::optional<Figure> (*linear_output)(const Evidence& evidence) = nullptr;
  bool shows_linear_output = false;  ///< that of another test in the same evaluation
  bool compares_tests = false;       ///< with another test of its kind, of this device or another
  bool is_gate = false;  ///< nothing else of its evaluation is keyed while one of its steps is open
  /// How long a step stays keyed between its readings at and after, s; nullptr = there are none.
  double (*hold_s)(const EvidenceStep& step) = nullptr;
  /// What a file of times and values holds, as logs of a step; InputError with what works. nullptr
  /// = files are rows of readings.
  std::vector<Series> (*read_log)(const CsvTable& table, const Evidence& evidence) = nullptr;
  LogRecipe (*log)(const Evidence& evidence) = nullptr;  ///< nullptr = nothing is logged live
  /// What instruments do at each step; nullptr = it cannot be run on them.
  RunRecipe (*run)(const Evidence& evidence) = nullptr;
  /// Why the step of that name must not be keyed after what was measured; empty = it may.
  std::string (*stop_before)(const Evidence& evidence, const std::string& step) = nullptr;
  Result (*evaluate)(const Evidence& evidence) = nullptr;
};

/// All that have a row, in the order of the characteristics.
std::span<const Method* const> methods();
/// The method of a test; nullptr of one that has no row here.
const Method* find_method(std::string_view id);
/// The method whose records call themselves so; nullptr if none here does.
const Method* find_method_of_record(std::string_view format);

/// The convention of a test's figures; empty where the method has none.
std::string convention_of(const Method& method, const Evidence& evidence);
bool has_convention(const Method& method, const std::string& convention);

/// What was typed with its unit, where a bare number means one that the settings choose: kept so,
/// it stays what it is when they change.
std::string with_bare_unit(const Method& method, const TypedField& field,
                           const nlohmann::json& settings, const std::string& typed);

/// What was typed for a field as a reading or condition; InputError with what works.
Reading read_typed(const TypedField& field, const std::string& typed,
                   const std::string& convention = {});
Condition condition_typed(const TypedField& field, const std::string& typed);
/// What stands in a field of a step, as it was typed or as it would be; empty = nothing.
std::string typed_in(const TypedField& field, const EvidenceStep& step);

}  // namespace heron
