#include "report/spectrum_svg.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

#include "core/method/plot_scale.h"
#include "core/quantity/format.h"
#include "report/flag_layout.h"
#include "report/verdict_svg.h"

namespace heron {
namespace {

constexpr double kWidth = 760.0;
constexpr double kHeight = 320.0;
constexpr double kLeft = 40.0;
constexpr double kRight = 750.0;
constexpr double kTop = 30.0;
constexpr double kBottom = 292.0;
constexpr const char* kFont = "font-family='Inter, sans-serif' font-size='11'";

struct Frame {
  double x0, x1, y0, y1;
  double x(double hz) const { return kLeft + (hz - x0) / (x1 - x0) * (kRight - kLeft); }
  double y(double db) const {
    return kBottom - (std::clamp(db, y0, y1) - y0) / (y1 - y0) * (kBottom - kTop);
  }
};

std::string text(double x, double y, const std::string& words, const char* anchor,
                 const char* colour, const char* more = "") {
  return fmt::format("<text x='{:.1f}' y='{:.1f}' text-anchor='{}' fill='{}' {} {}>{}</text>", x, y,
                     anchor, colour, kFont, more, escaped(words));
}

std::string grid(const Frame& f, const SpectrumPicture& p) {
  std::string out;
  for (double db = std::ceil(f.y0 / 10.0) * 10.0; db <= f.y1 + 0.1; db += 10.0) {
    out +=
        fmt::format("<path d='M{:.1f} {:.1f}H{:.1f}' stroke='#DADFD8'/>", kLeft, f.y(db), kRight);
    if (std::fmod(std::abs(db), 20.0) < 0.5)
      out += text(kLeft - 6, f.y(db) + 4, number_text(db, 0), "end", "#5A6C77");
  }
  out += fmt::format("<path d='M{:.1f} {:.1f}H{:.1f}' stroke='#BCC5BF'/>", kLeft, kBottom, kRight);
  const double step = nice_step(f.x1 - f.x0, 8);
  const double unit = std::max(std::abs(f.x0), std::abs(f.x1)) >= 2e6      ? 1e6
                      : std::max(std::abs(f.x0), std::abs(f.x1)) >= 2000.0 ? 1e3
                                                                           : 1.0;
  const int decimals = std::max(0, static_cast<int>(std::ceil(-std::log10(step / unit) - 1e-9)));
  for (double hz = std::ceil(f.x0 / step) * step; hz <= f.x1 + 1e-6 * step; hz += step) {
    if (f.x(hz) < kRight - 44)
      out +=
          text(f.x(hz), kBottom + 16, number_text(hz / unit, decimals, true), "middle", "#5A6C77");
  }
  out += text(kRight, kBottom + 16,
              unit == 1e6   ? "MHz"
              : unit == 1e3 ? "kHz"
                            : "Hz",
              "end", "#465B69", "font-weight='600'");
  out += text(4, 16, p.y_title, "start", "#465B69");
  out += text(kRight, 16, p.conditions, "end", "#5A6C77");
  return out;
}

/// One point per picture column, keeping the highest.
std::string trace(const Frame& f, const Curve& curve) {
  std::string path;
  constexpr int kColumns = 710;
  std::vector<double> highest(kColumns + 1, -std::numeric_limits<double>::infinity());
  for (std::size_t i = 0; i < curve.y.size(); ++i) {
    const double x = f.x(curve.x(i));
    if (x < kLeft || x > kRight) continue;
    double& h = highest[static_cast<std::size_t>((x - kLeft) / (kRight - kLeft) * kColumns)];
    h = std::max(h, static_cast<double>(curve.y[i]));
  }
  for (int i = 0; i <= kColumns; ++i) {
    if (!std::isfinite(highest[static_cast<std::size_t>(i)])) continue;
    path += fmt::format("{}{:.1f} {:.1f}", path.empty() ? "M" : "L",
                        kLeft + i * (kRight - kLeft) / kColumns,
                        f.y(highest[static_cast<std::size_t>(i)]));
  }
  return path.empty() ? ""
                      : fmt::format(
                            "<path d='{}' fill='none' stroke='#24627F' stroke-width='1.1' "
                            "stroke-linejoin='round'/>",
                            path);
}

std::string tone_words(const std::pair<double, double>& tone) {
  return number_text(tone.first, 0) + " Hz  " + number_text(tone.second, 1);
}

/// Widths are those of the widest digits, so that labels are never wider than their boxes.
double words_width(const std::string& utf8) {
  const auto continues = [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) == 0x80U; };
  return 6.4 * static_cast<double>(
                   std::count_if(utf8.begin(), utf8.end(), [&](char c) { return !continues(c); }));
}

std::vector<LabelBox> flag_boxes(const Frame& f, const SpectrumPicture& p) {
  std::vector<LabelBox> tones;
  for (std::size_t i = 0; i < p.tones.size(); ++i) {
    const double width = words_width(tone_words(p.tones[i]));
    const double x = f.x(p.tones[i].first);
    tones.push_back({i == 0 ? x - 8 - width : x + 8, f.y(p.tones[i].second) - 8, width, 14});
  }
  const SpectrumFrame frame{[&](double hz) { return f.x(hz); },
                            [&](double db) { return f.y(db); },
                            kLeft,
                            kRight,
                            kTop,
                            kBottom};
  return place_flags(p, frame, tones, words_width);
}

std::string flags(const Frame& f, const SpectrumPicture& p) {
  std::string out;
  const std::vector<LabelBox> boxes = flag_boxes(f, p);
  for (std::size_t i = 0; i < p.flags.size(); ++i) {
    const SpectrumFlag& flag = p.flags[i];
    const double x = f.x(flag.frequency_hz);
    if (x < kLeft + 4 || x > kRight - 4) continue;
    const bool is_judged = flag.is_worst && p.limit_db;
    const std::string colour = is_judged ? verdict_colour(p.worst_verdict) : "#465B69";
    const double top = boxes[i].y;
    const double d = flag.is_upper ? 1.0 : -1.0;
    out += fmt::format("<path d='M{:.1f} {:.1f}V{:.1f}' stroke='{}'/>", x,
                       std::max(top, f.y(flag.level_db) - 4), top, colour);
    // The level stands on white, so that neither trace nor grid runs through it.
    out += fmt::format("<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='13' fill='#FFFFFF'/>",
                       boxes[i].x + (flag.is_upper ? 2 : 0), top + 15, boxes[i].width - 2);
    out +=
        fmt::format("<path d='M{0:.1f} {1:.1f}h{2}l{3} 7l{4} 7H{0:.1f}Z' fill='{5}' stroke='{6}'/>",
                    x, top, 20 * d, -4 * d, 4 * d, is_judged ? colour : "#FFFFFF", colour);
    out += text(x + 9 * d, top + 11, std::to_string(flag.order), "middle",
                is_judged ? "#FFFFFF" : "#1B282F", "font-weight='600'");
    out += text(x + 4 * d, top + 26, flag_words(flag), flag.is_upper ? "start" : "end",
                colour.c_str());
  }
  return out;
}

}  // namespace

