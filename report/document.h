#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/judge/owner_page.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/method/result.h"

namespace heron {

struct ReportTable {
  std::string title = {};  ///< where a section has several
  std::vector<std::string> heads;
  std::vector<std::vector<std::string>> rows;
  std::vector<Verdict> verdicts;  ///< one a row; none where the last column is no verdict
  std::string note;
  std::vector<std::size_t> words;  ///< columns of words, beside the first and the last
};

/// One test as a sheet of paper.
struct ReportSection {
  std::string title;
  std::string question;
  std::vector<std::pair<std::string, std::string>> conditions;
  bool is_measured = false;
  bool is_provisional = false;          ///< to be repeated
  std::string answer = "not measured";  ///< "−30.42 ± 0.70 dB re PEP at 30 W"
  std::string answer_label;             ///< "Worst: 5th order, upper side"
  std::string limit;
  Judgement judgement;
  std::string judgement_sentence;
  ReportTable table;
  std::vector<ReportTable> further_tables;
  std::vector<Plot> plots;
  std::vector<Remark> remarks;
  std::string note;
  std::string signature;              ///< "A. Operator, 2026-03-02 19:04 UTC"; empty = not signed
  nlohmann::json evidence = nullptr;  ///< what its figures can be worked out from again
};

/// A figure with where it belongs, for CSV and JSON.
struct ReportFigure {
  std::string test;
  std::string step;
  Figure figure;
  std::string limit;
  std::string verdict;
  std::string signature = {};  ///< who signed the test, and when; empty = not signed
  std::optional<double> carrier_hz = std::nullopt;  ///< planned radio frequency of the test
  std::string conditions = {};                      ///< in words
  std::string measured_at = {};                     ///< UTC, ISO 8601; empty = not known
  std::vector<std::string> recordings = {};         ///< of its step, by their hash
  bool is_provisional = false;                      ///< to be measured again
};

struct ReportDocument {
  std::string title;
  std::string place;
  std::string operator_name;
  std::string made_at;
  std::vector<std::pair<std::string, std::string>> device;
  std::vector<std::string> inputs;
  std::vector<OwnerPart> owner;  ///< the same in plain words
  std::vector<ReportSection> sections;
  std::vector<ReportFigure> figures;
  std::vector<std::string> conventions;  ///< how to read the figures, a sentence each
};

/// Sentences that hold for every report.
std::vector<std::string> reading_rules();
/// "2026-03-02T19:04:00Z" as "2026-03-02 19:04 UTC".
std::string readable_time(const std::string& utc);

}  // namespace heron
