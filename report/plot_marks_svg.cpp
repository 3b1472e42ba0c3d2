#include "report/plot_marks_svg.h"

#include <algorithm>
#include <fmt/format.h>

#include "core/method/plot_scale.h"
#include "report/verdict_svg.h"

namespace heron {
namespace {

constexpr const char* kFace = "font-family='Inter, sans-serif' font-size='11'";
constexpr const char* kInk = "#1B282F";
constexpr const char* kSlate = "#465B69";
constexpr const char* kMute = "#5A6C77";
constexpr const char* kWater = "#24627F";
constexpr const char* kBand = "#87394B";
constexpr const char* kStrong = "font-weight='600'";

std::string floor(const PlotLayer& layer, const SpectrumFrame& f) {
  std::string d;
  for (const PlotPoint& p : layer.points)
    d += fmt::format("{}{:.1f} {:.1f}", d.empty() ? "M" : "L", f.x_of(p.x),
                     std::clamp(f.y_of(p.y), f.top, f.bottom));
  return fmt::format("<path d='{}V{:.1f}H{:.1f}Z' fill='#EEF0EB'/>", d, f.bottom,
                     f.x_of(layer.points.front().x));
}

std::string band(const PlotLayer& layer, const SpectrumFrame& f) {
  std::string top;
  std::string foot;
  const auto y = [&](double level) { return std::clamp(f.y_of(level), f.top, f.bottom); };
  for (const PlotPoint& p : layer.points) {
    top += fmt::format("{}{:.1f} {:.1f}", top.empty() ? "M" : "L", f.x_of(p.x), y(p.y));
  }
  for (auto p = layer.points.rbegin(); p != layer.points.rend(); ++p)
    foot += fmt::format("L{:.1f} {:.1f}", f.x_of(p->x), y(p->before.value_or(p->y)));
  return fmt::format("<path d='{}{}Z' fill='{}' fill-opacity='0.13' stroke='{}'/>", top, foot,
                     kBand, kBand);
}

std::string columns(const PlotLayer& layer, const SpectrumFrame& f) {
  std::string out;
  for (const PlotPoint& p : layer.points) {
    if (p.verdict == Verdict::not_taken) continue;
    const double top = std::clamp(f.y_of(p.y), f.top, f.bottom);
    out += fmt::format(
        "<rect x='{:.1f}' y='{:.1f}' width='18' height='{:.1f}' fill='{}' fill-opacity='0.12'/>",
        f.x_of(p.x) - 9, top, f.bottom - top, verdict_colour(p.verdict));
  }
  return out;
}

std::string places(const PlotLayer& layer, const SpectrumFrame& f) {
  std::string out;
  for (const PlotPoint& p : layer.points)
    out += svg_text(f.x_of(p.x), f.bottom - 28, p.word, "middle",
                    p.verdict == Verdict::not_taken ? kMute : verdict_colour(p.verdict), kStrong);
  return out;
}

std::string moments(const PlotLayer& layer, const SpectrumFrame& f) {
  std::string out;
  double y = f.top + 10;
  for (const PlotPoint& p : layer.points) {
    const double x = f.x_of(p.x);
    const double from = std::max(f.left, f.x_of(p.x - p.expanded));
    const double to = std::min(f.right, f.x_of(p.x + p.expanded));
    out += fmt::format(
        "<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='{:.1f}' fill='{}' "
        "fill-opacity='0.10'/><path d='M{:.1f} {:.1f}V{:.1f}' stroke='{}' stroke-width='1.4'/>",
        from, f.top, to - from, f.bottom - f.top, kInk, x, f.top, f.bottom, kInk);
    const bool is_left = x > (f.left + f.right) / 2.0;
    out += svg_text(x + (is_left ? -6 : 6), y, p.word, is_left ? "end" : "start", kInk, kStrong);
    y += 15;
  }
  return out;
}

std::string poles(const PlotLayer& layer, const SpectrumFrame& f) {
  std::string out;
  for (const PlotPoint& p : layer.points) {
    const double x = f.x_of(p.x);
    const double y = f.y_of(p.y);
    const double top = std::max(f.top - 4, y - 40);
    out += fmt::format("<path d='M{:.1f} {:.1f}V{:.1f}' stroke='{}'/>", x, y - 3, top, kSlate);
    out += fmt::format("<circle cx='{:.1f}' cy='{:.1f}' r='3' fill='#fff' stroke='{}'/>", x, y,
                       kSlate);
    out += svg_text(x + (p.is_left ? -5 : 5), top + 9, p.word, p.is_left ? "end" : "start", kInk,
                    kStrong);
  }
  return out;
}

std::string rings(const PlotLayer& layer, const SpectrumFrame& f) {
  std::string out;
  for (const PlotPoint& p : layer.points)
    out += fmt::format("<circle cx='{:.1f}' cy='{:.1f}' r='2.7' fill='#fff' stroke='{}'/>",
                       f.x_of(p.x), f.y_of(p.y), p.is_pale ? kSlate : kInk);
  return out;
}

std::string handle(const PlotLayer& layer, const SpectrumFrame& f) {
  const double at = layer.points.front().x;
  const double x = f.x_of(at);
  const std::string words = layer.name + " " + handle_words(layer, at);
  return fmt::format("<path d='M{:.1f} {:.1f}V{:.1f}' stroke='{}' stroke-width='2'/>", x, f.top,
                     f.bottom, kWater) +
         svg_text(std::min(x, f.right), f.top - 4, words, "end", kWater, kStrong);
}

LabelBox box_of(const PlotPoint& p, const SpectrumFrame& f) {
  const double w = svg_words_width(p.word);
  const double x = f.x_of(p.x);
  return {p.is_left ? x - 8 - w : x + 8, f.y_of(p.y) - 8, w, 14};
}

std::string labels(const PlotLayer& layer, const SpectrumFrame& f) {
  std::string out;
  for (const PlotPoint& p : layer.points) {
    const double x = f.x_of(p.x);
    const double y = f.y_of(p.y);
    out += p.is_pale ? svg_text(x, y - 6, p.word, "middle", kMute)
                     : svg_text(x + (p.is_left ? -8 : 8), y + 4, p.word,
                                p.is_left ? "end" : "start", kSlate);
  }
  return out;
}

std::string pennants(const PlotLayer& layer, const PlotPanel& panel, const SpectrumFrame& f) {
  std::vector<LabelBox> taken;
  for (const PlotLayer& other : panel.layers) {
    if (other.kind != PlotLayer::Kind::label) continue;
    for (const PlotPoint& p : other.points) {
      if (!p.is_pale) taken.push_back(box_of(p, f));
    }
  }
  const std::vector<LabelBox> boxes =
      place_pennants(layer.points, mask_level(panel), f, taken, svg_words_width);
  std::string out;
  for (std::size_t i = 0; i < layer.points.size(); ++i) {
    const PlotPoint& p = layer.points[i];
    const double x = f.x_of(p.x);
    if (x < f.left + 4 || x > f.right - 4) continue;
    const bool is_judged = is_worst(p);
    const std::string colour = is_judged ? verdict_colour(p.verdict) : kSlate;
    const double top = boxes[i].y;
    const double d = p.is_left ? -1.0 : 1.0;
    out += fmt::format("<path d='M{:.1f} {:.1f}V{:.1f}' stroke='{}'/>", x,
                       std::max(top, f.y_of(p.y) - 4), top, colour);
    // The level stands on white, so that neither trace nor grid runs through it.
    out += fmt::format("<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='13' fill='#FFFFFF'/>",
                       boxes[i].x + (p.is_left ? 0 : 2), top + 15, boxes[i].width - 2);
    out +=
        fmt::format("<path d='M{0:.1f} {1:.1f}h{2}l{3} 7l{4} 7H{0:.1f}Z' fill='{5}' stroke='{6}'/>",
                    x, top, 20 * d, -4 * d, 4 * d, is_judged ? colour : "#FFFFFF", colour);
    out += svg_text(x + 9 * d, top + 11, p.word, "middle", is_judged ? "#FFFFFF" : kInk, kStrong);
    out += svg_text(x + 4 * d, top + 26, pennant_words(p), p.is_left ? "end" : "start", colour);
  }
  return out;
}

}  // namespace

std::string svg_text(double x, double y, const std::string& words, const char* anchor,
                     const std::string& colour, const char* more) {
  return fmt::format("<text x='{:.1f}' y='{:.1f}' text-anchor='{}' fill='{}' {} {}>{}</text>", x, y,
                     anchor, colour, kFace, more, escaped(words));
}

double svg_words_width(const std::string& utf8) {
  constexpr double kWidestDigit = 6.4;
  const auto continues = [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) == 0x80U; };
  return kWidestDigit * static_cast<double>(std::count_if(utf8.begin(), utf8.end(),
                                                          [&](char c) { return !continues(c); }));
}

