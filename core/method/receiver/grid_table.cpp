#include "core/method/receiver/grid_table.h"

#include <algorithm>
#include <fmt/format.h>

#include "core/method/place_name.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr int kBandPx = 100;
constexpr int kAttenuatorFromPx = 1440;
constexpr int kWorstFromPx = 1600;
constexpr int kLanePx = 34;
constexpr int kNarrowLanePx = 28;

class GridTable {
 public:
  GridTable(const GridReading& grid, const GridOrder& order, const GridPatterns& patterns,
            const ComparedGrid* compared)
      : grid_(grid), order_(order), patterns_(patterns), compared_(compared), next_(order.next()) {
    has_attenuator_ = std::any_of(grid.bands.begin(), grid.bands.end(),
                                  [](const GridBand& b) { return b.attenuator.has_value(); });
    for (const GridBand& b : grid.bands)
      if (const BandParts* own = parts_of(b.frequency_hz, grid.parts))
        lanes_.resize(std::max(lanes_.size(), own->parts.size()));
    for (std::size_t lane = 0; lane < lanes_.size(); ++lane) lanes_[lane] = lane_word(lane);
  }

  ResultTable table() {
    t_.title = "Receiver grid";
    t_.tab = "grid";
    t_.margin_span = kGridSpanDb;
    add_columns();
    for (std::size_t i = 0; i < grid_.bands.size(); ++i) t_.rows.push_back(row(i));
    if (!grid_.bands.empty()) t_.rows.push_back(foot());
    t_.note =
        "Each figure is that of its own test: Return opens it there. Worst of all: of all that was "
        "measured on the band.";
    if (compared_ != nullptr) add_columns_then(*compared_, grid_, t_);
    return std::move(t_);
  }