std::string spectrum_svg(const SpectrumPicture& p) {
  double top = 0.0;
  double low = p.floor_db > -190.0 ? p.floor_db : -100.0;
  for (const auto& [hz, level] : p.tones) top = std::max(top, level);
  const Frame f{p.x_from_hz, p.x_to_hz, std::max(-160.0, std::floor((low - 12.0) / 10.0) * 10.0),
                std::ceil(top / 10.0) * 10.0};
  std::string out = fmt::format(
      "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 {} {}' role='img'>", kWidth, kHeight);
  out += fmt::format("<title>{}</title><rect width='{}' height='{}' fill='#FFFFFF'/>",
                     escaped("Spectrum, " + p.y_title), kWidth, kHeight);
  if (p.floor_db > f.y0) {
    out +=
        fmt::format("<rect x='{:.1f}' y='{:.1f}' width='{:.1f}' height='{:.1f}' fill='#EEF0EB'/>",
                    kLeft, f.y(p.floor_db + 3.0), kRight - kLeft, kBottom - f.y(p.floor_db + 3.0));
  }
  out += grid(f, p) + trace(f, p.curve);
  if (p.limit_db && p.tones.size() == 2) {
    const double gap = (p.tones[1].first - p.tones[0].first) / 2.0;
    const double left = f.x(p.tones[0].first - gap);
    const double right = f.x(p.tones[1].first + gap);
    const double y = f.y(*p.limit_db);
    out += fmt::format(
        "<path d='M{0:.1f} {1:.1f}H{2:.1f}v6M{3:.1f} {1:.1f}H{4:.1f}M{3:.1f} {1:.1f}v6' "
        "fill='none' stroke='#1B282F' stroke-width='2'/>",
        kLeft, y, left, right, kRight);
    out += text(kLeft + 4, y - 6, p.limit_words, "start", "#1B282F", "font-weight='600'");
  }
  for (std::size_t i = 0; i < p.tones.size(); ++i) {
    const bool left = i == 0;
    out += text(f.x(p.tones[i].first) + (left ? -8 : 8), f.y(p.tones[i].second) + 4,
                tone_words(p.tones[i]), left ? "end" : "start", "#465B69");
  }
  if (p.carrier) {
    out += text(f.x(p.carrier->first), f.y(p.carrier->second) - 6, "carrier", "middle", "#5A6C77");
  }
  out += flags(f, p);
  return out + "</svg>";
}

}  // namespace heron
