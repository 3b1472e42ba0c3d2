#include "report/plot_svg.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <optional>
#include <set>

#include "core/method/plot_scale.h"
#include "core/quantity/format.h"
#include "report/plot_marks_svg.h"
#include "report/verdict_svg.h"

namespace heron {
namespace {

constexpr double kWidth = 760.0;
constexpr double kLeft = 52.0;
constexpr double kRight = 650.0;
constexpr double kRightNumbers = 30.0;  // of an axis at the right
constexpr double kFirstTop = 30.0;
constexpr double kMainHeight = 220.0;
constexpr double kStripHeight = 80.0;
constexpr double kPictureHeight = 130.0;
constexpr double kBetween = 34.0;
constexpr double kBelow = 30.0;
constexpr double kStateLane = 18.0;

double states_height(const PlotPanel& panel) {
  return kStateLane * static_cast<double>(panel.states.size());
}
// The trace set of the screen, as it is in the light theme.
constexpr std::array<const char*, 6> kTraces{"#24627F", "#D96A1C", "#5A5E1C",
                                             "#9A57BE", "#87394B", "#84978A"};
constexpr std::array<const char*, 6> kDashes{"", "8 5", "2 4", "16 5", "12 4 2 4", "4 4"};

/// One panel in its place.
class PanelSvg {
 public:
  PanelSvg(const Plot& plot, const PlotPanel& panel, double top, double height)
      : panel_(panel),
        x_(panel.own_x && panel.own_x->range
               ? PlotScale(panel.own_x->range->first, panel.own_x->range->second, false)
               : x_scale(plot)),
        y_(y_scale(panel)),
        right_(right_scale(panel)),
        top_(top),
        bottom_(top + height) {}

  std::string drawn(bool has_x_words, const PlotAxis& x_axis) const {
    const double title = panel_.picture ? top_ - 24 : top_ - 12;
    std::string out = svg_text(4, title, panel_.y.title, "start", "#465B69");
    for (const double tick : y_.ticks(6)) {
      out +=
          fmt::format("<path d='M{:.1f} {:.1f}H{:.1f}' stroke='#DADFD8'/>", kLeft, y(tick), kRight);
      out += svg_text(kLeft - 6, y(tick) + 4, y_.label(tick), "end", "#5A6C77");
    }
    if (panel_.y_right) {
      out += svg_text(kRight + kRightNumbers, top_ - 12, panel_.y_right->title, "end", "#465B69");
      for (const double tick : right_.ticks(3))
        out += svg_text(kRight + 6, bottom_ - right_.share(tick) * (bottom_ - top_) + 4,
                        right_.label(tick), "start", "#5A6C77");
    }
    out +=
        fmt::format("<path d='M{:.1f} {:.1f}H{:.1f}' stroke='#BCC5BF'/>", kLeft, bottom_, kRight);
    out += drawn_states();
    if (has_x_words) {
      const double below = bottom_ + states_height(panel_) + 16;
      for (const double tick : x_.ticks(10))
        out += svg_text(x(tick), below, x_.label(tick), "middle", "#5A6C77");
      out += svg_text(kWidth - 4, below,
                      x_axis.title + (x_axis.unit.empty() ? "" : ", " + x_.unit(x_axis.unit)),
                      "end", "#465B69");
    }
    if (panel_.picture) out += picture(*panel_.picture);
    for (const PlotLayer& layer : panel_.layers) out += layer_behind_svg(layer, frame());
    for (const PlotRange& range : panel_.ranges) out += drawn(range);
    if (panel_.picture)
      out += drawn_events();
    else
      for (const PlotRange& lane : panel_.lanes) out += drawn_lane(lane);
    double name_y = top_ + 6;
    for (const PlotLayer& layer : panel_.layers) {
      if (layer.is_empty()) continue;
      out += drawn(layer);
      const bool is_named = layer.kind != PlotLayer::Kind::stem &&
                            layer.kind != PlotLayer::Kind::mask &&
                            layer.kind != PlotLayer::Kind::flag && !layer.name.empty() &&
                            (!is_place_layer(layer) || layer.kind == PlotLayer::Kind::band);
      if (!is_named) continue;
      out += name(layer, name_y);
      name_y += 16;
    }
    for (const PlotLayer& layer : panel_.layers) out += layer_over_svg(layer, panel_, frame());
    for (const PlotBracket& bracket : panel_.brackets) out += drawn(bracket);
    return out;
  }

