#include "app/live/instruments_card.h"

#include <QVBoxLayout>
#include <algorithm>

#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/widget/words.h"

namespace heron {
namespace {

/// Answering: disc; simulated: wave; asking: arc; failed or not connected: ring with a stroke.
void draw_link(QPainter& p, QPointF middle, LinkState state, bool is_known, const Theme& t) {
  p.setBrush(Qt::NoBrush);
  switch (state) {
    case LinkState::answering:
      p.setPen(Qt::NoPen);
      p.setBrush(t.water);
      p.drawEllipse(middle, 5, 5);
      return;
    case LinkState::simulated: {
      QPainterPath wave(middle + QPointF(-5, 1));
      wave.cubicTo(middle + QPointF(-2.5, -6), middle + QPointF(-1, -3), middle);
      wave.cubicTo(middle + QPointF(1, 3), middle + QPointF(2.5, 6), middle + QPointF(5, -1));
      p.setPen(QPen(t.water, 1.8, Qt::SolidLine, Qt::RoundCap));
      p.drawPath(wave);
      return;
    }
    case LinkState::asking:
      p.setPen(QPen(t.hairStrong, 1.6));
      p.drawEllipse(middle, 4.5, 4.5);
      p.setPen(QPen(t.water, 1.8));
      p.drawArc(QRectF(middle - QPointF(4.5, 4.5), QSizeF(9, 9)), 30 * 16, 120 * 16);
      return;
    case LinkState::failed:
    case LinkState::unasked:
      p.setPen(QPen(t.mute, 1.3));
      p.drawEllipse(middle, 4.4, 4.4);
      if (is_known) p.drawLine(middle + QPointF(-3, 3), middle + QPointF(3, -3));
      return;
  }
}

}  // namespace

InstrumentRow::InstrumentRow(LiveInstruments& bench, Role role, QWidget* parent)
    : QAbstractButton(parent), bench_(bench), role_(role) {
  setFixedHeight(27);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
}

void InstrumentRow::enterEvent(QEnterEvent*) {
  update();
}

void InstrumentRow::leaveEvent(QEvent*) {
  update();
}

void InstrumentRow::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  if (underMouse()) p.fillRect(rect().adjusted(1, 0, -1, 0), t.hoverSheet);
  const LiveInstrument* i = bench_.find(role_);
  const LinkState state = i == nullptr ? LinkState::unasked : i->state;
  draw_link(p, {21, 13.5}, state, i != nullptr, t);
  const bool is_live = state == LinkState::answering || state == LinkState::simulated;
  const QString word = i == nullptr ? tr("not connected") : i->words;
  p.setFont(type_font(is_live ? Type::control_chosen : Type::label));
  const double w = QFontMetricsF(p.font()).horizontalAdvance(word);
  p.setPen(is_live ? t.water : t.mute);
  p.drawText(QRectF(width() - 16 - w, 0, w + 1, height()), Qt::AlignVCenter, word);
  p.setFont(type_font(Type::name));
  p.setPen(i == nullptr ? t.slate : t.ink);
  const QString name =
      i == nullptr ? qt_text(std::string(role_kind(role_).title)) : qt_text(i->known.name);
  draw_elided(p, QRectF(36, 0, width() - 36 - w - 26, height()), Qt::AlignVCenter, name);
  if (hasFocus()) draw_focus_ring(p, rect().adjusted(4, 1, -4, -1), 4, t);
}

InstrumentsCard::InstrumentsCard(LiveInstruments& bench, QWidget* parent)
    : Card(parent),
      bench_(bench),
      simulate_(new PushButton({}, ButtonRank::link)),
      device_(new Words({}, Type::label, Tone::mute)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(1, 12, 1, 8);
  column->setSpacing(0);
  auto* head = new Words(tr("Instruments"), Type::heading);
  head->setContentsMargins(15, 0, 0, 6);
  column->addWidget(head);
  for (const RoleKind& kind : role_kinds()) {
    auto* row = new InstrumentRow(bench_, kind.role, this);
    rows_.push_back(row);
    column->addWidget(row);
    connect(row, &QAbstractButton::clicked, this, [this, row] {
      emit panel_asked(row->role(), row->mapTo(window(), QPoint(-8, row->height())));
    });
  }
  auto* foot = new QHBoxLayout;
  foot->setContentsMargins(15, 6, 15, 0);
  foot->addWidget(simulate_);
  foot->addStretch();
  foot->addWidget(device_);
  column->addLayout(foot);
  connect(simulate_, &QAbstractButton::clicked, this,
          [this] { bench_.use_simulation(!bench_.is_simulated()); });
  connect(&bench_, &LiveInstruments::changed, this, &InstrumentsCard::refresh);
  refresh();
}

InstrumentRow* InstrumentsCard::row(Role role) const {
  return *std::find_if(rows_.begin(), rows_.end(),
                       [&](const InstrumentRow* r) { return r->role() == role; });
}

void InstrumentsCard::refresh() {
  simulate_->setText(bench_.is_simulated() ? tr("Back to the real bench")
                                           : tr("Use the simulated bench"));
  device_->setText(!bench_.is_simulated()         ? QString()
                   : bench_.simulates_amplifier() ? tr("an amplifier")
                                                  : tr("a transmitter"));
  device_->setToolTip(!bench_.is_simulated() ? QString()
                      : bench_.simulates_amplifier()
                          ? tr("Simulated: an amplifier, driven by a transmitter")
                          : tr("Simulated: a transmitter"));
  for (InstrumentRow* row : rows_) {
    const LiveInstrument* i = bench_.find(row->role());
    const QString title = qt_text(std::string(role_kind(row->role()).title));
    row->setAccessibleName(i == nullptr ? tr("%1, not connected").arg(title)
                                        : title + ", " + i->words);
    row->setToolTip(i == nullptr
                        ? tr("Press to connect one")
                        : qt_text(i->known.address) + (i->known.identity.empty()
                                                           ? QString()
                                                           : "\n" + qt_text(i->known.identity)));
    row->update();
  }
}

}  // namespace heron
