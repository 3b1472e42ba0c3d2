#include "app/widget/verdict_card.h"

#include <QFontMetricsF>
#include <cmath>

#include "app/paint/figure_text.h"
#include "app/paint/heron_glyph.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/qt_text.h"
#include "core/quantity/format.h"

namespace heron {

namespace {

QString verdict_text(const VerdictCardContent& content, bool is_full = true) {
  if (!content.word.isEmpty()) return content.word;
  // A figure without a limit was measured all the same.
  if (content.mark.verdict == Verdict::not_taken && !content.value.isEmpty() &&
      content.limit.isEmpty())
    return content.is_provisional ? QObject::tr("Provisional") : QObject::tr("No limit");
  return qt_text(verdict_word(content.mark.verdict, is_full && content.is_provisional));
}

}  // namespace

VerdictCard::VerdictCard(QWidget* parent)
    : Card(parent), why_(new PushButton({}, ButtonRank::link, this)) {
  setFixedHeight(256);
  connect(why_, &QAbstractButton::clicked, this, &VerdictCard::uncertainty_asked);
}

void VerdictCard::set_content(const VerdictCardContent& content) {
  content_ = content;
  const bool has_u = !content.uncertainty.isEmpty();
  why_->setVisible(has_u || !content.why.isEmpty());
  why_->setText(content.why.isEmpty()
                    ? QString::fromUtf8("Uncertainty budget, ± ") + content.uncertainty + " " +
                          qt_text(difference_unit(content.unit.toStdString()))
                    : content.why);
  why_->setAccessibleName(why_->text());
  why_->resize(why_->sizeHint());
  setAccessibleName(QStringLiteral("%1, %2 %3 %4 %5, %6, %7")
                        .arg(content.where, content.bound, content.value,
                             has_u ? QString::fromUtf8("± ") + content.uncertainty : QString(),
                             content.unit, verdict_text(content), content.limit));
  update();
}

void VerdictCard::resizeEvent(QResizeEvent*) {
  why_->move(16, height() - 36);
}

double VerdictCard::paint_readout(QPainter& p, double y) const {
  const Theme& t = theme_of(this);
  double x = 16;
  p.setPen(t.ink);
  if (!content_.bound.isEmpty()) {
    QFont bound = type_font(Type::title);
    p.setFont(bound);
    p.drawText(QPointF(x, y), content_.bound);
    x += QFontMetricsF(bound).horizontalAdvance(content_.bound) + 5;
  }
  const QFont face = type_font(Type::readout);
  p.setFont(face);
  // Mono leaves a hole round the decimal point: pull its neighbours in.
  const double pull = 0.17 * QFontMetricsF(face).horizontalAdvance('0') / 0.6 * 0.6;
  for (const QChar c : content_.value) {
    if (c == '.') x -= pull;
    p.drawText(QPointF(x, y), QString(c));
    x += QFontMetricsF(face).horizontalAdvance(c) - (c == '.' ? pull : 0.0);
  }
  x += 8;
  p.setPen(t.slate);
  if (!content_.uncertainty.isEmpty()) {
    QFont pm = type_font(Type::question);
    p.setFont(pm);
    p.drawText(QPointF(x, y), QString::fromUtf8("±"));
    x += QFontMetricsF(pm).horizontalAdvance(QString::fromUtf8("±")) + 4;
    p.setFont(type_font(Type::uncertainty));
    p.drawText(QPointF(x, y), content_.uncertainty);
    x += QFontMetricsF(type_font(Type::uncertainty)).horizontalAdvance(content_.uncertainty) + 5;
  }
  p.setFont(type_font(Type::question));
  p.drawText(QPointF(x, y), content_.unit);
  return x;
}

void VerdictCard::paint_gauge(QPainter& p, double y) const {
  const Theme& t = theme_of(this);
  const QRectF box(16, y, width() - 32, 28);
  draw_margin_line(p, box, MarginSize::large, content_.mark, content_.span, t);
  const double inset = 7;
  const auto at = [&](double margin) {
    return box.left() + inset + margin_position(margin, content_.span) * (box.width() - 2 * inset);
  };
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  QFont limit_font = type_font(Type::label);
  limit_font.setWeight(QFont::DemiBold);
  const double limit_left =
      at(0) - QFontMetricsF(limit_font).horizontalAdvance(content_.limit) / 2.0;
  // Where a long limit stands over it, the scale tells it too.
  if (16 + QFontMetricsF(p.font()).horizontalAdvance(content_.worse) + 4 < limit_left)
    p.drawText(QPointF(16, y - 4), content_.worse);
  p.drawText(QRectF(16, y - 18, box.width(), 18), Qt::AlignRight | Qt::AlignBottom,
             content_.better);
  QFont strong = type_font(Type::label);
  strong.setWeight(QFont::DemiBold);
  p.setFont(strong);
  p.setPen(t.ink);
  p.drawText(QRectF(at(0) - 80, y - 18, 160, 18), Qt::AlignHCenter | Qt::AlignBottom,
             content_.limit);
  const double k = content_.span / 20.0;
  const double marks[] = {-3 * k, 0, 3 * k, 8 * k, content_.span};
  for (const double m : marks) {
    QString text = qt_text(number_text(m, content_.span < 5 ? 2 : 0, m > 0));
    // Short ones leave room beside each other.
    while (text.contains('.') && (text.endsWith('0') || text.endsWith('.'))) text.chop(1);
    p.setPen(m == 0 ? t.ink : t.mute);
    QFont face = type_font(Type::tick);
    if (m == 0) face.setWeight(QFont::DemiBold);
    p.setFont(face);
    const double x = at(m);
    QRectF label(x - 30, y + 28, 60, 16);
    if (m == content_.span) label.moveRight(box.right());
    p.drawText(label, (m == content_.span ? Qt::AlignRight : Qt::AlignHCenter) | Qt::AlignVCenter,
               text);
    if (m != content_.span && m != 0) p.fillRect(QRectF(std::round(x), y + 24, 1, 4), t.hairStrong);
  }
}

void VerdictCard::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  double where_right = width() - 16;
  if (!content_.limit.isEmpty() || content_.mark.verdict == Verdict::not_taken) {
    QString word = verdict_text(content_);
    // The shape is hollow, and a remark says why: where it is comes before that word.
    const double where_px =
        QFontMetricsF(type_font(Type::control)).horizontalAdvance(content_.where);
    const double word_px = QFontMetricsF(type_font(Type::control_chosen)).horizontalAdvance(word);
    if (content_.is_provisional && where_px + word_px + 78 > width())
      word = verdict_text(content_, false);
    const double w = QFontMetricsF(type_font(Type::control_chosen)).horizontalAdvance(word) + 38;
    const QRectF pill(width() - 16 - w, 10, w, 24);
    where_right = pill.left() - 8;
    p.setPen(Qt::NoPen);
    p.setBrush(verdict_tint(t, content_.mark.verdict));
    p.drawRoundedRect(pill, 12, 12);
    draw_verdict(p, {pill.left() + 16, pill.center().y()}, 12, content_.mark.verdict, t,
                 content_.is_provisional);
    p.setPen(verdict_colour(t, content_.mark.verdict));
    p.setFont(type_font(Type::control_chosen));
    p.drawText(pill.adjusted(28, 0, 0, 0), Qt::AlignVCenter, word);
  }
  p.setFont(type_font(Type::control));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, 10, where_right - 16, 24), Qt::AlignVCenter, content_.where);
  if (!content_.value.isEmpty()) {
    // In a narrow column all of it is smaller: a unit that is cut is another unit.
    QPixmap nowhere(1, 1);
    QPainter measure(&nowhere);
    const double natural = paint_readout(measure, 70) - 16.0;
    const double scale = std::min(1.0, (width() - 30.0) / std::max(1.0, natural));
    p.save();
    p.translate(16, 70);
    p.scale(scale, scale);
    p.translate(-16, -70);
    paint_readout(p, 70);
    p.restore();
    p.setFont(type_font(Type::body));
    p.setPen(t.slate);
    const bool fits =
        QFontMetricsF(p.font()).horizontalAdvance(content_.explanation) <= width() - 32;
    draw_elided(p, QRectF(16, 80, width() - 32, 18), Qt::AlignVCenter,
                fits ? content_.explanation : content_.explanation_short);
  }
  if (!content_.limit.isEmpty()) paint_gauge(p, 122);
  const bool is_empty = content_.value.isEmpty() && content_.mark.verdict == Verdict::not_taken;
  if (is_empty) draw_heron(p, {16, 48, 44, 44}, t);
  p.setFont(type_font(Type::body));
  p.setPen(t.ink);
  const double from = is_empty                   ? 106
                      : content_.value.isEmpty() ? 48
                      : content_.limit.isEmpty() ? 112
                                                 : 178;
  p.drawText(QRectF(16, from, width() - 32, 58), Qt::TextWordWrap | Qt::AlignTop,
             content_.sentence);
}

}  // namespace heron