 private:
  double x(double value) const { return kLeft + 8 + x_.share(value) * (kRight - kLeft - 16); }
  double y(double value) const { return bottom_ - y_.share(value) * (bottom_ - top_); }
  double y(const PlotLayer& layer, double value) const {
    return layer.is_right ? bottom_ - right_.share(value) * (bottom_ - top_) : y(value);
  }

  SpectrumFrame frame() const {
    return {[this](double v) { return x(v); },
            [this](double v) { return y(v); },
            kLeft,
            kRight,
            top_,
            bottom_};
  }

  std::string drawn(const PlotLayer& layer) const {
    switch (layer.kind) {
      case PlotLayer::Kind::curve:
        return curve(layer);
      case PlotLayer::Kind::trace:
        return trace(layer);
      case PlotLayer::Kind::dots:
        return dots(layer);
      case PlotLayer::Kind::stem:
        return stems(layer);
      case PlotLayer::Kind::mask:
        return mask(layer);
      case PlotLayer::Kind::flag:
        return flags(layer);
      case PlotLayer::Kind::limit:
      case PlotLayer::Kind::guide:
        return level(layer);
      default:
        return {};  // marks of single places
    }
    return {};
  }

  /// Lanes of words between lines.
  std::string drawn_states() const {
    std::string out;
    double top = bottom_ + 2;
    for (const PlotStates& lane : panel_.states) {
      out += svg_text(kLeft - 6, top + 12, lane.name, "end", "#465B69");
      for (const PlotStates::Cell& cell : lane.cells) {
        const double left = x(std::max(cell.from, x_.from()));
        const double right = x(std::min(cell.to, x_.to()));
        out += fmt::format(
            "<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='15' fill='#fff' stroke='{}'/>",
            left, top, std::max(1.0, right - left - 1), verdict_colour(cell.verdict));
        if (right - left > svg_words_width(cell.word) + 4)
          out += svg_text((left + right) / 2, top + 11, cell.word, "middle",
                          verdict_colour(cell.verdict));
      }
      top += kStateLane;
    }
    return out;
  }

  /// The highest of each cell of a coarse grid, in a few steps of blue; alike ones beside each
  /// other are one.
  std::string picture(const PlotPicture& given) const {
    constexpr std::size_t kAcross = 180;
    constexpr std::size_t kUp = 48;
    constexpr std::array<const char*, 6> kBlues{"#EDF3F6", "#D3E2EA", "#A9C6D5",
                                                "#7BA6BC", "#3F7692", "#1B282F"};
    const auto edge = [](std::size_t i, std::size_t of, std::size_t count) {
      return i * count / of;
    };
    const double wide = x(given.x.second) - x(given.x.first);
    const double high = y(given.y.first) - y(given.y.second);
    std::string out;
    for (std::size_t row = 0; row < kUp; ++row) {
      int last = -1;
      std::size_t from = 0;
      const auto end_run = [&](std::size_t to) {
        if (last < 0) return;
        out += fmt::format("<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='{:.1f}' fill='{}'/>",
                           x(given.x.first) + wide * static_cast<double>(from) / kAcross,
                           y(given.y.first) - high * static_cast<double>(row + 1) / kUp,
                           wide * static_cast<double>(to - from) / kAcross, high / kUp,
                           kBlues[static_cast<std::size_t>(last)]);
      };
      for (std::size_t column = 0; column < kAcross; ++column) {
        double most = given.lowest;
        for (std::size_t c = edge(column, kAcross, given.columns);
             c < std::max(edge(column, kAcross, given.columns) + 1,
                          edge(column + 1, kAcross, given.columns));
             ++c)
          for (std::size_t r = edge(row, kUp, given.rows);
               r < std::max(edge(row, kUp, given.rows) + 1, edge(row + 1, kUp, given.rows)); ++r)
            most = std::max(most, static_cast<double>((*given.levels)[c * given.rows + r]));
        const double share = (most - given.lowest) / (given.highest - given.lowest);
        const int step = static_cast<int>(std::floor(share * 7.0)) - 1;  // the lowest is paper
        const int now = std::min(step, 5);
        if (now == last) continue;
        end_run(column);
        last = now;
        from = column;
      }
      end_run(kAcross);
    }
    return out;
  }