bool is_place_layer(const PlotLayer& layer) {
  switch (layer.kind) {
    case PlotLayer::Kind::pennant:
    case PlotLayer::Kind::label:
    case PlotLayer::Kind::floor:
    case PlotLayer::Kind::band:
    case PlotLayer::Kind::moment:
    case PlotLayer::Kind::place:
    case PlotLayer::Kind::handle:
    case PlotLayer::Kind::pole:
    case PlotLayer::Kind::ring:
      return true;
    default:
      return false;
  }
}

std::string layer_behind_svg(const PlotLayer& layer, const SpectrumFrame& frame) {
  if (layer.points.empty()) return {};
  switch (layer.kind) {
    case PlotLayer::Kind::floor:
      return floor(layer, frame);
    case PlotLayer::Kind::band:
      return band(layer, frame);
    case PlotLayer::Kind::place:
      return columns(layer, frame);
    default:
      return {};
  }
}

std::string layer_over_svg(const PlotLayer& layer, const PlotPanel& panel,
                           const SpectrumFrame& frame) {
  if (layer.points.empty()) return {};
  switch (layer.kind) {
    case PlotLayer::Kind::pennant:
      return pennants(layer, panel, frame);
    case PlotLayer::Kind::label:
      return labels(layer, frame);
    case PlotLayer::Kind::place:
      return places(layer, frame);
    case PlotLayer::Kind::moment:
      return moments(layer, frame);
    case PlotLayer::Kind::handle:
      return handle(layer, frame);
    case PlotLayer::Kind::pole:
      return poles(layer, frame);
    case PlotLayer::Kind::ring:
      return rings(layer, frame);
    default:
      return {};
  }
}

}  // namespace heron
