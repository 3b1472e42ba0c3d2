#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/judge/limit.h"
#include "core/judge/verdict.h"
#include "core/quantity/figure.h"
#include "store/shack.h"

namespace heron {

/// How an evaluation was ended.
struct EvaluationEnd {
  std::string at;
  bool is_partial = false;  ///< not everything was measured that was wanted
  std::string reason = {};  ///< why not
  std::string next = {};    ///< what comes next; empty = nothing

  std::string words() const;  ///< "Ended in part: no dummy load. Next: borrow one"
};

/// One job on one device.
struct Evaluation {
  Id id = 0;
  Id device_id = 0;
  std::string title;
  std::string started_at;
  std::string goal = {};  ///< what it is to find out, in a sentence
  std::optional<EvaluationEnd> end = std::nullopt;
};

/// What the rail and the shack show of a test without opening it.
struct Headline {
  Figure figure;   ///< contributions folded into one
  std::string at;  ///< "30 W"
  std::string taken_at;
  Judgement judgement;
  std::optional<Limit> limit = std::nullopt;  ///< where it is not the test's: from a mask
  bool is_provisional = false;                ///< it is to be repeated
};

/// One item on the course.
struct Test {
  Id id = 0;
  Id evaluation_id = 0;
  int position = 0;
  std::string characteristic;  ///< id in the method table
  std::string title;
  std::string hookup;      ///< how device and recorder are connected, in words
  std::string conditions;  ///< supply, band, settings, in words
  std::string convention;  ///< shown convention
  nlohmann::json settings = nlohmann::json::object();
  std::optional<Limit> limit;
  std::optional<Headline> headline;
  std::string note;
  std::string signed_by;
  std::string signed_at;
  Id hookup_id = 0;            ///< 0 = only the words above
  std::optional<Drive> drive;  ///< what is planned to be put into it
  Id amplifier_test_id = 0;  ///< a ladder of the amplifier that this device drives, measured alone
  Id pair_test_id = 0;       ///< and of both together
  std::string damage = {};   ///< which parts of its record cannot be read; they count as not there
  bool is_signed() const { return !signed_at.empty(); }
  /// What its headline is judged by.
  std::optional<Limit> headline_limit() const {
    return headline && headline->limit ? headline->limit : limit;
  }
};

std::vector<Evaluation> evaluations(const Shack& shack, Id device);
Evaluation evaluation(const Shack& shack, Id id);
/// Keeps the rows, so that they can come back.
void set_evaluation_removed(Shack& shack, Id id, bool removed);
void set_evaluation_title(Shack& shack, Id id, const std::string& title);
void set_evaluation_goal(Shack& shack, Id id, const std::string& goal);
void set_evaluation_end(Shack& shack, Id id, const std::optional<EvaluationEnd>& end);
nlohmann::json to_json(const EvaluationEnd& end);
/// InputError if damaged.
EvaluationEnd evaluation_end_from_json(const nlohmann::json& from);
/// False once it, or its device, was removed.
bool is_evaluation_there(const Shack& shack, Id id);
Id add_evaluation(Shack& shack, Id device, const std::string& title,
                  const std::string& started_at = "");

std::vector<Test> tests(const Shack& shack, Id evaluation);
Test test(const Shack& shack, Id id);
/// Appended to the course; position and id of `test` are ignored.
Id add_test(Shack& shack, const Test& test);
void set_test_removed(Shack& shack, Id id, bool removed);
void set_test_title(Shack& shack, Id id, const std::string& title);
/// Tests of one evaluation, in the order in which they shall stand.
void set_test_order(Shack& shack, const std::vector<Id>& order);
void set_test_note(Shack& shack, Id id, const std::string& note);
void set_test_hookup(Shack& shack, Id id, const std::string& hookup);
void set_test_conditions(Shack& shack, Id id, const std::string& conditions);
void set_test_convention(Shack& shack, Id id, const std::string& convention);
void set_test_settings(Shack& shack, Id id, const nlohmann::json& settings);
void set_test_limit(Shack& shack, Id id, const std::optional<Limit>& limit);
void set_test_hookup_id(Shack& shack, Id id, Id hookup);  ///< 0 = none
void set_test_drive(Shack& shack, Id id, const std::optional<Drive>& drive);
void set_test_driving(Shack& shack, Id id, Id amplifier_test, Id pair_test);  ///< 0 = none
void set_test_headline(Shack& shack, Id id, const std::optional<Headline>& headline);
/// Empty name takes the signature back.
void sign_test(Shack& shack, Id id, const std::string& name, const std::string& at);

}  // namespace heron