  static std::string stem_colour(const PlotPoint& p) {
    const bool is_bad = p.verdict == Verdict::fail || p.verdict == Verdict::too_close;
    return p.is_pale ? "#5A6C77" : is_bad ? verdict_colour(p.verdict) : kTraces[0];
  }

  /// Each with its number at the foot, and a tick where it was read.
  std::string stems(const PlotLayer& layer) const {
    std::string out;
    for (const PlotPoint& p : layer.points) {
      const std::string colour = stem_colour(p);
      out += fmt::format("<path d='M{:.1f} {:.1f}V{:.1f}' stroke='{}' stroke-width='1.6'/>", x(p.x),
                         y(p.y), bottom_, colour);
      if (p.before)
        out += fmt::format("<path d='M{:.1f} {:.1f}h14' stroke='#5A6C77' stroke-width='1.2'/>",
                           x(p.x) - 7.0, y(*p.before));
      if (p.verdict == Verdict::not_taken || p.bound != Bound::none || p.is_pale)
        out += fmt::format("<circle cx='{:.1f}' cy='{:.1f}' r='3.8' fill='#fff' stroke='{}'/>",
                           x(p.x), y(p.y), colour);
      else
        out += fmt::format("<g transform='translate({:.1f} {:.1f}) scale(0.6)'>{}</g>",
                           x(p.x) - 4.8, y(p.y) - 4.8, verdict_shape(p.verdict));
      if (!p.word.empty()) out += svg_text(x(p.x) + 4, bottom_ - 5, p.word, "start", "#1B282F");
    }
    return out;
  }

  /// Its pieces, upright where two meet, with the level over each.
  std::string mask(const PlotLayer& layer) const {
    std::string d;
    std::string words;
    for (std::size_t i = 0; i + 1 < layer.points.size(); i += 2) {
      const PlotPoint& from = layer.points[i];
      const PlotPoint& to = layer.points[i + 1];
      const bool follows = i > 0 && layer.points[i - 1].x == from.x;
      d +=
          fmt::format("{}{:.1f} {:.1f}H{:.1f}", follows ? "L" : "M", x(from.x), y(from.y), x(to.x));
      const bool is_worded = !layer.points.front().word.empty();
      const std::string level = is_worded ? from.word : number_text(from.y, 1);
      if (x(to.x) - x(from.x) > svg_words_width(level))
        words += svg_text(x(from.x) + 5, y(from.y) - 5, level, "start", "#1B282F");
    }
    return fmt::format("<path d='{}' fill='none' stroke='#1B282F' stroke-width='2'/>", d) + words;
  }

  std::string flags(const PlotLayer& layer) const {
    std::string out;
    for (const PlotPoint& p : layer.points) {
      out += fmt::format(
          "<path d='M{0:.1f} {1:.1f}V{2:.1f}' stroke='{3}' stroke-width='2.4'/>"
          "<path d='M{0:.1f} {4:.1f}l-5 10h10z' fill='{3}'/>",
          x(p.x), top_ + 8, bottom_, kTraces[0], top_ - 2);
      out += svg_text(x(p.x) + 9, top_ + 8, layer.name, "start", "#465B69");
      if (!p.word.empty()) out += svg_text(x(p.x) + 9, top_ + 22, p.word, "start", "#1B282F");
    }
    return out;
  }

  std::string path(const PlotLayer& layer) const {
    std::string out;
    for (std::size_t i = 0; i < layer.points.size(); ++i) {
      const PlotPoint& from = layer.points[i > 0 ? i - 1 : 0];
      for (const auto& [px, py] : line_between(layer, from, layer.points[i]))
        out += fmt::format("{}{:.1f} {:.1f}", out.empty() ? "M" : "L", x(px), y(layer, py));
    }
    return out;
  }

  /// Where a range lies inside the panel; nullopt outside.
  std::optional<std::pair<double, double>> inside(double from, double to) const {
    const double left = x(std::max(from, x_.from()));
    const double right = x(std::min(to, x_.to()));
    return right - left < 2.0 ? std::nullopt : std::optional(std::pair(left, right));
  }