 private:
  void add_columns() {
    t_.columns = {{"band", "Band", CellKind::name, kBandPx}};
    for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
      if (!grid_.has_column(c)) continue;
      TableColumn column{kGridColumns[c].method, kGridColumns[c].head, CellKind::judged, -1};
      tell_limit(c, column);
      column.is_filled = !grid_.is_by_band && next_ && next_->column == c;
      t_.columns.push_back(std::move(column));
    }
    if (has_attenuator_)
      t_.columns.push_back(
          {"attenuator", "Attenuator, dB", CellKind::figure, 118, kAttenuatorFromPx});
    if (!lanes_.empty()) {
      TableColumn column{"parts",
                         "Shared parts",
                         CellKind::parts,
                         static_cast<int>(lanes_.size()) * kLanePx + 16,
                         0,
                         static_cast<int>(lanes_.size()) * kNarrowLanePx + 16};
      column.lanes = lanes_;
      t_.columns.push_back(std::move(column));
    }
    t_.columns.push_back({"verdict", "Worst of all", CellKind::verdict, 120, kWorstFromPx});
  }

  /// Where all bands have the same limit that stands under the head.
  void tell_limit(std::size_t c, TableColumn& column) const {
    std::string words;
    for (const GridBand& b : grid_.bands) {
      const auto& limit = b.cells[c].limit;
      if (!limit) continue;
      column.span = limit->span;
      std::string its = (limit->sense == Sense::at_most ? "at most " : "") + limit_text(*limit);
      // The head says the unit already.
      if (column.head.ends_with(", " + limit->unit) && its.ends_with(" " + limit->unit))
        its.resize(its.size() - limit->unit.size() - 1);
      if (!words.empty() && words != its) {
        column.under = "by band";
        return;
      }
      words = its;
    }
    column.under = words;
  }

  /// "coil" of "coil A" and "coil B"; empty where they have no word in common.
  std::string lane_word(std::size_t lane) const {
    std::string word;
    for (const BandParts& band : grid_.parts) {
      if (lane >= band.parts.size()) continue;
      const std::string& part = band.parts[lane];
      const auto space = part.find(' ');
      if (space == std::string::npos) return "";
      const std::string first = lower_case(part.substr(0, space));
      if (!word.empty() && word != first) return "";
      word = first;
    }
    return word;
  }

  ResultTable::Row row(std::size_t i) const {
    const GridBand& b = grid_.bands[i];
    ResultTable::Row row{i, {{b.name}}};
    row.cells.front().below = order_.left_of_band(i);
    std::optional<Judgement> worst;
    bool is_whole = true;
    for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
      if (!grid_.has_column(c)) continue;
      row.cells.push_back(cell(i, c));
      const auto& judged = b.cells[c].judgement;
      if (!b.cells[c].figure)
        is_whole = false;
      else if (judged && (!worst || is_worse(*judged, *worst)))
        worst = judged;
    }
    if (b.hearing() == Hearing::deaf) {
      row.cells.front().tag = "deaf";
      row.cells.front().tag_is = Verdict::fail;
      row.words = deaf_words(b, row);
    }
    if (has_attenuator_)
      row.cells.push_back({b.attenuator ? figure_cell(*b.attenuator, 1) : std::string(),
                           std::nullopt, false, b.attenuator});
    if (!lanes_.empty()) row.cells.push_back(parts_cell(b));
    if (worst && worst->verdict == Verdict::pass && !is_whole) worst->verdict = Verdict::incomplete;
    row.cells.push_back(verdict_cell(worst, worst.has_value(), false));
    return row;
  }

  TableCell cell(std::size_t i, std::size_t c) const {
    const GridBand& b = grid_.bands[i];
    const GridCell& from = b.cells[c];
    TableCell cell;
    if (!from.figure) {
      if (!grid_.is_to_do(i, c)) return cell;
      cell.is_next = next_ == GridPlace{i, c};
      cell.text = cell.is_next ? "measure next" : "to do";
      cell.is_deciding = cell.is_next;
      cell.below = fmt::format("{} min", kGridColumns[c].minutes);
      cell.opens = CellLink{grid_.tests[c], kGridColumns[c].step_of(b.name)};
      return cell;
    }
    cell = {figure_cell(*from.figure, 1), from.judgement, false, from.figure};
    cell.is_deciding = from.judgement && from.judgement->verdict != Verdict::pass;
    cell.read_at = from.read_at;
    if (from.from && from.from->test != 0) cell.opens = from.from;
    if (compared_ != nullptr) cell.before = margin_then(*compared_, b, c);
    if (const auto by = patterns_.departs(b, c)) {
      cell.below = number_text(*by, 1, true) + " dB";
      cell.is_below_strong = true;
    }
    return cell;
  }

  /// Nothing more can be received on it before it hears: what may be wrong has the room.
  std::optional<ResultTable::Row::Words> deaf_words(const GridBand& b,
                                                    const ResultTable::Row& row) const {
    ResultTable::Row::Words words{2, 2, {}, {}};
    while (words.to < row.cells.size() && row.cells[words.to].text.empty()) ++words.to;
    if (words.to == words.from) return std::nullopt;
    if (const auto suspects = suspects_at(b.frequency_hz, grid_.parts, grid_.tried()))
      std::tie(words.words, words.why) = suspect_words(b.name, *suspects);
    else
      std::tie(words.words, words.why) = std::pair(
          "Nothing heard.", "Enter what the bands share (F2), to see what this one alone uses.");
    return words;
  }

  TableCell parts_cell(const GridBand& b) const {
    TableCell cell;
    cell.parts.resize(lanes_.size());
    const BandParts* own = parts_of(b.frequency_hz, grid_.parts);
    if (own == nullptr) return cell;
    for (std::size_t lane = 0; lane < own->parts.size(); ++lane) {
      const std::string& name = own->parts[lane];
      const std::string& word = lanes_[lane];
      // The word stands over the lane.
      cell.parts[lane] = {word.empty() ? name : name.substr(word.size() + 1), state_of(name)};
      cell.text += (cell.text.empty() ? "" : ", ") + name;
      if (cell.parts[lane].state == TablePart::State::suspect) cell.text += " (suspect)";
    }
    return cell;
  }

  /// A part of a deaf band: suspect, or cleared by a band that hears with it.
  TablePart::State state_of(const std::string& part) const {
    auto state = TablePart::State::usual;
    for (const GridBand& b : grid_.bands) {
      if (b.hearing() != Hearing::deaf) continue;
      const auto suspects = suspects_at(b.frequency_hz, grid_.parts, grid_.tried());
      if (!suspects) continue;
      for (const std::string& suspect : suspects->suspect)
        if (lower_case(suspect) == lower_case(part)) return TablePart::State::suspect;
      for (const auto& [cleared, by] : suspects->cleared)
        if (lower_case(cleared) == lower_case(part)) state = TablePart::State::cleared;
    }
    return state;
  }

  ResultTable::Row foot() const {
    ResultTable::Row row;
    row.is_foot = true;
    row.cells.push_back({grid_.is_by_band ? "Left" : "Left, by test"});
    for (std::size_t c = 0; c < kGridColumns.size(); ++c) {
      if (!grid_.has_column(c)) continue;
      TableCell cell;
      cell.text = order_.left_of_column(c);
      if (!grid_.has_test[c])
        cell.text = "no test of it";
      else if (cell.text.empty())
        cell.text = "all measured";
      else
        cell.opens = CellLink{grid_.tests[c], ""};
      row.cells.push_back(std::move(cell));
    }
    row.cells.resize(t_.columns.size());
    return row;
  }

  const GridReading& grid_;
  const GridOrder& order_;
  const GridPatterns& patterns_;
  const ComparedGrid* compared_;
  bool has_attenuator_ = false;
  std::vector<std::string> lanes_;  ///< what each of them is
  std::optional<GridPlace> next_;
  ResultTable t_;
};

}  // namespace

ResultTable grid_table(const GridReading& grid, const GridOrder& order,
                       const GridPatterns& patterns, const ComparedGrid* compared) {
  return GridTable(grid, order, patterns, compared).table();
}

}  // namespace heron
