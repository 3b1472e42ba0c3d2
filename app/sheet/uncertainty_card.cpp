#include "app/sheet/uncertainty_card.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "core/quantity/format.h"

namespace heron {
namespace {
constexpr int kWidth = 448;
constexpr int kRow = 33;
}  // namespace

UncertaintyCard::UncertaintyCard(const Figure& figure, std::optional<double> margin,
                                 QWidget* parent)
    : QWidget(parent, Qt::Popup), figure_(figure), margin_(margin) {
  const double total = figure.u() * figure.u();
  for (const Contribution& c : figure.contributions) {
    rows_.push_back(
        {qt_text(c.source),
         c.scope == Scope::common ? tr("common to all steps") : tr("independent each time"),
         2.0 * c.u, total > 0 ? c.u * c.u / total : 0.0, c.scope == Scope::common});
  }
  std::sort(rows_.begin(), rows_.end(),
            [](const Row& a, const Row& b) { return a.expanded > b.expanded; });
  setFixedSize(kWidth, 64 + static_cast<int>(rows_.size()) * kRow + 100);
  setAccessibleName(tr("Where does the ± come from"));
  setAccessibleDescription(text());
}

QString UncertaintyCard::text() const {
  QStringList lines;
  for (const Row& r : rows_) {
    lines << tr("%1: ± %2 %3, %4 % of the square, %5")
                 .arg(r.name, qt_text(number_text(r.expanded, 2)), qt_text(figure_.unit))
                 .arg(r.share * 100.0, 0, 'f', 0)
                 .arg(r.kind);
  }
  return lines.join('\n');
}

void UncertaintyCard::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape || event->key() == Qt::Key_Return) close();
}
void UncertaintyCard::mousePressEvent(QMouseEvent*) {
  close();
}

void UncertaintyCard::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.fillRect(rect(), t.raised);
  p.setPen(t.hairStrong);
  p.setBrush(Qt::NoBrush);
  p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  p.setFont(type_font(Type::heading));
  p.setPen(t.ink);
  p.drawText(QPointF(20, 32), tr("Where does the ± come from"));
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  p.drawText(QRectF(0, 18, kWidth - 20, 20), Qt::AlignRight | Qt::AlignVCenter,
             tr("95 % interval, k = 2"));

  const double total = figure_.expanded();
  const double reach =
      std::max(total, margin_ && std::abs(*margin_) < 2 * total ? std::abs(*margin_) : 0.0) * 1.1;
  const double bar_left = 188;
  const double bar_width = 138;
  const auto x = [&](double v) { return bar_left + v / reach * bar_width; };
  double y = 56;
  for (const Row& r : rows_) {
    p.setFont(type_font(Type::name));
    p.setPen(t.ink);
    p.drawText(QPointF(20, y + 10), r.name);
    p.setFont(type_font(Type::label));
    p.setPen(t.mute);
    p.drawText(QPointF(20, y + 24), r.kind);
    const QRectF bar(bar_left, y + 4, std::max(2.0, x(r.expanded) - bar_left), 12);
    if (r.is_common) {
      p.fillRect(bar, t.water);
    } else {
      p.setPen(t.water);
      p.setBrush(QBrush(t.water, Qt::BDiagPattern));
      p.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5));
    }
    p.setFont(type_font(Type::figure));
    p.setPen(t.ink);
    p.drawText(QRectF(320, y, 54, 20), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(number_text(r.expanded, 2)));
    p.setPen(t.mute);
    p.drawText(QRectF(380, y, 48, 20), Qt::AlignRight | Qt::AlignVCenter,
               QString::number(r.share * 100.0, 'f', 0) + " %");
    y += kRow;
  }
  p.fillRect(QRectF(20, y, kWidth - 40, 1), t.hairStrong);
  y += 10;
  p.setFont(type_font(Type::current));
  p.setPen(t.ink);
  p.drawText(QPointF(20, y + 12), tr("together"));
  p.fillRect(QRectF(bar_left, y + 1, x(total) - bar_left, 14), t.ink);
  p.setFont(type_font(Type::figure_chosen));
  p.drawText(QRectF(320, y - 2, 54, 20), Qt::AlignRight | Qt::AlignVCenter,
             qt_text(number_text(total, 2)));
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  p.drawText(QRectF(380, y - 2, 48, 20), Qt::AlignRight | Qt::AlignVCenter, qt_text(figure_.unit));
  if (margin_ && std::abs(*margin_) <= reach)
    p.fillRect(QRectF(x(std::abs(*margin_)) - 1, 54, 2, y - 36), std::abs(*margin_) < total ? t.marg
                                                                 : *margin_ > 0             ? t.pass
                                                                                : t.fail);
  y += 26;
  p.setFont(type_font(Type::body));
  p.setPen(t.slate);
  QString sentence =
      tr("Common parts cancel between steps of one ladder; independent ones do not.");
  if (margin_) {
    sentence += " " + (std::abs(*margin_) < total
                           ? tr("The margin of %1 dB lies inside the interval: too close to call.")
                           : tr("The margin of %1 dB lies outside the interval."))
                          .arg(qt_text(number_text(*margin_, 2, true)));
  }
  p.drawText(QRectF(20, y, kWidth - 40, 54), Qt::TextWordWrap, sentence);
}

}  // namespace heron
