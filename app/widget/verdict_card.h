#pragma once

#include <QWidget>

#include "app/paint/margin_line.h"
#include "app/widget/card.h"
#include "app/widget/push_button.h"
#include "core/judge/limit.h"

namespace heron {

/// The one answer of a sheet: figure, uncertainty, convention, margin line, sentence.
struct VerdictCardContent {
  QString where;        ///< "At 30 W"
  QString value;        ///< "−30.4"
  QString bound;        ///< "≤" or empty
  QString uncertainty;  ///< "0.7"
  QString unit;
  QString explanation;        ///< "Worst: 5th order, upper side, re PEP"
  QString explanation_short;  ///< the same where there is no room: "Worst: IM5 upper, re PEP"
  QString limit;              ///< "limit −30 dB"; empty = no limit chosen
  QString sentence;
  QString word;                            ///< in the pill; empty = the verdict's own
  QString worse = QObject::tr("worse");    ///< left end of the gauge
  QString better = QObject::tr("better");  ///< right end
  QString why;                             ///< of the link; empty = "Uncertainty budget, ± …"
  MarginMark mark;
  double span = 20.0;
  bool is_provisional = false;
};

class VerdictCard : public Card {
  Q_OBJECT
 public:
  explicit VerdictCard(QWidget* parent = nullptr);
  void set_content(const VerdictCardContent& content);
  const VerdictCardContent& content() const { return content_; }

 signals:
  void uncertainty_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  double paint_readout(QPainter& p, double y) const;
  void paint_gauge(QPainter& p, double y) const;
  VerdictCardContent content_;
  PushButton* why_;
};

}  // namespace heron
