#include "app/plot/spectrum_items.h"

#include <algorithm>
#include <cmath>

#include "app/paint/verdict_mark.h"
#include "app/plot/tickers.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "core/quantity/format.h"
#include "report/flag_layout.h"

namespace heron {
namespace {

QString number(double value, int decimals = 1, bool plus = false) {
  return qt_text(number_text(value, decimals, plus));
}

void on_backing(QPainter& p, const QRectF& box, int flags, const QString& text,
                const QColor& backing) {
  const QRectF needed = p.boundingRect(box, flags, text);
  p.fillRect(needed.adjusted(-2, 0, 2, 0), backing);
  p.drawText(box, flags, text);
}

constexpr double kToneGap = 8.0;  // between a tone's name and its level

QString tone_name(double hz) {
  return number(hz, 0) + " Hz";
}

LabelBox label_box(const QRectF& r) {
  return {r.x(), r.y(), r.width(), r.height()};
}

/// Level of the curve nearest a frequency, highest of its group.
std::optional<double> level_at(const Curve& curve, double hz) {
  const double i = std::round((hz - curve.x_start) / curve.x_step);
  if (i < 0 || i >= static_cast<double>(curve.y.size())) return std::nullopt;
  return curve.y[static_cast<std::size_t>(i)];
}

}  // namespace

void SpectrumBackdrop::draw(QCPPainter* p) {
  const SpectrumPicture& picture = scene_.picture;
  const QRectF area = parentPlot()->axisRect()->rect();
  if (picture.floor_db < -190.0) return;
  const double top = std::clamp(parentPlot()->yAxis->coordToPixel(picture.floor_db + 3.0),
                                area.top(), area.bottom());
  p->fillRect(QRectF(area.left(), top, area.width(), area.bottom() - top), scene_.theme->floorTint);
}

double SpectrumOverlay::x_of(double hz) const {
  return parentPlot()->xAxis->coordToPixel(hz);
}
double SpectrumOverlay::y_of(double db) const {
  return parentPlot()->yAxis->coordToPixel(db);
}

void SpectrumOverlay::draw(QCPPainter* p) {
  draw_titles(*p);
  if (!scene_.empty_words.isEmpty()) {
    draw_limit(*p);
    return;
  }
  p->save();
  p->setClipRect(parentPlot()->axisRect()->rect().adjusted(0, -14, 1, 0));
  draw_limit(*p);
  draw_tones(*p);
  const std::vector<SpectrumFlag>& flags = scene_.picture.flags;
  const std::vector<FlagBox> boxes = flag_boxes();
  for (const bool worst : {false, true}) {  // the worst lies on top
    for (std::size_t i = 0; i < flags.size(); ++i) {
      if (flags[i].is_worst == worst) draw_flag(*p, flags[i], boxes[i]);
    }
  }
  p->restore();
  draw_cursor(*p);
}

void SpectrumOverlay::draw_titles(QPainter& p) const {
  const Theme& t = *scene_.theme;
  const QRect area = parentPlot()->axisRect()->rect();
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  p.drawText(QRectF(2, area.top() - 27, 300, 18), Qt::AlignLeft | Qt::AlignVCenter,
             qt_text(scene_.picture.y_title));
  p.setPen(t.mute);
  p.drawText(QRectF(area.right() - 400, area.top() - 27, 400, 18),
             Qt::AlignRight | Qt::AlignVCenter, qt_text(scene_.picture.conditions));
  QFont unit = type_font(Type::label);
  unit.setWeight(QFont::DemiBold);
  p.setFont(unit);
  p.setPen(t.slate);
  const QString name =
      FrequencyTicker::unit_name(FrequencyTicker::unit_for(parentPlot()->xAxis->range()));
  const QRectF place(area.right() - 40, area.bottom() + 5, 40, 18);
  on_backing(p, place, Qt::AlignRight | Qt::AlignVCenter, name, t.sheet);
  if (!scene_.empty_words.isEmpty()) {
    p.setFont(type_font(Type::question));
    p.setPen(t.slate);
    on_backing(p, QRectF(area), Qt::AlignCenter, scene_.empty_words, t.sheet);
    return;
  }
  if (scene_.picture.floor_db > -190.0) draw_floor_words(p);
}

void SpectrumOverlay::draw_floor_words(QPainter& p) const {
  const Theme& t = *scene_.theme;
  const QRect area = parentPlot()->axisRect()->rect();
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  const QString words = QCoreApplication::translate(
      "SpectrumPlot", "Recorder\u2019s floor: a product in here is reported as an upper bound");
  const QRectF box(area.left() + 6, area.bottom() - 20, area.width() - 12, 16);
  const std::vector<QRectF> taken = labels();
  // Where a bound's flag stands in the floor the words give way.
  for (const auto side : {Qt::AlignLeft, Qt::AlignHCenter, Qt::AlignRight}) {
    const QRectF needed = p.boundingRect(box, side | Qt::AlignVCenter, words).adjusted(-2, 0, 2, 0);
    if (std::any_of(taken.begin(), taken.end(),
                    [&](const QRectF& label) { return label.intersects(needed); }))
      continue;
    p.fillRect(needed, t.floorTint);
    p.drawText(box, side | Qt::AlignVCenter, words);
    return;
  }
}

void SpectrumOverlay::draw_limit(QPainter& p) const {
  const SpectrumPicture& s = scene_.picture;
  if (!s.limit_db) return;
  const Theme& t = *scene_.theme;
  const QRect area = parentPlot()->axisRect()->rect();
  const double y = std::round(y_of(*s.limit_db));
  if (s.tones.size() == 2) {
    // Open between the tones, where no product is judged.
    const double gap = (s.tones[1].first - s.tones[0].first) / 2.0;
    const double left = std::round(x_of(s.tones[0].first - gap));
    const double right = std::round(x_of(s.tones[1].first + gap));
    p.fillRect(QRectF(area.left(), y - 1, std::max(0.0, left - area.left()), 2), t.ink);
    p.fillRect(QRectF(left - 2, y - 1, 2, 7), t.ink);
    p.fillRect(QRectF(right, y - 1, std::max(0.0, area.right() - right), 2), t.ink);
    p.fillRect(QRectF(right, y - 1, 2, 7), t.ink);
  } else {
    p.fillRect(QRectF(area.left(), y - 1, area.width(), 2), t.ink);
  }
  QFont strong = type_font(Type::label);
  strong.setWeight(QFont::DemiBold);
  p.setFont(strong);
  p.setPen(t.ink);
  on_backing(p, QRectF(area.left() + 6, y - 19, 200, 16), Qt::AlignLeft | Qt::AlignVCenter,
             qt_text(s.limit_words), t.sheet);
}

std::vector<QRectF> SpectrumOverlay::tone_boxes() const {
  std::vector<QRectF> boxes;
  for (std::size_t i = 0; i < scene_.picture.tones.size(); ++i) {
    const auto& [hz, level] = scene_.picture.tones[i];
    const double width = QFontMetricsF(type_font(Type::label)).horizontalAdvance(tone_name(hz)) +
                         kToneGap +
                         QFontMetricsF(type_font(Type::tick)).horizontalAdvance(number(level));
    const double x = i == 0 ? x_of(hz) - 10 - width : x_of(hz) + 10;
    boxes.emplace_back(x, y_of(level) - 7, width, 15);
  }
  return boxes;
}

void SpectrumOverlay::draw_tones(QPainter& p) const {
  const Theme& t = *scene_.theme;
  const std::vector<QRectF> boxes = tone_boxes();
  for (std::size_t i = 0; i < boxes.size(); ++i) {
    const auto& [hz, level] = scene_.picture.tones[i];
    p.setPen(t.slate);
    p.setFont(type_font(Type::label));
    p.drawText(boxes[i].bottomLeft() - QPointF(0, 3), tone_name(hz));
    p.setFont(type_font(Type::tick));
    const double value_width = QFontMetricsF(p.font()).horizontalAdvance(number(level));
    p.drawText(boxes[i].bottomRight() - QPointF(value_width, 3), number(level));
  }
  if (scene_.picture.carrier) {
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    const QRectF words(x_of(scene_.picture.carrier->first) - 40,
                       y_of(scene_.picture.carrier->second) - 19, 80, 15);
    on_backing(p, words, Qt::AlignHCenter | Qt::AlignVCenter, QObject::tr("carrier"), t.sheet);
  }
}

std::vector<SpectrumOverlay::FlagBox> SpectrumOverlay::flag_boxes() const {
  const QRectF area = parentPlot()->axisRect()->rect();
  const SpectrumFrame frame{[this](double hz) { return x_of(hz); },
                            [this](double db) { return y_of(db); },
                            area.left(),
                            area.right(),
                            area.top(),
                            area.bottom()};
  std::vector<LabelBox> tones;
  for (const QRectF& tone : tone_boxes()) tones.push_back(label_box(tone));
  const QFontMetricsF metrics(type_font(Type::tick));
  const std::vector<LabelBox> places = place_flags(
      scene_.picture, frame, tones,
      [&](const std::string& words) { return metrics.horizontalAdvance(qt_text(words)); });
  std::vector<FlagBox> boxes;
  for (std::size_t i = 0; i < places.size(); ++i) {
    const SpectrumFlag& flag = scene_.picture.flags[i];
    // Lines stay on pixels.
    const double x = std::round(x_of(flag.frequency_hz)) + 0.5;
    const double top = std::round(places[i].y) + 0.5;
    const QRectF all(flag.is_upper ? x : x - places[i].width, top, places[i].width,
                     places[i].height);
    boxes.push_back({{x, y_of(flag.level_db) - 4}, all, frame.shows(flag.frequency_hz)});
  }
  return boxes;
}

std::vector<QRectF> SpectrumOverlay::labels() const {
  std::vector<QRectF> all = tone_boxes();
  for (const FlagBox& box : flag_boxes()) {
    if (box.visible) all.push_back(box.all);
  }
  return all;
}

std::optional<std::pair<int, bool>> SpectrumOverlay::flag_at(QPointF point) const {
  const std::vector<FlagBox> boxes = flag_boxes();
  for (std::size_t i = 0; i < boxes.size(); ++i) {
    const FlagBox& box = boxes[i];
    const SpectrumFlag& flag = scene_.picture.flags[i];
    const bool on_pole = std::abs(point.x() - box.foot.x()) < 5 && point.y() > box.all.top() &&
                         point.y() < box.foot.y() + 12;
    if (box.visible && (on_pole || box.all.adjusted(-3, -3, 3, 1).contains(point)))
      return std::pair{flag.order, flag.is_upper};
  }
  return std::nullopt;
}

void SpectrumOverlay::draw_flag(QPainter& p, const SpectrumFlag& flag, const FlagBox& box) const {
  const Theme& t = *scene_.theme;
  if (!box.visible) return;
  const bool is_chosen = scene_.highlighted == std::pair{flag.order, flag.is_upper};
  const bool is_judged = flag.is_worst && scene_.picture.limit_db;
  const QColor colour = is_chosen   ? t.water
                        : is_judged ? verdict_colour(t, scene_.picture.worst_verdict)
                                    : t.slate;
  const bool filled = is_judged || is_chosen;
  const double d = flag.is_upper ? 1.0 : -1.0;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(colour, is_chosen ? 2 : 1));
  const QPointF o(box.foot.x(), box.all.top());
  if (box.foot.y() > o.y()) p.drawLine(box.foot, o);
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setPen(QPen(colour, 1));
  p.setBrush(filled ? colour : t.sheet);
  p.drawPolygon(
      QPolygonF({o, o + QPointF(kPennantWidth * d, 0),
                 o + QPointF((kPennantWidth - 4) * d, kPennantHeight / 2),
                 o + QPointF(kPennantWidth * d, kPennantHeight), o + QPointF(0, kPennantHeight)}));
  QFont strong = type_font(Type::label);
  strong.setWeight(QFont::DemiBold);
  p.setFont(strong);
  p.setPen(filled ? (t.is_dark ? t.sunk : QColor(Qt::white)) : t.ink);
  const QRectF pennant(d > 0 ? o.x() : o.x() - kPennantWidth, o.y(), kPennantWidth, kPennantHeight);
  p.drawText(pennant.adjusted(d > 0 ? 0 : 3, 0, d > 0 ? -3 : 0, 0), Qt::AlignCenter,
             QString::number(flag.order));
  QFont tick = type_font(Type::tick);
  if (filled) tick.setWeight(QFont::DemiBold);
  p.setFont(tick);
  p.setPen(filled ? colour : t.slate);
  // From the pole outwards; a strong face may reach a little further than its box.
  const QRectF words(d > 0 ? o.x() + 4 : o.x() - 84, o.y() + 15, 80, 15);
  on_backing(p, words, (d > 0 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter,
             qt_text(flag_words(flag)), t.sheet);
}

void SpectrumOverlay::draw_cursor(QPainter& p) const {
  if (!scene_.cursor_hz) return;
  const Theme& t = *scene_.theme;
  const QRect area = parentPlot()->axisRect()->rect();
  const double x = std::round(x_of(*scene_.cursor_hz));
  if (x < area.left() || x > area.right()) return;
  p.fillRect(QRectF(x, area.top(), 1, area.height()), t.water);
  QString words = qt_text(number_text(*scene_.cursor_hz, 0, true)) + " Hz";
  if (const auto level = level_at(scene_.picture.curve, *scene_.cursor_hz))
    words += QString::fromUtf8(" · ") + number(*level) + " dB";
  p.setFont(type_font(Type::label));
  const double width = QFontMetricsF(type_font(Type::label)).horizontalAdvance(words) + 12;
  const QRectF tag(
      std::clamp(x - width / 2, static_cast<double>(area.left()), area.right() - width),
      area.bottom() + 3, width, 18);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(t.water);
  p.drawRoundedRect(tag, 3, 3);
  p.setPen(t.is_dark ? t.sunk : QColor(Qt::white));
  p.drawText(tag, Qt::AlignCenter, words);
}

}  // namespace heron