  std::string drawn(const PlotRange& range) const {
    const auto place = inside(range.from, range.to);
    if (!place) return {};
    const auto [left, right] = *place;
    if (range.is_caution)
      return fmt::format(
                 "<rect x='{0:.1f}' y='{1:.1f}' width='{2:.1f}' height='{3:.1f}' fill='#F6ECD2'/>"
                 "<path d='M{0:.1f} {1:.1f}v{3:.1f}' stroke='#1B282F' stroke-width='2'/>",
                 left, top_, right - left, bottom_ - top_) +
             svg_text(left - 5, bottom_ - 6, range.word, "end", "#465B69");
    std::string out;
    const bool is_good = range.verdict == Verdict::pass;
    const bool is_said = is_good || range.verdict == Verdict::fail;
    if (range.is_tinted)
      out += fmt::format(
          "<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='{:.1f}' "
          "fill='{}'/>",
          left, top_, right - left, bottom_ - top_,
          range.is_window ? "#EDF4F7"
          : is_good       ? "#E2F0E4"
          : is_said       ? "#F8E2E0"
                          : "#EEF0EB");
    if (is_said) {
      if (right - left > svg_words_width(range.word))
        out += svg_text((left + right) / 2.0, is_good ? top_ + 14 : bottom_ - 6, range.word,
                        "middle", is_good ? "#2A6A39" : "#A5282C");
      return out;
    }
    for (const double edge : {left, right})
      out +=
          fmt::format("<path d='M{:.1f} {:.1f}V{:.1f}' stroke='#BCC5BF' stroke-dasharray='4 3'/>",
                      edge, top_, bottom_);
    if (right - left > svg_words_width(range.word))
      out += svg_text((left + right) / 2.0, bottom_ - 6, range.word, "middle", "#5A6C77");
    return out;
  }

  /// Over a picture: a bar over its length and its name, or its number where that has no room.
  std::string drawn_events() const {
    std::string out;
    for (std::size_t i = 0; i < panel_.lanes.size(); ++i) {
      const PlotRange& event = panel_.lanes[i];
      const double left = x(event.from);
      const double next = i + 1 < panel_.lanes.size() ? x(panel_.lanes[i + 1].from) : kRight + 80;
      const bool has_room = svg_words_width(event.word) + 4.0 < next - left;
      out += fmt::format(
          "<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='3' fill='#1B282F'/>"
          "<path d='M{:.1f} {:.1f}V{:.1f}' stroke='#1B282F'/>",
          left, top_ - 4, std::max(2.0, x(event.to) - left), left, top_ - 4, bottom_);
      out += svg_text(left, top_ - 8, has_room ? event.word : std::to_string(i + 1), "start",
                      "#1B282F");
    }
    return out;
  }

  /// A bar at the top, with its name where it is wide enough.
  std::string drawn_lane(const PlotRange& lane) const {
    const double left = x(std::max(lane.from, x_.from()));
    const double right = std::max(left + 2.0, x(std::min(lane.to, x_.to())));
    if (lane.to < x_.from() || lane.from > x_.to()) return {};
    const bool is_wide = right - left > svg_words_width(lane.word) + 6.0;
    const double top = top_ + (is_wide ? 2.0 : 18.0);
    return fmt::format(
               "<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='13' fill='#E4E8E1' "
               "stroke='#5A6C77'/>",
               left, top, right - left) +
           (is_wide ? svg_text((left + right) / 2.0, top + 10, lane.word, "middle", "#465B69")
                    : std::string());
  }

  std::string drawn(const PlotBracket& bracket) const {
    const auto place = inside(bracket.from, bracket.to);
    if (!place) return {};
    const auto [left, right] = *place;
    const double at = top_ + 12;
    const double half = svg_words_width(bracket.words) / 2.0 + 3.0;
    const double middle = std::clamp((left + right) / 2.0, kLeft + half, kRight - half);
    return fmt::format(
               "<path d='M{0:.1f} {1:.1f}H{2:.1f}M{0:.1f} {3:.1f}v10M{2:.1f} {3:.1f}v10' "
               "stroke='#1B282F' stroke-width='1.5'/>",
               left, at, right, at - 5) +
           fmt::format("<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='14' fill='#fff'/>",
                       middle - half, at + 5, 2.0 * half) +
           svg_text(middle, at + 16, bracket.words, "middle", "#1B282F");
  }

