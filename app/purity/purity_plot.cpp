#include "app/purity/purity_plot.h"

#include <algorithm>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/plot/plot_dress.h"
#include "app/plot/tickers.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kMegahertz = 1e6;

QString db_words(double db) {
  return qt_text(number_text(db, 1));
}

/// 1-2-3-4-5-6-8 a decade in MHz, as many as there is room for.
class MegahertzTicker : public QCPAxisTicker {
 public:
  explicit MegahertzTicker(const QCustomPlot* plot) : plot_(plot) {}

 protected:
  QVector<double> createTickVector(double, const QCPRange& range) override {
    const double decades = std::log10(range.upper / range.lower);
    const double per_decade = plot_->axisRect()->width() / std::max(decades, 0.1);
    const QList<double> many{1, 2, 3, 4, 5, 6, 8};
    const QList<double> some{1, 2, 5};
    QVector<double> ticks;
    for (double decade = std::pow(10.0, std::floor(std::log10(range.lower))); decade <= range.upper;
         decade *= 10.0) {
      for (const double m : per_decade > 330.0 ? many : some) {
        if (m * decade >= range.lower * 0.999 && m * decade <= range.upper * 1.001)
          ticks << m * decade;
      }
    }
    return ticks;
  }
  int getSubTickCount(double) override { return 0; }
  QString getTickLabel(double tick, const QLocale&, QChar, int) override {
    return QString::number(tick / kMegahertz, 'g', 4);
  }

 private:
  const QCustomPlot* plot_;
};

}  // namespace

class PurityOverlay : public QCPAbstractItem {
 public:
  explicit PurityOverlay(PurityPlot* plot) : QCPAbstractItem(plot), plot_(plot) {
    setClipToAxisRect(false);
  }
  double selectTest(const QPointF&, bool, QVariant*) const override { return -1; }

 protected:
  void draw(QCPPainter* painter) override {
    QCPPainter& p = *painter;
    p.setRenderHint(QPainter::Antialiasing);
    draw_titles(p);
    draw_mask(p);
    if (!plot_->picture_.analysis) {
      p.setFont(type_font(Type::question));
      p.setPen(theme().slate);
      const QRectF room = area().adjusted(60, 0, -60, 0);
      const QString words = qt_text(plot_->picture_.empty_words);
      const QRectF needed = p.boundingRect(room, Qt::AlignCenter | Qt::TextWordWrap, words);
      p.fillRect(needed.adjusted(-4, -2, 4, 2), theme().sheet);
      p.drawText(room, Qt::AlignCenter | Qt::TextWordWrap, words);
      return;
    }
    draw_carrier(p);
    std::vector<int> lines = plot_->shown_lines();
    for (const int i : lines) draw_stem(p, i);
    for (const int i : lines) draw_head(p, i);
    draw_levels(p, lines);
  }

 private:
  const Theme& theme() const { return theme_of(plot_); }
  QRectF area() const { return QRectF(plot_->axisRect()->rect()); }
  double x_of(double hz) const { return plot_->xAxis->coordToPixel(hz); }
  double y_of(double db) const {
    return std::clamp(plot_->yAxis->coordToPixel(db), area().top(), area().bottom());
  }
  const PurityLine& line(int i) const {
    return plot_->picture_.analysis->lines[static_cast<std::size_t>(i)];
  }
  static Verdict verdict_of(const PurityLine& l) {
    return l.judgement ? l.judgement->verdict : Verdict::not_taken;
  }
  QColor colour_of(const PurityLine& l) const {
    const Verdict v = verdict_of(l);
    return v == Verdict::fail || v == Verdict::too_close ? verdict_colour(theme(), v)
                                                         : theme().water;
  }

