#pragma once

#include <cstddef>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/judge/verdict.h"
#include "core/method/needle.h"
#include "core/method/result_table.h"
#include "core/method/what_if.h"
#include "core/quantity/figure.h"

namespace heron {

/// Plot-ready samples at even steps; NaN where nothing is known.
struct Curve {
  std::string id;
  std::string label;
  std::string x_unit;
  std::string y_unit;
  double x_start = 0.0;
  double x_step = 1.0;
  std::vector<float> y;
  double x(std::size_t i) const { return x_start + x_step * static_cast<double>(i); }
};

/// One answer of a sheet. The first of a result is its headline, which the verdict is about.
/// `step` here and below is what somebody chooses: a step of the test, or one of `Result::items`.
struct Answer {
  Figure figure;                               ///< as it is judged
  std::optional<Figure> shown = std::nullopt;  ///< the same in the unit that people read
  std::string where;                           ///< "14 MHz, full power"
  std::string label;                           ///< "Output, cold"
  std::optional<Limit> limit = std::nullopt;   ///< as it was stated
  std::optional<Judgement> judgement = std::nullopt;
  std::string sentence;       ///< under the figure
  std::string head = {};      ///< over it; empty: "At 14 MHz, full power"
  std::string view = {};      ///< shown in this view only; empty = in all
  double margin_span = 20.0;  ///< full scale of its margin line
  std::optional<std::size_t> step = std::nullopt;
  bool is_provisional = false;  ///< it stands on what is to be measured again
};

/// Many single readings, rising in x; drawn small, without a ± of their own.
struct Dots {
  std::vector<double> x;
  std::vector<float> y;
};

/// What a plot is drawn of.
struct PlotPoint {
  double x = 0.0;
  double y = 0.0;
  double expanded = 0.0;  ///< U of y
  Bound bound = Bound::none;
  std::optional<std::size_t> step = std::nullopt;
  std::string word = {};                        ///< of a stem: at its foot
  std::optional<double> before = std::nullopt;  ///< of a stem: as it was read; of a band: its foot
  Verdict verdict = Verdict::not_taken;
  bool is_pale = false;  ///< not the device's
  bool is_left = false;  ///< its words stand left of it
  std::optional<std::pair<double, double>> interval =
      std::nullopt;       ///< of y, not the same both ways
  std::string mark = {};  ///< what it is called by a table, where it can be chosen there
};
struct PlotLayer {
  /// trace: points with their ±, joined or not; stem: lines from below up to their points; curve: a
  /// whole curve of one step; limit: a level from point to point; guide: the same, only for
  /// comparison; mask: a limit in pieces, two points each, with its level over each; flag: a place
  /// on x, told by its name and the word of its point. pennant: a line of a curve with its word and
  /// level on a pole; label: words beside a point; floor: what lies below it cannot be seen; band:
  /// from `before` up to y; moment: a place on x with its ± there, and words; place: a place worth
  /// a word under the first trace; handle: a place, with its unit as word, that somebody moves to
  /// set `setting`; pole: a ring on a trace with a flag above it that flies outward; ring: where
  /// two traces cross, told by its word when it is pointed at.
  enum class Kind {
    trace,
    stem,
    curve,
    limit,
    guide,
    mask,
    flag,
    pennant,
    label,
    floor,
    band,
    moment,
    place,
    handle,
    pole,
    ring,
    dots
  };
  Kind kind = Kind::trace;
  std::string name;
  int trace = 1;          ///< of the trace set
  bool is_joined = true;  ///< of a limit: else a short piece at each point
  std::vector<PlotPoint> points;
  std::shared_ptr<const Curve> curve = nullptr;
  std::shared_ptr<const Dots> dots = nullptr;
  double curve_zero = 0.0;                         ///< what of the curve is drawn at 0
  std::optional<std::size_t> step = std::nullopt;  ///< of a curve
  bool is_straight_in_log_x = false;               ///< between its points, however the axis is
  std::string setting = {};                        ///< of a handle: key of the field
  bool is_right = false;                           ///< of a trace: read on the axis at the right
  bool has_marks = true;                           ///< of a trace: its points, not only the line
  bool is_bold = false;                            ///< of a trace: what all others are held against
  bool is_ghost = false;                           ///< of a trace: how it was, or is for comparison
  bool ends_at_points = false;                     ///< of a limit: it does not hold beyond them
  /// Of a trace that is not joined: each point hangs on a stem from its `before`, with its word and
  /// the mark of its verdict.
  bool hangs = false;
  bool is_empty() const { return points.empty() && curve == nullptr && dots == nullptr; }
};
/// A part of the x axis with a word, tinted or between lines; of one step, or of all.
struct PlotRange {
  double from = 0.0;
  double to = 0.0;
  std::string word;
  bool is_tinted = false;
  std::optional<std::size_t> step = std::nullopt;
  bool is_caution = false;               ///< something ends there; only its beginning has a line
  Verdict verdict = Verdict::not_taken;  ///< of a tint: what is so there is good, or bad
  bool is_window = false;                ///< what is counted; its sides are lines
  /// Of a window: the settings that its sides are, which can be dragged then.
  std::string low_setting = {};
  std::string high_setting = {};
};
/// A width between two places, with its words; of one step.
struct PlotBracket {
  double from = 0.0;
  double to = 0.0;
  std::string words;
  std::optional<std::size_t> step = std::nullopt;
};
/// States along the x axis, as a lane below the panel with a shape and a word for each.
struct PlotStates {
  std::string name;
  struct Cell {
    double from = 0.0;
    double to = 0.0;
    std::string word;
    Verdict verdict = Verdict::not_taken;
  };
  std::vector<Cell> cells;
};
struct PlotAxis {
  std::string title;  ///< "Output, W"
  std::string unit;   ///< base unit, shown with a prefix: "Hz"; empty = in the title
  bool is_logarithmic = false;
  std::optional<std::pair<double, double>> range = std::nullopt;
  bool can_be_either = false;  ///< linear or logarithmic, as somebody likes it better
  std::string setting = {};    ///< that chooses what it shows, by its key
  /// Of ticks, in place of numbers, rising.
  std::vector<std::pair<double, std::string>> names = {};
};
/// Levels over both axes, column after column from the left, each from below; NaN where nothing is
/// known. The darker the higher.
struct PlotPicture {
  std::size_t columns = 0;
  std::size_t rows = 0;
  std::pair<double, double> x;  ///< its edges
  std::pair<double, double> y;
  std::shared_ptr<const std::vector<float>> levels;
  double lowest = 0.0;  ///< that is told from nothing
  double highest = 0.0;
  std::string unit;  ///< of the levels: "dBc in 6 Hz"
};
struct PlotPanel {
  PlotAxis y;
  std::vector<PlotLayer> layers;
  std::vector<PlotRange> ranges = {};
  std::vector<PlotBracket> brackets = {};
  std::vector<PlotRange> lanes = {};               ///< places that have names, as bars at the top
  std::vector<PlotStates> states = {};             ///< below it
  std::optional<PlotAxis> y_right = std::nullopt;  ///< of the layers that are read there
  int from_px = 0;                                 ///< not shown in a narrower window, nor on paper
  int below_px = 0;                                ///< nor in one as wide as this; 0 = in any
  std::optional<PlotAxis> own_x = std::nullopt;    ///< where it is not that of the plot
  std::optional<PlotPicture> picture = std::nullopt;
  bool is_shown_at(int window_px) const {
    return window_px >= from_px && (below_px == 0 || window_px < below_px);
  }
  /// The first layer of a kind with anything in it; nullptr if there is none.
  const PlotLayer* find(PlotLayer::Kind kind) const;
};
struct Plot {
  std::string title;
  PlotAxis x;
  std::vector<PlotPanel> panels;                   ///< over one x axis, the first is the main one
  std::string empty_words;                         ///< what to do while there is nothing to show
  std::string note = {};                           ///< what holds for all of it, at the upper right
  std::string view = {};                           ///< as of an answer
  std::optional<std::size_t> step = std::nullopt;  ///< it is all about this one
  bool is_printed_too = false;                     ///< although another view is shown first