  /// Lowest and highest of each unit of width.
  std::string curve(const PlotLayer& layer) const {
    const std::size_t which = static_cast<std::size_t>(std::clamp(layer.trace, 1, 6) - 1);
    const Curve& c = *layer.curve;
    std::string d;
    std::size_t i = 0;
    while (i < c.y.size()) {
      const double left = x(c.x(i));
      double low = std::numeric_limits<double>::infinity();
      double high = -low;
      const std::size_t first = i;
      for (; i < c.y.size() && (i == first || x(c.x(i)) < left + 1.0); ++i) {
        const double v = static_cast<double>(c.y[i]) - layer.curve_zero;
        if (c.x(i) < x_.from() || c.x(i) > x_.to() || !std::isfinite(v)) continue;
        low = std::min(low, v);
        high = std::max(high, v);
      }
      if (!(low <= high)) continue;
      d += fmt::format("{}{:.1f} {:.1f}", d.empty() ? "M" : "L", left, y(high));
      if (high > low) d += fmt::format("L{:.1f} {:.1f}", left, y(low));
    }
    return fmt::format(
        "<path d='{}' fill='none' stroke='{}' stroke-width='1.1' "
        "stroke-linejoin='round' stroke-dasharray='{}'/>",
        d, kTraces[which], kDashes[which]);
  }

  /// One at each place of the paper.
  std::string dots(const PlotLayer& layer) const {
    std::string d;
    std::set<std::pair<int, int>> taken;
    for (std::size_t i = 0; i < layer.dots->x.size(); ++i) {
      const double at_x = layer.dots->x[i];
      const double at_y = static_cast<double>(layer.dots->y[i]);
      if (at_x < x_.from() || at_x > x_.to() || at_y < y_.from() || at_y > y_.to()) continue;
      const std::pair place(static_cast<int>(x(at_x) / 2.0), static_cast<int>(y(at_y) / 2.0));
      if (taken.insert(place).second) d += fmt::format("M{:.1f} {:.1f}h.01", x(at_x), y(at_y));
    }
    const std::size_t which = static_cast<std::size_t>(std::clamp(layer.trace, 1, 6) - 1);
    return fmt::format(
        "<path d='{}' fill='none' stroke='{}' stroke-width='2.4' stroke-linecap='round' "
        "stroke-opacity='0.42'/>",
        d, kTraces[which]);
  }

  std::string trace(const PlotLayer& layer) const {
    const std::size_t which = static_cast<std::size_t>(std::clamp(layer.trace, 1, 6) - 1);
    std::string out;
    if (layer.is_joined && layer.points.size() > 1)
      out += fmt::format(
          "<path d='{}' fill='none' stroke='{}' stroke-width='1.3' stroke-dasharray='{}'/>",
          path(layer), kTraces[which], kDashes[which]);
    for (const PlotPoint& p : layer.points) {
      if (!layer.has_marks) break;
      const auto [low, high] = p.interval.value_or(std::pair(p.y - p.expanded, p.y + p.expanded));
      if (high > low && p.bound == Bound::none)
        out += fmt::format(
            "<path d='M{0:.1f} {1:.1f}V{2:.1f}' stroke='{3}' stroke-width='4' "
            "stroke-opacity='0.35'/>",
            x(p.x), y(layer, low), y(layer, high), kTraces[which]);
      const bool is_open = p.bound != Bound::none;
      if (layer.hangs && p.before)
        out += fmt::format("<path d='M{:.1f} {:.1f}V{:.1f}' stroke='{}' stroke-width='1.2'/>",
                           x(p.x), std::max(top_, y(layer, *p.before)),
                           std::max(top_, y(layer, p.y)), kTraces[which]);
      out += fmt::format("<circle cx='{:.1f}' cy='{:.1f}' r='3.4' fill='{}' stroke='{}'/>", x(p.x),
                         y(layer, p.y), is_open ? "#fff" : kTraces[which], kTraces[which]);
    }
    return out;
  }

  /// From point to point, or a short piece at each.
  std::string level(const PlotLayer& layer) const {
    const bool is_limit = layer.kind == PlotLayer::Kind::limit;
    std::string d = path(layer);
    if (!layer.is_joined) {
      d.clear();
      for (const PlotPoint& p : layer.points)
        d += fmt::format("M{:.1f} {:.1f}h24", x(p.x) - 12.0, y(p.y));
    }
    return fmt::format("<path d='{}' fill='none' stroke='{}' stroke-width='{}'{}/>", d,
                       is_limit ? "#1B282F" : "#465B69", is_limit ? "2" : "1.2",
                       is_limit ? "" : " stroke-dasharray='5 3'");
  }