  void draw_titles(QCPPainter& p) const {
    const QRectF r = area();
    p.setFont(type_font(Type::label));
    p.setPen(theme().slate);
    p.drawText(QRectF(15, 2, 300, 18), Qt::AlignVCenter, QObject::tr("dB relative to the carrier"));
    p.setPen(theme().mute);
    const bool is_corrected =
        plot_->picture_.analysis &&
        std::any_of(plot_->picture_.analysis->lines.begin(), plot_->picture_.analysis->lines.end(),
                    [](const PurityLine& l) { return l.correction_db != 0.0; });
    QStringList notes;
    if (is_corrected) notes << QObject::tr("corrected for the hook-up, tick = as measured");
    if (!plot_->picture_.mask.is_none()) notes << QString::fromUtf8(kOwnLicence);
    p.drawText(QRectF(r.right() - 460, 2, 460, 18), Qt::AlignRight | Qt::AlignVCenter,
               notes.join(QString::fromUtf8(" · ")));
    QFont strong = type_font(Type::label);
    strong.setWeight(QFont::DemiBold);
    p.setFont(strong);
    p.setPen(theme().slate);
    p.fillRect(QRectF(r.right() - 34, r.bottom() + 6, 34, 18), theme().sheet);
    p.drawText(QRectF(r.right() - 34, r.bottom() + 6, 34, 18), Qt::AlignRight | Qt::AlignVCenter,
               QStringLiteral("MHz"));
  }

  void draw_mask(QCPPainter& p) {
    const PurityPicture& picture = plot_->picture_;
    const QRectF r = area();
    CarrierPower carrier{picture.carrier_hz, std::nullopt};
    if (picture.analysis) carrier = {picture.analysis->carrier_hz, picture.analysis->carrier_dbm};
    const auto steps =
        mask_steps(picture.mask, carrier, plot_->xAxis->range().lower, plot_->xAxis->range().upper);
    QFont strong = type_font(Type::label);
    strong.setWeight(QFont::DemiBold);
    p.setFont(strong);
    taken_.clear();
    mask_lines_.clear();
    double last_y = 0.0;
    double words_end = -1e9;
    for (std::size_t i = 0; i < steps.size(); ++i) {
      const double left = std::round(x_of(steps[i].from_hz));
      const double right = std::round(x_of(steps[i].to_hz));
      const double y = std::round(y_of(steps[i].limit_dbc));
      p.fillRect(QRectF(left, y - 1, right - left, 2), theme().ink);
      mask_lines_.emplace_back(left, y - 1.5, right - left, 3);
      const bool follows = i > 0 && steps[i - 1].to_hz == steps[i].from_hz;
      if (follows)
        p.fillRect(QRectF(left - 1, std::min(y, last_y) - 1, 2, std::abs(y - last_y) + 2),
                   theme().ink);
      else if (left > r.left() + 1)
        p.fillRect(QRectF(left, y - 1, 2, 7), theme().ink);
      const bool ends = i + 1 == steps.size() || steps[i + 1].from_hz != steps[i].to_hz;
      if (ends && right < r.right() - 1) p.fillRect(QRectF(right - 2, y - 1, 2, 7), theme().ink);
      last_y = y;
      const QString words = db_words(steps[i].limit_dbc);
      const double w = QFontMetricsF(strong).horizontalAdvance(words);
      double at = std::max(left + 6, words_end + 10);
      // The carrier's words lie over the mask where both stand high.
      const QRectF spoken = picture.analysis ? carrier_words_box() : QRectF();
      if (spoken.intersects(QRectF(at, y - 17, w, 15))) at = spoken.right() + 6;
      if (at + w > right) continue;
      p.setPen(theme().ink);
      p.drawText(QPointF(at, y - 5), words);
      taken_.emplace_back(at - 2, y - 17, w + 4, 15);
      words_end = at + w;
    }
  }

  static QString carrier_words() { return QObject::tr("carrier = 0 dBc"); }

  QRectF carrier_words_box() const {
    const PurityAnalysis& a = *plot_->picture_.analysis;
    const QRectF r = area();
    const double x = std::round(x_of(a.carrier_hz));
    const double w = QFontMetricsF(type_font(Type::label)).horizontalAdvance(carrier_words());
    const bool to_right = x + w + 20 < r.right();
    const double left = to_right ? x + 12 : x - 12 - w;
    return {left - 2, r.top() - 2, w + 4, a.carrier_dbm ? 32.0 : 16.0};
  }