  bool has_points() const;
};

/// Something that would help, and how far: a card beside the verdict.
struct Proposal {
  std::string title;     ///< "Filter that would comply"
  std::string subtitle;  ///< what it is, a line
  std::string words;     ///< all of it in two sentences, for paper and for those who do not see it
  Plot plot;             ///< small; its stem falls from `before` to its point
  std::string place;     ///< what changes: "2nd harmonic"
  std::string change;    ///< "\u221241.2 \u2192 \u221256.0 dBc"
  Judgement before;
  Judgement after;
  std::string note;  ///< what it costs
};
/// Proposals to look through; `shown` comes first.
struct ProposalCard {
  std::vector<Proposal> choices;
  std::size_t shown = 0;
  std::string view = {};  ///< as of an answer
};

/// The shown one, where there are no cards.
Remark proposal_remark(const ProposalCard& card);

/// A figure of its own beside the answer: what it is, a value or two, and how it is judged.
struct FigureCard {
  std::string head;     ///< "With Curlew 120 behind"
  std::string value;    ///< "−31.0 to −25.9 dB"
  std::string caption;  ///< "54 W out, from power sum to in phase"
  std::optional<Judgement> judgement = std::nullopt;
  double margin_span = 20.0;
  std::string view = {};                           ///< as of an answer
  std::optional<std::size_t> step = std::nullopt;  ///< else of all
};

/// What is best done next, the most telling first.
struct NextList {
  struct Entry {
    std::string what;  ///< "S9, 7.1 MHz"
    std::string why;   ///< "tells a loss in front from one behind"
    std::string cost;  ///< "2 min"
    std::optional<CellLink> opens = std::nullopt;
  };
  std::string head;
  std::string cost;  ///< of all that is left: "12 min, 1 change"
  std::vector<Entry> entries;
  std::string foot;  ///< what another order would cost
};

/// What a setting might be set to, and why.
struct SettingProposal {
  std::string key;
  double value = 0.0;
  std::string typed;  ///< the same as somebody would type it
  std::string words;  ///< "25.1 W, for the amplifier behind"
};

/// A place on a plan of levels that is not the hook-up of the device's output.
struct LevelPoint {
  std::string name;                            ///< empty = the device
  std::string line = {};                       ///< what it does: "loses 6.6 dB"
  std::string small = {};                      ///< more of it: "4-way"
  std::optional<Figure> level = std::nullopt;  ///< behind it, dBm
  std::string said = {};                       ///< behind it, where that is no level: "127 mV"
  std::string said_under = {};                 ///< "noise 48 mV"
  /// Of the last: where the level stands in the window that is wanted there, 0 to 1.
  std::optional<double> place = std::nullopt;
  Verdict verdict = Verdict::not_taken;
};

/// A card to lie beside the device, 85 x 54 mm: two columns of pairs.
struct PrintCard {
  std::string title;
  std::pair<std::string, std::string> heads;
  std::vector<std::pair<std::string, std::string>> rows;
  std::string foot;
};

/// One of a row of facts that stands where a calculated sheet has no hook-up.
struct Fact {
  std::string head;
  std::string value;
  std::string caption;
};

/// A question about one reading; nothing is changed by it.
struct Doubt {
  std::size_t step = 0;
  std::string quantity;
  std::string text;
};

/// A row of a result whose rows are not its steps, such as a line found in all recordings together.
struct ResultItem {
  std::string name;
  std::optional<std::size_t> step = std::nullopt;  ///< of the test, whose recording shows it
};

/// A figure and the step that it belongs to, for files.
struct StepFigure {
  std::string step;
  Figure figure;
  std::optional<Limit> limit = std::nullopt;
  std::optional<Judgement> judgement = std::nullopt;
  bool is_provisional = false;
};

/// What is said about one step only, in a view (as of an answer).
struct StepRemarks {
  std::size_t step = 0;
  std::string view;
  std::vector<Remark> remarks;
};

/// What every method returns, so that the rail, the shack, the report and the command line are
/// written once. The headline is the figure that the verdict is about.
struct Result {
  std::string method;
  std::vector<std::string> inputs;
  std::vector<Figure> figures;
  std::string headline_id;
  std::vector<Curve> curves;
  std::vector<Remark> remarks;
  std::vector<Answer> answers;
  std::vector<ResultTable> tables;
  std::vector<Plot> plots;
  std::vector<StepFigure> step_figures;
  std::vector<StepRemarks> step_remarks;
  /// What held for all steps, for the report: "Stimulus", "notched noise".
  std::vector<std::pair<std::string, std::string>> conditions;
  std::vector<std::string> views;  ///< to choose from; the first is shown first
  std::vector<ResultItem> items;   ///< what can be chosen, where that is not the steps
  std::vector<ProposalCard> cards;
  std::vector<FigureCard> figure_cards;
  std::optional<NextList> next;
  std::vector<Doubt> doubts;
  std::vector<SettingProposal> setting_proposals;
  std::optional<PrintCard> print_card;
  std::vector<LevelPoint> level_plan;  ///< shown in place of the hook-up
  /// Of an item instead, where each has its own.
  std::vector<std::vector<LevelPoint>> item_level_plans;
  std::vector<Fact> facts;       ///< likewise
  std::vector<WhatIf> what_ifs;  ///< to slide, beside the plots
  std::optional<Needle> needle;  ///< shown in place of plots where something is turned
  std::vector<std::optional<Figure>> step_outputs;  ///< at the device, one a step or none at all
  std::optional<Figure> output;  ///< at the device, where it is one for all steps
  bool is_output_typed = false;
  std::optional<double> carrier_hz;  ///< that the figures are of, where it is not the planned one

  const Figure* headline() const;
  /// Of all of it and of a step, in a view; worst first.
  std::vector<Remark> remarks_at(std::optional<std::size_t> step, const std::string& view) const;
  /// What a view says of a step; nullptr if nothing was measured there.
  const Answer* answer_at(std::size_t step, const std::string& view) const;
  /// What stands in a view while a step is chosen; nullptr if nothing does.
  const Plot* plot_at(std::size_t step, const std::string& view) const;
  const ProposalCard* proposals_in(const std::string& view) const;
  const FigureCard* figure_card_at(std::size_t step, const std::string& view) const;
  std::vector<const ResultTable*> tables_at(std::size_t step, const std::string& view) const;
  /// The step of the test whose recording shows what is chosen.
  std::optional<std::size_t> step_of(std::optional<std::size_t> chosen) const;
  std::string first_view() const;  ///< empty where there is only one
};

/// Whether something is shown in a view.
inline bool is_in_view(const std::string& its, const std::string& view) {
  return its.empty() || its == view;
}

}  // namespace heron