  std::string name(const PlotLayer& layer, double at) const {
    const double right = kRight + (panel_.y_right ? kRightNumbers - 6 : 0.0);
    const std::size_t which = static_cast<std::size_t>(std::clamp(layer.trace, 1, 6) - 1);
    const bool is_curve = layer.kind == PlotLayer::Kind::curve;
    const bool is_trace = is_curve || layer.kind == PlotLayer::Kind::trace;
    if (layer.kind == PlotLayer::Kind::dots)
      return fmt::format(
                 "<path d='M{0:.1f} {1:.1f}h.01M{2:.1f} {3:.1f}h.01M{4:.1f} {1:.1f}h.01' "
                 "stroke='{5}' stroke-width='2.6' stroke-linecap='round' stroke-opacity='0.42'/>",
                 right + 10, at, right + 16, at + 3, right + 22, kTraces[which]) +
             svg_text(right + 30, at + 4, layer.name, "start", "#1B282F");
    if (is_trace && !is_curve && !layer.is_joined)
      return fmt::format("<circle cx='{:.1f}' cy='{:.1f}' r='3.4' fill='{}'/>", right + 16, at,
                         kTraces[which]) +
             svg_text(right + 30, at + 4, layer.name, "start", "#1B282F");
    if (layer.kind == PlotLayer::Kind::guide)
      return fmt::format(
                 "<path d='M{:.1f} {:.1f}h16' stroke='#465B69' stroke-width='1.2' "
                 "stroke-dasharray='5 3'/>",
                 right + 8, at) +
             svg_text(right + 30, at + 4, layer.name, "start", "#1B282F");
    return fmt::format("<path d='M{:.1f} {:.1f}h16' stroke='{}' stroke-width='{}'{}/>", right + 8,
                       at,
                       is_trace || layer.kind == PlotLayer::Kind::band ? kTraces[which] : "#1B282F",
                       is_trace ? "1.4" : "2",
                       is_trace && *kDashes[which] != 0
                           ? fmt::format(" stroke-dasharray='{}'", kDashes[which])
                           : "") +
           svg_text(right + 30, at + 4, layer.name, "start", "#1B282F");
  }

  const PlotPanel& panel_;
  PlotScale x_;
  PlotScale y_;
  PlotScale right_;
  double top_;
  double bottom_;
};

/// Where the next one has an axis of its own, this one needs its numbers too.
bool has_x_words(const Plot& plot, std::size_t panel) {
  return panel + 1 == plot.panels.size() || plot.panels[panel + 1].own_x.has_value();
}
double words_height(const Plot& plot, std::size_t panel) {
  return panel + 1 < plot.panels.size() && has_x_words(plot, panel) ? kBelow : 0.0;
}
double panel_height(const Plot& plot, std::size_t panel) {
  const double own = panel == 0                   ? kMainHeight
                     : plot.panels[panel].picture ? kPictureHeight
                                                  : kStripHeight;
  return own + words_height(plot, panel);
}

}  // namespace

double plot_svg_height(const Plot& plot) {
  double height = kFirstTop + kBelow - kBetween;
  for (std::size_t i = 0; i < plot.panels.size(); ++i)
    height += panel_height(plot, i) + kBetween + states_height(plot.panels[i]);
  return plot.panels.empty() ? kFirstTop + kMainHeight + kBelow : height;
}

std::string plot_svg(const Plot& plot) {
  std::string out = fmt::format(
      "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 {0:.0f} {1:.0f}' role='img' "
      "aria-label='{2}'><rect width='{0:.0f}' height='{1:.0f}' fill='#fff'/>",
      kWidth, plot_svg_height(plot), escaped(plot.title));
  if (!plot.note.empty()) {
    // Beside the title of an axis at the right.
    const bool has_right = !plot.panels.empty() && plot.panels.front().y_right;
    const double taken =
        has_right ? 5.8 * static_cast<double>(plot.panels.front().y_right->title.size()) + 14.0 -
                        kRightNumbers
                  : 0.0;
    out += svg_text(kRight - taken, kFirstTop - 12, plot.note, "end", "#5A6C77");
  }
  double top = kFirstTop;
  for (std::size_t i = 0; i < plot.panels.size(); ++i) {
    const PlotPanel& panel = plot.panels[i];
    const double height = panel_height(plot, i);
    out += PanelSvg(plot, panel, top, height - words_height(plot, i))
               .drawn(has_x_words(plot, i), panel.own_x ? *panel.own_x : plot.x);
    top += height + kBetween + states_height(plot.panels[i]);
  }
  return out + "</svg>";
}

}  // namespace heron