  void draw_carrier(QCPPainter& p) const {
    const PurityAnalysis& a = *plot_->picture_.analysis;
    const QRectF r = area();
    const double x = std::round(x_of(a.carrier_hz));
    p.fillRect(QRectF(x - 1.25, r.top() + 6, 2.5, r.height() - 6), theme().water);
    p.setPen(Qt::NoPen);
    p.setBrush(theme().water);
    p.drawPolygon(QPolygonF({{x, r.top() - 2}, {x - 5.5, r.top() + 10}, {x + 5.5, r.top() + 10}}));
    const QRectF box = carrier_words_box();
    const double left = box.left() + 2;
    p.setFont(type_font(Type::label));
    p.fillRect(box, theme().sheet);
    p.setPen(theme().slate);
    p.drawText(QPointF(left, r.top() + 10), carrier_words());
    if (!a.carrier_dbm) return;
    draw_figure_text(p, {left, r.top() + 26},
                     qt_text(number_text(*a.carrier_dbm, 1, true)) + QStringLiteral(" dBm"),
                     Type::figure_small, Type::label, theme().ink);
  }

  void draw_stem(QCPPainter& p, int i) const {
    const PurityLine& l = line(i);
    const double x = std::round(x_of(l.frequency_hz)) + 0.5;
    const double y = y_of(l.level_dbc);
    const bool is_chosen = plot_->chosen_ == i;
    QColor colour = colour_of(l);
    if (l.kind == LineKind::instrument) colour = theme().mute;
    p.setPen(QPen(colour, is_chosen ? 2.6 : 1.6));
    p.drawLine(QPointF(x, y), QPointF(x, area().bottom()));
    const double u = line_figure(l).expanded();
    if (!l.is_bound && u > 0.0) {
      QColor tint = colour;
      tint.setAlphaF(0.38F);
      double top = y_of(l.level_dbc + u);
      double bottom = y_of(l.level_dbc - u);
      if (bottom - top < 5.0) {
        top = y - 2.5;
        bottom = y + 2.5;
      }
      p.setPen(QPen(tint, 5, Qt::SolidLine, Qt::RoundCap));
      p.drawLine(QPointF(x, top), QPointF(x, bottom));
    }
    const double as_read = l.level_dbc - l.correction_db + carrier_correction();
    if (std::abs(as_read - l.level_dbc) > 0.25) {
      p.setPen(QPen(theme().mute, 1.4));
      p.drawLine(QPointF(x - 7.5, y_of(as_read)), QPointF(x + 7.5, y_of(as_read)));
    }
    if (l.harmonic > 1) {
      QFont strong = type_font(Type::label);
      strong.setWeight(QFont::DemiBold);
      p.setFont(strong);
      p.setPen(colour == theme().water ? theme().ink : colour);
      p.drawText(QPointF(x + 4, area().bottom() - 5), QString::number(l.harmonic));
    }
  }

  double carrier_correction() const {
    const PurityLine* carrier = plot_->picture_.analysis->carrier();
    return carrier != nullptr ? carrier->correction_db : 0.0;
  }

  void draw_head(QCPPainter& p, int i) const {
    const PurityLine& l = line(i);
    const QPointF at(std::round(x_of(l.frequency_hz)) + 0.5, y_of(l.level_dbc));
    const Verdict v = verdict_of(l);
    if (l.is_bound || l.kind == LineKind::instrument) {
      p.setPen(QPen(v == Verdict::not_taken ? theme().mute : verdict_colour(theme(), v), 1.6));
      p.setBrush(theme().sheet);
      p.drawEllipse(at, 4.5, 4.5);
    } else if (v == Verdict::not_taken) {
      p.setPen(Qt::NoPen);
      p.setBrush(theme().water);
      p.drawEllipse(at, 4.0, 4.0);
    } else {
      draw_verdict(p, at, v == Verdict::fail ? 12 : 10, v, theme());
    }
    if (plot_->chosen_ == i) {
      p.setPen(QPen(theme().water, 1.5));
      p.setBrush(Qt::NoBrush);
      p.drawEllipse(at, 9, 9);
    }
  }

