#include "app/widget/remark_list.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

#include "app/theme/qt_text.h"
#include "app/theme/role.h"
#include "app/widget/push_button.h"
#include "app/widget/words.h"

namespace heron {
namespace {

constexpr std::size_t kShown = 5;

/// Ring, hollow diamond, or solid bill, before the text.
class RemarkRow : public QWidget {
 public:
  RemarkRow(const Remark& remark, bool first, QWidget* parent)
      : QWidget(parent), remark_(remark), first_(first) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(34, first ? 4 : 14, 16, 6);
    column->setSpacing(2);
    auto* text = new Words(qt_text(remark.text), Type::body, Tone::ink, this);
    text->setWordWrap(true);
    text->setTextInteractionFlags(Qt::TextSelectableByMouse);
    column->addWidget(text);
    if (!remark.action.empty()) {
      auto* action = new Words(qt_text(remark.action) + ".", Type::body, Tone::slate, this);
      action->setWordWrap(true);
      column->addWidget(action);
    }
    setAccessibleName(qt_text(remark.text + " " + remark.action));
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    const double top = first_ ? 4 : 14;
    if (!first_) p.fillRect(QRectF(34, 4, width() - 50, 1), t.hair);
    const QPointF c(20, top + 9);
    if (remark_.severity == Severity::fault || !remark_.action.empty()) {
      p.setPen(Qt::NoPen);
      p.setBrush(remark_.severity == Severity::fault ? t.fail : t.bill);
      p.drawPolygon(QPolygonF({c + QPointF(-5, -4.5), c + QPointF(5.5, 0), c + QPointF(-5, 4.5)}));
    } else if (remark_.severity == Severity::caution) {
      p.setPen(QPen(t.marg, 1.4));
      p.setBrush(Qt::NoBrush);
      p.drawPolygon(QPolygonF(
          {c + QPointF(0, -5.2), c + QPointF(5.2, 0), c + QPointF(0, 5.2), c + QPointF(-5.2, 0)}));
    } else {
      p.setPen(QPen(t.slate, 1.4));
      p.setBrush(Qt::NoBrush);
      p.drawEllipse(c, 3.6, 3.6);
    }
  }

 private:
  Remark remark_;
  bool first_;
};

}  // namespace

RemarkList::RemarkList(QWidget* parent)
    : Card(parent),
      count_(new Words({}, Type::label, Tone::mute)),
      body_(nullptr),
      scroll_(new QScrollArea) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(1, 12, 1, 8);
  column->setSpacing(6);
  auto* head = new QHBoxLayout;
  head->setContentsMargins(15, 0, 15, 0);
  head->addWidget(new Words(tr("Remarks"), Type::heading));
  head->addStretch();
  head->addWidget(count_);
  column->addLayout(head);
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->setFocusPolicy(Qt::StrongFocus);
  set_role(scroll_, QAccessible::List);
  scroll_->setAccessibleName(tr("Remarks"));
  scroll_->viewport()->setAutoFillBackground(false);
  column->addWidget(scroll_, 1);
}

void RemarkList::set_remarks(const std::vector<Remark>& remarks) {
  remarks_ = remarks;
  shows_all_ = false;
  rebuild();
}

QString RemarkList::text() const {
  QStringList lines;
  for (const Remark& r : remarks_) lines << qt_text(r.text);
  return lines.join('\n');
}

void RemarkList::rebuild() {
  count_->setText(QString::number(remarks_.size()));
  body_ = new QWidget;
  body_->setAutoFillBackground(false);
  auto* column = new QVBoxLayout(body_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  const std::size_t shown = shows_all_ ? remarks_.size() : std::min(kShown, remarks_.size());
  for (std::size_t i = 0; i < shown; ++i)
    column->addWidget(new RemarkRow(remarks_[i], i == 0, body_));
  if (remarks_.empty()) {
    auto* none = new Words(tr("No remarks: set-up and device look as expected."), Type::body,
                           Tone::slate, body_);
    none->setWordWrap(true);
    none->setContentsMargins(16, 0, 16, 0);
    column->addWidget(none);
  }
  if (shown < remarks_.size()) {
    auto* more =
        new PushButton(tr("%1 more").arg(remarks_.size() - shown), ButtonRank::link, body_);
    connect(
        more, &QAbstractButton::clicked, this,
        [this] {
          shows_all_ = true;
          rebuild();
        },
        Qt::QueuedConnection);
    auto* row = new QHBoxLayout;
    row->setContentsMargins(34, 4, 0, 0);
    row->addWidget(more);
    row->addStretch();
    column->addLayout(row);
  }
  column->addStretch();
  scroll_->setWidget(body_);
  body_->setAutoFillBackground(false);  // the scroll area switched it on
}

}  // namespace heron
