#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/judge/verdict.h"
#include "core/quantity/figure.h"

namespace heron {

/// What a column of a table holds; every cell has its text, a margin or verdict its judgement too;
/// a text is words from the left.
/// axis: a value where it lies, on a scale that all rows share; its text says the same in words.
/// judged: a figure over its own margin line, in rows of two lines; parts: what rows share, a bar
/// each over those that stand next to each other.
enum class CellKind { name, figure, margin, verdict, text, axis, judged, parts };
/// The scale of a column of that kind.
struct TableAxis {
  double most = 1.0;                                  ///< it reaches as far below zero
  std::optional<double> tolerance = std::nullopt;     ///< either way
  std::optional<std::pair<double, double>> together;  ///< what all rows say together
};
/// What a cell of it shows.
struct AxisCell {
  double value = 0.0;
  double expanded = 0.0;
  bool is_whole = false;           ///< of all rows together
  std::vector<double> parts = {};  ///< that add up to the value; 0 = none of that one
};
/// What a row uses, and maybe others with it.
struct TablePart {
  enum class State { usual, suspect, cleared };
  std::string name;
  State state = State::usual;
};
struct TableColumn {
  std::string id;
  std::string head;  ///< with its unit: "Droop, dB"
  CellKind kind = CellKind::figure;
  int width = 90;         ///< px, -1 takes the slack, or its share of it
  int from_px = 0;        ///< not shown in a narrower window
  int narrow = 0;         ///< px where the window is narrower than 1200; 0 = the same
  bool is_typed = false;  ///< its cells are settings that somebody types
  std::optional<TableAxis> axis = std::nullopt;
  std::string under = {};               ///< a second line of the head: "no more than −113"
  double span = 20.0;                   ///< of a judged column: full scale of its margin lines
  bool is_filled = false;               ///< it is the one that is measured at present
  std::vector<std::string> lanes = {};  ///< of parts: what each of them is, "coil"
};
/// Another test of the evaluation, at a step of it.
struct CellLink {
  long long test = 0;
  std::string step;
};
struct TableCell {
  std::string text = {};  ///< empty = a dash
  std::optional<Judgement> judgement = std::nullopt;
  bool is_deciding = false;                     ///< the cell that decides its row
  std::optional<Figure> figure = std::nullopt;  ///< that it shows, where its ± can be looked into
  std::string mark = {};           ///< what of the plot shows the same, of `PlotPoint::mark`
  std::string tag = {};            ///< of a name: what is worth a word about its row, "sweet spot"
  Verdict tag_is = Verdict::pass;  ///< good, or not
  std::optional<AxisCell> axis = std::nullopt;
  std::optional<CellLink> opens = std::nullopt;  ///< whose figure it is, or where it is measured
  std::optional<double> before = std::nullopt;   ///< of a margin: that of what it is compared with
  std::string below = {};                        ///< a second line, where the rows have two
  bool is_below_strong = false;                  ///< that one is worth a look
  std::string read_at = {};                      ///< UTC, ISO 8601; empty = not known
  bool is_next = false;                          ///< to be measured before all others
  std::vector<TablePart> parts = {};             ///< lane by lane; one without a name is none
};
/// The last cell of a row: the verdict, or why there is none.
TableCell verdict_cell(const std::optional<Judgement>& judgement, bool is_measured,
                       bool is_damaged);
struct ResultTable {
  std::string title;
  std::vector<TableColumn> columns;
  struct Row {
    std::optional<std::size_t> step;
    std::vector<TableCell> cells;  ///< one a column
    std::string mark = {};         ///< as of a cell
    /// In place of its cells from one column up to another.
    struct Words {
      std::size_t from = 0;
      std::size_t to = 0;
      std::string words;
      std::string why;
    };
    std::optional<Words> words = std::nullopt;
    bool is_foot = false;  ///< of all rows above it, what is left of each column
  };
  std::vector<Row> rows;
  std::string note;  ///< how to read it, a sentence or two
  double margin_span = 20.0;
  std::string margin_unit = "dB";
  std::string view = {};  ///< as of an answer
  std::string tab = {};   ///< what it is chosen by, where there are several: "products"
  std::optional<std::size_t> step = std::nullopt;  ///< it is all about this one
  std::string new_row =
      {};  ///< below the last, where one can be typed: "a new band"; empty = never

  bool has_two_lines() const;  ///< a row
};

}  // namespace heron