  /// Right of the head; left where the next line is too near; above where both are.
  void draw_levels(QCPPainter& p, const std::vector<int>& lines) const {
    p.setFont(type_font(Type::figure_small));
    const QFontMetricsF metrics(p.font());
    std::vector<double> taken;
    for (const int i : lines) taken.push_back(x_of(line(i).frequency_hz));
    taken.push_back(x_of(plot_->picture_.analysis->carrier_hz));
    std::vector<QRectF> boxes = taken_;
    // The worst first: where there is no room for all, it keeps its words.
    std::vector<int> order = lines;
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
      const auto margin = [&](int i) {
        return line(i).judgement ? line(i).judgement->margin : 1e9;
      };
      return margin(a) < margin(b);
    });
    for (const int i : order) {
      const PurityLine& l = line(i);
      const QString words =
          (l.is_bound ? QString::fromUtf8("≤ ") : QString()) + db_words(l.level_dbc);
      const double w = metrics.horizontalAdvance(words);
      const double x = x_of(l.frequency_hz);
      const double y = y_of(l.level_dbc);
      const auto is_free = [&](const QRectF& box, bool beside, bool may_cross_mask) {
        if (box.left() < area().left() || box.right() > area().right() + 10) return false;
        const auto hits = [&](const QRectF& other) { return other.intersects(box); };
        if (beside && std::any_of(taken.begin(), taken.end(), [&](double other) {
              return std::abs(other - x) > 1.0 && other > box.left() - 6 && other < box.right() + 6;
            }))
          return false;
        if (!may_cross_mask && std::any_of(mask_lines_.begin(), mask_lines_.end(), hits))
          return false;
        return std::none_of(boxes.begin(), boxes.end(), hits);
      };
      const double aside = plot_->chosen_ == i ? 13 : 10;
      const QRectF places[] = {{x + aside, y - 8, w, 15},
                               {x - aside - w, y - 8, w, 15},
                               {x - w / 2, y - 25, w, 15},
                               {x + aside, y + 6, w, 15},
                               {x - aside - w, y + 6, w, 15}};
      for (int k = 0; k < 10; ++k) {
        const QRectF& place = places[k % 5];
        if (!is_free(place, k % 5 != 2, k >= 5)) continue;
        p.fillRect(place.adjusted(-1, 1, 1, -1), theme().sheet);
        p.setPen(colour_of(l) == theme().water ? theme().slate : colour_of(l));
        p.drawText(place, Qt::AlignCenter, words);
        boxes.push_back(place);
        break;
      }
    }
  }

  PurityPlot* plot_;
  std::vector<QRectF> taken_;  ///< by the words of the mask
  std::vector<QRectF> mask_lines_;
};

PurityPlot::PurityPlot(QWidget* parent) : QCustomPlot(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(200);
  setAccessibleName(tr("Lines relative to the carrier"));
  dress_plot(*this, QMargins(42, 30, 14, 26));
  xAxis->setScaleType(QCPAxis::stLogarithmic);
  xAxis->setTicker(QSharedPointer<MegahertzTicker>::create(this));
  yAxis->setTicker(QSharedPointer<DecibelTicker>::create());
  (new PurityOverlay(this))->setLayer("overlay");
  follow_theme();
}

std::vector<int> PurityPlot::shown_lines() const {
  std::vector<int> lines;
  if (!picture_.analysis) return lines;
  for (std::size_t i = 0; i < picture_.analysis->lines.size(); ++i) {
    const PurityLine& l = picture_.analysis->lines[i];
    if (l.kind != LineKind::carrier && xAxis->range().contains(l.frequency_hz))
      lines.push_back(static_cast<int>(i));
  }
  return lines;
}

void PurityPlot::fit() {
  double low_hz = picture_.carrier_hz * 0.7;
  double high_hz = picture_.carrier_hz * 8.0;
  double top = -20.0;
  double bottom = -90.0;
  CarrierPower carrier{picture_.carrier_hz, std::nullopt};
  if (picture_.analysis) {
    carrier = {picture_.analysis->carrier_hz, picture_.analysis->carrier_dbm};
    double highest = 2.2 * carrier.frequency_hz;
    for (const PurityLine& l : picture_.analysis->lines) {
      low_hz = std::min(low_hz, l.frequency_hz * 0.85);
      highest = std::max(highest, l.frequency_hz);
      if (l.kind == LineKind::carrier) continue;
      top = std::max(top, l.level_dbc + 8.0);
      bottom = std::min(bottom, l.level_dbc - 12.0);
    }
    high_hz = highest * 1.15;
  }
  double highest_limit = -1e9;
  double lowest_limit = 1e9;
  for (const MaskStep& s : mask_steps(picture_.mask, carrier, low_hz, high_hz)) {
    highest_limit = std::max(highest_limit, s.limit_dbc);
    lowest_limit = std::min(lowest_limit, s.limit_dbc);
  }
  if (highest_limit > -1e8) {
    top = std::max(std::min(top, highest_limit + 40.0), highest_limit + 20.0);
    bottom = std::max(std::min(bottom, lowest_limit - 20.0), lowest_limit - 60.0);
  }
  xAxis->setRange(low_hz, high_hz);
  yAxis->setRange(std::floor(bottom / 10.0) * 10.0, std::ceil(top / 5.0) * 5.0);
}

void PurityPlot::set_picture(PurityPicture picture) {
  picture_ = std::move(picture);
  if (!picture_.analysis || chosen_ >= static_cast<int>(picture_.analysis->lines.size()))
    chosen_ = -1;
  fit();
  replot(rpQueuedReplot);
}

void PurityPlot::choose_line(int index) {
  chosen_ = index;
  if (picture_.analysis && index >= 0) {
    const PurityLine& l = picture_.analysis->lines[static_cast<std::size_t>(index)];
    setAccessibleDescription(
        qt_text(line_figure(l).label + ", " + figure_text(line_figure(l)) + " " + kReCarrier +
                (l.judgement ? ", " + verdict_sentence(*l.judgement, "dB") : "")));
  }
  replot(rpQueuedReplot);
}

void PurityPlot::mousePressEvent(QMouseEvent* event) {
  int nearest = -1;
  double distance = 24.0;
  for (const int i : shown_lines()) {
    const PurityLine& l = picture_.analysis->lines[static_cast<std::size_t>(i)];
    const double d = std::abs(xAxis->coordToPixel(l.frequency_hz) - event->position().x());
    if (d >= distance) continue;
    distance = d;
    nearest = i;
  }
  if (nearest >= 0) emit line_chosen(nearest);
  QCustomPlot::mousePressEvent(event);
}

/// Left and right go along the lines; with Shift to the next that does not pass.
void PurityPlot::keyPressEvent(QKeyEvent* event) {
  const bool left = event->key() == Qt::Key_Left;
  if (!left && event->key() != Qt::Key_Right) {
    QCustomPlot::keyPressEvent(event);
    return;
  }
  std::vector<int> lines = shown_lines();
  if (event->modifiers() & Qt::ShiftModifier)
    std::erase_if(lines, [&](int i) {
      const auto& j = picture_.analysis->lines[static_cast<std::size_t>(i)].judgement;
      return !j || j->verdict == Verdict::pass;
    });
  if (left) std::reverse(lines.begin(), lines.end());
  const auto next = std::find_if(lines.begin(), lines.end(), [&](int i) {
    return chosen_ < 0 || (left ? i < chosen_ : i > chosen_);
  });
  if (next != lines.end()) emit line_chosen(*next);
}

void PurityPlot::follow_theme() {
  dress_plot_in_theme(*this);
  replot(rpQueuedReplot);
}

void PurityPlot::changeEvent(QEvent* event) {
  QCustomPlot::changeEvent(event);
  if (event->type() == QEvent::PaletteChange) follow_theme();
}

}  // namespace heron
